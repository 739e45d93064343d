"""What a node says when the broker has let it in."""
import json

from vn.node import once


def run(node):
    say = node.client.publish
    node.client.subscribe(node.base + "/+/set")
    node.client.subscribe(node.root + "/time")
    say(node.base + "/status", '{"is":"online"}', True, 1)
    if node.trial:
        config = once("config")
        config.keep()
        node.td = config.TD
        node.answer = ("config", node.trial[0], "done", None)
        node.trial = None
    node.client.publish_file(node.base + "/td", node.td, True)
    say(node.base + "/config", json.dumps({"revision": node.revision, "hash": node.hash}), True, 1)
    for signal in node.signals:
        text = signal.text()
        if text is not None:
            say(node.base + "/" + signal.slug, text, signal.retained, signal.qos)
    node.health_at = None
    if node.sealed or "waiting" in node.secret:
        node._vault().proven(node)
    if node.answer:
        node._answer(*node.answer)
        node.answer = None
    for topic, text, at_s in node.client.late:
        what = "%s came %d s ago and could not be told: it is not repeated"
        node._fault(what % (text, node.uptime_s - at_s), topic.split("/")[-1])
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
