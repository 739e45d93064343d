"""A change of the node's own file comes in pieces, each acknowledged: no board holds the whole of it, and one that was
cut off goes on where it was."""
from vn import hw

PART, PART_OF = "pkg.new", "pkg.of"
EACH = 1024  # bytes of all pieces but the last


def take(header, data):
    """Lays this piece into flash. Returns the number of the one that is wanted next: `of` when all are here."""
    n, of, whole = header["n"], header["of"], header["hash"].encode()
    if hw.exists(PART_OF) and hw.read(PART_OF) == whole and hw.exists(PART):
        # What a cut has left of a piece is written over.
        have = hw.size(PART) // EACH
    else:
        # Of another change, or of none.
        have = 0
        hw.remove(PART)
        hw.write(PART_OF, whole)
    if n == have < of:
        with open(PART, "r+b" if hw.exists(PART) else "wb") as f:
            f.seek(n * EACH)
            f.write(data)
        have += 1
    return have


def whole(wanted):
    """Whether all of it has come as it was sent."""
    from vn import config

    return config.digest_of(PART) == wanted


def clear():
    hw.remove(PART)
    hw.remove(PART_OF)
