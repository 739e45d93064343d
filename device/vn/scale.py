"""Volts at the pin turned into a reading: a straight line, or the resistor that makes them."""
import math


class Scale:
    def __init__(self, spec):
        self.at_zero, self.per_volt = spec.get("atZero", 0), spec.get("perVolt", 1)
        self.ntc, self.light = spec.get("ntc"), spec.get("light")

    def reading(self, volts):
        """The reading, or None where only a broken or a shorted wire would give this voltage."""
        if self.ntc:
            n = self.ntc
            if not 0.003 < volts / n["supplyV"] < 0.995:
                return None
            return 1 / (1 / 298.15 + math.log(_ohm(volts, n) / n["ohm25"]) / n["betaK"]) - 273.15
        if self.light:
            # Darker than it can tell is dark, brighter is bright: neither is a fault.
            n = self.light
            ohm = min(max(_ohm(volts, n), n["brightOhm"]), n["darkOhm"])
            return 100 * math.log(n["darkOhm"] / ohm) / math.log(n["darkOhm"] / n["brightOhm"])
        return self.at_zero + self.per_volt * volts


def _ohm(volts, n):
    """What lies between the pin and ground, less what else hangs there; very much where nothing flows through it."""
    if volts <= 0:
        return 1
    through = (n["supplyV"] - volts) / (volts * n["pullOhm"]) - (1 / n["loadOhm"] if "loadOhm" in n else 0)
    return max(1 / through - n.get("seriesOhm", 0), 1) if through > 1e-9 else 1e9
