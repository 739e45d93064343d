"""Pins, timers, watchdog and sleep as the interpreter's port for each chip documents them: what is missing there is
missing here."""
import binascii

import micropython

import _world
import time as _time

CHIP = _world.chip
FAMILY_32 = CHIP not in ("8266-class", "rp2040")
SMALL = CHIP == "8266-class"
RP2 = CHIP == "rp2040"

if SMALL:
    PWRON_RESET, HARD_RESET, WDT_RESET, DEEPSLEEP_RESET, SOFT_RESET = 0, 6, 1, 5, 4
elif RP2:
    PWRON_RESET, WDT_RESET = 1, 3
else:
    PWRON_RESET, HARD_RESET, WDT_RESET, DEEPSLEEP_RESET, SOFT_RESET = 1, 2, 3, 4, 5
    PIN_WAKE, EXT0_WAKE, EXT1_WAKE, TIMER_WAKE = 2, 2, 3, 4

    def wake_reason():
        return _world.wake_reason()


class Gone(BaseException):
    """The chip has started anew: nothing after this line runs."""


class Pin:
    IN, OUT, OPEN_DRAIN = 1, 3, 7
    PULL_UP = 2
    IRQ_FALLING, IRQ_RISING = 2, 1

    def __init__(self, number, mode=-1, pull=None, value=None, **more):
        self.number = number
        self._level = None
        for word in more:
            if not (FAMILY_32 and word == "hold"):
                raise TypeError("extra keyword arguments given")
        if SMALL and number == 16 and (pull is not None or mode == 7):
            raise ValueError("Pin(16) doesn't support pull")
        if mode != -1:
            error = _world.pin_mode(number, {1: "in", 3: "out", 7: "open-drain"}[mode], {2: "up", 1: "down"}.get(pull, "none"), -1 if value is None else value)
            if error:
                raise ValueError(error)
        if "hold" in more and more["hold"] is not None:
            _world.pin_hold(number, bool(more["hold"]))

    def value(self, level=None):
        if level is None:
            if self._level is not None and _time._at is not None:
                return self._level
            return _world.pin_read(self.number)
        _world.pin_write(self.number, 1 if level else 0)

    __call__ = value

    def irq(self, handler=None, trigger=3, **more):
        if FAMILY_32 and "hard" in more:
            raise TypeError("extra keyword arguments given")
        if SMALL and self.number == 16:
            raise OSError("no interrupt on this pin")
        if handler is None:
            _world.pin_irq_off(self.number)
            return
        if more.get("hard"):
            _world.pin_irq(self.number, trigger == 3, True, lambda us, level: _hard(self, handler, us, level))
        else:
            _world.pin_irq(self.number, trigger == 3, False, lambda us, level: _soft(self, handler, us, level))


def _hard(pin, handler, us, level):
    """In a hard interrupt there is no memory to be had."""
    pin._level = level
    _time._at = us
    micropython.heap_lock()
    try:
        handler(pin)
    finally:
        micropython.heap_unlock()
        _time._at = pin._level = None


def _soft(pin, handler, us, level):
    pin._level = level
    _time._at = us
    try:
        handler(pin)
    finally:
        _time._at = pin._level = None


if not SMALL:
    Pin.PULL_DOWN = 1


class ADC:
    def __init__(self, pin):
        if SMALL:
            if not isinstance(pin, int):
                raise TypeError("can't convert Pin to int")
            if pin != 0:
                raise ValueError("not a valid ADC Channel: %d" % pin)
            self.number = 17
        else:
            self.number = pin.number
        # Chips that bring a calibration of their own have a second way to ask.
        microvolts = getattr(_world, "adc_uv", None)
        if microvolts and FAMILY_32:
            self.read_uv = lambda: microvolts(self.number)

    def read_u16(self):
        return _world.adc_read(self.number)


if FAMILY_32:
    ADC.ATTN_11DB = 3
    ADC.atten = lambda self, _: None


class PWM:
    """Ten bits of duty where the chip has no more: the highest is one step below full."""

    def __init__(self, pin, freq=None, duty_u16=None):
        self.number = pin.number
        _world.pwm_made(self.number, -1 if freq is None else freq, -1 if duty_u16 is None else duty_u16)
        if freq is not None:
            self.freq(freq)
        if duty_u16 is not None:
            self.duty_u16(duty_u16)

    def freq(self, hz):
        _world.pwm_freq(self.number, min(max(hz, 1), 1000) if SMALL else hz)

    def duty_u16(self, duty):
        _world.pwm_duty(self.number, duty if RP2 else duty & 0xFFC0)

    def deinit(self):
        _world.pwm_off(self.number)


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

    def deinit(self):
        pass


class Timer:
    ONE_SHOT, PERIODIC = 0, 1

    def __init__(self, number=-1):
        most = {"32-class": 4, "s3-class": 4, "c3-class": 2, "c6-class": 2}.get(CHIP, 0)
        if (FAMILY_32 and not 0 <= number < most) or (not FAMILY_32 and number != -1):
            raise ValueError("invalid Timer number")
        self.number = _world.timer_new()

    def init(self, mode=PERIODIC, period=-1, callback=None):
        _world.timer_set(self.number, period, mode == Timer.PERIODIC, lambda: callback(self))

    def deinit(self):
        _world.timer_off(self.number)


class WDT:
    def __init__(self, *args, **more):
        if SMALL:
            if args or more:
                raise TypeError("function takes 0 positional arguments")
            ms = 3200
        else:
            ms = more.get("timeout", args[1] if len(args) > 1 else 5000)
            if RP2 and ms > 8388:
                raise ValueError("timeout exceeds 8388")
            if ms < 1000:
                raise ValueError("WDT timeout too short")
        _world.wdt(ms)

    def feed(self):
        _world.feed()


def deepsleep(ms=None):
    # 32 bits of microseconds on the smallest chip: what is longer wraps.
    _world.deepsleep((ms * 1000) % (1 << 32) // 1000 if SMALL else ms)
    raise Gone()


def time_pulse_us(pin, level, timeout_us=1000000):
    got = _world.pulse_us(pin.number, level, timeout_us)
    _time._late()
    return got


def reset_cause():
    return _world.reset_cause()


def reset():
    _world.reset()
    raise Gone()


def unique_id():
    return b"\x01\x02\x03\x04\x05\x06"
