"""Close listening: what parts measure, before anything is made of it, as fast as they can; contacts with their bounce.

`close/set {id, signals, everyMs, forS}` is answered with what each really gets, and what is heard follows on `close` in
pieces of a second at most. It ends by itself; while nobody asks nothing of this is loaded.
"""
import json

from vn import hw

BATCH_MS, MOST, LONGEST_S = 1000, 60, 600
WINDOW_US, QUIET_US, MOST_EDGES = 60000, 25000, 40
PER_S = 25 if hw.SMALL else 200  # of all signals together
# What a driver has; what makes it measure at its next step; how soon that may be again, and how often it is by itself, ms.
HABITS = (("trig", "last", 60, 250), ("wire", "started", 800, 2000), ("so", "read_at", 250, 500), ("adc", "read_at", 20, 250))


class Tap:
    """In place of a driver's step: measures at the pace asked for, and hands on at the driver's own."""

    def __init__(self, signal, told):
        driver = signal.driver
        self.slug, self.driver = signal.slug, getattr(driver, "driver", None) or driver
        self.told, self.raw, self.n = told, [], 0
        self.began = self.last = self.passed = self.till = None
        self.where, self.mark, self.fastest, self.usual = self.driver, None, 20, 0
        self.every = 0
        for has, mark, fastest, usual in HABITS:
            if hasattr(self.driver, has) and not getattr(self.driver, "window", None):
                self.mark, self.fastest, self.usual = mark, fastest, usual
        part = getattr(self.driver, "part", None)
        if part:
            self.where, self.mark, self.fastest, self.usual = part, "at", 100, part.every_ms
        self.own = None
        if signal.retained and hasattr(signal, "chain"):
            self.own = self.driver.step
            self.driver.step = self.step

    def step(self, now):
        if self.mark and self.told and (self.last is None or hw.ticks_diff(now, self.last) >= self.every):
            if not getattr(self.where, "ready", None) and not getattr(self.driver, "waiting", False):
                self.last = now
                setattr(self.where, self.mark, None)
        got = self.own(now)
        if got is None:
            return None
        self.take(got[0], now)
        if self.passed is not None and hw.ticks_diff(now, self.passed) < self.usual:
            return None
        self.passed = now
        return got

    def look(self, now):
        """Of what gives no readings: its level as often as was asked."""
        if self.own or (self.last is not None and hw.ticks_diff(now, self.last) < self.every):
            return
        self.last = now
        if hasattr(self.driver, "line"):
            value = self.driver.line.share(now)
        elif hasattr(self.driver, "pin"):
            value = self.driver.pin.value() == self.driver.active
        else:
            value = self.driver.state()
        self.take(int(value) if isinstance(value, bool) else value, now)

    def take(self, value, now):
        if self.told and (self.till is None or hw.ticks_diff(now, self.till) >= self.every - 10):
            if self.began is None:
                self.began = now
            self.raw.append(value)
            self.till = now

    def batch(self, node, now):
        """What was heard, as JSON, when it is time."""
        if self.began is None or (len(self.raw) < MOST and hw.ticks_diff(now, self.began) < BATCH_MS):
            return None
        at = node.uptime_s * 1000 + hw.ticks_diff(self.began, node.started)
        every = hw.ticks_diff(self.till, self.began) / (len(self.raw) - 1) if len(self.raw) > 1 else self.every
        text = '{"signal":"%s","n":%d,"uptimeMs":%d,"everyMs":%.1f,"raw":[%s]}' % (
            self.slug, self.n, at, every, ",".join("null" if v is None else "%.6g" % v for v in self.raw)
        )
        self.n += 1
        self.raw, self.began = [], None
        return text

    def stop(self):
        if self.own:
            del self.driver.step


