"""A knob that clicks: two contacts a quarter apart. Each edge moves by the table of what can follow what; bounce goes
back and forth and cancels."""
from vn import hw

_MOVE = (0, -1, 1, 0, 1, 0, 0, -1, -1, 0, 0, 1, 0, 1, -1, 0)


class Driver:
    def __init__(self, spec):
        self.a, self.b = hw.input(spec["pins"]["a"], spec.get("pull")), hw.input(spec["pins"]["b"], spec.get("pull"))
        self.per_step = spec.get("perStep", 4)
        self.edges = 0
        self.last = self._look()
        hw.on_edge(self.a, True, self._edge)
        hw.on_edge(self.b, True, self._edge)

    def _look(self):
        return (self.a.value() << 1) | self.b.value()

    def _edge(self, _):
        here = self._look()
        self.edges += _MOVE[(self.last << 2) | here]
        self.last = here

    def step(self, now):
        """("right",) or ("left",) for one click, else None."""
        if abs(self.edges) < self.per_step:
            return None
        way = 1 if self.edges > 0 else -1
        self.edges -= way * self.per_step
        return ("right",) if way > 0 else ("left",)

    def stop(self):
        pass
