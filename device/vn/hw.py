"""What the runtime asks of the chip: time, pins, watchdog, restarts, files. Only this and net, analog, pulse, edges and rest
touch hardware modules; what a chip class does its own way stands there and nowhere else."""
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

OFF_FILE = "outs"
_irqs = []
_held = []
_forgets = []
_offs = {}
_wdt = None
_own_reset = False
up_s = 0  # s since the start, counted by the node's steps: for what lasts longer than ticks tell apart


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


def open_drain(number):
    return machine.Pin(number, machine.Pin.OPEN_DRAIN, value=1)


def lamps(number, count):
    import neopixel

    return neopixel.NeoPixel(machine.Pin(number, machine.Pin.OUT), count)


def on_edge(pin, both, handler):
    """Calls `handler(pin)` soon after each falling edge, or each edge."""
    pin.irq(handler, machine.Pin.IRQ_FALLING | (machine.Pin.IRQ_RISING if both else 0))
    _irqs.append(pin)


def uart(number, baud, rx, tx):
    if tx is None:
        port = machine.UART(number, baudrate=baud, rx=machine.Pin(rx), rxbuf=256)
    else:
        port = machine.UART(number, baudrate=baud, rx=machine.Pin(rx), tx=machine.Pin(tx), rxbuf=256)
    return hold(port)


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
    _offs.clear()


def on_release(forget):
    _forgets.append(forget)


def off_level(number, level):
    """Pin and the level that is off: written down, so that a start that fails can still switch it off."""
    _offs[number] = level


def keep_offs():
    text = ",".join("%d:%d" % (n, _offs[n]) for n in sorted(_offs)).encode()
    if (read(OFF_FILE) if exists(OFF_FILE) else b"") != text:
        write(OFF_FILE + ".new", text)
        replace(OFF_FILE + ".new", OFF_FILE)


def outputs_off():
    """Every output the last good file had, off, whatever else fails."""
    try:
        for pair in str(read(OFF_FILE), "utf-8").split(","):
            number, level = pair.split(":")
            output(int(number), int(level))
    except (OSError, ValueError):
        pass


def pulse_us(pin, level, timeout_us):
    """Length of the next pulse of this level, µs; negative when none came in time."""
    return machine.time_pulse_us(pin, level, timeout_us)


def one_wire(number):
    import onewire

    return onewire.OneWire(machine.Pin(number))


def aes_cbc_open(key, iv, data):
    import cryptolib

    return cryptolib.aes(key, 2, iv).decrypt(data)


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


def reset_was(own):
    """Whether the program itself has asked for this start; some chips cannot tell it from their watchdog."""
    global _own_reset
    _own_reset = own


def restart_reason():
    if _own_reset:
        return "program"
    cause = machine.reset_cause()
    if SMALL:
        return {0: "power", 1: "watchdog", 2: "firmware", 3: "watchdog", 4: "program", 5: "woke", 6: "reset button"}.get(cause, "unknown")
    if PORT == "rp2":
        return {1: "power", 3: "watchdog"}.get(cause, "unknown")
    # A restart by program is reported as a hard one here; the button takes the supply away as far as the chip knows.
    return {1: "power", 2: "program", 3: "watchdog", 4: "woke", 5: "program"}.get(cause, "unknown")


def free_bytes():
    gc.collect()
    return gc.mem_free()


def utc():
    """Seconds since 1970 as the board's clock has them; only right once it has been set."""
    base = 946684800 if time.gmtime(0)[0] == 2000 else 0
    return time.time() + base


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
