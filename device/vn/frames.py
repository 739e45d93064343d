"""Frames of parts that speak by themselves, found in a stream of bytes that may begin anywhere and be damaged
anywhere."""
import machine

from vn import hw

SILENT_MS, LONGEST = 3000, 160
_ports = {}


def share(spec):
    """One port for all signals of a part."""
    number = spec["uart"]
    if number not in _ports:
        _ports[number] = Port(spec)
    return _ports[number]


def forget(port):
    _ports.pop(port.number, None)


def _dust(b):
    """0x42 0x4D, length 28, thirteen words, sum of all before: fine dust in µg/m³ is the fifth word."""
    at = b.find(b"\x42\x4d\x00\x1c")
    if at < 0 or len(b) < at + 32:
        return None, max(0, at) if at >= 0 else max(0, len(b) - 3)
    frame = b[at : at + 32]
    if sum(frame[:30]) & 0xFFFF != (frame[30] << 8) | frame[31]:
        return None, at + 2
    return ((frame[12] << 8) | frame[13], True), at + 32


def _ranger(b):
    """0xFF, millimetres in two bytes, low byte of the sum of the three."""
    at = b.find(b"\xff")
    if at < 0 or len(b) < at + 4:
        return None, at if at >= 0 else len(b)
    if sum(b[at : at + 3]) & 0xFF != b[at + 3]:
        return None, at + 1
    return (((b[at + 1] << 8) | b[at + 2]) / 1000, True), at + 4


def _presence(b):
    """Head F4 F3 F2 F1, length 13, kind 2, 0xAA, state, distances in cm, 0x55, tail F8 F7 F6 F5."""
    at = b.find(b"\xf4\xf3\xf2\xf1")
    if at < 0 or len(b) < at + 23:
        return None, at if at >= 0 else max(0, len(b) - 3)
    f = b[at : at + 23]
    if f[4] != 13 or f[6] != 2 or f[7] != 0xAA or f[17] != 0x55 or bytes(f[19:]) != b"\xf8\xf7\xf6\xf5" or f[8] > 3:
        return None, at + 4
    return ((f[15] | (f[16] << 8)) / 100 if f[8] else None, f[8] != 0), at + 23


def _meter(b):
    """A telegram of IEC 62056-21: data lines between STX and ETX, then their exclusive or; 1.7.0(0.4125*kW) is the
    power drawn now."""
    start = b.find(b"\x02")
    if start < 0:
        return None, len(b)
    end = b.find(b"\x03", start)
    if end < 0 or len(b) < end + 2:
        return None, start
    check = 0
    for byte in b[start + 1 : end + 1]:
        check ^= byte
    at = b.find(b"1.7.0(", start)
    star, close = b.find(b"*", at), b.find(b")", at)
    unit = bytes(b[star + 1 : close])
    if check != b[end + 1] or not 0 <= at < star < close < end or unit not in (b"W", b"kW"):
        return None, start + 1
    return (float(bytes(b[at + 6 : star])) * (1000 if unit == b"kW" else 1), True), end + 2


_FORMS = {"dust": _dust, "ranger": _ranger, "presence": _presence, "meter": _meter}


class Port:
    def __init__(self, spec):
        self.number = spec["uart"]
        pins = {role: machine.Pin(number) for role, number in spec["pins"].items()}
        self.uart = hw.hold(machine.UART(self.number, baudrate=spec["baud"], rxbuf=256, **pins))
        self.form = _FORMS[spec["chip"]]
        self.held = bytearray()
        self.values = (None, None)
        self.count = 0

    def step(self, now):
        """Takes what has come; `count` rises and `values` is new with each whole frame."""
        waiting = self.uart.any()
        if not waiting:
            return
        self.held += self.uart.read(min(waiting, 64)) or b""
        while True:
            values, used = self.form(self.held)
            self.held = self.held[used:]
            if values:
                self.values = values
                self.count += 1
            elif not used:
                break
        if len(self.held) > LONGEST:
            self.held = self.held[-LONGEST:]
