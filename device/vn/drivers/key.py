"""One key of a matrix: its row is pulled low for a moment, and its column tells. Rows only ever pull, so held keys
harm nothing."""
import machine

from vn import hw
from vn.presses import Presses


class Driver:
    def __init__(self, spec):
        self.row = machine.Pin(spec["pins"]["row"], machine.Pin.OPEN_DRAIN, value=1)
        self.column = hw.input(spec["pins"]["column"], spec.get("pull"))
        self.presses = Presses(spec)

    def step(self, now):
        """(pattern,) when one has just become certain, else None."""
        self.row.value(0)
        pressed = self.column.value() == 0
        self.row.value(1)
        return self.presses.step(pressed, now)

    def stop(self):
        self.row.value(1)
