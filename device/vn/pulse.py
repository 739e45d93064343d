"""Pulse-width outputs. Off and full on are plain levels: no pulse width is exactly none or all on every chip."""
import machine

from vn import hw


class Pwm:
    """An output that is on for a share of each period, off at first."""

    def __init__(self, number, hz, active_low):
        self.number, self.hz, self.low = number, int(hz), 1 if active_low else 0
        self.pwm = self.at = None
        hw.offs[number] = self.low
        hw.hold(self)
        self._plain(0)

    def share(self, share):
        if share <= 0 or share >= 1:
            return self._plain(0 if share <= 0 else 1)
        self.at = None
        duty = int((1 - share if self.low else share) * 65535 + 0.5)
        if self.pwm is None:
            # Frequency and duty at once: in between there would be one period of something else.
            self.pwm = machine.PWM(machine.Pin(self.number), freq=self.hz, duty_u16=duty)
        else:
            self.pwm.duty_u16(duty)

    def _plain(self, on):
        if self.at == on:
            return
        self.deinit()
        self.at = on
        hw.output(self.number, on ^ self.low)

    def deinit(self):
        if self.pwm:
            self.pwm.deinit()
            self.pwm = None
