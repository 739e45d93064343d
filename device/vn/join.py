"""Asks a network to be let in. The driver may still be trying by itself: that ends first."""
from binascii import hexlify

from vn import hw


def run(wifi, name, password):
    """Raises nothing."""
    station = wifi.station
    try:
        station.active(True)
        hw.say("mac", hexlify(station.config("mac")).decode())
        hw.say("net", station.status())
        _quiet(wifi)
        if wifi.address:
            a = wifi.address
            station.ifconfig((a["ip"], a["mask"], a["gateway"], a["dns"]))
        station.connect(name, password)
    except Exception as e:
        print("vn network:", e)
        _quiet(wifi)


def _quiet(wifi):
    wifi.leave()
    try:
        wifi.station.config(reconnects=0)
    except Exception:
        pass  # chips without a count of their own
