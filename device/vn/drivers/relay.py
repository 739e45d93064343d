"""A switched output: off from the first moment, and off again after its pulse or its longest on-time whatever
happens."""
from vn import hw
from vn.deadlines import Timed


class Driver(Timed):
    def __init__(self, spec):
        self.active = 0 if spec.get("activeLow") else 1
        self.longest_ms = int(spec.get("longestOnS", 0) * 1000)
        self.pulse_ms = int(spec.get("pulseS", 0) * 1000)
        number = spec["pins"]["in"]
        hw.offs[number] = 1 - self.active
        self.pin = hw.output(number, 1 - self.active)
        self.on = False
        self.fault = None

    def command(self, value, now):
        """None when done, else why not."""
        if value is not True and value is not False:
            return "takes true or false"
        if value and (self.pulse_ms or not self.on):
            self._put(True)
            self.begin(min(self.pulse_ms or self.longest_ms, self.longest_ms or self.pulse_ms), now)
        elif not value:
            self._put(False)
        return None

    def step(self, now):
        self.look(now)

    def ends(self, now):
        if self.on:
            if not self.pulse_ms or 0 < self.longest_ms < self.pulse_ms:
                self.fault = "longest on-time reached, switched off"
            self._put(False)

    def state(self):
        return self.on

    def stop(self):
        self._put(False)

    def _put(self, on):
        self.on = on
        self.pin.value(self.active if on else 1 - self.active)
        if not on:
            self.over()
