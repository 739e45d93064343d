"""One-wire thermometer: conversion is started, waited for without blocking, then read with its checksum, °C."""
import binascii

from vn import hw
from vn.onewire_bus import call, line, read_celsius

CONVERSION_MS = 750
EVERY_MS = 2000


class Driver:
    SLOW = True

    def __init__(self, spec):
        self.number = spec["pins"]["data"]
        self.wire = line(self.number)
        rom = spec.get("rom")
        # Where several share the wire and nobody knows yet which is which, none is believed.
        self.nameless = rom == "unknown"
        self.rom = None if rom is None or self.nameless else binascii.unhexlify(rom)
        self.started = None
        self.waiting = False

    def step(self, now):
        """(reading or None,) when there was a measurement, else None."""
        if self.started is None or hw.ticks_diff(now, self.started) >= EVERY_MS:
            self.started = now
            self.waiting = False
            if self.nameless or not call(self.wire, self.rom):
                return (None,)
            self.wire.writebyte(0x44)
            self.waiting = True
        elif self.waiting and hw.ticks_diff(now, self.started) >= CONVERSION_MS:
            self.waiting = False
            return (read_celsius(self.wire, self.rom),)
        return None

    def stop(self):
        pass
