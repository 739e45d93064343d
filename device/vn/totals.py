"""Counts that go on over restarts. Written at most every quarter of an hour and at a planned end: flash wears."""
import json

from vn import hw

FILE = "totals.json"
EVERY_MS = 900000


def _all():
    try:
        kept = json.loads(hw.read(FILE))
        return kept if isinstance(kept, dict) else {}
    except (OSError, ValueError):
        return {}


class Total:
    def __init__(self, slug):
        self.slug = slug
        got = _all().get(slug, 0)
        self.count = self.kept = got if isinstance(got, int) else 0
        self.since = None

    def add(self, n, now):
        """The count with these pulses."""
        self.count += n
        if self.count == self.kept:
            self.since = None
        elif self.since is None:
            self.since = now
        elif hw.ticks_diff(now, self.since) >= EVERY_MS:
            self.keep()
        return self.count

    def keep(self):
        if self.count != self.kept:
            kept = _all()
            kept[self.slug] = self.count
            hw.write(FILE + ".new", json.dumps(kept).encode())
            hw.replace(FILE + ".new", FILE)
            self.kept, self.since = self.count, None
