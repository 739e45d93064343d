"""A station that joins after the time a real one takes, leaves when the air goes quiet, and is as touchy as its
chip's driver."""
import _world

STA_IF, AP_IF = 0, 1
_FAMILY_32 = _world.chip not in ("8266-class", "rp2040")


class WLAN:
    def __init__(self, which):
        self.which = which

    def active(self, on=None):
        if on is not None:
            _world.wifi_active(self.which, bool(on))
        return True

    def connect(self, name, password=None):
        # While the driver joins again by itself it lets nobody begin (bench).
        error = _world.wifi_join(name, password or "")
        if error:
            raise OSError(error)

    def disconnect(self):
        _world.wifi_leave()

    def config(self, *asked, **given):
        if "reconnects" in given:
            if not _FAMILY_32:
                raise ValueError("unknown config param")
            _world.wifi_reconnects(given["reconnects"])
        if asked and asked[0] == "mac":
            return bytes.fromhex(_world.wifi_mac())

    def ifconfig(self, numbers=None):
        if numbers is None:
            return ("192.0.2.20", "255.255.255.0", "192.0.2.1", "192.0.2.1")

    def isconnected(self):
        return bool(_world.wifi_up())

    def status(self, what=None):
        if what == "rssi":
            return _world.wifi_dbm()
        return _world.wifi_status()


def hostname(name=None):
    return name
