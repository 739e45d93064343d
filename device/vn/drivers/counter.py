"""Pulses counted at their falling edges: how many a second, or how many there ever were, as the reading they stand
for."""
from vn import hw

WINDOW_MS = 1000
_pins = {}
hw.on_release(_pins.clear)


class Pulses:
    """One interrupt for all signals of a pin. What comes within the debounce time of an edge is its bounce."""

    def __init__(self, spec):
        self.least_us = int(spec.get("debounceMs", 0) * 1000)
        self.count = 0
        self.edge_us = hw.ticks_us()
        self.quiet = True
        self.pin = hw.input(spec["pins"]["a"], spec.get("pull"))
        hw.on_edge(self.pin, False, self._edge)

    def _edge(self, _):
        if self.least_us:
            now = hw.ticks_us()
            if not self.quiet and hw.ticks_diff(now, self.edge_us) < self.least_us:
                return
            self.edge_us, self.quiet = now, False
        self.count += 1

    def step(self):
        # Stamps in µs are good for minutes only.
        if not self.quiet and hw.ticks_diff(hw.ticks_us(), self.edge_us) > 1000000:
            self.quiet = True


class Driver:
    def __init__(self, spec):
        number = spec["pins"]["a"]
        if number not in _pins:
            _pins[number] = Pulses(spec)
        self.pulses = _pins[number]
        self.per_hz = spec["perHz"]
        self.seen = self.pulses.count
        self.since = None
        self.total = None
        if spec.get("of") == "total":
            from vn import totals

            self.total = totals.Total(spec["slug"])

    def _new(self):
        n = self.pulses.count - self.seen
        self.seen += n
        return n

    def step(self, now):
        """(reading,) once a second, else None."""
        self.pulses.step()
        if self.since is None:
            self.since = now
            if self.total is None:
                self._new()
            return None
        passed = hw.ticks_diff(now, self.since)
        if passed < WINDOW_MS:
            return None
        self.since = now
        if self.total:
            return (self.per_hz * self.total.add(self._new(), now),)
        return (self.per_hz * self._new() * 1000 / passed,)

    def stop(self):
        if self.total:
            self.total.add(self._new(), hw.ticks_ms())
            self.total.keep()
