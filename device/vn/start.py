"""From power to a running node, inside one guard: outputs off first; what ends the program is kept, shown, and told
later.

A watchdog is fed by completed turns alone, so a program that hangs ends a pump as well. Each failure soon after
another makes
the wait before the next start longer. A keyboard interrupt ends the program and leaves the prompt.
"""
import gc
import json

from vn import hw
from vn.node import Node, once

LEAST_MS, MOST_MS = 2000, 300000
WELL_S = 600  # a program that has run this long has started well


def run():
    running = Run()
    while True:
        running.turn()
        hw.sleep_ms(5)


def write(past):
    once("past").write(past)


class Run:
    def __init__(self):
        self.node = self.wait_from = self.past = None
        self.wait_ms = 0
        self.lit = True  # outputs may still be as the last program left them

    def turn(self):
        """One turn of the program's loop; does not wait."""
        try:
            self._turn(hw.ticks_ms())
        except KeyboardInterrupt:
            once("past").stop(self)
            raise
        except Exception as e:
            for number in hw.offs:
                hw.output(number, hw.offs[number])  # before anything that may fail as well
            gc.collect()
            try:
                once("past").failed(self, e)
            except Exception as worse:
                print("vn", e, worse)
                self.node, self.past = None, {"n": 9, "why": "no memory to say", "told": False, "own": True}
            self._wait(hw.ticks_ms())
            print("vn crash %d, again in %d s" % (self.past["n"], self.wait_ms // 1000))
        hw.feed()

    def _turn(self, now):
        if self.node:
            self.node.step(now)
            if self.past["n"] and self.node.uptime_s >= WELL_S:
                self.past["n"] = 0
                write(self.past)
            return
        if self.wait_from is not None:
            if hw.ticks_diff(now, self.wait_from) >= self.wait_ms:
                self.wait_from = None
                if self.past["own"]:
                    hw.reset()
            return
        # One thing a turn: what it took is collected before the next.
        if self.lit:
            self.lit = False
            return once("offs").all_off()
        if self.past is None:
            self.past = once("past").look_back()
            hw.watch()
            if self.past["n"] > 2:
                # It has failed again and again: the prompt and the cable have some time in between.
                self._wait(now)
            return
        hw.say("start", hw.cause.split(" ")[0])
        with open("secret.json") as f:
            secret = json.load(f)
        self.node = Node(secret, self.past, write)

    def _wait(self, now):
        self.wait_from, self.wait_ms = now, min(LEAST_MS << min(self.past["n"] - 1, 8), MOST_MS)
