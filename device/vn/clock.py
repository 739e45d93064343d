"""The time of day, asked for without waiting: one question and one answer by SNTP (RFC 4330)."""
import socket

from vn import hw, net

# Names that are used elsewhere are used here as well: each one more takes room in the smallest board's table of them.


def answer(b, number, now):
    """s since 1970 in an answer to the question marked `number` (eight bytes) `now` ms ago, to the nearest; None for
    anything else."""
    if len(b) < 48 or b[0] & 7 != 4 or b[0] >> 6 == 3 or not 0 < b[1] < 16 or bytes(b[24:32]) != number:
        return None
    s = b[40] << 24 | b[41] << 16 | b[42] << 8 | b[43]
    if not b[40] & 128:
        s += 1 << 32  # from February 2036 on the count has begun anew
    return s - 2208988800 + ((b[44] << 2) + now * 512 // 1000 + 512) // 1024


class Ask:
    """Of a node's clock, `clock_set` is the time, the uptime it was set at, and, when it has been asked for here, how much
    the chip's own runs slow in 1e-6, if that is known. `clock_at` is when it is asked for next."""

    def __init__(self, node):
        self.tries, self.look, self.sock = 0, None, None
        server = node.broker.get("time") or node.wifi.station.ifconfig()[2]
        self.to = (server, 123)
        if not net.numeric(server):
            from vn import lookup

            self.look = lookup.Lookup(server, node.wifi.names())

    def step(self, node, now):
        """Itself while it is being asked, None when that has ended."""
        try:
            if self.look:
                ip = self.look.step(None)
                if self.look.failed:
                    return self.close(node, None)
                if not ip:
                    return self
                self.to, self.look = (ip, 123), None
            if not self.sock:
                self.sock = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
                self.sock.setblocking(False)
            if self.tries == 0 or hw.ticks_diff(now, self.asked) >= 2000:
                if self.tries == 3:
                    return self.close(node, None)
                self.tries += 1
                self.asked = now
                us = hw.ticks_us()
                self.number = bytes((us >> 24 & 255, us >> 16 & 255, us >> 8 & 255, us & 255, self.tries, now & 255, 86, 78))
                self.sock.sendto(b"\x23" + bytes(39) + self.number, self.to)
            got = answer(self.sock.recvfrom(48)[0], self.number, hw.ticks_diff(hw.ticks_ms(), self.asked))
        except OSError:
            return self
        return self if got is None else self.close(node, got)

    def close(self, node, got):
        if self.sock:
            self.sock.close()
        if self.look:
            self.look.close()
        up_s, was = node.uptime_s, node.clock_set
        passed = up_s - was[1] if was else 0
        wait = 21600
        if got is None:
            wait = 60 if passed < 21600 and not (was and was[2]) else 600
            if was and was[2] and passed > 86400:
                # Too long ago: what the broker says counts again.
                node.clock_set = (was[0] + passed, up_s, None)
        else:
            ppm = was[2][0] if was and was[2] else None
            if was and was[2] and passed >= 3600:
                ppm = (got - was[0] - passed) * 1000000 // passed
            node.clock_set = (got, up_s, (ppm,))
        node.clock_at = up_s + wait
        return None
