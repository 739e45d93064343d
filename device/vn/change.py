"""The change of the node's own file: taken in, tried, kept once it has connected, given back otherwise."""
import gc
import json

from vn.node import once


def run(node, payload, now):
    config = once("config")
    ident = None
    try:
        header = config.receive(payload, node.ident)
        ident = header.get("id")
    except config.Refused as e:
        try:
            ident = json.loads(payload.split(b"\n")[0]).get("id")
        except (ValueError, AttributeError):
            pass
        return node._answer("config", ident, "refused", str(e))
    except MemoryError:
        gc.collect()
        config.drop()
        return node._answer("config", ident, "refused", "too large for the memory that is left")
    config = None
    for signal in node.signals:
        signal.stop()
    node.signals = []
    node.client.stop(True)
    node.trial = (ident, now)
    node._load()


def give_back(node, why, now):
    """The file in force runs again, and the sender hears why."""
    ident = node.trial[0]
    node.trial = None
    for signal in node.signals:
        signal.stop()
    if node.client:
        node.client.stop(True)
    once("config").drop()
    node._load()
    node.answer = ("config", ident, "returned", why)
