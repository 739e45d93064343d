"""What the 32 family has beyond the others: pins that end the sleep, as far as the chip and its build can."""
import _world

if _world.chip in ("8266-class", "rp2040"):
    raise ImportError("no module named 'esp32'")

WAKEUP_ALL_LOW, WAKEUP_ANY_HIGH = False, True

if _world.chip in ("32-class", "s3-class"):

    def wake_on_ext0(pin, level):
        _world.wake_on(pin.number, 1 if level else 0, 2)


if _world.chip in ("32-class", "s3-class", "c6-class"):

    def wake_on_ext1(pins, level):
        for pin in pins:
            _world.wake_on(pin.number, 1 if level else 0, 3)


elif getattr(_world, "gpio_wake", False):

    def wake_on_gpio(pins, level):
        for pin in pins:
            _world.wake_on(pin.number, 1 if level else 0, 7)


class RMT:
    """Says trains of pulses beside the processor: up to 32767 counts each, the line idle before and after."""

    def __init__(self, channel, *, pin=None, clock_div=8, idle_level=False, tx_carrier=None):
        if pin is None:
            raise TypeError("pin must be specified")
        if not 1 <= clock_div <= 255:
            raise ValueError("clock_div must be between 1 and 255")
        self.pin, self.clock_div = pin, clock_div
        self.idle_level = idle_level
        pin.value(1 if idle_level else 0)

    def write_pulses(self, duration, data=True):
        for n in duration:
            if not 0 < n <= 32767:
                raise ValueError("invalid duration")
        _world.rmt_say(self.pin.number, 1 if data else 0, 1 if self.idle_level else 0, self.clock_div, ",".join([str(n) for n in duration]))

    def wait_done(self, *, timeout=0):
        return _world.rmt_idle(self.pin.number)

    def deinit(self):
        _world.rmt_off(self.pin.number)
