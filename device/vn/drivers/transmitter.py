"""Switches a far thing by its codes. Nobody answers: its state is what was said last.

All that is said at one pin shares the time it may be on the air in an hour, and that is kept here, whoever asks.
"""
from array import array

from vn import hw
from vn.deadlines import Timed

HOW = {"esp32": "rmt"}
MINUTES = 61  # an hour, and the one that is running
WAITING = 8

_by_pin = {}


class Transmitter:
    def __init__(self, number, idle, permille):
        hw.offs[number] = idle
        module = "vn.trains_" + HOW.get(hw.PORT, "soft")
        self.train = __import__(module, None, None, ("Train",)).Train(number, idle)
        self.allowed = 3600 * permille  # ms in an hour
        # What was said before this start nobody knows: most of it counts as used.
        self.used = [0] * MINUTES
        self.used[0] = self.allowed - self.allowed // 10
        self.minute = hw.up_s // 60
        self.owed = 0  # ms that are kept for switching off what is on
        self.jobs = []

    def left(self):
        """Time on the air that is left of this hour, ms."""
        now = hw.up_s // 60
        while self.minute < now:
            self.minute += 1
            self.used[self.minute % MINUTES] = 0
        return self.allowed - self.owed - sum(self.used)

    def ask(self, job, owed):
        """Why it is not said, or None: it waits for its turn then. `owed` is what switching off again will take, ms."""
        if job.ms + owed > self.left():
            return "it has been on the air for as long as it may be in an hour"
        if len(self.jobs) >= WAITING:
            return "too much is waiting to be said"
        self.used[self.minute % MINUTES] += job.ms
        job.left = job.repeats
        self.jobs.append(job)
        return None

    def step(self):
        if not self.jobs or self.train.busy():
            return
        job = self.jobs[0]
        if job.left > 0:
            job.left -= self.train.say(job.us, job.gap, job.left)
        else:
            self.jobs.pop(0)


class Code:
    """One burst: frames of one code."""

    def __init__(self, family, letters, repeats):
        us = list(family.get("lead", ()))
        for letter in letters:
            us += family["one" if letter == "1" else "zero" if letter == "0" else "open"]
        us.append(family["high"])
        self.us, self.gap, self.repeats = array("H", us), family["gap"], repeats
        self.left = 0
        self.ms = (sum(us) + self.gap) * repeats // 1000 + 1


class Driver(Timed):
    fault = None

    def __init__(self, spec):
        number = spec["pins"]["a"]
        if number not in _by_pin:
            _by_pin[number] = Transmitter(number, 1 if spec.get("activeLow") else 0, spec["permille"])
        self.by = _by_pin[number]
        says = spec["says"]
        self.codes = [Code(says["family"], says[k], says["repeats"]) if k in says else None for k in ("off", "on")]
        self.longest_ms = int(spec.get("longestOnS", 0) * 1000)
        self.pulse_ms = int(spec.get("pulseS", 0) * 1000)
        self.owed = 0
        self.ended = False
        self.on = None if self.codes[0] else False
        if self.codes[0] and (self.longest_ms or self.pulse_ms):
            # It may be on from before, and nobody counts any more how long.
            self.ended = True

    def command(self, value, now):
        if value is not True and value is not False:
            return "takes true or false"
        if not value and not self.codes[0]:
            return "it has no code for off"
        was = self.on
        why = self._say(value)
        self.ended = self.ended and why is not None
        if why is None and value and self.codes[0]:
            # Said once more it is not on for longer; a pulse begins anew.
            if self.pulse_ms or not was or self.ends_at is None:
                self.begin(min(self.pulse_ms or self.longest_ms, self.longest_ms or self.pulse_ms), now)
        elif why is None:
            self.over()
        return why

    def _say(self, value):
        code, by = self.codes[value], self.by
        if code in by.jobs and not self.codes[0]:
            return "it is being said already"
        # What is on must be able to go off, however much has been said by then.
        owed = self.codes[0].ms if value and self.codes[0] else 0
        by.owed -= self.owed
        before = [job for job in by.jobs if job in self.codes]
        why = by.ask(code, owed)
        if why is None:
            # It takes the place of what was asked for before.
            for job in before:
                by.jobs.remove(job)
            self.owed, self.on = owed, value
        by.owed += self.owed
        return why

    def step(self, now):
        self.look(now)
        if self.ended and self._say(False) is None:
            self.ended = False
        self.by.step()
        if not self.codes[0] and self.on and self.codes[1] not in self.by.jobs:
            self.on = False

    def ends(self, now):
        # Called from a timer too: what takes memory waits for the step.
        if not self.pulse_ms or 0 < self.longest_ms < self.pulse_ms:
            self.fault = "longest on-time reached, switched off"
        self.ended = True

    def state(self):
        return self.on

    def stop(self):
        self.by.train.stop()


hw.on_release(_by_pin.clear)
