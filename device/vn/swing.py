"""What counts of a voltage that swings: its span, or its effective value, over a second."""
import math

from vn import hw

WINDOW_MS, EACH_STEP = 1000, 6


class Window:
    def __init__(self, of):
        self.of = of
        self.read_at = None
        self._clear()

    def _clear(self):
        self.n = 0
        self.total = self.squares = 0.0
        self.low, self.high = 1e9, -1e9

    def step(self, volts, now):
        """V once a second, else None. `volts` measures."""
        if self.read_at is None:
            self.read_at = now
        for _ in range(EACH_STEP):
            v = volts()
            self.n += 1
            self.total += v
            self.squares += v * v
            self.low, self.high = min(self.low, v), max(self.high, v)
        if hw.ticks_diff(now, self.read_at) < WINDOW_MS:
            return None
        mean = self.total / self.n
        got = self.high - self.low if self.of == "swing" else math.sqrt(max(0.0, self.squares / self.n - mean * mean))
        self.read_at = now
        self._clear()
        return got
