"""Which thermometers hang on a wire: their addresses, found bit by bit (the search of their data sheet), and how warm
each is.

`find/set {id}` is answered on `find/done` with every wire of the file: warming one by hand tells it from the others.
"""
import binascii
import json

from vn import hw
from vn.onewire_bus import crc8, line, read_celsius

CONVERSION_MS = 800


class Find:
    def __init__(self, payload, signals):
        try:
            self.ident = json.loads(payload).get("id")
        except (ValueError, AttributeError):
            self.ident = None
        self.pins = sorted({s.driver.number for s in signals if hasattr(s.driver, "wire")})
        self.found = []
        self.rom, self.fork = bytearray(8), 65
        self.since = self.wire = None
        self.at = 0

    def step(self, node, now):
        """One address, or one reading, a step; itself while there is more to do."""
        if self.since is None:
            if not self.pins:
                self._begin_reading(now)
                return self
            if self.wire is None:
                self.wire = line(self.pins[0])
                self.rom, self.fork = bytearray(8), 65
            self.fork = self._next(self.fork)
            if self.fork is not None and crc8(self.rom) == 0 and self.rom != bytes(8):
                self.found.append([self.pins[0], bytes(self.rom), None])
            if not self.fork:
                self.pins.pop(0)
                self.wire = None
            return self
        if hw.ticks_diff(now, self.since) < CONVERSION_MS:
            return self
        if self.at < len(self.found):
            entry = self.found[self.at]
            entry[2] = read_celsius(line(entry[0]), entry[1])
            self.at += 1
            return self
        body = {"id": self.ident, "result": "done", "found": [
            {"pin": pin, "rom": str(binascii.hexlify(rom), "utf-8"), "celsius": c} for pin, rom, c in self.found
        ]}
        node.client.publish(node.base + "/find/done", json.dumps(body), False, 1)
        return None

    def _begin_reading(self, now):
        for pin in {f[0] for f in self.found}:
            wire = line(pin)
            if wire.reset():
                wire.writebyte(0xCC)
                wire.writebyte(0x44)
        self.since = now

    def _next(self, fork):
        """The next address into `rom`. Gives the bit where the search has to turn next, 0 when it was the last, None
        when nobody answers."""
        wire, last = self.wire, 0
        if not wire.reset():
            return None
        wire.writebyte(0xF0)
        for n in range(1, 65):
            byte, mask = (n - 1) >> 3, 1 << ((n - 1) & 7)
            one, other = wire.readbit(), wire.readbit()
            if one and other:
                return None
            if one or other:
                bit = one
            elif n == fork:
                bit = 1
            elif n > fork:
                bit = 0
            else:
                bit = 1 if self.rom[byte] & mask else 0
            if not one and not other and not bit:
                last = n
            if bit:
                self.rom[byte] |= mask
            else:
                self.rom[byte] &= ~mask & 255
            wire.writebit(bit)
        return last
