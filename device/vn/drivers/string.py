"""A string of addressed lamps in one colour, “#rrggbb”; dark from the first moment."""
import machine
import neopixel


class Driver:
    fault = None

    def __init__(self, spec):
        self.count = spec["lamps"]
        self.lamps = neopixel.NeoPixel(machine.Pin(spec["pins"]["a"], machine.Pin.OUT), self.count)
        self._put("#000000")

    def command(self, value, now):
        try:
            if not isinstance(value, str) or len(value) != 7 or value[0] != "#":
                raise ValueError
            self._put("#%06x" % int(value[1:], 16))
        except ValueError:
            return "takes a colour, #rrggbb"
        return None

    def step(self, now):
        pass

    def state(self):
        return self.colour

    def level(self, on):
        return "#ffffff" if on else "#000000"

    def stop(self):
        self._put("#000000")

    def _put(self, colour):
        self.colour = colour
        n = int(colour[1:], 16)
        self.lamps.fill((n >> 16, (n >> 8) & 255, n & 255))
        self.lamps.write()
