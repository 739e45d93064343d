"""Pulses counted at their falling edges: how many a second, or how many there ever were, as the reading they stand for."""
from vn import hw

WINDOW_MS = 1000


class Driver:
    def __init__(self, spec):
        self.per_hz = spec["perHz"]
        self.least_us = int(spec.get("debounceMs", 0) * 1000)
        self.count = 0
        self.edge_us = self.since = None
        self.total = None
        if spec.get("of") == "total":
            from vn import totals

            self.total = totals.Total(spec["slug"])
        self.pin = hw.input(spec["pins"]["a"], spec.get("pull"))
        hw.on_edge(self.pin, False, self._edge)

    def _edge(self, _):
        if self.least_us:
            now = hw.ticks_us()
            if self.edge_us is not None and 0 <= hw.ticks_diff(now, self.edge_us) < self.least_us:
                return  # the contact still bounces
            self.edge_us = now
        self.count += 1

    def step(self, now):
        """(reading,) once a second, else None."""
        if self.since is None:
            self.since = now
            if self.total is None:
                self.count = 0
            return None
        passed = hw.ticks_diff(now, self.since)
        if passed < WINDOW_MS:
            return None
        count, self.count, self.since = self.count, 0, now
        if self.edge_us is not None and hw.ticks_diff(hw.ticks_us(), self.edge_us) > 100000000:
            self.edge_us = None  # before its distance wraps
        if self.total:
            return (self.per_hz * self.total.add(count, now),)
        return (self.per_hz * count * 1000 / passed,)

    def stop(self):
        if self.total:
            self.total.add(self.count, hw.ticks_ms())
            self.total.keep()
