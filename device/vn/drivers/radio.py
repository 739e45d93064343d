"""A receiver of on-off keyed codes: pulse lengths as heard, frame by frame. What they mean is worked out elsewhere."""
from vn import hw

GAP_US, LEAST_US, LONGEST = 3500, 80, 132
LEAST_PULSES, WAITING = 32, 6
BURST_MS = 600
HOW = {"rp2": "pio", "esp8266": "hard"}


class Driver:
    def __init__(self, spec):
        self.medium = spec.get("medium", "subghz")
        self.raw = []
        self.lost = self.lost_told = 0
        self.pulses = []
        self.same = self.burst = self.told = None
        self.fault = None
        module = "vn.edges_" + HOW.get(hw.PORT, "soft")
        self.edges = __import__(module, None, None, ("Edges",)).Edges(spec["pins"]["a"])

    def _collect(self):
        """Pulses since the last step, cut into frames."""
        while True:
            got = self.edges.take()
            if got is None:
                return
            us, level = got
            if us >= GAP_US:
                if len(self.pulses) >= LEAST_PULSES:
                    if len(self.raw) < WAITING:
                        self.raw.append((self.pulses, us))
                    else:
                        self.lost += 1
                self.pulses = []
            elif us < LEAST_US or len(self.pulses) >= LONGEST or (not self.pulses and not level):
                self.pulses = []  # a frame begins with a high
            else:
                self.pulses.append(us)

    def frames(self):
        """Frames since the last call, as JSON: lengths in µs, high first, and the gap after them."""
        out, self.raw = self.raw, []
        return ['{"us":[%s],"gapUs":%d}' % (",".join(str(p) for p in pulses), min(gap, 99999)) for pulses, gap in out]

    def step(self, now):
        """("heard",) once for a burst of equal frames, else None."""
        self._collect()
        if self.burst is not None and hw.ticks_diff(now, self.burst) >= BURST_MS:
            self.same = self.burst = None
        if self.told is not None and hw.ticks_diff(now, self.told) >= BURST_MS:
            self.told = None
        lost = self.lost + self.edges.lost
        if lost - self.lost_told >= 100:
            self.lost_told = lost
            self.fault = "%d pulses came faster than this chip takes them and are lost" % lost
        for pulses, _ in self.raw:
            again = self.same is not None and len(self.same) == len(pulses)
            again = again and max(abs(a - b) for a, b in zip(self.same, pulses)) < 250
            self.same, self.burst = pulses, now
            if again and self.told is None:
                self.told = now
                return ("heard",)
        return None

    def stop(self):
        pass
