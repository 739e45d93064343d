"""One key of a matrix: its row is pulled low for a moment, and its column tells. Rows only ever pull, so held keys harm nothing."""
from vn import hw
from vn.debounce import Debounce


class Driver:
    def __init__(self, spec):
        self.row = hw.open_drain(spec["pins"]["row"])
        self.column = hw.input(spec["pins"]["column"], spec["pull"])
        self.debounce = Debounce(False, spec["debounceMs"])

    def step(self, now):
        """("single",) when a press has just become certain, else None."""
        self.row.value(0)
        pressed = self.column.value() == 0
        self.row.value(1)
        if self.debounce.step(pressed, now) and self.debounce.stable:
            return ("single",)
        return None

    def stop(self):
        self.row.value(1)
