"""The node file in flash, and how a new one takes its place. Three lines arrive: header, file, description.

The file in force stays untouched while a new one is tried. Only when the new one has started and connected does `keep` put it
in the old one's place; a marker in flash says how far that has come, so that power may go at any point.
"""
import binascii
import hashlib
import json

from vn import hw

FILE, TD = "node.json", "td.json"
NEW_FILE, NEW_TD = "node.new", "td.new"
TRIAL, KEEP = "trial", "keep"


class Refused(Exception):
    pass


def digest(data):
    return str(binascii.hexlify(hashlib.sha256(data).digest()), "utf-8")


def load(trying=False):
    """The file in force, or the one being tried, and its hash."""
    with open(NEW_FILE if trying else FILE, "rb") as f:
        text = f.read()
    return json.loads(text), digest(text)


def receive(payload, own_id):
    """Checks a new file and writes it beside the one in force. Returns its header; raises Refused with the reason."""
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
        hw.write(path, data)
    if digest(hw.read(NEW_FILE)) != wanted:
        raise Refused("flash did not keep it")
    hw.write(TRIAL, json.dumps(header.get("id")).encode())
    return header


def keep():
    """The new file comes into force. Every step of it can be cut short and is finished by `recover`."""
    hw.replace(TRIAL, KEEP)
    _finish()


def _finish():
    for new, current in ((NEW_TD, TD), (NEW_FILE, FILE)):
        if hw.exists(new):
            hw.replace(new, current)
    hw.remove(KEEP)


def drop():
    """The new file was tried and is not kept."""
    for path in (NEW_FILE, NEW_TD, TRIAL):
        hw.remove(path)


def recover():
    """After a start: what was cut short is finished. Returns (command id,) of a trial that power has ended, else None."""
    if hw.exists(KEEP):
        _finish()
        return None
    if not hw.exists(TRIAL):
        hw.remove(NEW_FILE)
        hw.remove(NEW_TD)
        return None
    try:
        ident = json.loads(hw.read(TRIAL))
    except ValueError:
        ident = None
    drop()
    return (ident,)
