"""The node: signals, connection, commands, and the change of its own file. `step` never waits longer than an echo."""
import json

from vn import config, hw, mqtt, signals

FIRST_WAIT_MS, LONGEST_WAIT_MS = 1000, 30000
TRIAL_MS = 60000  # a new file has this long to connect
REMEMBERED = 8  # command ids that are not done twice


class Node:
    def __init__(self, secret):
        """`secret` is the credentials file: the node's broker login and its networks by name."""
        self.secret = secret
        self.wifi = hw.Wifi()
        self.wifi_asked = None
        self.signals = []
        self.client = None
        self.done_ids = []
        self.answer = None
        self.trial = None
        self.clock_set = None
        self.started = hw.ticks_ms()
        self.uptime_s = 0
        self.health_at = None
        config.recover()
        self._load(self.started)

    def _load(self, now):
        self.spec, self.hash = config.load()
        self.base = "%s/%s" % (self.spec["root"], self.spec["node"])
        self.signals = []
        for entry in self.spec["signals"]:
            self.signals.append(signals.start(entry))
        broker = self.spec["broker"]
        login = self.secret["broker"]
        self.client = mqtt.Client(
            broker["host"], broker["port"], "vn-" + self.spec["id"][:18], login["name"], login["password"],
            broker["keepAliveS"], self.base + "/status", '{"is":"offline"}', self._up, self._message,
        )
        self.wait_ms = FIRST_WAIT_MS
        self.retry_at = now

    def _unload(self):
        for signal in self.signals:
            signal.stop()
        self.signals = []
        self.client.stop(True)

    def step(self, now):
        whole = hw.ticks_diff(now, self.started) // 1000
        if whole > 0:
            self.uptime_s += whole
            self.started = hw.ticks_add(self.started, whole * 1000)
        self._connect(now)
        self.client.step(now)
        for signal in self.signals:
            text = signal.step(now)
            if text is not None:
                self.client.publish(self.base + "/" + signal.slug, text, signal.retained, signal.qos)
            self._faults(signal)
        if self.client.state == "up" and (self.health_at is None or hw.ticks_diff(now, self.health_at) >= self.spec["healthS"] * 1000):
            self._health(now)
        if self.trial and hw.ticks_diff(now, self.trial[1]) > TRIAL_MS:
            self._return("no connection within %d s" % (TRIAL_MS // 1000), now)

    def _connect(self, now):
        if self.client.state != "down":
            return
        if not self.wifi.up():
            if self.wifi_asked is None or hw.ticks_diff(now, self.wifi_asked) > 15000:
                known = self.secret["networks"][self.spec["network"]]
                self.wifi.start(known["name"], known["password"])
                self.wifi_asked = now
            return
        if hw.ticks_diff(now, self.retry_at) < 0:
            return
        # Each failure doubles the wait; the part that differs from node to node keeps them from all coming back at once.
        self.retry_at = hw.ticks_add(now, self.wait_ms + hw.ticks_ms() % 250)
        self.wait_ms = min(self.wait_ms * 2, LONGEST_WAIT_MS)
        self.client.start(now)

    def _up(self):
        self.wait_ms = FIRST_WAIT_MS
        say = self.client.publish
        self.client.subscribe(self.base + "/+/set")
        self.client.subscribe(self.spec["root"] + "/time")
        say(self.base + "/status", '{"is":"online"}', True, 1)
        self.client.publish_file(self.base + "/td", config.TD, True)
        say(self.base + "/config", json.dumps({"revision": self.spec["revision"], "hash": self.hash}), True, 1)
        for signal in self.signals:
            text = signal.text()
            if text is not None:
                say(self.base + "/" + signal.slug, text, signal.retained, signal.qos)
        self.health_at = None
        if self.trial:
            self.answer = (self.trial[0], "done", None)
            self.trial = None
        if self.answer:
            self._answer("config", *self.answer)
            self.answer = None

    def _health(self, now):
        self.health_at = now
        report = {
            "dbm": self.wifi.dbm(), "uptimeS": self.uptime_s, "freeB": hw.free_bytes(), "supplyV": None,
            "restart": hw.restart_reason(), "revision": self.spec["revision"],
        }
        self.client.publish(self.base + "/health", json.dumps(report), True, 0)

    def _faults(self, signal):
        fault = getattr(signal.driver, "fault", None)
        if fault:
            signal.driver.fault = None
            self._fault(fault, signal.slug)

    def _fault(self, what, where):
        self.client.publish(self.base + "/fault", json.dumps({"what": what, "where": where, "when": self._utc()}), False, 1)

    def _utc(self):
        if self.clock_set is None:
            return None
        return self.clock_set[0] + hw.ticks_diff(hw.ticks_ms(), self.clock_set[1]) // 1000

    def _answer(self, where, ident, result, reason):
        body = {"id": ident, "result": result}
        if reason:
            body["reason"] = reason
        self.client.publish("%s/%s/done" % (self.base, where), json.dumps(body), False, 1)

    def _message(self, topic, payload, retained):
        now = hw.ticks_ms()
        if topic == self.spec["root"] + "/time":
            self._set_clock(payload, now)
            return
        if not (topic.startswith(self.base + "/") and topic.endswith("/set")):
            return
        where = topic[len(self.base) + 1 : -4]
        if retained:
            self._fault("a retained command was ignored", where)
        elif where == "config":
            self._config(payload, now)
        else:
            self._command(where, payload, now)

    def _set_clock(self, payload, now):
        try:
            self.clock_set = (int(json.loads(payload)), now)
        except (ValueError, TypeError):
            pass

    def _command(self, where, payload, now):
        ident = None
        try:
            value = json.loads(payload)
        except ValueError:
            return self._answer(where, ident, "refused", "not JSON")
        until = None
        if isinstance(value, dict):
            ident, until, value = value.get("id"), value.get("until"), value.get("value")
        if ident is not None and (where, ident) in self.done_ids:
            return self._answer(where, ident, "done", None)
        reason = self._late(until) or self._do(where, value, now)
        if reason is None and ident is not None:
            self.done_ids.append((where, ident))
            del self.done_ids[:-REMEMBERED]
        self._answer(where, ident, "refused" if reason else "done", reason)

    def _late(self, until):
        if until is None:
            return None
        utc = self._utc()
        if utc is None:
            return "the clock is not set yet"
        return "too late" if not isinstance(until, (int, float)) or utc > until else None

    def _do(self, where, value, now):
        for signal in self.signals:
            if signal.slug == where:
                command = getattr(signal.driver, "command", None)
                return command(value, now) if command else "this signal takes no commands"
        return "no such signal"

    def _config(self, payload, now):
        ident = None
        try:
            header = config.receive(payload, self.spec["id"])
            ident = header.get("id")
        except config.Refused as e:
            try:
                ident = json.loads(payload.split(b"\n")[0]).get("id")
            except (ValueError, AttributeError):
                pass
            return self._answer("config", ident, "refused", str(e))
        self._unload()
        config.swap()
        self.trial = (ident, now)
        try:
            self._load(now)
        except Exception as e:
            self._return("it did not start: %s" % e, now)

    def _return(self, why, now):
        """The file before comes back into force, and the sender hears why."""
        ident = self.trial[0]
        self.trial = None
        self._unload()
        config.back()
        self._load(now)
        self.answer = (ident, "returned", why)
