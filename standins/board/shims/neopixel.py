"""A string of addressed lamps."""
import binascii

import _world


class NeoPixel:
    def __init__(self, pin, n):
        self.pin, self.colours = pin.number, [(0, 0, 0)] * n

    def fill(self, colour):
        self.colours = [colour] * len(self.colours)

    def write(self):
        # 30 µs for each lamp's 24 bits.
        _world.pass_us(30 * len(self.colours))
        _world.lamps(self.pin, str(binascii.hexlify(bytes(b for c in self.colours for b in c)), "utf-8"))
