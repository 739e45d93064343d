"""A servo: 0 to 100 % of its way. It gets no pulses before the first command, so it does not jump at power-up."""
import machine

from vn import hw


class Servo:
    def __init__(self, number):
        self.number, self.pwm = number, None
        hw.offs[number] = 0
        hw.hold(self)
        hw.output(number, 0)

    def pulse(self, us):
        """Pulse length fifty times a second, µs; 0 lets the servo go."""
        duty = int(us * 65535 / 20000 + 0.5)
        if not us:
            self.deinit()
            hw.output(self.number, 0)
        elif self.pwm:
            self.pwm.duty_u16(duty)
        else:
            self.pwm = machine.PWM(machine.Pin(self.number), freq=50, duty_u16=duty)

    def deinit(self):
        if self.pwm:
            self.pwm.deinit()
            self.pwm = None


class Driver:
    fault = None

    def __init__(self, spec):
        self.low, self.high = spec.get("lowUs", 1000), spec.get("highUs", 2000)
        self.servo = Servo(spec["pins"]["a"])
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
