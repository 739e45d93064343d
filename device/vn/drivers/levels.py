"""A state made of a reading: words between cuts, with a band that does not flutter and times to hold."""
from vn import hw
from vn.signals import Output


class Signal(Output):
    """It is its own driver: nothing is wired to it."""

    def __init__(self, spec):
        super().__init__(spec, self)
        self.of, self.how = spec["of"], spec["levels"]
        self.source = self.at = self.next = None
        self.sure = False
        # What a command has added to the cuts: kept over a restart.
        self.by, self.most = 0, self.how.get("shift", 0)
        if self.most:
            self.at_start = "last"

    def command(self, value, now):
        """None when done, else why not."""
        if not self.most:
            return "this signal takes no commands"
        if isinstance(value, bool) or not isinstance(value, (int, float)) or not -self.most <= value <= self.most:
            return "takes a number from %g to %g" % (-self.most, self.most)
        self.by = value

    def keep(self):
        """For the next start."""
        return self.by

    def step(self, now):
        value, how = self.source.now_is(), self.how
        self.sure = value is not None
        to = how["unknown"]
        if value is not None:
            # Coming from where it is: a word is left half a band beyond its cut.
            cuts, to = how["cuts"], self.at or 0
            value -= self.by
            half = 0 if self.at is None else how["band"] / 2
            while to < len(cuts) and value >= cuts[to] + half:
                to += 1
            while to > 0 and value < cuts[to - 1] - half:
                to -= 1
        if to is None or self.at is None or to == self.at:
            self.at, self.next = to, None
        else:
            if self.next != to:
                self.next, self.since = to, now
            if hw.ticks_diff(now, self.since) >= how["holdS"][to] * 1000:
                self.at, self.next = to, None
        return self.tell(now) if self.source.known() else None

    def state(self):
        return self.told(self.at)

    def now_is(self):
        """To the node's own rules an unknown reading stays unknown, whatever it counts as for others."""
        return self.told(self.at) if self.sure else None

    def told(self, at):
        how = self.how
        if at is None:
            return None
        return at == how["on"] if len(how["words"]) == 2 else how["words"][at]

    def known(self):
        return self.source.known()

    def stop(self):
        pass
