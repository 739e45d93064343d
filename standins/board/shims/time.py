"""Time on the modelled clock: it follows real time between steps, and what would block moves it on."""
import _world
import utime

_TOP = 1 << 30


def ticks_ms():
    return _world.ticks_ms()


def ticks_us():
    return _world.ticks_us()


def ticks_add(a, b):
    return (a + b) % _TOP


def ticks_diff(a, b):
    return (a - b + _TOP // 2) % _TOP - _TOP // 2


def sleep_us(n):
    _world.pass_us(n)


def sleep_ms(n):
    _world.pass_us(n * 1000)


def sleep(s):
    _world.pass_us(int(s * 1000000))


def time():
    return utime.time()


gmtime = utime.gmtime
