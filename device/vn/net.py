"""Network and connections that never wait, but for one handshake where the broker is reached through TLS."""
import errno
import select
import socket

import network

from vn import hw

_IN_PROGRESS = (errno.EINPROGRESS, errno.EAGAIN, 119)
_known = {}


class Wifi:
    def __init__(self, address):
        self.station = network.WLAN(network.STA_IF)
        self.address = address

    def leave(self):
        try:
            self.station.disconnect()
        except Exception:
            pass

    def up(self):
        return self.station.isconnected()

    def names(self):
        """Address of who answers names on this network."""
        return self.station.ifconfig()[3]

    def dbm(self):
        try:
            return self.station.status("rssi")
        except (OSError, ValueError, TypeError):
            return None


def numeric(host):
    parts = host.split(".")
    return len(parts) == 4 and all(p.isdigit() for p in parts)


class Tcp:
    """`state` is looking, connecting, open or closed; `why` says what closed it, where that is known."""

    def __init__(self, host, port, print_of=None, names=None):
        self.host, self.port, self.print_of = host, port, print_of
        self.sock = self.poll = self.look = None
        self.why = ""
        self.state = "looking"
        if numeric(host):
            self._reach(host)
        else:
            # The look-up of these chips waits for seconds: our own asks and comes back later.
            from vn import lookup

            self.look = lookup.Lookup(host, names)

    def _reach(self, ip):
        self.state = "connecting"
        try:
            self.sock = socket.socket()
            self.sock.setblocking(False)
            self.sock.connect(socket.getaddrinfo(ip, self.port)[0][-1])
        except OSError as e:
            if e.errno not in _IN_PROGRESS:
                self.close()
                return
        self.poll = select.poll()
        self.poll.register(self.sock, select.POLLOUT | select.POLLIN)

    def check(self):
        """True once the connection stands."""
        if self.state == "looking":
            ip = self.look.step(_known.get(self.host))
            if ip:
                self.look = None
                _known[self.host] = ip
                self._reach(ip)
            elif self.look.failed:
                self.look = None
                self.why = "no address for %s" % self.host
                self.close()
        elif self.state == "connecting":
            for _, event in self.poll.poll(0):
                if event & (select.POLLERR | select.POLLHUP):
                    self.close()
                elif event & select.POLLOUT:
                    self.poll = None
                    if self.print_of:
                        self._secure()
                    else:
                        self.state = "open"
        return self.state == "open"

    def _secure(self):
        from vn import secure

        self.sock, self.why = secure.shake(self.sock, self.print_of)
        if self.why:
            self.close()
        else:
            self.state = "open"

    def send(self, data):
        """Bytes taken, which may be fewer than given."""
        try:
            return self.sock.write(data) or 0
        except OSError as e:
            if e.errno not in _IN_PROGRESS:
                self.close()
            return 0

    def receive(self, limit):
        """Up to `limit` bytes, or None when there are none now."""
        try:
            data = self.sock.read(limit) if self.print_of else self.sock.recv(limit)
        except OSError as e:
            if e.errno not in _IN_PROGRESS:
                self.close()
            return None
        if data is None:
            return None
        if not data:
            self.close()
            return None
        return data

    def close(self):
        self.state = "closed"
        if self.look:
            self.look.close()
            self.look = None
        if self.sock:
            try:
                self.sock.close()
            except OSError:
                pass
            self.sock = None
