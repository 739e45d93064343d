"""A dimmed output, 0 to 100 %."""
from vn import pulse
from vn.drivers.level import Level


class Driver(Level):
    def __init__(self, spec):
        super().__init__(spec)
        self.pwm = pulse.Pwm(spec["pins"]["a"], spec["hz"], spec.get("activeLow", False))
        self.show = self.pwm.share
