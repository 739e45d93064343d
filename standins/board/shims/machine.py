"""Pins of the simulated board."""
import _world

PWRON_RESET, HARD_RESET, WDT_RESET, DEEPSLEEP_RESET, SOFT_RESET = 1, 2, 3, 4, 5


class Pin:
    IN, OUT, OPEN_DRAIN = 1, 3, 7
    PULL_UP, PULL_DOWN = 2, 1

    def __init__(self, number, mode=-1, pull=None, value=None):
        self.number = number
        if mode != -1:
            error = _world.pin_mode(number, {1: "in", 3: "out", 7: "open-drain"}[mode], {2: "up", 1: "down"}.get(pull, "none"), -1 if value is None else value)
            if error:
                raise ValueError(error)

    def value(self, level=None):
        if level is None:
            return _world.pin_read(self.number)
        _world.pin_write(self.number, 1 if level else 0)

    __call__ = value


class ADC:
    ATTN_11DB = 3

    def __init__(self, pin):
        self.number = pin.number

    def atten(self, _):
        pass

    def read_u16(self):
        return _world.adc_read(self.number)


class PWM:
    def __init__(self, pin):
        self.number = pin.number

    def freq(self, hz):
        _world.pwm_freq(self.number, hz)

    def duty_u16(self, duty):
        _world.pwm_duty(self.number, duty)


def time_pulse_us(pin, level, timeout_us=1000000):
    return _world.pulse_us(pin.number, level, timeout_us)


def reset_cause():
    return _world.reset_cause()


def reset():
    _world.reset()


def unique_id():
    return b"\x01\x02\x03\x04\x05\x06"
