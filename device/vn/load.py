"""Starts what the node file says: network, signals, guards and rules, sleep, outputs as they come up, connection.

In pieces: between two of them the memory of the one before is collected, and the watchdog sees that it goes on.
"""
import sys

import network

from vn import hw, net, signals
from vn.node import once


def run(node):
    trying = node.trial is not None
    config = once("config")
    yield
    spec, node.hash = config.load(trying)
    hw.quiet = spec.get("quiet", False)
    hw.say("file", spec["node"], spec["revision"])
    node.td = config.NEW_TD if trying else config.TD
    config = None
    yield
    node.root, node.ident, node.revision = spec["root"], spec["id"], spec["revision"]
    node.base = "%s/%s" % (node.root, spec["node"])
    if node.wifi and (spec["network"] != node.network or spec.get("address") != node.wifi.address):
        node.wifi.leave()
    node.network, node.health_s = spec["network"], spec["healthS"]
    node.wifi = net.Wifi(spec.get("address"))
    try:
        network.hostname(spec["node"][:32])
    except (AttributeError, ValueError):
        pass
    if hw.SMALL:
        # It comes up as an access point of its own unless told otherwise.
        network.WLAN(network.AP_IF).active(False)
    node.wifi_asked, node.candidate = None, 0
    hw.release()
    for rail in spec.get("rails") or ():
        hw.output(rail["pin"], 1)
        hw.offs[rail["pin"]] = 0
        hw.sleep_ms(rail["settleMs"])
    yield
    node.signals = []
    entries = spec["signals"]
    while entries:
        # Entry by entry is let go of, so that file and running signals need not fit side by side.
        entry = entries.pop(0)
        try:
            node.signals.append(signals.start(entry))
        except Exception:
            hw.say("refused", entry["slug"])
            raise
        entry = None
        yield
    node.by_slug = {s.slug: s for s in node.signals}
    node.firsts = 0
    hw.say("drivers", len(node.signals))
    for s in node.signals:
        if hasattr(s, "of"):
            s.source = node.by_slug[s.of]
    yield
    once("offs").keep()
    yield
    spec["signals"] = None
    node.supply = node.by_slug.get(spec.get("supply"))
    node.slow = [s for s in node.signals if s.slow]
    node.turn = 0
    node.deadlines = sys.modules.get("vn.deadlines")
    node.guards = spec.get("guards") or ()
    node.rules = None
    if node.guards:
        from vn import guards

        node.guard = guards
    if spec.get("rules"):
        from vn import rules

        node.rules = rules.Rules(spec["rules"], node.by_slug)
    if "air" in spec:
        from vn import air

        air.begin(node, spec.pop("air"))
    node.sleep = None
    if spec.get("sleep"):
        from vn import sleep

        node.sleep = sleep.Sleep(spec["sleep"], node.signals, node.started)
    node.last = None
    for s in node.signals:
        if getattr(s, "at_start", "off") == "last" and node.last is None:
            from vn import last

            node.last = last.Last(node.signals)
    yield
    _power_up(node, hw.ticks_ms())
    node.broker = spec["broker"]
    if "timeServer" in spec:
        node.broker["time"] = spec["timeServer"]
    node.asking = None
    spec = None
    yield
    once("login").run(node)


def _power_up(node, now):
    """Outputs are off until here; what the file wants of them comes only past the guards."""
    for s in node.signals:
        how = getattr(s, "at_start", "off")
        value = None
        if how == "on":
            value = True
        elif how == "last":
            value = node.last.value(s.slug)
        elif how in ("follow", "opposite") and s.follows in node.by_slug:
            value = node.by_slug[s.follows].now_is()
            if how == "opposite" and value is not None:
                value = not value
        if value:
            node._by_itself(s.slug, value, now)
