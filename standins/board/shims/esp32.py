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
