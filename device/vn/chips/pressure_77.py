"""Pressure part at 0x76 or 0x77: as the climate part, without humidity."""
from vn.chips import climate_76


class Chip(climate_76.Chip):
    KINDS = (0x56, 0x57, 0x58)

    def _humid(self, _):
        self.h = None

    def _order(self):
        self.link.write(b"\xf4\x25")

    def read(self):
        d = self.link.register(0xF7, 6)
        raw_t = (d[3] << 12) | (d[4] << 4) | (d[5] >> 4)
        if raw_t == 0x80000:
            raise ValueError
        fine = self.fine(raw_t)
        return {"temperature": fine / 5120, "pressure": self.pressure((d[0] << 12) | (d[1] << 4) | (d[2] >> 4), fine)}
