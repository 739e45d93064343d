"""The time of day, asked for without waiting: one question and one answer by SNTP (RFC 4330)."""
import socket

from vn import hw, net

TO_1970 = 2208988800  # s from the beginning of 1900
EACH_MS, TRIES = 2000, 3
AGAIN_S, SELDOM_S = 60, 21600


def moment(b, mark, rtt_ms):
    """s since 1970 in an answer to the question marked with these eight bytes, to the nearest; None for anything else."""
    if len(b) < 48 or b[0] & 7 != 4 or b[0] >> 6 == 3 or not 0 < b[1] < 16 or bytes(b[24:32]) != mark:
        return None
    s = b[40] << 24 | b[41] << 16 | b[42] << 8 | b[43]
    if not b[40] & 128:
        s += 1 << 32  # from February 2036 on the count has begun anew
    return s - TO_1970 + ((b[44] << 2) + rtt_ms * 512 // 1000 + 512) // 1024


class Ask:
    def __init__(self, server, names):
        self.to = (server, 123)
        self.tries, self.look = 0, None
        if not net.numeric(server):
            from vn import lookup

            self.look = lookup.Lookup(server, names)
        self.sock = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        self.sock.setblocking(False)

    def step(self, node, now):
        """Itself while it is being asked, None when that has ended."""
        if self.look:
            ip = self.look.step(None)
            if self.look.failed:
                return self._end(node, None)
            if not ip:
                return self
            self.to, self.look = (ip, 123), None
        try:
            if self.tries == 0 or hw.ticks_diff(now, self.asked) >= EACH_MS:
                if self.tries == TRIES:
                    return self._end(node, None)
                self.tries += 1
                self.asked = now
                us = hw.ticks_us()
                self.mark = bytes((us >> 24 & 255, us >> 16 & 255, us >> 8 & 255, us & 255, self.tries, now & 255, 86, 78))
                self.sock.sendto(b"\x23" + bytes(39) + self.mark, self.to)
            got = moment(self.sock.recvfrom(48)[0], self.mark, hw.ticks_diff(hw.ticks_ms(), self.asked))
        except OSError:
            return self
        return self if got is None else self._end(node, got)

    def _end(self, node, got):
        self.sock.close()
        if self.look:
            self.look.close()
        if got is None:
            node.clock_wait = min(node.clock_wait * 2, SELDOM_S)
        else:
            node.clocked(got, True)
            node.clock_wait = SELDOM_S
        node.clock_at = node.uptime_s + node.clock_wait
        if got is not None:
            node.clock_wait = AGAIN_S
        return None
