"""Says a train of pulses with what the chip has beside the processor for it: exact whatever the program does."""
import esp32
import machine

from vn import hw

MOST, LONGEST_US = 800, 32767  # pulses handed over at a time; what its counter takes


class Train:
    def __init__(self, number, idle):
        hw.output(number, idle)
        # A microsecond a count.
        self.rmt = esp32.RMT(0, pin=machine.Pin(number), clock_div=80, idle_level=bool(idle))
        self.first = 1 - idle
        hw.hold(self.rmt)

    def busy(self):
        return not self.rmt.wait_done()

    def say(self, us, gap, times):
        frame = list(us) + [min(gap, LONGEST_US)]
        times = min(times, max(1, MOST // len(frame)))
        self.rmt.write_pulses(frame * times, self.first)
        return times

    def stop(self):
        pass
