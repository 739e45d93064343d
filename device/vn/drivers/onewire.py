"""One-wire thermometer: conversion is started, waited for without blocking, then read with its checksum, °C."""
from vn import hw

CONVERSION_MS = 750
EVERY_MS = 2000


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


class Driver:
    SLOW = True

    def __init__(self, spec):
        self.wire = hw.one_wire(spec["pins"]["data"])
        self.started = None

    def step(self, now):
        """(reading or None,) when there was a measurement, else None."""
        if self.started is None or hw.ticks_diff(now, self.started) >= EVERY_MS:
            self.started = now
            self.waiting = True
            if not self.wire.reset():
                self.waiting = False
                return (None,)
            self.wire.writebyte(0xCC)
            self.wire.writebyte(0x44)
        elif self.waiting and hw.ticks_diff(now, self.started) >= CONVERSION_MS:
            self.waiting = False
            return (self._read(),)
        return None

    def _read(self):
        if not self.wire.reset():
            return None
        self.wire.writebyte(0xCC)
        self.wire.writebyte(0xBE)
        data = bytes([self.wire.readbyte() for _ in range(9)])
        if crc8(data) != 0 or data == bytes(9):
            return None
        raw = data[0] | (data[1] << 8)
        if raw == 0x0550 and data[6] == 0x0C:
            return None  # the value after power-up: nothing has been measured yet
        if raw & 0x8000:
            raw -= 65536
        return raw / 16

    def stop(self):
        pass
