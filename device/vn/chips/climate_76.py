"""Climate part at 0x76 or 0x77: temperature, pressure and humidity from raw counts and the numbers its maker has put into it."""
import struct


class Chip:
    KINDS = (0x60,)

    def __init__(self, link):
        self.link = link
        self.t = None

    def again(self):
        """Forgets what was read from it: it may be another one, or have lost its power."""
        self.t = None

    def begin(self):
        if self.t is None:
            if self.link.register(0xD0, 1)[0] not in self.KINDS:
                raise ValueError
            d = self.link.register(0x88, 26)
            t = struct.unpack("<Hhh", d[0:6])
            if t[0] in (0, 0xFFFF):
                raise ValueError
            self.p = struct.unpack("<Hhhhhhhhh", d[6:24])
            self._humid(d[25])
            self.t = t
        self._order()
        return 12

    def _humid(self, h1):
        e = self.link.register(0xE1, 7)
        sign = lambda v: v - 4096 if v & 0x800 else v
        self.h = (h1, struct.unpack("<h", e[0:2])[0], e[2], sign((e[3] << 4) | (e[4] & 15)), sign((e[5] << 4) | (e[4] >> 4)), struct.unpack("<b", e[6:7])[0])

    def _order(self):
        if self.h:
            self.link.write(b"\xf2\x01")
        self.link.write(b"\xf4\x25")

    def read(self):
        d = self.link.register(0xF7, 8 if self.h else 6)
        raw_t = (d[3] << 12) | (d[4] << 4) | (d[5] >> 4)
        if raw_t == 0x80000:
            raise ValueError
        fine = self.fine(raw_t)
        out = {"temperature": fine / 5120, "pressure": self.pressure((d[0] << 12) | (d[1] << 4) | (d[2] >> 4), fine)}
        if self.h:
            out["humidity"] = self.humidity((d[6] << 8) | d[7], fine)
        return out

    def fine(self, raw):
        t1, t2, t3 = self.t
        a = raw / 16384 - t1 / 1024
        b = raw / 131072 - t1 / 8192
        return a * t2 + b * b * t3

    def pressure(self, raw, fine):
        p1, p2, p3, p4, p5, p6, p7, p8, p9 = self.p
        a = fine / 2 - 64000
        b = a * a * p6 / 32768 + a * p5 * 2
        b = b / 4 + p4 * 65536
        a = (1 + (p3 * a * a / 524288 + p2 * a) / 524288 / 32768) * p1
        if not a:
            return None
        p = (1048576 - raw - b / 4096) * 6250 / a
        return p + (p9 * p * p / 2147483648 + p * p8 / 32768 + p7) / 16

    def humidity(self, raw, fine):
        h1, h2, h3, h4, h5, h6 = self.h
        h = fine - 76800
        h = (raw - (h4 * 64 + h5 / 16384 * h)) * (h2 / 65536 * (1 + h6 / 67108864 * h * (1 + h3 / 67108864 * h)))
        h *= 1 - h1 * h / 524288
        return min(100.0, max(0.0, h))
