"""A bare contact that gives events when it is pressed."""
from vn import hw
from vn.presses import Presses


class Driver:
    def __init__(self, spec):
        self.pin = hw.input(spec["pins"]["a"], spec.get("pull"))
        self.active = 0 if spec.get("activeLow") else 1
        self.presses = Presses(spec)

    def step(self, now):
        """(pattern,) when one has just become certain, else None."""
        return self.presses.step(self.pin.value() == self.active, now)

    def stop(self):
        pass
