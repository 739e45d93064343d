"""A part on the bus: asked now and then, tried again when it fails, shared by all its signals."""
from vn import hw, twowire

EVERY_MS, TRIES = 2000, 3
_parts = {}


def place(spec):
    mux = spec.get("mux")
    return (spec["pins"]["sda"], spec["pins"]["scl"], spec["address"], mux["address"] << 3 | mux["branch"] if mux else -1)


def share(where, spec):
    if where not in _parts:
        _parts[where] = Part(spec)
    return _parts[where]


def forget(where):
    _parts.pop(where, None)


class Link:
    """Bytes to and from one address, through its branch where a multiplexer stands before it. OSError when nobody
    answers."""

    def __init__(self, spec):
        self.pins = spec["pins"]
        self.address, self.mux = spec["address"], spec.get("mux")

    def _do(self, what, *args):
        bus = twowire.bus(self.pins["sda"], self.pins["scl"])
        if not self.mux:
            return getattr(bus, what)(self.address, *args)
        # Its branch is open for this alone: an open one joins the bus of everybody else.
        mux = self.mux["address"]
        bus.writeto(mux, bytes((1 << self.mux["branch"],)))
        try:
            return getattr(bus, what)(self.address, *args)
        finally:
            bus.writeto(mux, b"\x00")

    def write(self, data):
        self._do("writeto", data)

    def read(self, n):
        return self._do("readfrom", n)

    def register(self, number, n):
        return self._do("readfrom_mem", number, n)

    def free(self):
        twowire.free(self.pins["sda"], self.pins["scl"])


class Part:
    def __init__(self, spec):
        name = "vn.chips." + spec["chip"].replace("-", "_")
        self.link = Link(spec)
        self.chip = __import__(name, None, None, ("Chip",)).Chip(self.link)
        self.every_ms = getattr(self.chip, "EVERY_MS", EVERY_MS)
        self.values = {}
        self.count = 0
        self.at = None
        self.ready = None
        self.tries = 0

    def step(self, now):
        try:
            if self.ready is None:
                if self.at is None or hw.ticks_diff(now, self.at) >= self.every_ms or self.tries:
                    self.at = now
                    self.ready = hw.ticks_add(now, self.chip.begin())
            elif hw.ticks_diff(now, self.ready) >= 0:
                self.ready = None
                self.values = self.chip.read()
                self.tries = 0
                self.count += 1
        except (OSError, ValueError):
            # Not there, or its checksum is wrong: again at once, and unknown when it stays so.
            self.ready = None
            self.tries += 1
            self.chip.again()
            self.link.free()
            if self.tries >= TRIES:
                self.tries = 0
                self.values = {}
                self.count += 1
