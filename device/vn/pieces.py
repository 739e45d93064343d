"""A change of the node's own file comes in pieces, each acknowledged: no board holds the whole of it, and one that was
cut off goes on where it was."""
from vn import hw

FILE, TRIAL = "pkg.new", "pkg.of"
PIECE = 1024  # bytes of all pieces but the last


def take(header, data):
    """Lays this piece into flash. Returns the number of the one that is wanted next: `of` when all are here."""
    n, of, whole = header["n"], header["of"], header["hash"].encode()
    if hw.exists(TRIAL) and hw.read(TRIAL) == whole and hw.exists(FILE):
        # What a cut has left of a piece is written over.
        have = hw.size(FILE) // PIECE
    else:
        # Of another change, or of none.
        have = 0
        hw.remove(FILE)
        hw.write(TRIAL, whole)
    if n == have < of:
        with open(FILE, "r+b" if hw.exists(FILE) else "wb") as f:
            f.seek(n * PIECE)
            f.write(data)
        have += 1
    return have


def known(wanted):
    """Whether all of it has come as it was sent."""
    from vn import config

    return config.digest(FILE) == wanted


def drop():
    hw.remove(FILE)
    hw.remove(TRIAL)
