"""What outputs of 0 to 100 % have in common: off from the first moment, and off again after the longest on-time
whatever happens."""
from vn.deadlines import Timed


class Level(Timed):
    def __init__(self, spec):
        self.longest_ms = int(spec.get("longestOnS", 0) * 1000)
        self.percent = 0
        self.fault = None

    def command(self, value, now):
        """None when done, else why not."""
        if isinstance(value, bool) or not isinstance(value, (int, float)) or not 0 <= value <= 100:
            return "takes a number from 0 to 100"
        begins = value and not self.percent
        self._put(value)
        if begins:
            self.begin(self.longest_ms, now)
        return None

    def step(self, now):
        self.look(now)

    def ends(self, now):
        if self.percent:
            self._put(0)
            self.fault = "longest on-time reached, switched off"

    def state(self):
        return self.percent

    def stop(self):
        self._put(0)

    def _put(self, percent):
        self.percent = percent
        self.show(percent / 100)
        if not percent:
            self.over()
