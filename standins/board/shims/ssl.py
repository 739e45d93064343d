"""TLS over a connection of the stand-in. The host does the cryptography; the seconds the chip would need pass on its
own clock."""
import binascii
import errno

import _world
import time as _time

PROTOCOL_TLS_CLIENT, CERT_NONE = 1, 0


class _Secure:
    def __init__(self, sock):
        self.sock = sock

    def getpeercert(self, binary):
        return binascii.unhexlify(_world.tls_certificate(self.sock.number))

    def read(self, n):
        try:
            return self.sock.recv(n)
        except OSError as e:
            if e.errno == errno.EAGAIN:
                return None
            raise

    def write(self, data):
        return self.sock.write(data)

    def setblocking(self, wait):
        self.sock.setblocking(wait)

    def close(self):
        self.sock.close()


class SSLContext:
    def __init__(self, kind):
        self.verify_mode = CERT_NONE
        self.check_hostname = False

    def wrap_socket(self, sock, server_hostname=None):
        _world.pass_us(1800000)
        _time._late()
        if not _world.tls_certificate(sock.number):
            raise OSError(-104, "handshake failed")
        return _Secure(sock)
