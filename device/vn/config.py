"""The node file in flash, and how a new one takes its place. Three lines arrive: header, file, description."""
import binascii
import hashlib
import json

from vn import hw

FILE, TD = "node.json", "td.json"
NEW_FILE, NEW_TD = "node.new", "td.new"
OLD_FILE, OLD_TD = "node.old", "td.old"


class Refused(Exception):
    pass


def digest(data):
    return str(binascii.hexlify(hashlib.sha256(data).digest()), "utf-8")


def load():
    """The file in force and its hash."""
    with open(FILE, "rb") as f:
        text = f.read()
    return json.loads(text), digest(text)


def receive(payload, own_id):
    """Checks a new file and writes it beside the old one. Returns its header; raises Refused with the reason."""
    lines = payload.split(b"\n")
    if len(lines) != 3:
        raise Refused("expected three lines, found %d" % len(lines))
    try:
        header, spec = json.loads(lines[0]), json.loads(lines[1])
        number, wanted = header["revision"], header["hash"]
    except (ValueError, KeyError, TypeError):
        raise Refused("not readable")
    if digest(lines[1]) != wanted:
        raise Refused("damaged on the way: its hash differs")
    if not isinstance(spec, dict) or spec.get("format") != "vivid-node/node-file" or spec.get("version") != 1:
        raise Refused("not a node file this runtime knows")
    if spec.get("id") != own_id:
        raise Refused("made for another node")
    if spec.get("revision") != number:
        raise Refused("header and file name different revisions")
    for path, data in ((NEW_FILE, lines[1]), (NEW_TD, lines[2])):
        with open(path, "wb") as f:
            f.write(data)
    with open(NEW_FILE, "rb") as f:
        if digest(f.read()) != wanted:
            raise Refused("flash did not keep it")
    return header


def swap():
    """The new file comes into force; the one before is kept."""
    hw.remove(OLD_FILE)
    hw.remove(OLD_TD)
    for current, old, new in ((FILE, OLD_FILE, NEW_FILE), (TD, OLD_TD, NEW_TD)):
        if hw.exists(current):
            hw.replace(current, old)
        hw.replace(new, current)


def back():
    """The file before comes into force again."""
    for current, old in ((FILE, OLD_FILE), (TD, OLD_TD)):
        if hw.exists(old):
            hw.replace(old, current)


def recover():
    """After a start: a swap that was cut short is finished backwards."""
    for current, old in ((FILE, OLD_FILE), (TD, OLD_TD)):
        if not hw.exists(current) and hw.exists(old):
            hw.replace(old, current)
