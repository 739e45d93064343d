"""Pressure part at 0x76 or 0x77: as the climate part, without humidity."""
from vn.chips import climate_76


class Chip(climate_76.Chip):
    KINDS = (0x56, 0x57, 0x58)

    def _humid(self, _):
        self.h = None
