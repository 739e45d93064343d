"""Events that are not told: kept with what and when, until the node can say so."""
from vn import hw
from vn.mqtt import STALE_MS


def run(client, left, now):
    """From what waits to what is late: topic, what, when in s of uptime, and whether somebody may have heard it; all
    that have left, or all that have grown old before."""
    for item in list(client.unacked):
        if not item[2] or item[3] != left or not left and hw.ticks_diff(now, item[2][2]) <= STALE_MS:
            continue
        topic, said, at = item[2]
        client.unacked.remove(item)
        client.out = [x for x in client.out if x is not item[1]]
        client.late.append((topic, said, hw.up_s - hw.ticks_diff(now, at) // 1000, left))
        del client.late[:-16]
