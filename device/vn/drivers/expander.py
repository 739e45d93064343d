"""A key behind a 16-line expander: pressed pulls its line low. The expander is asked once a step for all its keys."""
from vn import i2cpart
from vn.presses import Presses

_chips = {}


class Lines:
    def __init__(self, spec):
        self.part = i2cpart.Link(spec)
        self.at = None
        self.levels = 0xFFFF
        self.fault = None

    def ask(self, now):
        if self.at == now:
            return self.levels
        self.at = now
        try:
            self.part.write(b"\xff\xff")
            got = self.part.read(2)
            self.levels = got[0] | (got[1] << 8)
        except OSError:
            self.levels = 0xFFFF
        return self.levels


class Driver:
    def __init__(self, spec):
        self.where = i2cpart.place(spec)
        if self.where not in _chips:
            _chips[self.where] = Lines(spec)
        self.lines, self.bit = _chips[self.where], spec["bit"]
        self.presses = Presses(spec)

    def step(self, now):
        return self.presses.step(not (self.lines.ask(now) >> self.bit) & 1, now)

    def stop(self):
        _chips.pop(self.where, None)
