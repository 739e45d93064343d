"""Edges by a soft interrupt, where the chip has no other: a short queue, and stamps that are late by as long as the
program was busy.

What the queue had no room for is lost without a word; two edges to the same level in a row show it.
"""
import time

from vn import hw
from vn.ring import Ring


class Edges(Ring):
    def __init__(self, number):
        super().__init__()
        self.last = time.ticks_us()
        self.pin = hw.input(number, "none")
        self.level = self.pin.value()
        hw.on_edge(self.pin, True, self._edge)

    def _edge(self, pin):
        now = time.ticks_us()
        us = time.ticks_diff(now, self.last)
        self.last = now
        level = pin.value()
        if level == self.level:
            self.lost += 1
        self.level = level
        self.put(us, 1 - level)
