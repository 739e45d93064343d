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
PIECE = 256


class Refused(Exception):
    pass


def digest(path):
    """Of a file, piece by piece."""
    h = hashlib.sha256()
    with open(path, "rb") as f:
        while True:
            piece = f.read(PIECE)
            if not piece:
                return str(binascii.hexlify(h.digest()), "utf-8")
            h.update(piece)


def load(trying=False):
    """The file in force, or the one being tried, and its hash; its text is never held beside what it says."""
    path = NEW_FILE if trying else FILE
    with open(path, "rb") as f:
        return json.load(f), digest(path)


def receive(path, own_id):
    """Checks a change that has come whole, and lays it beside the file in force. Raises Refused with the reason."""
    with open(path, "rb") as f:
        try:
            header = json.loads(f.readline())
            number, wanted, ident = header["revision"], header["hash"], header.get("id")
        except (ValueError, KeyError, TypeError):
            raise Refused("not readable")
        rest = _line(f, NEW_FILE, b"")
        if rest is None or _line(f, NEW_TD, rest) is not None:
            raise Refused("expected three lines")
    if digest(NEW_FILE) != wanted:
        raise Refused("damaged on the way: its hash differs")
    try:
        with open(NEW_FILE, "rb") as f:
            spec = json.load(f)
    except ValueError:
        raise Refused("not readable")
    if not isinstance(spec, dict) or spec.get("format") != "vivid-node/node-file" or spec.get("version") != 1:
        raise Refused("not a node file this runtime knows")
    if spec.get("id") != own_id:
        raise Refused("made for another node")
    if spec.get("revision") != number:
        raise Refused("header and file name different revisions")
    hw.write(TRIAL, json.dumps(ident).encode())


def _line(f, path, piece):
    """Copies to the end of the line into a file. What was read beyond it, or None where the line was the last."""
    with open(path, "wb") as to:
        while True:
            end = piece.find(b"\n")
            if end >= 0:
                to.write(piece[:end])
                return piece[end + 1 :]
            to.write(piece)
            piece = f.read(PIECE)
            if not piece:
                return None


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
