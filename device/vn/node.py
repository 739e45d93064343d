"""The node: signals, connection, commands. `step` never waits longer than an echo.

What is needed seldom (reading the file, arriving at the broker, a change of the file) stands in modules of its own
that are
loaded for one use and let go of again: the smallest board has no memory to keep them.
"""
import gc
import json
import sys

from vn import hw, mqtt

FIRST_WAIT_MS, LONGEST_WAIT_MS = 1000, 30000
TRIAL_MS = 60000  # a new file or a new password has this long to connect
JOIN_MS = 15000  # a network that has not let us in after this is asked again, or the next one is


def once(name):
    """A module for one use."""
    full = "vn." + name
    module = __import__(full, None, None, ("run",))
    del sys.modules[full]
    try:
        delattr(sys.modules["vn"], name)
    except AttributeError:
        pass
    return module


class Node:
    def __init__(self, secret, past=None, write=None):
        """`secret` is the credentials file: the node's broker login, its networks by name, and its own key.

        `past` is what the last program ended with, and `write` keeps it once it has been told.
        """
        self.secret, self.past, self.write = secret, past, write
        self.signals = []
        self.by_slug = {}
        self.client = self.arriving = self.wifi = self.answer = self.trial = self.joined = None
        self.clock_set = self.health_at = self.sleeping = self.finding = self.network_fault = self.vault = None
        self.asking = self.close = None
        self.clock_at = 0
        self.done_ids = []
        self.told = {}
        self.started = hw.ticks_ms()
        self.uptime_s = hw.up_s = 0
        self.loading = self._begin()

    def _begin(self):
        cut = once("config").recover()
        if cut:
            self.answer = ("config", cut[0], "returned", "power was lost while it was tried")
        yield
        if hw.exists("secret.try"):
            self._vault().recover()
            yield
        self._load()
        yield

    def _load(self):
        """Begins to load the file in force, or the one being tried; a piece in each step."""
        self.loading = once("load").run(self)

    def _load_on(self, now):
        try:
            next(self.loading)
            return
        except StopIteration:
            self.loading = None
        except Exception as e:
            self.loading = None
            if not self.trial:
                raise
            once("change").give_back(self, "it did not start: %s" % e, now)
        gc.collect()

    def step(self, now):
        whole = hw.ticks_diff(now, self.started) // 1000
        if whole > 0:
            self.uptime_s += whole
            hw.up_s = self.uptime_s
            self.started = hw.ticks_add(self.started, whole * 1000)
        if self.sleeping:
            return self.sleeping(now)
        if self.loading:
            return self._load_on(now)
        # What one step leaves behind is collected before the next: arriving and reporting never share one.
        arriving = self.arriving
        try:
            self._connect(now)
            self.client.step(now)
            if self.arriving:
                self._arrive()
        except Exception as e:
            # What the network does must not stop what the node does alone.
            gc.collect()
            self.network_fault = "%s: %s" % (type(e).__name__, e)
            print("vn network:", self.network_fault)
            self.client.stop(False)
            self._later(now)
        self._signals(now)
        up = self.client.state == "up"
        due = self.health_at is None or hw.ticks_diff(now, self.health_at) >= self.health_s * 1000
        if up and due and not arriving and not self.arriving:
            once("health").run(self, now)
        if up and not self.arriving and self.uptime_s >= self.clock_at:
            self.asking = (self.asking or once("clock").Ask(self)).step(self, now)
        if self.trial and hw.ticks_diff(now, self.trial[1]) > TRIAL_MS:
            once("change").give_back(self, "no connection within %d s" % (TRIAL_MS // 1000), now)
        if self.vault and not self.vault.step(now):
            self.vault = None
        if self.last:
            self.last.step(now)
        if self.close:
            self.close = self.close.step(self, now)
        if self.finding:
            self.finding = self.finding.step(self, now)
        elif self.sleep and not self.trial and not self.vault and not self.close:
            self.sleep.step(self, now)

    def _signals(self, now):
        told, self.told = self.told, {}
        turn = None
        if self.slow and not self._pulsing(now):
            turn = self.slow[self.turn % len(self.slow)]
            self.turn += 1
        for signal in self.signals:
            if signal.slow and signal is not turn:
                continue
            try:
                text = signal.step(now)
            except MemoryError:
                gc.collect()
                text = None
                self._trouble(signal, "no memory for this step")
            except Exception as e:
                # One part that breaks its driver must not take the others with it.
                text = signal.failed(now)
                self._trouble(signal, "%s: %s" % (type(e).__name__, e))
            if text is not None:
                event = not signal.retained
                if event:
                    told[signal.slug] = signal.last
                self.client.publish(self.base + "/" + signal.slug, text, signal.retained, signal.qos, now if event else None)
            self._told_by_driver(signal)
        if self.rules:
            for slug, value in self.rules.step(told, self.client.state != "up", now):
                why = self._by_itself(slug, value, now)
                if why:
                    self._fault("a rule was not carried out: %s" % why, slug)
        if self.guards:
            for slug, why in self.guard.enforce(self.guards, self.by_slug, now):
                self._fault(why, slug)

    def _trouble(self, signal, what):
        """Said once, until it is something else."""
        if signal.trouble != what:
            signal.trouble = what
            self._fault(what, signal.slug)

    def _told_by_driver(self, signal):
        driver = signal.driver
        fault = getattr(driver, "fault", None)
        if fault:
            driver.fault = None
            self._fault(fault, signal.slug)
        frames = getattr(driver, "frames", None)
        if frames:
            for frame in frames():
                self.client.publish("%s/rx/%s" % (self.base, driver.medium), frame, False, 0)

    def _pulsing(self, now):
        """While a short pulse runs nothing is begun that would make the chip wait."""
        return self.deadlines and self.deadlines.short(now)

    def _later(self, now):
        # Each failure doubles the wait; the part that differs from node to node keeps them from all coming back at
        # once.
        self.retry_at = hw.ticks_add(now, self.wait_ms + hw.ticks_ms() % 250)
        self.wait_ms = min(self.wait_ms * 2, LONGEST_WAIT_MS)

    def _connect(self, now):
        up = self.wifi.up()
        if self.client.state != "down":
            if not up and self.client.state != "leaving":
                self.client.stop(False)
            return
        if self._pulsing(now):
            return
        if not up:
            if self.wifi_asked is None or hw.ticks_diff(now, self.wifi_asked) > JOIN_MS:
                ways = self.secret["networks"][self.network]
                if isinstance(ways, dict):
                    ways = (ways,)
                way = ways[self.candidate % len(ways)]
                self.candidate += 1
                self.joined = way
                once("join").run(self.wifi, way["name"], way["password"])
                self.wifi_asked = now
            return
        # Stamps are good for days only: what has served its turn is let go.
        self.wifi_asked = None
        if self.retry_at is not None and hw.ticks_diff(now, self.retry_at) < 0:
            return
        self._later(now)
        station = self.wifi.station
        hw.say("net", station.status(), self.wifi.dbm(), station.ifconfig()[0])
        self.client.start(now, self.wifi.names())

    def _up(self):
        self.wait_ms = FIRST_WAIT_MS
        self.retry_at = None
        self.arriving = once("arrive").run(self)

    def _arrive(self):
        """One thing a step: what it took is collected before the next."""
        if self.client.state == "up":
            try:
                return next(self.arriving)
            except StopIteration:
                pass
        self.arriving = None

    def _fault(self, what, where):
        self.client.publish(self.base + "/fault", json.dumps({"what": what, "where": where, "when": self.utc()}), False, 1)

    def utc(self):
        if self.clock_set is None:
            return None
        return self.clock_set[0] + self.uptime_s - self.clock_set[1]

    def _answer(self, where, ident, result, reason, wanted=None):
        body = {"id": ident, "result": result}
        if wanted is not None:
            body["next"] = wanted
        if reason:
            body["reason"] = reason
        self.client.publish("%s/%s/done" % (self.base, where), json.dumps(body), False, 1)

    def _message(self, topic, payload, retained):
        now = hw.ticks_ms()
        if topic is None:
            self._fault("a message of %d bytes is too large for the memory that is left" % payload, "node")
            return
        if topic == self.root + "/time":
            try:
                # What the node has asked itself counts before it.
                if not self.clock_set or self.clock_set[2] is None:
                    self.clock_set = (int(json.loads(payload)), self.uptime_s, None)
            except (ValueError, TypeError):
                pass
            return
        if not (topic.startswith(self.base + "/") and topic.endswith("/set")):
            return
        where = topic[len(self.base) + 1 : -4]
        if self.sleep:
            self.sleep.spoken_to(now)
        if retained:
            self._fault("a retained command was ignored", where)
        elif where == "config":
            once("change").run(self, payload, now)
        elif where == "vault":
            self._vault().take(payload, now)
        elif where == "close":
            self.close = once("close").run(self, payload, now)
        elif where == "find":
            try:
                self.finding = once("find").Find(payload, self.signals)
            except ImportError:
                self._answer(where, json.loads(payload).get("id"), "refused", "there is no wire to search")
        else:
            once("command").run(self, where, payload, now)

    def _vault(self):
        if self.vault is None:
            self.vault = once("vault").Vault(self)
        return self.vault

    def enter(self):
        """Comes in with the login as it is now."""
        once("login").run(self)

    def _by_itself(self, where, value, now):
        """On and off as this output understands them: the node's own wishes are not asked for a number."""
        if isinstance(value, bool):
            driver = self.by_slug[where].driver
            level = getattr(driver, "level", None)
            if level:
                value = level(value)
            elif not isinstance(driver.state(), bool):
                value = 100 if value else 0
        return self._do(where, value, now)

    def _do(self, where, value, now):
        signal = self.by_slug.get(where)
        if signal is None:
            return "no such signal"
        command = getattr(signal.driver, "command", None)
        if command is None:
            return "this signal takes no commands"
        if self.guards:
            why = self.guard.why_not(self.guards, self.by_slug, where, value)
            if why:
                return why
        return command(value, now)
