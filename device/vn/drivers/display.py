"""A small picture of 128 × 64 points that shows text, sixteen letters a line. One eighth of it goes out in a step."""
import framebuf

from vn import hw, i2cpart

WIDTH, PAGES = 128, 8
_START = (0xAE, 0x20, 0x00, 0xA8, 0x3F, 0xD3, 0x00, 0x40, 0xA1, 0xC8, 0xDA, 0x12, 0x81, 0x7F, 0xA4, 0xA6, 0xD5, 0x80, 0x8D, 0x14, 0xAF)


class Driver:
    SLOW = True
    fault = None

    def __init__(self, spec):
        self.link = i2cpart.Link(spec)
        self.text = ""
        self.page = 0
        self.ready = False
        self.tried = None

    def command(self, value, now):
        if not isinstance(value, str) or len(value) > 200:
            return "takes a text of at most 200 letters"
        self.text, self.page = value, 0
        return None

    def step(self, now):
        again = self.ready or self.tried is None or not 0 <= hw.ticks_diff(now, self.tried) < 5000
        if self.page >= PAGES or not again:
            return
        self.tried = now
        try:
            if not self.ready:
                self.link.write(bytes((0,)) + bytes(_START))
                self.ready, self.page = True, 0
                return
            line = bytearray(WIDTH)
            rows = self._rows()
            if self.page < len(rows):
                framebuf.FrameBuffer(line, WIDTH, 8, framebuf.MONO_VLSB).text(rows[self.page], 0, 0)
            self.link.write(bytes((0, 0x21, 0, WIDTH - 1, 0x22, self.page, self.page)))
            self.link.write(b"\x40" + line)
            self.page += 1
        except OSError:
            if self.ready or self.page == 0:
                self.fault = "the display does not answer"
            self.ready = False

    def _rows(self):
        rows = []
        for part in self.text.split("\n"):
            rows.extend(part[at : at + 16] for at in range(0, max(1, len(part)), 16))
        return rows

    def state(self):
        return self.text

    def stop(self):
        pass
