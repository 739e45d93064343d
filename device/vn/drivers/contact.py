"""A contact that opens and closes. True is what the design calls on; after that “gone” counts only when the hold time is over."""
from vn import hw
from vn.debounce import Debounce


class Driver:
    def __init__(self, spec):
        self.pin = hw.input(spec["pins"]["a"], spec.get("pull"))
        self.active = 0 if spec.get("activeLow") else 1
        self.debounce = Debounce(self.pin.value() == self.active, spec.get("debounceMs", 0))
        self.hold_ms = int(spec.get("holdS", 0) * 1000)
        self.on = self.debounce.stable
        self.seen = 0

    def step(self, now):
        self.debounce.step(self.pin.value() == self.active, now)
        if self.debounce.stable:
            self.on, self.seen = True, now
        elif self.on and hw.ticks_diff(now, self.seen) >= self.hold_ms:
            self.on = False

    def state(self):
        return self.on

    def stop(self):
        pass
