"""What a thermometer on one wire says, with its checksum."""
import machine


def line(number):
    import onewire

    return onewire.OneWire(machine.Pin(number))


def crc8(data):
    crc = 0
    for byte in data:
        for _ in range(8):
            mix = (crc ^ byte) & 1
            crc >>= 1
            if mix:
                crc ^= 0x8C
            byte >>= 1
    return crc


def call(wire, rom):
    """Speaks to one address, or to the only part there is. False when nobody is there."""
    if not wire.reset():
        return False
    if rom is None:
        wire.writebyte(0xCC)
    else:
        wire.writebyte(0x55)
        for b in rom:
            wire.writebyte(b)
    return True


def read_celsius(wire, rom):
    """The finished measurement, °C; None when there is none to be believed."""
    if not call(wire, rom):
        return None
    wire.writebyte(0xBE)
    data = bytes([wire.readbyte() for _ in range(9)])
    if crc8(data) != 0 or data == bytes(9):
        return None
    raw = data[0] | (data[1] << 8)
    if raw == 0x0550 and data[6] == 0x0C:
        return None  # the value after power-up: nothing has been measured yet
    if raw & 0x8000:
        raw -= 65536
    return raw / 16
