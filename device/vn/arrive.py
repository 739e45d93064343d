"""What a node says when the broker has let it in."""
import json

from vn import hw
from vn.mqtt import length, text
from vn.node import once


def run(node):
    say = node.client.publish
    yield
    subscribe(node.client, node.base + "/+/set")
    subscribe(node.client, node.root + "/time")
    yield
    say(node.base + "/status", '{"is":"online"}', True, 1)
    yield
    if node.trial:
        config = once("config")
        config.keep()
        node.td = config.TD
        node.answer = ("config", node.trial[0], "done", None)
        node.trial = None
    publish_file(node.client, node.base + "/td", node.td)
    yield
    say(node.base + "/config", json.dumps({"revision": node.revision, "hash": node.hash, "pieces": 1024}), True, 1)
    for signal in node.signals:
        said = signal.text()
        if said is not None:
            say(node.base + "/" + signal.slug, said, signal.retained, signal.qos)
            yield
    node.health_at = None
    if hw.SMALL:
        # The broker's word has to do: what asks does not fit beside what runs.
        node.clock_at = 1 << 29
    if node.vault or "waiting" in node.secret:
        node._vault().proven()
    if node.answer:
        node._answer(*node.answer)
        node.answer = None
    yield
    for topic, told, at_s, left in node.client.late:
        what = "was perhaps told" if left else "could not be told"
        node._fault("%s came %d s ago and %s: it is not repeated" % (told, node.uptime_s - at_s, what), topic.split("/")[-1])
    node.client.late = []
    if node.client.lost:
        node._fault("%d messages found no room while there was no connection" % node.client.lost, "node")
        node.client.lost = 0
    if node.past and not node.past["told"]:
        node._fault("started again, %d times by now: %s" % (node.past["n"], node.past["why"]), "node")
        node.past["told"] = True
        node.write(node.past)
    if node.network_fault:
        node._fault("the network code failed and was begun anew: %s" % node.network_fault, "node")
        node.network_fault = None
    if node.sleep:
        node.sleep.say_why(node)


def subscribe(client, topic):
    number = client.number()
    body = bytes((number >> 8, number & 255)) + text(topic) + b"\x01"
    client.out.append(b"\x82" + length(len(body)) + body)


def publish_file(client, topic, path):
    """Retained. The file goes from flash to the connection piece by piece, QoS 0."""
    if hw.exists(path):
        head = text(topic)
        client.out.append(b"\x31" + length(len(head) + hw.size(path)) + head)
        client.out.append(path)
