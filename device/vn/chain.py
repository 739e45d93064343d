"""A reading on its way out: range, median, average, geometry, calibration. Same order and same numbers as the product's."""


class Chain:
    def __init__(self, spec):
        self.spec = spec
        self.forget()

    def forget(self):
        self.recent = []
        self.average = None

    def step(self, reading, since_s):
        """The conditioned value, or None for unknown; an unknown reading empties the memory."""
        spec = self.spec
        if reading is None or not (spec["min"] <= reading <= spec["max"]):
            self.forget()
            return None
        self.recent.append(reading)
        del self.recent[: -spec["median"]]
        ordered = sorted(self.recent)
        middle = ordered[(len(ordered) - 1) >> 1]
        tau = spec["averageS"]
        if tau > 0 and self.average is not None:
            middle = self.average + (since_s / (tau + since_s)) * (middle - self.average)
        self.average = middle
        placed = middle if spec["mountM"] is None else spec["mountM"] - middle
        return placed * spec["gain"] + spec["offset"]
