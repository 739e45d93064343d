"""A voltage, as the mean of a few conversions, turned into the reading's unit by a straight line."""
from vn import hw

EVERY_MS, SAMPLES = 250, 8


class Driver:
    def __init__(self, spec):
        self.adc = hw.Adc(spec["pins"]["a"], spec["fullV"])
        self.at_zero, self.per_volt = spec["atZero"], spec["perVolt"]
        self.read_at = None

    def step(self, now):
        """(reading,) a few times a second, else None."""
        if self.read_at is not None and hw.ticks_diff(now, self.read_at) < EVERY_MS:
            return None
        self.read_at = now
        total = 0.0
        for _ in range(SAMPLES):
            total += self.adc.volts()
        return (self.at_zero + self.per_volt * total / SAMPLES,)

    def stop(self):
        pass
