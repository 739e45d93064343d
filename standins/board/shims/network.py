"""A station that joins after the time a real one takes, and leaves when the air goes quiet."""
import _world

STA_IF = 0


class WLAN:
    def __init__(self, which):
        pass

    def active(self, on=None):
        return True

    def connect(self, name, password=None):
        _world.wifi_join(name, password or "")

    def disconnect(self):
        _world.wifi_leave()

    def ifconfig(self, numbers=None):
        pass

    def isconnected(self):
        return bool(_world.wifi_up())

    def status(self, what=None):
        if what == "rssi":
            return _world.wifi_dbm()
        return 3 if self.isconnected() else 1


def hostname(name=None):
    return name
