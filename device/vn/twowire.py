"""The two-wire bus, in software on any pins of any chip. A part that was cut off in the middle of a byte is clocked
free."""
import machine

from vn import hw

_buses = {}


def bus(sda, scl):
    """One bus per pair of pins."""
    if (sda, scl) not in _buses:
        free(sda, scl)
        _buses[(sda, scl)] = machine.SoftI2C(scl=machine.Pin(scl), sda=machine.Pin(sda), freq=100000)
    return _buses[(sda, scl)]


def free(sda, scl):
    """A part that still holds the data line sends the rest of its byte: nine clocks, then a stop. True when the line
    is let go."""
    data = machine.Pin(sda, machine.Pin.OPEN_DRAIN, value=1)
    clock = machine.Pin(scl, machine.Pin.OPEN_DRAIN, value=1)
    for _ in range(9):
        if data.value():
            break
        clock.value(0)
        hw.sleep_us(5)
        clock.value(1)
        hw.sleep_us(5)
    data.value(0)
    hw.sleep_us(5)
    data.value(1)
    _buses.pop((sda, scl), None)
    return bool(data.value())


hw.on_release(_buses.clear)
