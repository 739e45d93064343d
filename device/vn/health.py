"""What a node says of itself every half minute."""
import json

from vn import hw


def run(node, now):
    node.health_at = now
    for i, s in enumerate(node.signals):
        if not node.firsts & 1 << i and s.text() not in (None, "null"):
            node.firsts |= 1 << i
            hw.say("first", s.slug)
    report = {
        "dbm": node.wifi.dbm(), "uptimeS": node.uptime_s, "freeB": hw.free_bytes(), "supplyV": node.supply and node.supply.now_is(),
        "restart": hw.cause, "revision": node.revision,
    }
    if node.clock_set:
        _, at, asked = node.clock_set
        report["clock"] = {"by": "sntp" if asked else "broker", "ageS": node.uptime_s - at, "ppm": asked and asked[0]}
    node.client.publish(node.base + "/health", json.dumps(report), True, 0)