class Bounce:
    """Edges of a contact, in µs from the first: nothing else runs meanwhile, for 60 ms at most."""

    def __init__(self, tap):
        self.tap, self.pin = tap, tap.driver.pin
        self.level = self.pin.value()
        self.edges = self.interrupts = None
        self.n = 0
        try:
            hw.on_edge(self.pin, True, self._edge)
            self.interrupts = True
        except OSError:
            pass  # this pin has none: it is looked at with every step

    def _edge(self, _):
        if self.edges is None:
            self._watch()

    def step(self, node):
        """JSON of the last window, or None."""
        if self.edges is None and self.pin.value() != self.level:
            self._watch()
        if self.edges is None:
            return None
        edges, self.edges = self.edges, None
        self.n += 1
        return '{"signal":"%s","n":%d,"uptimeMs":%d,"stepUs":%.1f,"first":%d,"edgesUs":[%s]}' % (
            self.tap.slug, self.n - 1, node.uptime_s * 1000, self.step_us, self.first, ",".join(str(e) for e in edges)
        )

    def _watch(self):
        value, began, looks = self.pin.value, hw.ticks_us(), 0
        active = self.tap.driver.active
        level = last = 1 - self.level
        self.first, edges, at, edge = int(last == active), [0], 0, 0
        while at < WINDOW_US and at - edge < QUIET_US and len(edges) < MOST_EDGES:
            hw.sleep_us(10)
            level = value()
            at = hw.ticks_diff(hw.ticks_us(), began)
            looks += 1
            if level != last:
                last, edge = level, at
                edges.append(at)
        self.level, self.step_us, self.edges = level, at / max(1, looks), edges

    def stop(self):
        if self.interrupts:
            self.pin.irq(None)


class Close:
    def __init__(self, node, asked, for_ms, now):
        self.signals, self.until = node.signals, hw.ticks_add(now, for_ms)
        self.taps, self.bounces = [], []
        every = max(20, asked.get("everyMs") or 0)
        parts = [getattr(s.driver, "part", None) for s in node.signals if s.slug in asked["signals"]]
        least = 1000 * len(asked["signals"]) // PER_S
        for s in node.signals:
            told = s.slug in asked["signals"]
            part = getattr(s.driver, "part", None)
            if not told and not (part and part in parts):
                continue
            tap = Tap(s, told)
            tap.every = max(every, tap.fastest, least)
            self.taps.append(tap)
            if told and hasattr(tap.driver, "pin") and not hasattr(tap.driver, "command"):
                self.bounces.append(Bounce(tap))

    def step(self, node, now):
        """Itself while it goes on. What fails here must not end what the node is for."""
        if node.signals is not self.signals:
            return None
        try:
            if hw.ticks_diff(now, self.until) < 0 and node.client.state == "up":
                for tap in self.taps:
                    if tap.told:
                        tap.look(now)
                        self._say(node, tap.batch(node, now))
                for b in self.bounces:
                    self._say(node, b.step(node))
                return self
        except Exception as e:
            node._fault("close listening ended: %s: %s" % (type(e).__name__, e), "close")
        self.stop()
        return None

    def _say(self, node, text):
        if text:
            node.client.publish(node.base + "/close", text, False, 0)

    def stop(self):
        for thing in self.taps + self.bounces:
            thing.stop()


def run(node, payload, now):
    """What listens from now on, or None. An earlier one ends."""
    if node.close:
        node.close.stop()
    ident = None
    try:
        asked = json.loads(payload)
        ident, for_ms = asked.get("id"), int(min(LONGEST_S, asked["forS"]) * 1000)
        slugs = asked["signals"]
        unknown = [s for s in slugs if not _heard(node.by_slug.get(s))]
    except (ValueError, KeyError, TypeError, AttributeError):
        node._answer("close", ident, "refused", "not understood: {id, signals, everyMs, forS} is")
        return None
    if unknown or len(slugs) > 8:
        why = "nothing of %s can be listened to" % ", ".join(unknown) if unknown else "more than 8 signals at once"
        node._answer("close", ident, "refused", why)
        return None
    close = Close(node, asked, for_ms, now) if for_ms > 0 and slugs else None
    rates = [{"signal": t.slug, "everyMs": t.every if t.mark or not t.own else None} for t in close.taps if t.told] if close else []
    node.client.publish(node.base + "/close/done", json.dumps({"id": ident, "result": "done", "perS": PER_S, "rates": rates}), False, 1)
    return close


def _heard(signal):
    """Readings, levels of pins and of analog keys, and what says a state of itself."""
    if signal is None or hasattr(signal, "of"):
        return False
    d = signal.driver
    return hasattr(signal, "chain") or hasattr(d, "pin") or hasattr(d, "line") or hasattr(d, "state")
