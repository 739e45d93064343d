"""A voltage at an input of a converter on the bus."""
from vn import i2cpart
from vn.scale import Scale


class Driver:
    SLOW = True

    def __init__(self, spec):
        self.where = i2cpart.place(spec)
        self.part = i2cpart.share(self.where, spec)
        self.input = "a%d" % spec["input"]
        self.scale = Scale(spec)
        self.count = self.part.count

    def step(self, now):
        """(reading or None,) when all its inputs have been asked, else None."""
        self.part.step(now)
        if self.part.count == self.count:
            return None
        self.count = self.part.count
        volts = self.part.values.get(self.input)
        if volts is None and self.part.values:
            return None  # its turn has not come yet
        return (None if volts is None else self.scale.reading(volts),)

    def stop(self):
        i2cpart.forget(self.where)
