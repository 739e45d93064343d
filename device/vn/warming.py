"""A part that cannot be believed yet: nothing of it is read, told or acted on until its warm-up is over."""
from vn import hw


class Driver:
    def __init__(self, spec, start):
        self.spec, self.start = spec, start
        self.ms = int(spec["warmUpS"] * 1000)
        self.since = self.driver = None

    def step(self, now):
        if self.driver is None:
            if self.since is None:
                self.since = now
            if hw.ticks_diff(now, self.since) < self.ms:
                return None
            self.driver = self.start(self.spec)
        return self.driver.step(now)

    def state(self):
        return self.driver.state() if self.driver else None

    def stop(self):
        if self.driver:
            self.driver.stop()
