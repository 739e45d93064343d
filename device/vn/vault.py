"""Changed credentials, sealed with the node's own key. A new way in is added and proven before the old one goes.

Sealed is base64 of 16 bytes of start value, AES-128-CBC of the text, and HMAC-SHA-256 over both. The key file has 16
bytes for the
one and 32 for the other. Each message has a number higher than the one before, so that a recorded one does nothing.
"""
import binascii
import hashlib
import json

import cryptolib

from vn import hw
from vn.node import once

FILE, TRY = "secret.json", "secret.try"
TRIAL_MS, LEAVE_MS = 60000, 1500


def hmac(key, data):
    key = key + bytes(64 - len(key))
    inner = hashlib.sha256(bytes(b ^ 0x36 for b in key))
    inner.update(data)
    outer = hashlib.sha256(bytes(b ^ 0x5C for b in key))
    outer.update(inner.digest())
    return outer.digest()


def unseal(key_hex, payload):
    """The text of a sealed message; ValueError when it was not sealed with this key."""
    key = binascii.unhexlify(key_hex)
    try:
        data = binascii.a2b_base64(payload)
    except Exception:  # each build has its own error for text that is no base64
        raise ValueError
    if len(data) < 64 or len(data) % 16:
        raise ValueError
    body, mark = data[:-32], data[-32:]
    wrong = 0
    for a, b in zip(hmac(key[16:], body), mark):
        wrong |= a ^ b
    if wrong:
        raise ValueError
    text = cryptolib.aes(key[:16], 2, body[:16]).decrypt(body[16:])
    return text[: -text[-1]]


def _keep(path, secret):
    hw.write(path + ".new", json.dumps(secret).encode())
    hw.replace(path + ".new", path)


def take(node, payload, now):
    """Opens a sealed message and does what it says; answers on `vault/done`."""
    secret = node.secret
    try:
        job = json.loads(unseal(secret["key"], payload))
        number, ident = job["n"], job["id"]
    except (ValueError, KeyError, TypeError):
        return node._answer("vault", None, "refused", "not sealed for this node")
    if number <= secret.get("n", 0):
        return node._answer("vault", ident, "refused", "an old message")
    changed = json.loads(json.dumps(secret))
    changed["n"] = number
    if job["do"] == "drop":
        # Only the way in that is in use stays.
        changed["networks"][job["ref"]] = [node.joined if job["ref"] == node.network and node.joined else job["way"]]
        changed.pop("waiting", None)
        _keep(FILE, changed)
        node.secret = changed
        return node._answer("vault", ident, "done", None)
    if job["do"] == "network":
        ways = changed["networks"].get(job["ref"], [])
        ways = [ways] if isinstance(ways, dict) else ways
        changed["networks"][job["ref"]] = [w for w in ways if w != job["way"]][-1:] + [job["way"]]
        if job["ref"] != node.network:
            _keep(FILE, changed)
            node.secret = changed
            return node._answer("vault", ident, "done", None)
    elif job["do"] == "broker":
        changed["broker"] = job["login"]
    else:
        return node._answer("vault", ident, "refused", "not a change this runtime knows")
    # The old file stays; the new one is tried beside it, and power may go.
    _keep(TRY, {"id": ident, "do": job["do"], "ref": job.get("ref"), "way": job.get("way"), "n": number, "secret": changed})
    node._answer("vault", ident, "trying", None)
    _begin(node, changed, ident, job["do"], now)


def _begin(node, changed, ident, do, now):
    node.sealed = {"since": now, "do": do, "left": False}
    node.before = node.secret
    node.secret = changed


def step(node, now):
    """Leaves the old way once the answer is out, and comes back to it when the new one has had its time."""
    state = node.sealed
    waited = hw.ticks_diff(now, state["since"])
    if not state["left"]:
        if node.client.quiet() or waited > LEAVE_MS:
            state["left"] = True
            node.client.stop(True)
            # The new one first: it is the last of the list.
            _rejoin(node, state["do"], len(node.secret["networks"][node.network]) - 1 if state["do"] == "network" else 0, now)
    elif waited > TRIAL_MS:
        tried = json.loads(hw.read(TRY))
        _give_up(node, tried, "no connection within %d s; the old way in is used again" % (TRIAL_MS // 1000))
        node.client.stop(False)
        _rejoin(node, state["do"], 0, now)


def _rejoin(node, do, candidate, now):
    if do == "network":
        node.wifi.leave()
        node.wifi_asked, node.candidate = None, candidate
    once("login").run(node)


def proven(node):
    """Connected. When it was by what is being tried, or has waited to be, that comes into force."""
    if node.sealed:
        tried = json.loads(hw.read(TRY))
        if not node.sealed["left"]:
            return
        if tried["do"] == "network" and node.joined != tried["way"]:
            # The new way has had its turn and did not let it in; the old one has.
            return _give_up(node, tried, "the network did not let it in; the old way in is used again")
        _keep(FILE, tried["secret"])
        hw.remove(TRY)
        node.sealed = None
        node.answer = ("vault", tried["id"], "done", None)
    elif node.joined == node.secret["waiting"]["way"]:
        node.answer = ("vault", node.secret["waiting"]["id"], "done", None)
        kept = json.loads(json.dumps(node.secret))
        del kept["waiting"]
        _keep(FILE, kept)
        node.secret = kept


def recover(node):
    """Power went while new credentials were tried."""
    _give_up(node, json.loads(hw.read(TRY)), "power was lost while it was tried")


def _give_up(node, tried, why):
    """The old way in stays; the new one is kept as one more to try when the old is gone."""
    kept = json.loads(json.dumps(node.before if node.sealed else node.secret))
    kept["n"] = tried["n"]
    if tried["do"] == "network":
        ways = kept["networks"][tried["ref"]]
        kept["networks"][tried["ref"]] = ([ways] if isinstance(ways, dict) else ways)[:1] + [tried["way"]]
        kept["waiting"] = {"id": tried["id"], "way": tried["way"]}
    _keep(FILE, kept)
    hw.remove(TRY)
    node.secret = kept
    node.sealed = None
    node.answer = ("vault", tried["id"], "returned", why)
