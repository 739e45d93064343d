"""A state made of a reading: words between cuts, with a band that does not flutter and times to hold."""
from vn import hw
from vn.signals import Output


class Driver:
    def __init__(self, spec):
        how = spec["levels"]
        self.words, self.cuts, self.half = how["words"], how["cuts"], how["band"] / 2
        self.holds, self.unknown, self.on = how["holdS"], how["unknown"], how["on"]
        self.source = self.at = self.next = None
        self.since = 0

    def step(self, now):
        value = self.source.now_is()
        if value is None:
            self.at = self.next = None
            return
        to = self._lies(value)
        if self.at is None or to == self.at:
            self.at, self.next = to, None
        elif self.next != to:
            self.next, self.since = to, now
        if self.next is not None and hw.ticks_diff(now, self.since) >= self.holds[to] * 1000:
            self.at, self.next = to, None

    def _lies(self, value):
        """Which word, coming from where it is: that one is left half a band beyond its cut."""
        cuts, at = self.cuts, self.at or 0
        half = 0 if self.at is None else self.half
        while at < len(cuts) and value >= cuts[at] + half:
            at += 1
        while at > 0 and value < cuts[at - 1] - half:
            at -= 1
        return at

    def state(self):
        return self.told(self.unknown if self.at is None else self.at)

    def told(self, at):
        if at is None:
            return None
        return at == self.on if len(self.words) == 2 else self.words[at]

    def stop(self):
        pass


class Signal(Output):
    def __init__(self, spec, driver):
        super().__init__(spec, driver)
        self.of = spec["of"]

    def step(self, now):
        self.driver.step(now)
        return self.tell(now) if self.known() else None

    def known(self):
        return self.driver.source.known()

    def now_is(self):
        """To the node's own rules an unknown reading stays unknown, whatever it counts as for others."""
        return self.driver.told(self.driver.at)
