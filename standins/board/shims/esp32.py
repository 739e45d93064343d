"""What the 32 family has beyond the others: pins that end the sleep, as far as the chip and its build can."""
import _world

if not _world.chip.startswith("esp32"):
    raise ImportError("no module named 'esp32'")

WAKEUP_ALL_LOW, WAKEUP_ANY_HIGH = False, True

if _world.chip in ("esp32", "esp32s3"):

    def wake_on_ext0(pin, level):
        _world.wake_on(pin.number, 1 if level else 0, 2)


if _world.chip in ("esp32", "esp32s3", "esp32c6"):

    def wake_on_ext1(pins, level):
        for pin in pins:
            _world.wake_on(pin.number, 1 if level else 0, 3)


elif getattr(_world, "gpio_wake", False):

    def wake_on_gpio(pins, level):
        for pin in pins:
            _world.wake_on(pin.number, 1 if level else 0, 7)
