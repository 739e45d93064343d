"""Non-blocking stream sockets on real TCP connections: they refuse, stall, deliver in pieces and close."""
import binascii
import errno
import io

import _world
import time as _time

AF_INET, SOCK_STREAM, SOCK_DGRAM = 2, 1, 2
_POLL = 3  # ioctl request
_IN, _OUT, _ERR, _HUP = 1, 4, 8, 16


def getaddrinfo(host, port, *rest):
    if not _world.wifi_up():
        raise OSError(-202)
    if not all(p.isdigit() for p in host.split(".")):
        # A name is waited for, and with nobody to answer for a long time.
        _world.pass_us(5000000)
        _time._late()
        raise OSError(-2)
    return [(AF_INET, SOCK_STREAM, 0, host, (host, port))]


class socket(io.IOBase):
    def __init__(self, *kinds):
        self.number = _world.sock_new()

    def setblocking(self, wait):
        pass

    def settimeout(self, seconds):
        pass

    def sendto(self, data, address):
        _world.udp_send(self.number, str(binascii.hexlify(bytes(data)), "utf-8"), address[0], address[1])
        return len(data)

    def recvfrom(self, limit):
        text = _world.udp_recv(self.number)
        if not text:
            raise OSError(errno.EAGAIN)
        return binascii.unhexlify(text), ("192.0.2.1", 53)

    def connect(self, address):
        _world.sock_connect(self.number, address[0], address[1])
        raise OSError(errno.EINPROGRESS)

    def _check(self):
        state = _world.sock_state(self.number)
        if state == "refused":
            raise OSError(errno.ECONNREFUSED)
        if state == "reset":
            raise OSError(errno.ECONNRESET)
        return state

    def send(self, data):
        if self._check() == "connecting":
            raise OSError(errno.EAGAIN)
        taken = _world.sock_room(self.number, len(data))
        if taken == 0:
            raise OSError(errno.EAGAIN)
        _world.sock_send(self.number, str(binascii.hexlify(bytes(data[:taken])), "utf-8"))
        return taken

    def write(self, data):
        try:
            return self.send(data)
        except OSError as e:
            if e.errno == errno.EAGAIN:
                return None
            raise

    def recv(self, limit):
        state = self._check()
        text = _world.sock_recv(self.number, limit)
        if text:
            return binascii.unhexlify(text)
        if state == "ended":
            return b""
        raise OSError(errno.EAGAIN)

    def ioctl(self, request, flags):
        if request != _POLL:
            return 0
        state = _world.sock_state(self.number)
        if state == "connecting":
            return 0
        if state in ("refused", "reset"):
            return _ERR | _HUP
        ready = _OUT if _world.sock_room(self.number, 1) else 0
        if _world.sock_waiting(self.number) or state == "ended":
            ready |= _IN
        return ready & (flags | _ERR | _HUP)

    def close(self):
        _world.sock_close(self.number)
