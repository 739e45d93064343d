"""How the last program ended: by a failure of its own, which it kept, or by its watchdog, which it could not."""
import json
import sys

import machine

from vn import hw
from vn.node import once

FILE = "crash.json"


def _cause(own):
    """Why the chip has started, in words; some report their own restart as the watchdog's, some as a hard one."""
    if own:
        return "program"
    cause = machine.reset_cause()
    if hw.SMALL:
        words = {0: "power", 1: "watchdog", 2: "firmware", 3: "watchdog", 4: "program", 5: "woke", 6: "reset button"}
    elif hw.PORT == "rp2":
        words = {1: "power", 3: "watchdog"}
    else:
        # The button takes the supply away as far as the chip knows.
        words = {1: "power", 2: "program", 3: "watchdog", 4: "woke", 5: "program"}
    return words.get(cause, "unknown")


def look_back():
    past = {"n": 0, "why": None, "told": True, "own": False}
    try:
        kept = json.loads(hw.read(FILE))
        past = {"n": int(kept["n"]), "why": kept["why"], "told": bool(kept["told"]), "own": bool(kept["own"])}
    except (OSError, ValueError, KeyError, TypeError):
        pass
    own, past["own"] = past["own"], False
    hw.cause = _cause(own)
    if hw.cause == "watchdog":
        return _keep(past, "the program hung, and its watchdog started it again", False)
    if own:
        write(past)
    return past


def failed(run, e):
    """Outputs off, each by itself: one that fails must not keep the others on. Then the cause, kept and shown."""
    stop(run)
    run.node = None
    sys.print_exception(e)
    run.past = _keep(run.past or {"n": 0}, "%s: %s" % (type(e).__name__, e), True)


def stop(run):
    once("offs").all_off()
    for signal in run.node.signals if run.node else ():
        try:
            signal.stop()
        except Exception as e:
            sys.print_exception(e)


def _keep(past, why, own):
    past = {"n": past["n"] + 1, "why": why[:120], "told": False, "own": own}
    write(past)
    return past


def write(past):
    try:
        hw.write(FILE + ".new", json.dumps(past).encode())
        hw.replace(FILE + ".new", FILE)
    except Exception as e:
        print("vn flash", e)
