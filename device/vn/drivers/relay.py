"""A switched output: off from the first moment, and off again after its pulse or its longest on-time whatever happens."""
from vn import hw


class Driver:
    def __init__(self, spec):
        self.active = 0 if spec.get("activeLow") else 1
        self.longest_ms = int(spec.get("longestOnS", 0) * 1000)
        self.pulse_ms = int(spec.get("pulseS", 0) * 1000)
        self.pin = hw.output(spec["pins"]["in"], 1 - self.active)
        self.on = False
        self.since = 0
        self.fault = None

    def command(self, value, now):
        """None when done, else why not."""
        if value is not True and value is not False:
            return "takes true or false"
        if value and (self.pulse_ms or not self.on):
            self.since = now
        self._put(value)
        return None

    def step(self, now):
        if not self.on:
            return
        on_for = hw.ticks_diff(now, self.since)
        if self.pulse_ms and on_for >= self.pulse_ms:
            self._put(False)
        elif self.longest_ms and on_for >= self.longest_ms:
            self._put(False)
            self.fault = "longest on-time reached, switched off"

    def state(self):
        return self.on

    def stop(self):
        self._put(False)

    def _put(self, on):
        self.on = on
        self.pin.value(self.active if on else 1 - self.active)
