"""What all of the runtime asks of the chip: time, pins, watchdog, restarts, files. What a chip class does its own way
stands here,
in net, analog, pulse, deadlines, edges_… and rest; drivers ask for what they alone need."""
import gc
import os
import sys
import time

import machine

PORT = sys.platform  # esp32, esp8266 or rp2
SMALL = PORT == "esp8266"

ticks_ms = time.ticks_ms
ticks_us = time.ticks_us
ticks_diff = time.ticks_diff
ticks_add = time.ticks_add
sleep_us = time.sleep_us
sleep_ms = time.sleep_ms

_irqs = []
_held = []
_forgets = []
offs = {}  # level that is off, by pin, of every output of the file
_wdt = None
cause = "unknown"  # of this start, in words
quiet = False  # says nothing of itself on the console
up_s = 0  # s since the start, counted by the node's steps: for what lasts longer than ticks tell apart


def say(*words):
    """Where the program stands, for whoever listens on the console; never anything secret."""
    if not quiet:
        print("vn", *words)


def output(number, level):
    """An output that has its level from the first moment on."""
    return machine.Pin(number, machine.Pin.OUT, value=level)


def input(number, pull):
    """Not every chip has every pull: what is not asked for is not touched."""
    if pull == "up":
        return machine.Pin(number, machine.Pin.IN, machine.Pin.PULL_UP)
    if pull == "down":
        return machine.Pin(number, machine.Pin.IN, machine.Pin.PULL_DOWN)
    return machine.Pin(number, machine.Pin.IN)


def on_edge(pin, both, handler):
    """Calls `handler(pin)` soon after each falling edge, or each edge."""
    pin.irq(handler, machine.Pin.IRQ_FALLING | (machine.Pin.IRQ_RISING if both else 0))
    _irqs.append(pin)


def hold(thing):
    """Keeps what has to be given back when another file takes over."""
    _held.append(thing)
    return thing


def release():
    """Interrupts, timers, serial ports and pulse widths of the old file end: its pins may change their work."""
    for pin in _irqs:
        pin.irq(None)
    for thing in _held:
        try:
            thing.deinit()
        except (AttributeError, OSError, ValueError):
            pass
    for forget in _forgets:
        forget()
    _irqs.clear()
    _held.clear()
    offs.clear()


def on_release(forget):
    _forgets.append(forget)


def watch():
    """Starts the watchdog. Once started it cannot be stopped: the program has to come round."""
    global _wdt
    if _wdt is None:
        _wdt = machine.WDT() if SMALL else machine.WDT(timeout=8000)


def feed():
    if _wdt:
        _wdt.feed()


def reset():
    machine.reset()


def free_bytes():
    gc.collect()
    return gc.mem_free()


def exists(path):
    try:
        os.stat(path)
        return True
    except OSError:
        return False


def size(path):
    return os.stat(path)[6]


def replace(source, target):
    """Puts `source` in the place of `target`. Where the file system cannot do it in one move, `target` goes first."""
    try:
        os.rename(source, target)
    except OSError:
        os.remove(target)
        os.rename(source, target)


def read(path):
    with open(path, "rb") as f:
        return f.read()


def write(path, data):
    with open(path, "wb") as f:
        f.write(data)


def remove(path):
    if exists(path):
        os.remove(path)
