"""A calibration that is more than a straight line. Same order and same numbers as the product's."""
import math

from vn import chain


class Curve:
    def __init__(self, spec):
        self.how = spec
        self.at = getattr(self, spec["kind"])

    def of(self, x):
        """The corrected reading, or None where the curve says nothing."""
        try:
            y = self.at(x)
        except (ValueError, OverflowError, ZeroDivisionError):
            return None
        return y if y > -1e30 and y < 1e30 else None

    def quadratic(self, x):
        h = self.how
        u = (x - h["centre"]) / h["scale"]
        return h["c0"] + u * (h["c1"] + u * h["c2"])

    def power(self, x):
        h = self.how
        if not x > 0:
            raise ValueError
        return h["a"] * math.pow(x / h["at"], h["b"])

    def exponential(self, x):
        h = self.how
        return h["a"] * math.exp(h["b"] * (x - h["at"]))

    def thermistor(self, x):
        h = self.how
        u = math.log(h["ohm25"]) + h["betaK"] * (1 / (x + 273.15) - 1 / 298.15)
        return 1 / (h["a"] + h["b"] * u + h["c"] * u * u * u) - 273.15

    def table(self, at):
        x, y, slope = self.how["x"], self.how["y"], self.how["slope"]
        if at <= x[0]:
            return y[0] + slope[0] * (at - x[0])
        if at >= x[-1]:
            return y[-1] + slope[-1] * (at - x[-1])
        i = 0
        while at > x[i + 1]:
            i += 1
        h = x[i + 1] - x[i]
        t = (at - x[i]) / h
        s = 1 - t
        return s * s * ((1 + 2 * t) * y[i] + t * h * slope[i]) + t * t * ((3 - 2 * t) * y[i + 1] - s * h * slope[i + 1])


class Chain(chain.Chain):
    """A chain with a curve in place of gain and offset, which are 1 and 0."""

    def __init__(self, spec):
        super().__init__(spec)
        self.curve = Curve(spec["curve"])

    def step(self, reading, since_s):
        placed = super().step(reading, since_s)
        return None if placed is None else self.curve.of(placed)
