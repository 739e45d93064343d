"""A reading that a part sends by itself, frame by frame."""
from vn import hw, frames


class Driver:
    def __init__(self, spec):
        self.port = frames.share(spec)
        self.seen = 0
        self.told_at = None

    def step(self, now):
        """(reading or None,) for each frame, (None,) when the part has gone silent, else None."""
        self.port.step(now)
        if self.port.count != self.seen:
            self.seen, self.told_at = self.port.count, now
            return (self.port.values[0],)
        if self.told_at is None:
            self.told_at = now
        if hw.ticks_diff(now, self.told_at) >= frames.SILENT_MS:
            self.told_at = now
            return (None,)
        return None

    def stop(self):
        frames.forget(self.port)
