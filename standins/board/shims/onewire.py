"""The one-wire bus in bytes; slots take the time the data sheet gives them."""
import _world


class OneWire:
    def __init__(self, pin):
        self.number = pin.number

    def reset(self, required=False):
        _world.pass_us(960)
        return bool(_world.wire_reset(self.number))

    def writebyte(self, value):
        _world.pass_us(8 * 65)
        _world.wire_write(self.number, value)

    def readbyte(self):
        _world.pass_us(8 * 65)
        return _world.wire_read(self.number)
