"""How loud it is: the effective value of what swings, in dB."""
import math

from vn import swing

QUIET_V = 1e-4  # less than any converter tells


class Window(swing.Window):
    def __init__(self, zero_v):
        super().__init__("rms")
        self.zero = zero_v

    def step(self, volts, now):
        """dB of `zero_v` once a second, else None. `volts` measures."""
        got = super().step(volts, now)
        return None if got is None else 20 * math.log(max(got, QUIET_V) / self.zero) / math.log(10)
