"""A voltage: its mean, its span or its effective value, turned into the reading's unit."""
import math

from vn import analog, hw
from vn.scale import Scale

EVERY_MS, SAMPLES = 250, 8
WINDOW_MS, EACH_STEP = 1000, 6


class Driver:
    def __init__(self, spec):
        self.adc = analog.Adc(spec["pins"]["a"], spec["fullV"])
        self.of = spec.get("of", "mean")
        self.scale = Scale(spec)
        self.read_at = None
        self._clear()

    def _clear(self):
        self.n = 0
        self.total = self.squares = 0.0
        self.low, self.high = 1e9, -1e9

    def step(self, now):
        """(reading or None,) a few times a second, else None."""
        if self.of != "mean":
            return self._window(now)
        if self.read_at is not None and hw.ticks_diff(now, self.read_at) < EVERY_MS:
            return None
        self.read_at = now
        total = 0.0
        for _ in range(SAMPLES):
            total += self.adc.volts()
        return (self.scale.reading(total / SAMPLES),)

    def _window(self, now):
        if self.read_at is None:
            self.read_at = now
        for _ in range(EACH_STEP):
            v = self.adc.volts()
            self.n += 1
            self.total += v
            self.squares += v * v
            self.low, self.high = min(self.low, v), max(self.high, v)
        if hw.ticks_diff(now, self.read_at) < WINDOW_MS:
            return None
        mean = self.total / self.n
        volts = self.high - self.low if self.of == "swing" else math.sqrt(max(0.0, self.squares / self.n - mean * mean))
        self.read_at = now
        self._clear()
        return (self.scale.reading(volts),)

    def stop(self):
        pass
