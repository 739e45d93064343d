"""A motor between two half bridges: one side gets the pulses, the other holds still."""
from vn import hw, pulse
from vn.drivers.level import Level


class Driver(Level):
    def __init__(self, spec):
        super().__init__(spec)
        hw.offs[spec["pins"]["b"]] = 0
        self.still = hw.output(spec["pins"]["b"], 0)
        self.pwm = pulse.Pwm(spec["pins"]["a"], spec["hz"], False)
        self.show = self.pwm.share
