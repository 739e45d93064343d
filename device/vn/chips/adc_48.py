"""Four-input converter at 0x48 to 0x4B: one input after the other, ± 4.096 V over sixteen bits."""


class Chip:
    EVERY_MS = 250

    def __init__(self, link):
        self.link = link
        self.again()

    def again(self):
        self.input = 0
        self.values = {}

    def begin(self):
        self.link.write(bytes((1, 0x83 | ((4 + self.input) << 4), 0x83)))
        return 10

    def read(self):
        d = self.link.register(0, 2)
        raw = (d[0] << 8) | d[1]
        self.values["a%d" % self.input] = (raw - 65536 if raw & 0x8000 else raw) * 4.096 / 32768
        self.input = (self.input + 1) & 3
        return self.values
