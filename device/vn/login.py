"""A connection with the login as it is now."""
from vn import mqtt
from vn.mqtt import length, text


def run(node):
    """What waits for its answer goes along."""
    broker, login, before = node.broker, node.secret["broker"], node.client
    hello = _hello(
        "vn-" + node.ident[:18], login["name"], login["password"],
        broker["keepAliveS"], node.base + "/status", '{"is":"offline"}'
    )
    node.client = mqtt.Client(
        (broker["host"], broker["port"], broker.get("print")), hello, broker["keepAliveS"], node._up, node._message
    )
    if before:
        node.client.unacked = [u for u in before.unacked if u[2]]
        node.client.late = before.late
        node.client.next_id = before.next_id
    node.wait_ms = 1000
    node.retry_at = None


def _hello(client_id, user, password, keep_alive_s, will_topic, will):
    flags = 0x02 | 0x04 | 0x08 | 0x20 | 0x40 | 0x80  # clean, will, will QoS 1 retained, password, user
    body = text("MQTT") + bytes((4, flags, keep_alive_s >> 8, keep_alive_s & 255)) + text(client_id)
    body += text(will_topic) + text(will) + text(user) + text(password)
    return b"\x10" + length(len(body)) + body
