"""A radar that says whether somebody is there. Unknown when it has gone silent."""
from vn import hw, frames


class Driver:
    def __init__(self, spec):
        spec["chip"] = "presence"
        self.port = frames.share(spec)
        self.hold_ms = int(spec.get("holdS", 0) * 1000)
        self.on = None
        self.heard = self.seen_at = None
        self.seen = 0

    def step(self, now):
        self.port.step(now)
        if self.port.count != self.seen:
            self.seen, self.heard = self.port.count, now
            if self.port.values[1]:
                self.on, self.seen_at = True, now
            elif self.on is None or self.seen_at is None or hw.ticks_diff(now, self.seen_at) >= self.hold_ms:
                self.on = False
        elif self.heard is not None and hw.ticks_diff(now, self.heard) >= frames.SILENT_MS:
            self.on = None

    def state(self):
        return self.on

    def stop(self):
        frames.forget(self.port)
