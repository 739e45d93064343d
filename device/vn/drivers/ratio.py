"""A voltage that follows its supply: measured in one go with the supply, so that a sagging one changes nothing."""
from vn import analog
from vn.drivers import adc

LEAST = 0.25  # of the nominal supply: below it the share of two small numbers says nothing


class Both:
    """Volts as they would be at the nominal supply."""

    def __init__(self, line, spec):
        self.line, self.nominal = line, spec["nominalV"]
        self.supply = analog.Adc(spec["pin"], spec["fullV"])

    def volts(self):
        there = self.supply.volts()
        if there < LEAST * self.nominal:
            raise OSError("the supply it follows is not there: %.2f V" % there)
        return self.line.volts() * self.nominal / there


class Driver(adc.Driver):
    def __init__(self, spec):
        super().__init__(spec)
        self.adc = Both(self.adc, spec["supply"])
