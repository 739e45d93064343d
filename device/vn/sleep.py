"""A node that sleeps: wakes, measures, says it, listens for a moment, says until when it is away, and is."""
import json

from vn import hw

CONNECT_MS = 25000  # without a connection after this it sleeps all the same: the cell must last
MEASURE_MS = 6000


class Sleep:
    def __init__(self, how, now):
        self.every_ms, self.listen_ms = int(how["everyS"] * 1000), int(how["listenS"] * 1000)
        self.woke = now
        self.listens_since = None
        self.leaving = None

    def spoken_to(self, now):
        """Somebody wants something: the moment of listening begins anew."""
        if self.listens_since is not None:
            self.listens_since = now

    def step(self, node, now):
        awake = hw.ticks_diff(now, self.woke)
        if self.leaving is not None:
            if node.client.quiet() or hw.ticks_diff(now, self.leaving) > 2000:
                self._go(node)
        elif node.client.state != "up":
            self.listens_since = None
            if awake > CONNECT_MS:
                self._go(node)
        elif self.listens_since is None:
            if awake > MEASURE_MS or all(s.known() for s in node.signals):
                self.listens_since = now
        elif hw.ticks_diff(now, self.listens_since) >= self.listen_ms and node.client.quiet():
            rest = self._rest(awake)
            utc = node.utc()
            text = json.dumps({"is": "asleep", "for": rest // 1000, "back": None if utc is None else utc + rest // 1000})
            node.client.publish(node.base + "/status", text, True, 1)
            self.leaving = now

    def _rest(self, awake):
        return max(1000, self.every_ms - awake)

    def _go(self, node):
        rest = self._rest(hw.ticks_diff(hw.ticks_ms(), self.woke))
        for signal in node.signals:
            signal.stop()
        node.client.stop(True)
        hw.deep_sleep(rest)
        node.sleeping = lambda now: None
