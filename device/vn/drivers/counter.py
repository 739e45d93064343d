"""Pulses a second, counted at their falling edges, as the reading they stand for."""
from vn import hw

WINDOW_MS = 1000


class Driver:
    def __init__(self, spec):
        self.per_hz = spec["perHz"]
        self.count = 0
        self.since = None
        self.pin = hw.input(spec["pins"]["a"], spec.get("pull"))
        hw.on_edge(self.pin, False, self._edge)

    def _edge(self):
        self.count += 1

    def step(self, now):
        if self.since is None:
            self.since, self.count = now, 0
            return None
        passed = hw.ticks_diff(now, self.since)
        if passed < WINDOW_MS:
            return None
        count, self.count, self.since = self.count, 0, now
        return (self.per_hz * count * 1000 / passed,)

    def stop(self):
        pass
