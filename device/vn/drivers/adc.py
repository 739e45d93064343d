"""A voltage: its mean, its span or its effective value, turned into the reading's unit."""
from vn import analog, hw
from vn.scale import Scale

EVERY_MS, SAMPLES = 250, 8


class Driver:
    def __init__(self, spec):
        self.adc = analog.Adc(spec["pins"]["a"], spec["fullV"])
        self.scale = Scale(spec)
        self.read_at = self.window = None
        if "zeroDbV" in spec:
            from vn import loud

            self.window = loud.Window(spec["zeroDbV"])
        elif spec.get("of", "mean") != "mean":
            from vn import swing

            self.window = swing.Window(spec["of"])

    def step(self, now):
        """(reading or None,) a few times a second, else None."""
        if self.window:
            volts = self.window.step(self.adc.volts, now)
            return None if volts is None else (self.scale.reading(volts),)
        if self.read_at is not None and hw.ticks_diff(now, self.read_at) < EVERY_MS:
            return None
        self.read_at = now
        total = 0.0
        for _ in range(SAMPLES):
            total += self.adc.volts()
        return (self.scale.reading(total / SAMPLES),)

    def stop(self):
        pass
