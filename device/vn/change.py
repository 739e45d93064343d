"""The change of the node's own file: taken in, tried, kept once it has connected, given back otherwise."""
import gc
import json

from vn import hw
from vn.node import once


def run(node, payload, now):
    ident = None
    try:
        cut = payload.find(b"\n")
        header = json.loads(payload[:cut])
        ident = header.get("id")
        pieces = once("pieces")
        if "of" in header:
            wanted = pieces.take(header, payload[cut + 1 :])
            if wanted < header["of"]:
                return node._answer("config", "%s/%d" % (ident, header["n"]), "piece", None, wanted)
            if not pieces.known(header["hash"]):
                pieces.drop()
                return node._answer("config", ident, "refused", "damaged on the way: the whole differs")
        else:
            hw.write(pieces.FILE, payload)
        payload = None
        gc.collect()
        config = once("config")
        try:
            config.receive(pieces.FILE, node.ident)
        except config.Refused as e:
            config.drop()
            return node._answer("config", ident, "refused", str(e))
        finally:
            pieces.drop()
    except MemoryError:
        gc.collect()
        once("config").drop()
        return node._answer("config", ident, "refused", "too large for the memory that is left")
    except (ValueError, KeyError, TypeError, AttributeError):
        return node._answer("config", ident, "refused", "not readable")
    config = pieces = None
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
