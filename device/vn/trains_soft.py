"""Says a train of pulses by waiting for each: a frame in a step, so that nothing else waits longer than for one."""
from vn import hw


class Train:
    def __init__(self, number, idle):
        self.pin, self.idle = hw.output(number, idle), idle
        self.until = None

    def busy(self):
        return self.until is not None and hw.ticks_diff(self.until, hw.ticks_us()) > 0

    def say(self, us, gap, times):
        """How many of the frames are said by the end of this call: `us` high and low in turn, and the gap to wait after."""
        pin, level = self.pin, self.idle
        at = hw.ticks_us()
        for length in us:
            level = 1 - level
            pin.value(level)
            # What one came late the next does not come later still.
            at = hw.ticks_add(at, length)
            hw.sleep_us(max(0, hw.ticks_diff(at, hw.ticks_us())))
        pin.value(self.idle)
        self.until = hw.ticks_add(at, gap)
        return 1

    def stop(self):
        self.pin.value(self.idle)
