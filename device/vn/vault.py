"""Changed credentials, sealed with the node's own key. A new way in is added and proven before the old one goes.

Sealed is base64 of 16 bytes of start value, AES-128-CBC of the text, and HMAC-SHA-256 over both. The key file has 16
bytes for the
one and 32 for the other. Each message has a number higher than the one before, so that a recorded one does nothing.

The node is known here by what it offers alone: `secret` to read and `use(secret)`; `way()` gives the network's name
and the way in that it was joined by; `settled()`, `leave(gently)`, `enter(candidate)`; `reply(ident, result, reason,
now)`, where `now` is False for when it is connected again.
"""
import binascii
import hashlib
import json

import cryptolib

from vn import hw

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


def _enter(node, candidate):
    """Comes in with the login as it is now; `candidate` says which of the network's ways first, None stays in it."""
    if candidate is not None:
        node.wifi.leave()
        node.wifi_asked, node.candidate = None, candidate
    node.enter()


def _reply(node, ident, result, reason, now):
    if now:
        node._answer("vault", ident, result, reason)
    else:
        node.answer = ("vault", ident, result, reason)


class Vault:
    """Lives from a sealed message until what it says has come true or been given up."""

    def __init__(self, node):
        self.node = node
        # While something is tried: since when, what, whether the old way is left, and the credentials of before.
        self.since = self.do = self.before = None
        self.left = False

    def take(self, payload, now):
        """Opens a sealed message and does what it says; answers on `vault/done`."""
        node = self.node
        secret = node.secret
        try:
            job = json.loads(unseal(secret["key"], payload))
            number, ident = job["n"], job["id"]
        except (ValueError, KeyError, TypeError):
            return _reply(node, None, "refused", "not sealed for this node", True)
        if number <= secret.get("n", 0):
            return _reply(node, ident, "refused", "an old message", True)
        changed = json.loads(json.dumps(secret))
        changed["n"] = number
        network, joined = node.network, node.joined
        if job["do"] == "drop":
            # Only the way in that is in use stays.
            changed["networks"][job["ref"]] = [joined if job["ref"] == network and joined else job["way"]]
            changed.pop("waiting", None)
            return self._at_once(changed, ident)
        if job["do"] == "network":
            ways = changed["networks"].get(job["ref"], [])
            ways = [ways] if isinstance(ways, dict) else ways
            changed["networks"][job["ref"]] = [w for w in ways if w != job["way"]][-1:] + [job["way"]]
            if job["ref"] != network:
                return self._at_once(changed, ident)
        elif job["do"] == "broker":
            changed["broker"] = job["login"]
        else:
            return _reply(node, ident, "refused", "not a change this runtime knows", True)
        # The old file stays; the new one is tried beside it, and power may go.
        _keep(TRY, {"id": ident, "do": job["do"], "ref": job.get("ref"), "way": job.get("way"), "n": number, "secret": changed})
        _reply(node, ident, "trying", None, True)
        self.since, self.do, self.left, self.before = now, job["do"], False, secret
        node.secret = changed

    def _at_once(self, changed, ident):
        _keep(FILE, changed)
        self.node.secret = changed
        _reply(self.node, ident, "done", None, True)

    def step(self, now):
        """Leaves the old way once the answer is out, and comes back to it when the new one has had its time. False when
        there is nothing more to do."""
        if not self.do:
            return False
        waited = hw.ticks_diff(now, self.since)
        if not self.left:
            if self.node.client.quiet() or waited > LEAVE_MS:
                self.left = True
                self.node.client.stop(True)
                # The new one first: it is the last of the list.
                ways = self.node.secret["networks"][self.node.network]
                _enter(self.node, len(ways) - 1 if self.do == "network" else None)
        elif waited > TRIAL_MS:
            candidate = 0 if self.do == "network" else None
            self._give_up("no connection within %d s; the old way in is used again" % (TRIAL_MS // 1000))
            self.node.client.stop(False)
            _enter(self.node, candidate)
        return True

    def proven(self):
        """Connected. When it was by what is being tried, or has waited to be, that comes into force."""
        node = self.node
        joined = node.joined
        if self.do:
            if not self.left:
                return
            tried = json.loads(hw.read(TRY))
            if tried["do"] == "network" and joined != tried["way"]:
                # The new way has had its turn and did not let it in; the old one has.
                return self._give_up("the network did not let it in; the old way in is used again")
            _keep(FILE, tried["secret"])
            hw.remove(TRY)
            self.do = None
            _reply(node, tried["id"], "done", None, False)
        elif "waiting" in node.secret and joined == node.secret["waiting"]["way"]:
            _reply(node, node.secret["waiting"]["id"], "done", None, False)
            kept = json.loads(json.dumps(node.secret))
            del kept["waiting"]
            _keep(FILE, kept)
            node.secret = kept

    def recover(self):
        """Power went while new credentials were tried."""
        self._give_up("power was lost while it was tried")

    def _give_up(self, why):
        """The old way in stays; the new one is kept as one more to try when the old is gone."""
        tried = json.loads(hw.read(TRY))
        kept = json.loads(json.dumps(self.before or self.node.secret))
        kept["n"] = tried["n"]
        if tried["do"] == "network":
            ways = kept["networks"][tried["ref"]]
            kept["networks"][tried["ref"]] = ([ways] if isinstance(ways, dict) else ways)[:1] + [tried["way"]]
            kept["waiting"] = {"id": tried["id"], "way": tried["way"]}
        _keep(FILE, kept)
        hw.remove(TRY)
        self.node.secret = kept
        self.do = self.before = None
        _reply(self.node, tried["id"], "returned", why, False)
