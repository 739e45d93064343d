"""A small MQTT 3.1.1 client that never waits. Clean session, QoS 0 and 1, last will, files streamed from flash."""
import gc

from vn import hw, net

LARGEST = 16384  # a longer packet is read past and dropped
UNACKED = 16  # QoS 1 messages waiting for their answer; the oldest gives way
PIECE = 128 if hw.SMALL else 512  # of a file on its way out, bytes
LEAVE_MS = 2000
STALE_MS = 2000  # an event that has not been sent by then is not sent: nobody must open a gate minutes late


def text(value):
    data = value.encode() if isinstance(value, str) else value
    return bytes((len(data) >> 8, len(data) & 255)) + data


def length(n):
    out = bytearray()
    while True:
        n, low = n >> 7, n & 127
        out.append(low | (128 if n else 0))
        if not n:
            return bytes(out)


class Client:
    """`state` is down, tcp, login or up. `on_message(topic, payload, retained)` and `on_up()` are called from
    `step`."""

    def __init__(self, reach, hello, keep_alive_s, on_up, on_message):
        self.reach = reach  # host, port, print of the certificate
        self.hello = hello
        self.keep_alive_ms = keep_alive_s * 1000
        self.on_up, self.on_message = on_up, on_message
        self.state = "down"
        self.tcp = None
        self.unacked = []  # number, packet, event or None, whether any of it has left
        self.late = []  # events that are not told: topic, what, when in s of uptime, whether somebody may have heard
        self.lost = 0
        self.next_id = 0
        self.reason = ""
        self._clear()

    def _clear(self):
        self.out = []
        self.inbox = bytearray()
        self.skip = 0
        self.asked = None

    def start(self, now, names=None):
        """`names` is who answers names here, for a broker that is given by one."""
        self._clear()
        self.reason = ""
        host, port, print_of = self.reach
        self.tcp = net.Tcp(host, port, print_of, names)
        self.state = "tcp"
        self.since = self.heard = self.sent = now

    def stop(self, goodbye):
        """Closes. With `goodbye` the broker keeps the last will to itself."""
        self._late(None)
        if self.tcp:
            if goodbye and self.state == "up":
                self.tcp.send(b"\xe0\x00")
            self.tcp.close()
        self.tcp = None
        self.state = "down"

    def leave(self, now):
        """Says goodbye and stays until the broker has taken it: a radio that goes off before leaves the last will
        behind."""
        if self.state != "up":
            return self.stop(False)
        self.out.append(b"\xe0\x00")
        self.state, self.since = "leaving", now

    def _leaving(self, now):
        self._send(now)
        if self.tcp and not self.out:
            self.tcp.receive(64)
        if not self.tcp or self.tcp.state == "closed" or hw.ticks_diff(now, self.since) > LEAVE_MS:
            self.stop(False)

    def _fail(self, reason, code=-1):
        hw.say("broker", code)
        self.reason = reason
        self.stop(False)

    def number(self):
        self.next_id = self.next_id % 65535 + 1
        return self.next_id

    def publish(self, topic, payload, retain, qos, event_at=None):
        """QoS 1 is kept until the broker has it, over reconnects; QoS 0 is dropped while there is no connection.

        An event carries its time and is told once or not at all: one that has waited too long, and one of which any
        byte has left with a connection that ended before its answer, goes to `late` instead.
        """
        if self.state != "up" and retain:
            return  # what is retained is said anew with every connection
        said = payload
        body = text(topic)
        payload = payload.encode() if isinstance(payload, str) else payload
        if qos:
            number = self.number()
            body += bytes((number >> 8, number & 255))
            packet = bytes((0x32 | (1 if retain else 0),)) + length(len(body) + len(payload)) + body + payload
            self.unacked.append([number, packet, None if event_at is None else (topic, said, event_at), False])
            if len(self.unacked) > UNACKED:
                self.lost += len(self.unacked) - UNACKED
                del self.unacked[:-UNACKED]
        else:
            packet = bytes((0x30 | (1 if retain else 0),)) + length(len(body) + len(payload)) + body + payload
        if self.state == "up":
            self.out.append(packet)

    def step(self, now):
        self._late(now)
        if self.state == "down":
            return
        if self.state == "leaving":
            return self._leaving(now)
        if self.state == "tcp":
            if self.tcp.check():
                self.state = "login"
                self.out.append(self.hello)
            elif self.tcp.state == "closed":
                return self._fail(self.tcp.why or "the broker does not answer")
        if self.state != "up" and hw.ticks_diff(now, self.since) > 10000:
            return self._fail("no login within 10 s")
        if self.state in ("login", "up"):
            self._receive(now)
            self._keep_alive(now)
            self._send(now)
            if self.tcp and self.tcp.state == "closed":
                self._fail(self.reason or "connection lost")

    def _keep_alive(self, now):
        if self.state != "up":
            return
        half = self.keep_alive_ms // 2
        if self.asked is not None and hw.ticks_diff(now, self.asked) > half:
            self._fail("no answer from the broker")
        elif self.asked is None and (hw.ticks_diff(now, self.sent) > half or hw.ticks_diff(now, self.heard) > half):
            # Also while much is being sent: what goes out says nothing about whether it arrives.
            self.out.append(b"\xc0\x00")
            self.asked = now

    def _send(self, now):
        budget = 4096
        while self.out and budget > 0 and self.tcp and self.tcp.state == "open":
            item = self.out[0]
            if isinstance(item, str):
                item = self.out[0] = open(item, "rb")
            if hasattr(item, "read"):
                piece = item.read(PIECE)
                if not piece:
                    item.close()
                    self.out.pop(0)
                else:
                    self.out.insert(0, piece)
                continue
            taken = self.tcp.send(item)
            if taken or self.tcp.state == "closed":
                for entry in self.unacked:
                    if entry[1] is item:
                        entry[3] = True
            if taken:
                self.sent = now
                budget -= taken
            if taken < len(item):
                self.out[0] = item[taken:]
                return
            self.out.pop(0)

    def _receive(self, now):
        for _ in range(8):
            data = self.tcp.receive(1024) if self.tcp else None
            if data is None:
                return
            self.heard = now
            self.inbox += data
            while self._packet():
                if self.state == "down":
                    return

    def _packet(self):
        """Takes one whole packet from the inbox; False when there is none."""
        if self.skip:
            n = min(self.skip, len(self.inbox))
            self.skip -= n
            self.inbox = self.inbox[n:]
            return n > 0 and not self.skip
        size, shift, at = 0, 0, 1
        while True:
            if at >= len(self.inbox):
                return False
            low = self.inbox[at]
            size |= (low & 127) << shift
            at += 1
            if not low & 128:
                break
            shift += 7
            if shift > 21:
                self._fail("malformed length from the broker")
                return False
        if size > LARGEST or (size > 2048 and gc.mem_free() < 3 * size):
            self.skip = at + size
            self.on_message(None, size, False)
            return True
        if len(self.inbox) < at + size:
            return False
        head, body = self.inbox[0], bytes(self.inbox[at : at + size])
        self.inbox = self.inbox[at + size :]
        self._take(head, body)
        return True

    def _take(self, head, body):
        kind = head >> 4
        if kind == 2:
            if len(body) < 2 or body[1]:
                code = body[1] if len(body) > 1 else -1
                self._fail("login refused, code %d" % code, code)
                return
            self.state = "up"
            hw.say("broker", 0)
            self._again()
            self.on_up()
        elif kind == 3:
            self._message(head, body)
        elif kind == 4 and len(body) >= 2:
            number = (body[0] << 8) | body[1]
            self.unacked = [u for u in self.unacked if u[0] != number]
        elif kind == 13:
            self.asked = None

    def _late(self, now):
        """An event that has not left by now and has grown old, or, with None, one that has left and whose answer will not
        come any more."""
        for entry in self.unacked:
            if entry[2] and (entry[3] if now is None else not entry[3] and hw.ticks_diff(now, entry[2][2]) > STALE_MS):
                from vn.node import once

                return once("late").run(self, entry[3], hw.ticks_ms() if now is None else now)

    def _again(self):
        """What the broker has not confirmed goes out again; no event of which anything has left is among it."""
        self.out = []
        for entry in self.unacked:
            packet = entry[1]
            if entry[3]:
                packet = entry[1] = bytes((packet[0] | 8,)) + packet[1:]
            self.out.append(packet)

    def quiet(self):
        """True when nothing waits: all is sent, and all that asks for an answer has one."""
        return not self.out and not self.unacked

    def _message(self, head, body):
        if len(body) < 2:
            return
        n = (body[0] << 8) | body[1]
        at = 2 + n
        if head & 6:
            if len(body) < at + 2:
                return
            self.out.append(b"\x40\x02" + body[at : at + 2])
            at += 2
        try:
            topic = str(body[2 : 2 + n], "utf-8")
        except UnicodeError:
            return
        self.on_message(topic, body[at:], bool(head & 1))
