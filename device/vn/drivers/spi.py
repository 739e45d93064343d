"""A thermocouple amplifier, °C: sixteen bits clocked out, one of them says that the thermocouple is broken."""
from vn import hw

EVERY_MS = 500


class Driver:
    def __init__(self, spec):
        pins = spec["pins"]
        self.cs, self.sck, self.so = hw.output(pins["cs"], 1), hw.output(pins["sck"], 0), hw.input(pins["miso"], "none")
        self.read_at = None

    def step(self, now):
        if self.read_at is not None and hw.ticks_diff(now, self.read_at) < EVERY_MS:
            return None
        self.read_at = now
        bits = 0
        self.cs.value(0)
        for _ in range(16):
            self.sck.value(1)
            bits = (bits << 1) | self.so.value()
            self.sck.value(0)
        self.cs.value(1)
        # Bit 15 is always low: all ones is a part that is not there. Bit 2 high is an open thermocouple.
        if bits & 0x8004:
            return (None,)
        return ((bits >> 3) / 4,)

    def stop(self):
        pass
