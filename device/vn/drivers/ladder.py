"""One of several keys on an analog line: held while the share of full scale lies between two bounds. The line is
converted once a step for all of them."""
from vn import analog
from vn.presses import Presses

_lines = {}


class Line:
    def __init__(self, number):
        self.adc = analog.Adc(number, 1)
        self.at = None

    def share(self, now):
        if self.at != now:
            self.at, self.value = now, self.adc.share()
        return self.value


class Driver:
    def __init__(self, spec):
        number = spec["pins"]["a"]
        if number not in _lines:
            _lines[number] = Line(number)
        self.line, self.number = _lines[number], number
        self.low, self.high = spec["lowShare"], spec["highShare"]
        self.presses = Presses(spec)

    def step(self, now):
        return self.presses.step(self.low <= self.line.share(now) < self.high, now)

    def stop(self):
        _lines.pop(self.number, None)
