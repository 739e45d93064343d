"""The one-wire bus bit by bit; slots take the time the data sheet gives them."""
import _world


class OneWire:
    def __init__(self, pin):
        self.number = pin.number

    def reset(self, required=False):
        _world.pass_us(960)
        return bool(_world.wire_reset(self.number))

    def readbit(self):
        _world.pass_us(65)
        return _world.wire_bit(self.number)

    def writebit(self, value):
        _world.pass_us(65)
        _world.wire_put(self.number, 1 if value else 0)

    def writebyte(self, value):
        for _ in range(8):
            self.writebit(value & 1)
            value >>= 1

    def readbyte(self):
        value = 0
        for n in range(8):
            value |= self.readbit() << n
        return value
