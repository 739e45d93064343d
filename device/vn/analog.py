"""Voltages at the chip's own converter."""
import machine

from vn import hw


class Adc:
    """Voltage at a pin, V. `full_v` is what the highest code stands for where the chip brings no calibration of its
    own."""

    def __init__(self, number, full_v):
        # The smallest chip has one input, and it has no pin number.
        self.adc = machine.ADC(0) if hw.SMALL else machine.ADC(machine.Pin(number))
        if hw.PORT == "esp32":
            self.adc.atten(machine.ADC.ATTN_11DB)
        self.scale = full_v / 65535
        self.measured = getattr(self.adc, "read_uv", None)

    def volts(self):
        return self.measured() / 1e6 if self.measured else self.adc.read_u16() * self.scale

    def share(self):
        """Share of the highest code, for what follows the supply."""
        return self.adc.read_u16() / 65535
