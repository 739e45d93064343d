"""A servo: 0 to 100 % of its way. It gets no pulses before the first command, so it does not jump at power-up."""
from vn import pulse


class Driver:
    fault = None

    def __init__(self, spec):
        self.low, self.high = spec.get("lowUs", 1000), spec.get("highUs", 2000)
        self.servo = pulse.Servo(spec["pins"]["a"])
        self.percent = None

    def command(self, value, now):
        if isinstance(value, bool) or not isinstance(value, (int, float)) or not 0 <= value <= 100:
            return "takes a number from 0 to 100"
        self.percent = value
        self.servo.pulse(self.low + (self.high - self.low) * value / 100)
        return None

    def step(self, now):
        pass

    def state(self):
        return self.percent

    def stop(self):
        self.servo.pulse(0)
