"""When outputs have to end: one timer of the chip with a list, so that what waits elsewhere does not make a pulse longer.

Chips have two to four timers; this takes one. While a short pulse runs nothing is begun that blocks."""
import machine

from vn import hw

SHORT_MS = 10000
FURTHEST_MS = 60000  # looked at again by then; some timers count no further than an hour

_list = []
_timer = None


def start(driver, after_ms, now):
    """`driver.ends(now)` is called once, this long after `now`. A second start of the same driver replaces the first."""
    stop(driver)
    _list.append((hw.ticks_add(now, min(after_ms, FURTHEST_MS)), after_ms - FURTHEST_MS, driver))
    _arm(now)


def stop(driver):
    _list[:] = [d for d in _list if d[2] is not driver]


def short(now):
    """True while something is to end within seconds."""
    for at, more, _ in _list:
        if more <= 0 and hw.ticks_diff(at, now) <= SHORT_MS:
            return True
    return False


def _arm(now):
    global _timer
    if not _list:
        return
    if _timer is None:
        # Where timers are made of software they have no number.
        _timer = machine.Timer(0) if hw.PORT == "esp32" else machine.Timer(-1)
        hw.hold(_timer)
    wait = min(hw.ticks_diff(d[0], now) for d in _list)
    _timer.init(mode=machine.Timer.ONE_SHOT, period=max(1, wait), callback=_due)


def _due(_):
    now = hw.ticks_ms()
    for entry in [d for d in _list if hw.ticks_diff(d[0], now) <= 0]:
        _list.remove(entry)
        if entry[1] > 0:
            _list.append((hw.ticks_add(now, min(entry[1], FURTHEST_MS)), entry[1] - FURTHEST_MS, entry[2]))
        else:
            entry[2].ends(now)
    _arm(now)


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
        if ms:
            self.ends_at = hw.ticks_add(now, ms)
            start(self, ms, now)

    def over(self):
        if self.ends_at is not None:
            self.ends_at = None
            stop(self)

    def look(self, now):
        if self.ends_at is not None and hw.ticks_diff(now, self.ends_at) >= 0:
            self.ends(now)
