"""Time on the modelled clock: it follows real time between steps, and what would block moves it on.

Waiting past what the watchdog allows starts the chip anew at that moment."""
import _world
import utime

_TOP = 1 << 30
_at = None


def ticks_ms():
    now = _world.ticks_ms()
    if now == -1:
        raise KeyboardInterrupt()
    return now


def ticks_us():
    if _at is not None:
        return _at
    return _world.ticks_us()


def ticks_add(a, b):
    return (a + b) % _TOP


def ticks_diff(a, b):
    # In small steps, as the chip's own does it: a number too large for its register would ask for memory.
    d = a - b
    if d >= 536870912:
        d = d - 536870912 - 536870912
    elif d < -536870912:
        d = d + 536870912 + 536870912
    return d


def _late():
    if _world.bitten():
        import machine

        raise machine.Gone()


def sleep_us(n):
    global _at
    _at = None  # who waits in an interrupt sees the world as it is by then
    _world.pass_us(n)
    _late()


def sleep_ms(n):
    sleep_us(n * 1000)


def sleep(s):
    sleep_us(int(s * 1000000))


def time():
    return utime.time()


gmtime = utime.gmtime
