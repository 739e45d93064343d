"""TLS to the broker: the one wait there is, a handshake of one to five seconds."""
import binascii
import hashlib
import ssl


def shake(sock, print_of):
    """(secured connection, "") or (connection, why not). Who answers is known by the SHA-256 of its certificate:
    dates fail
    before the clock is known, the print does not."""
    try:
        sock.settimeout(5)
        context = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
        context.check_hostname = False
        context.verify_mode = ssl.CERT_NONE
        safe = context.wrap_socket(sock)
        found = str(binascii.hexlify(hashlib.sha256(safe.getpeercert(True)).digest()), "utf-8")
        safe.setblocking(False)
        return safe, "" if found == print_of else "the broker shows another certificate"
    except (OSError, ValueError, MemoryError) as e:
        return sock, "TLS: %s" % e
