"""One reading of a part on the bus. A part with several is asked once for all of them."""
from vn import i2cpart


class Driver:
    SLOW = True

    def __init__(self, spec):
        self.where = i2cpart.place(spec)
        self.part = i2cpart.share(self.where, spec)
        self.of = spec["of"]
        self.seen = self.part.count

    def step(self, now):
        """(reading or None,) when there was a measurement, else None."""
        self.part.step(now)
        if self.part.count == self.seen:
            return None
        self.seen = self.part.count
        if self.part.values and self.of not in self.part.values:
            return None  # its turn has not come yet
        return (self.part.values.get(self.of),)

    def stop(self):
        i2cpart.forget(self.where)
