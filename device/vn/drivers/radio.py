"""A receiver of on-off keyed codes: pulse lengths as heard, frame by frame. What they mean is worked out elsewhere."""
from array import array

from vn import hw

GAP_US, LEAST_US, LONGEST = 3500, 80, 132
LEAST_PULSES, WAITING = 32, 6
BURST_MS = 600


class Driver:
    def __init__(self, spec):
        self.medium = spec.get("medium", "subghz")
        self.raw = []
        self.lost = 0
        self.pulses = array("H", bytes(2 * LONGEST))
        self.n = 0
        self.last_us = hw.ticks_us()
        self.same = self.burst = self.told = None
        self.pin = hw.input(spec["pins"]["a"], "none")
        hw.on_edge(self.pin, True, self._edge)

    def _edge(self):
        now = hw.ticks_us()
        length = hw.ticks_diff(now, self.last_us)
        self.last_us = now
        if length >= GAP_US:
            if self.n >= LEAST_PULSES:
                if len(self.raw) < WAITING:
                    self.raw.append((list(self.pulses[: self.n]), length))
                else:
                    self.lost += 1
            self.n = 0
        elif length < LEAST_US or self.n >= LONGEST:
            self.n = 0
        else:
            self.pulses[self.n] = length
            self.n += 1

    def frames(self):
        """Frames since the last call, as JSON: lengths in µs, high first, and the gap after them."""
        out, self.raw = self.raw, []
        return ['{"us":[%s],"gapUs":%d}' % (",".join(str(p) for p in pulses), min(gap, 99999)) for pulses, gap in out]

    def step(self, now):
        """("heard",) once for a burst of equal frames, else None."""
        for pulses, _ in self.raw:
            again = self.same is not None and len(self.same) == len(pulses) and max(abs(a - b) for a, b in zip(self.same, pulses)) < 250 and hw.ticks_diff(now, self.burst) < BURST_MS
            self.same, self.burst = pulses, now
            if again and (self.told is None or hw.ticks_diff(now, self.told) >= BURST_MS):
                self.told = now
                return ("heard",)
        return None

    def stop(self):
        pass
