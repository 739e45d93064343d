"""The address of a name, asked for without waiting: one question by DNS (RFC 1035), or by multicast DNS (RFC 6762)
for names in .local."""
import socket

from vn import hw

EACH_MS, TRIES = 1500, 3


def question(name, number):
    """Bytes of the question for the IPv4 address of `name`."""
    labels = b"".join(bytes((len(p),)) + p.encode() for p in name.split("."))
    return bytes((number >> 8, number & 255, 1, 0, 0, 1, 0, 0, 0, 0, 0, 0)) + labels + b"\x00\x00\x01\x00\x01"


def _past_name(b, at):
    while b[at]:
        if b[at] & 0xC0:
            return at + 2
        at += 1 + b[at]
    return at + 1


def answer(b, number):
    """First address in an answer to question `number`, or None."""
    try:
        if len(b) < 12 or (b[0] << 8 | b[1]) not in (number, 0) or not b[2] & 0x80 or b[3] & 15:
            return None
        at = 12
        for _ in range(b[4] << 8 | b[5]):
            at = _past_name(b, at) + 4
        for _ in range(b[6] << 8 | b[7]):
            at = _past_name(b, at)
            n = b[at + 8] << 8 | b[at + 9]
            if b[at : at + 2] == b"\x00\x01" and n == 4:
                return ".".join(str(x) for x in b[at + 10 : at + 14])
            at += 10 + n
    except IndexError:
        pass
    return None


class Lookup:
    def __init__(self, name, server):
        self.name = name
        self.to = ("224.0.0.251", 5353) if name.endswith(".local") else (server, 53)
        self.number = hw.ticks_us() & 0x7FFF | 1
        self.tries = 0
        self.failed = False
        self.sock = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        self.sock.setblocking(False)

    def step(self, known):
        """The address once it is there; the one known from before when nobody answers; None while it is asked for."""
        now = hw.ticks_ms()
        try:
            if self.tries == 0 or hw.ticks_diff(now, self.asked) >= EACH_MS:
                if self.tries == TRIES:
                    self.close()
                    self.failed = known is None
                    return known
                self.tries += 1
                self.asked = now
                self.sock.sendto(question(self.name, self.number), self.to)
            ip = answer(self.sock.recvfrom(512)[0], self.number)
        except OSError:
            return None
        if ip:
            self.close()
        return ip

    def close(self):
        if self.sock:
            self.sock.close()
            self.sock = None
