"""What happens at a moment: said once, never kept."""
from vn.signals import Signal


class Event(Signal):
    retained, qos = False, 1

    def step(self, now):
        got = self.driver.step(now)
        if not got:
            return None
        self.last = got[0]
        return '"%s"' % got[0]

    def known(self):
        return True

    def now_is(self):
        return None

    def text(self):
        return None
