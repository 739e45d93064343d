"""Ultrasonic ranger: 10 µs trigger, distance from the length of the echo, m."""
import math

import machine

from vn import hw

EVERY_MS = 250
TIMEOUT_US = 25000  # 4.2 m and back; keeps the longest step short


class Driver:
    SLOW = True

    def __init__(self, spec):
        self.trig = hw.output(spec["pins"]["trig"], 0)
        self.echo = hw.input(spec["pins"]["echo"], "none")
        self.speed = 331.3 * math.sqrt(1 + spec["airC"] / 273.15)
        self.last = None

    def step(self, now):
        """(reading or None,) when there was a measurement, else None."""
        if self.last is not None and hw.ticks_diff(now, self.last) < EVERY_MS:
            return None
        self.last = now
        self.trig.value(1)
        hw.sleep_us(10)
        self.trig.value(0)
        length = machine.time_pulse_us(self.echo, 1, TIMEOUT_US)
        return (self.speed * length / 2e6 if length > 0 else None,)

    def stop(self):
        pass
