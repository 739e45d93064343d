"""State machines: the program is put together here and run, instruction by instruction, by the simulated chip."""
import micropython

import _world
import time as _time

if _world.chip != "rp2040":
    raise ImportError("no module named 'rp2'")


class PIO:
    JOIN_RX = 2


def asm_pio(fifo_join=0):
    def made(function):
        lines = []
        labels = {}
        words = {"x": "x", "isr": "isr", "pin": "pin", "x_dec": "x--", "null": "null", "noblock": "noblock"}
        words["wrap_target"] = lambda: labels.__setitem__("@target", len(lines))
        words["wrap"] = lambda: labels.__setitem__("@wrap", len(lines) - 1)
        words["label"] = lambda name: labels.__setitem__(name, len(lines))
        words["jmp"] = lambda condition, to=None: lines.append("jmp %s %s" % (("always", condition) if to is None else (condition, to)))
        words["invert"] = lambda source: "~" + source
        words["mov"] = lambda to, source: lines.append("mov %s %s" % (to, source))
        words["push"] = lambda how: lines.append("push %s" % how)
        words["rel"] = lambda n: str(n)
        words["irq"] = lambda n: lines.append("irq %s" % n)
        scope = function.__globals__
        before = {}
        for name in words:
            before[name] = scope.get(name)
            scope[name] = words[name]
        try:
            function()
        finally:
            for name in words:
                if before[name] is None:
                    del scope[name]
                else:
                    scope[name] = before[name]
        return "\n".join(lines) + "|" + ",".join("%s=%d" % pair for pair in labels.items())

    return made


class StateMachine:
    def __init__(self, number, program, freq=125000000, jmp_pin=None):
        self.number = number
        self.words, self.at = [0] * 8, 0
        _world.pio_new(number, program, freq, jmp_pin.number)

    def irq(self, handler=None, hard=False):
        self.handler = handler
        if handler:
            _world.pio_irq(self.number, self._more)

    def active(self, on):
        _world.pio_active(self.number, bool(on))

    def _more(self, us, *words):
        self.n, self.at = len(words), 0
        for i in range(self.n):
            self.words[i] = words[i]
        micropython.heap_lock()
        try:
            self.handler(self)
        finally:
            micropython.heap_unlock()

    def rx_fifo(self):
        return self.n - self.at

    def get(self):
        word = self.words[self.at]
        self.at += 1
        return word
