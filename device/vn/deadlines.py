"""When outputs have to end: one timer of the chip for all of them, so that what waits elsewhere does not make a pulse
longer.

Chips have two to four timers; this takes one. While a short pulse runs nothing is begun that blocks.
"""
import machine

from vn import hw

SHORT_MS = 10000
FURTHEST_MS = 60000  # some timers count no further than an hour; what is later than this is looked at again by then

_list = []
_timer = None


def short(now):
    """True while something is to end within seconds."""
    for d in _list:
        if hw.ticks_diff(d.ends_at, now) <= SHORT_MS:
            return True
    return False


def _due(_):
    global _timer
    now = hw.ticks_ms()
    for d in list(_list):
        d.look(now)
    if _list:
        if _timer is None:
            # Where timers are made of software they have no number.
            _timer = machine.Timer(0 if hw.PORT == "esp32" else -1)
            hw.hold(_timer)
        wait = min(hw.ticks_diff(d.ends_at, now) for d in _list)
        _timer.init(mode=machine.Timer.ONE_SHOT, period=max(1, min(wait, FURTHEST_MS)), callback=_due)


def _forget():
    """Another file takes over; the timer has been given back."""
    global _timer
    _list.clear()
    _timer = None


hw.on_release(_forget)


class Timed:
    """What may be on for a stated time only. The step looks as well: a timer's call can be lost where many wait."""

    ends_at = None

    def begin(self, ms, now):
        self.over()
        if ms:
            self.ends_at = hw.ticks_add(now, ms)
            _list.append(self)
            _due(None)

    def over(self):
        self.ends_at = None
        if self in _list:
            _list.remove(self)

    def look(self, now):
        if self.ends_at is not None and hw.ticks_diff(now, self.ends_at) >= 0:
            self.ends(now)
            self.over()
