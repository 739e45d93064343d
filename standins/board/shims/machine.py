"""Pins of the simulated board."""
import binascii

import _world

PWRON_RESET, HARD_RESET, WDT_RESET, DEEPSLEEP_RESET, SOFT_RESET = 1, 2, 3, 4, 5


class Pin:
    IN, OUT, OPEN_DRAIN = 1, 3, 7
    PULL_UP, PULL_DOWN = 2, 1
    IRQ_FALLING, IRQ_RISING = 2, 1

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

    def irq(self, handler=None, trigger=3):
        _world.pin_irq(self.number, trigger == 3, lambda: handler(self))


class ADC:
    ATTN_11DB = 3

    def __init__(self, pin):
        self.number = pin.number
        # Chips that bring a calibration of their own have a second way to ask.
        microvolts = getattr(_world, "adc_uv", None)
        if microvolts:
            self.read_uv = lambda: microvolts(self.number)

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


class SoftI2C:
    """The bus in bytes; nobody answering is error 19, as on the board."""

    def __init__(self, scl, sda, freq=400000):
        self.sda, self.scl = sda.number, scl.number

    def writeto(self, address, data):
        if not _world.i2c_write(self.sda, self.scl, address, str(binascii.hexlify(bytes(data)), "utf-8")):
            raise OSError(19)
        return len(data)

    def readfrom(self, address, n):
        text = _world.i2c_read(self.sda, self.scl, address, n)
        if not text:
            raise OSError(19)
        return binascii.unhexlify(text)

    def readfrom_mem(self, address, register, n):
        self.writeto(address, bytes((register,)))
        return self.readfrom(address, n)


class UART:
    def __init__(self, number, baudrate=9600, rx=None, tx=None, rxbuf=256):
        self.number = number

    def any(self):
        return _world.uart_any(self.number)

    def read(self, n):
        text = _world.uart_read(self.number, n)
        return binascii.unhexlify(text) if text else None


def deepsleep(ms):
    _world.deepsleep(ms)


def time_pulse_us(pin, level, timeout_us=1000000):
    return _world.pulse_us(pin.number, level, timeout_us)


def reset_cause():
    return _world.reset_cause()


def reset():
    _world.reset()


def unique_id():
    return b"\x01\x02\x03\x04\x05\x06"
