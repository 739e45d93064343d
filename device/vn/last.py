"""What outputs and shifted thresholds were when the power went, for those that come back as they were. Written seldom: flash wears."""
import json

from vn import hw

FILE = "last.json"
REST_MS = 5000


class Last:
    def __init__(self, signals):
        self.outputs = [s for s in signals if getattr(s, "at_start", "off") == "last"]
        try:
            self.kept = json.loads(hw.read(FILE))
        except (OSError, ValueError):
            self.kept = {}
        self.since = None

    def value(self, slug):
        return self.kept.get(slug) if isinstance(self.kept, dict) else None

    def step(self, now):
        """Writes what has been so for a while and differs from what is written."""
        states = {s.slug: getattr(s, "keep", s.now_is)() for s in self.outputs}
        if states == self.kept:
            self.since = None
        elif self.since is None or states != self.seen:
            self.since, self.seen = now, states
        elif hw.ticks_diff(now, self.since) >= REST_MS:
            hw.write(FILE + ".new", json.dumps(states).encode())
            hw.replace(FILE + ".new", FILE)
            self.kept, self.since = states, None
