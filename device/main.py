"""Starts the node and keeps it going. A fault that nothing caught switches the outputs off and starts the board again."""
import json
import time

import micropython

micropython.opt_level(3)  # line numbers of the source cost a tenth of the memory its code takes

import machine  # noqa: E402

from vn.node import Node  # noqa: E402


def load_secret():
    with open("secret.json") as f:
        return json.load(f)


def run():
    node = Node(load_secret())
    try:
        while True:
            node.step(time.ticks_ms())
            time.sleep_ms(5)
    finally:
        for signal in node.signals:
            signal.stop()
        time.sleep_ms(2000)
        machine.reset()


if __name__ == "__main__":
    run()
