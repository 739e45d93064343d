"""Edges by a hard interrupt: it comes at once, even in the middle of the collector's work, and may ask for no
memory."""
import machine
import time

from vn import hw
from vn.ring import Ring

_ticks_us = time.ticks_us
_ticks_diff = time.ticks_diff


class Edges(Ring):
    def __init__(self, number):
        super().__init__()
        self.last = _ticks_us()
        self.pin = hw.input(number, "none")
        self.pin.irq(self._edge, machine.Pin.IRQ_FALLING | machine.Pin.IRQ_RISING, hard=True)
        hw.hold(self)

    def _edge(self, pin):
        now = _ticks_us()
        us = _ticks_diff(now, self.last)
        self.last = now
        # The level that has just ended is the other one.
        self.put(us, 1 - pin.value())

    def deinit(self):
        self.pin.irq(None)
