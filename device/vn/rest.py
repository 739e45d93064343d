"""The deep sleep of each chip class: its longest time, the pins that end it, and what ended it."""
import machine

from vn import hw

# The smallest chip counts microseconds in 32 bits.
LONGEST_MS = 4260000 if hw.SMALL else 500000000


def can_wake():
    """Whether a pin can end the sleep in this build of the interpreter."""
    if hw.PORT != "esp32":
        return False
    import esp32

    return hasattr(esp32, "wake_on_ext0") or hasattr(esp32, "wake_on_ext1") or hasattr(esp32, "wake_on_gpio")


def wake_pins(pins):
    """Arms these pins, each (number, level that wakes, pull). Gives the numbers that could not be armed."""
    if not pins:
        return []
    if hw.PORT != "esp32":
        return [p[0] for p in pins]
    import esp32

    made = []
    for number, level, pull in pins:
        how = {"up": machine.Pin.PULL_UP, "down": machine.Pin.PULL_DOWN}.get(pull)
        # Held, so that the pull stays while the rest of the chip is off.
        made.append((machine.Pin(number, machine.Pin.IN, how, hold=True), number, level))
    highs = [m for m in made if m[2]]
    lows = [m for m in made if not m[2]]
    if hasattr(esp32, "wake_on_ext0") and len(made) == 1:
        esp32.wake_on_ext0(made[0][0], esp32.WAKEUP_ANY_HIGH if made[0][2] else esp32.WAKEUP_ALL_LOW)
        return []
    if hasattr(esp32, "wake_on_ext1"):
        # Any that goes high, or one that goes low: the chip knows no more.
        if highs:
            esp32.wake_on_ext1([m[0] for m in highs], esp32.WAKEUP_ANY_HIGH)
            return [m[1] for m in lows]
        esp32.wake_on_ext1([lows[0][0]], esp32.WAKEUP_ALL_LOW)
        return [m[1] for m in lows[1:]]
    if hasattr(esp32, "wake_on_gpio"):
        for group, level in ((highs, esp32.WAKEUP_ANY_HIGH), (lows, esp32.WAKEUP_ALL_LOW)):
            if group:
                esp32.wake_on_gpio([m[0] for m in group], level)
        return []
    return [p[0] for p in pins]


def by_pin():
    """True when a pin ended the sleep this start comes from."""
    if hw.PORT != "esp32" or hw.cause != "woke":
        return False
    kinds = (("EXT0_WAKE", 2), ("EXT1_WAKE", 3), ("GPIO_WAKE", 7))
    return machine.wake_reason() in [getattr(machine, name, number) for name, number in kinds]


def unhold(number, pull):
    """A held pin answers nobody until it is let go."""
    how = {"up": machine.Pin.PULL_UP, "down": machine.Pin.PULL_DOWN}.get(pull)
    machine.Pin(number, machine.Pin.IN, how, hold=False)


def sleep(ms):
    """Ends the program; the board starts anew when the time is over."""
    machine.deepsleep(min(ms, LONGEST_MS))
