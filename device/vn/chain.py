"""A reading on its way out: range, median, average, geometry, calibration. Same order and same numbers as the product's."""


class Chain:
    def __init__(self, spec):
        self.low, self.high = spec["min"], spec["max"]
        self.median = spec.get("median", 1)
        self.tau = spec.get("averageS", 0)
        self.mount = spec.get("mountM")
        self.gain, self.offset = spec.get("gain", 1), spec.get("offset", 0)
        self.forget()

    def forget(self):
        self.recent = []
        self.average = None

    def step(self, reading, since_s):
        """The conditioned value, or None for unknown; an unknown reading empties the memory."""
        if reading is None or not (self.low <= reading <= self.high):
            self.forget()
            return None
        self.recent.append(reading)
        del self.recent[: -self.median]
        ordered = sorted(self.recent)
        middle = ordered[(len(ordered) - 1) >> 1]
        if self.tau > 0 and self.average is not None:
            middle = self.average + (since_s / (self.tau + since_s)) * (middle - self.average)
        self.average = middle
        placed = middle if self.mount is None else self.mount - middle
        return placed * self.gain + self.offset
