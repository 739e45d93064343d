"""Edges timed by a state machine of the chip beside the processor: exact to a microsecond whatever the program does."""
import machine
import rp2

from vn import hw
from vn.ring import Ring

HZ = 2000000  # two instructions a count


@rp2.asm_pio(fifo_join=rp2.PIO.JOIN_RX)
def _measure():
    wrap_target()  # noqa: F821
    mov(x, invert(null))  # noqa: F821
    label("high")  # noqa: F821
    jmp(x_dec, "still")  # noqa: F821
    label("still")  # noqa: F821
    jmp(pin, "high")  # noqa: F821
    mov(isr, invert(x))  # noqa: F821
    push(noblock)  # noqa: F821
    irq(rel(0))  # noqa: F821
    mov(x, invert(null))  # noqa: F821
    label("low")  # noqa: F821
    jmp(pin, "rose")  # noqa: F821
    jmp(x_dec, "low")  # noqa: F821
    label("rose")  # noqa: F821
    mov(isr, invert(x))  # noqa: F821
    push(noblock)  # noqa: F821
    irq(rel(0))  # noqa: F821
    wrap()  # noqa: F821


class Edges(Ring):
    def __init__(self, number):
        super().__init__()
        self.level = 1
        pin = machine.Pin(number, machine.Pin.IN)
        self.machine = rp2.StateMachine(0, _measure, freq=HZ, jmp_pin=pin)
        self.machine.irq(self._more, hard=True)
        self.machine.active(1)
        hw.hold(self)

    def _more(self, machine):
        # One word a call and a few more where calls were late: as many as stand there.
        n = machine.rx_fifo()
        if n == 8:
            self.lost += 1
        while n:
            self.put(machine.get() & 0xFFFFF, self.level)
            self.level ^= 1
            n -= 1

    def deinit(self):
        self.machine.active(0)
        self.machine.irq(None)
