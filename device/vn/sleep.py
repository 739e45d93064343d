"""A node that sleeps: wakes, measures, says it, listens for a moment, says until when it is away, and is.

Pins that end the sleep are armed at the level they do not have; the press that ended it is told as the event that it
is.
"""
import json

from vn import hw, rest

CONNECT_MS = 25000  # without a connection after this it sleeps all the same: the cell must last
MEASURE_MS = 6000


class Sleep:
    def __init__(self, how, signals, now):
        self.every_ms, self.listen_ms = int(how["everyS"] * 1000), int(how["listenS"] * 1000)
        self.woke = now
        self.listens_since = None
        self.leaving = None
        self.pins = [s for s in signals if s.wakes]
        self.by_pin = bool(self.pins) and rest.by_pin()
        for s in self.pins:
            rest.unhold(s.wakes["pin"], s.wakes.get("pull"))
        self.deaf = [] if rest.can_wake() else [s.slug for s in self.pins]

    def say_why(self, node):
        """After a waking by pin: a press that is over by now was one all the same."""
        if self.by_pin:
            self.by_pin = False
            presses = [s for s in self.pins if not s.retained]
            if len(self.pins) == 1 and presses:
                node.told[presses[0].slug] = "single"
                node.client.publish(node.base + "/" + presses[0].slug, '"single"', False, 1, hw.ticks_ms())
        if self.deaf:
            node._fault("cannot end the sleep in this build of the interpreter", ", ".join(self.deaf))
            self.deaf = []

    def spoken_to(self, now):
        """Somebody wants something: the moment of listening begins anew."""
        if self.listens_since is not None:
            self.listens_since = now

    def step(self, node, now):
        awake = hw.ticks_diff(now, self.woke)
        if self.leaving is not None:
            if node.client.state == "down" or hw.ticks_diff(now, self.leaving) > 4000:
                self._go(node)
            elif node.client.state == "up" and (node.client.quiet() or hw.ticks_diff(now, self.leaving) > 2000):
                node.client.leave(now)
        elif node.client.state != "up":
            self.listens_since = None
            if awake > CONNECT_MS:
                self._go(node)
        elif self.listens_since is None:
            if awake > MEASURE_MS or all(s.known() for s in node.signals):
                self.listens_since = now
        elif hw.ticks_diff(now, self.listens_since) >= self.listen_ms and node.client.quiet():
            for_ms = self._rest(awake)
            utc = node.utc()
            back = None if utc is None else utc + for_ms // 1000
            text = json.dumps({"is": "asleep", "for": for_ms // 1000, "back": back})
            node.client.publish(node.base + "/status", text, True, 1)
            self.leaving = now

    def _rest(self, awake):
        return min(max(1000, self.every_ms - awake), rest.LONGEST_MS)

    def _go(self, node):
        for_ms = self._rest(hw.ticks_diff(hw.ticks_ms(), self.woke))
        for signal in node.signals:
            signal.stop()
        for pin in hw.offs:
            hw.output(pin, hw.offs[pin])
        node.client.stop(False)
        node.wifi.leave()
        try:
            node.wifi.station.active(False)
        except Exception:
            pass
        pins = []
        for s in self.pins:
            w = s.wakes
            # A contact wakes when it is no longer as it is; a button when it is pressed.
            level = w["level"] if not s.retained else 1 - hw.input(w["pin"], w.get("pull")).value()
            pins.append((w["pin"], level, w.get("pull")))
        rest.wake_pins(pins)
        node.sleeping = lambda now: None
        rest.sleep(for_ms)
