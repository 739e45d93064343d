"""From power to a running node, inside one guard: outputs off first; what ends the program is kept, shown, and told later.

A watchdog is fed by completed turns alone, so a program that hangs ends a pump as well. Each failure soon after another makes
the wait before the next start longer. A keyboard interrupt ends the program and leaves the prompt.
"""
import gc
import json
import sys

from vn import hw

FILE = "crash.json"
LEAST_MS, MOST_MS = 2000, 300000
WELL_S = 600  # a program that has run this long has started well


def run():
    running = Run()
    while True:
        running.turn()
        hw.sleep_ms(5)


class Run:
    def __init__(self):
        self.node = self.wait_from = None
        self.wait_ms = 0
        self.past = {"n": 0, "why": None, "told": True, "own": False}
        self.unclear = True

    def turn(self):
        """One turn of the program's loop; does not wait."""
        try:
            self._turn(hw.ticks_ms())
        except KeyboardInterrupt:
            self._off()
            raise
        except Exception as e:
            self._off()
            sys.print_exception(e)
            self._keep("%s: %s" % (type(e).__name__, e), True)
            self.node, self.wait_from, self.wait_ms = None, hw.ticks_ms(), self._wait()
            print("vn crash %d, again in %d s" % (self.past["n"], self.wait_ms // 1000))
        hw.feed()

    def _turn(self, now):
        if self.node:
            self.node.step(now)
            if self.past["n"] and self.node.uptime_s >= WELL_S:
                self.past["n"] = 0
                self._write()
            return
        if self.wait_from is not None:
            if hw.ticks_diff(now, self.wait_from) >= self.wait_ms:
                self.wait_from = None
                if self.past["own"]:
                    hw.reset()
            return
        if self.unclear:
            self.unclear = False
            hw.outputs_off()
            self._look_back()
            hw.watch()
            if self.past["n"] > 2:
                # It has failed again and again: the prompt and the cable have some time in between.
                self.wait_from, self.wait_ms = now, self._wait()
                return
        print("vn start")
        with open("secret.json") as f:
            secret = json.load(f)
        gc.collect()
        from vn.node import Node

        self.node = Node(secret, self.past, self._write)

    def _look_back(self):
        """What the last program ended with: kept by itself, or a watchdog's doing that it could not keep."""
        try:
            kept = json.loads(hw.read(FILE))
            self.past = {"n": int(kept["n"]), "why": kept["why"], "told": bool(kept["told"]), "own": bool(kept["own"])}
        except (OSError, ValueError, KeyError, TypeError):
            pass
        own, self.past["own"] = self.past["own"], False
        hw.reset_was(own)
        if hw.restart_reason() == "watchdog":
            self._keep("the program hung, and its watchdog started it again", False)
        elif own:
            self._write()

    def _keep(self, why, own):
        self.past = {"n": self.past["n"] + 1, "why": why[:120], "told": False, "own": own}
        self._write()

    def _write(self):
        try:
            hw.write(FILE + ".new", json.dumps(self.past).encode())
            hw.replace(FILE + ".new", FILE)
        except Exception as e:
            print("vn flash", e)

    def _wait(self):
        return min(LEAST_MS << min(self.past["n"] - 1, 8), MOST_MS) if self.past["n"] else LEAST_MS

    def _off(self):
        """Each by itself: one that fails must not keep the others on."""
        hw.outputs_off()
        for signal in self.node.signals if self.node else ():
            try:
                signal.stop()
            except Exception as e:
                sys.print_exception(e)
