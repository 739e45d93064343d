"""A receiver of on-off keyed codes. What the file knows senders of is decoded here; everything else is passed on raw
while somebody listens."""
from array import array

from vn import hw

GAP_US, LEAST_US, LONGEST = 3500, 80, 132
LEAST_PULSES, WAITING = 24, 6
BURST_MS = 600
HOW = {"rp2": "pio", "esp8266": "hard"}


class Driver:
    def __init__(self, spec):
        self.medium = spec.get("medium", "subghz")
        self.air = self.until = None
        self.raw = []
        self.lost = self.lost_told = 0
        self.us, self.count = array("H", bytes(2 * LONGEST)), 0
        self.same, self.length = array("H", bytes(2 * LONGEST)), 0
        self.burst = self.told = self.fault = None
        module = "vn.edges_" + HOW.get(hw.PORT, "soft")
        self.edges = __import__(module, None, None, ("Edges",)).Edges(spec["pins"]["a"])

    def listen(self, now, for_s):
        """Raw frames are passed on for so long from now; 0 ends it."""
        self.until = hw.ticks_add(now, for_s * 1000) if for_s else None
        self.raw = []

    def _frame(self, gap, now):
        """One whole frame is in `us`: True when it is the second of two that are equal."""
        if self.air:
            self.air.frame(self.us, self.count, gap, now)
        if self.until is not None:
            if len(self.raw) < WAITING:
                pulses = ",".join([str(self.us[i]) for i in range(self.count)])
                self.raw.append('{"us":[%s],"gapUs":%d}' % (pulses, min(gap, 99999)))
            else:
                self.lost += 1
        again = self.burst is not None and self.length == self.count and hw.ticks_diff(now, self.burst) < BURST_MS
        for i in range(self.count):
            us = self.us[i]
            if again and abs(us - self.same[i]) >= 250:
                again = False
            self.same[i] = us
        self.length, self.burst = self.count, now
        return again

    def frames(self):
        """Frames since the last call, as JSON: lengths in µs, high first, and the gap after them."""
        out, self.raw = self.raw, []
        return out

    def step(self, now):
        """("heard",) once for a burst of equal frames, else None."""
        heard = False
        while True:
            got = self.edges.take()
            if got is None:
                break
            us, level = got
            if us >= GAP_US:
                if self.count >= LEAST_PULSES and self._frame(us, now):
                    heard = True
                self.count = 0
            elif us < LEAST_US or self.count >= LONGEST or (not self.count and not level):
                self.count = 0  # a frame begins with a high
            else:
                self.us[self.count] = us
                self.count += 1
        if self.until is not None and hw.ticks_diff(now, self.until) >= 0:
            self.until = None
        if self.told is not None and hw.ticks_diff(now, self.told) >= BURST_MS:
            self.told = None
        lost = self.lost + self.edges.lost
        if lost - self.lost_told >= 100:
            self.lost_told = lost
            self.fault = "%d pulses came faster than this chip takes them and are lost" % lost
        if heard and self.told is None:
            self.told = now
            return ("heard",)
        return None

    def stop(self):
        pass
