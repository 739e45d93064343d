"""A bare contact that gives an event when it is pressed."""
from vn import hw
from vn.debounce import Debounce


class Driver:
    def __init__(self, spec):
        self.pin = hw.input(spec["pins"]["a"], spec["pull"])
        self.active = 0 if spec["activeLow"] else 1
        self.debounce = Debounce(False, spec["debounceMs"])

    def step(self, now):
        """("single",) when a press has just become certain, else None."""
        pressed = self.pin.value() == self.active
        if self.debounce.step(pressed, now) and self.debounce.stable:
            return ("single",)
        return None

    def stop(self):
        pass
