"""Which pins switch something, and the level that is off: written down, so that a start that fails can still switch
it off."""
from vn import hw

FILE = "outs"


def keep():
    text = ",".join("%d:%d" % (n, hw.offs[n]) for n in sorted(hw.offs)).encode()
    if (hw.read(FILE) if hw.exists(FILE) else b"") != text:
        hw.write(FILE + ".new", text)
        hw.replace(FILE + ".new", FILE)


def all_off():
    """Every output the last good file had, and every one that has been begun, off, whatever else fails."""
    try:
        for pair in str(hw.read(FILE), "utf-8").split(","):
            number, level = pair.split(":")
            hw.output(int(number), int(level))
    except (OSError, ValueError):
        pass
    for number in hw.offs:
        hw.output(number, hw.offs[number])
