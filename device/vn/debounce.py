"""A level counts when it has been seen without a change for a stated time."""
from vn import hw


class Debounce:
    def __init__(self, level, wait_ms):
        self.stable = self.candidate = level
        self.since = 0
        self.wait_ms = wait_ms

    def step(self, level, now):
        """True when the stable level has just changed."""
        if level != self.candidate:
            self.candidate, self.since = level, now
        elif level != self.stable and hw.ticks_diff(now, self.since) >= self.wait_ms:
            self.stable = level
            return True
        return False
