"""Patterns of presses from a debounced key. Step for step the same as the product's."""
from vn import hw
from vn.debounce import Debounce

STROKES = {"single": "s", "double": "ss", "triple": "sss", "quadruple": "ssss", "long": "l", "short-long": "sl", "long-short": "ls"}
_shared = {}


def _patterns(used):
    """Keys that tell the same patterns share one table of them."""
    key = " ".join(used)
    if key not in _shared:
        _shared[key] = (tuple((p, STROKES[p]) for p in used if p in STROKES), "long-release" in used or "repeat" in used, "long-release" in used, "repeat" in used)
    return _shared[key]


class Presses:
    def __init__(self, spec):
        how = spec.get("presses")
        self.debounce = Debounce(False, spec.get("debounceMs", 0))
        self.known, self.waits, self.tells_release, self.repeats = _patterns(how["used"] if how else ("single",))
        self.gap, self.long_ms = (how["gapMs"], how["longMs"]) if how else (300, 600)
        self.repeat_ms = how.get("repeatMs", 300) if how else 300
        self.strokes = ""
        self.held = self.long = self.early = False
        self.since = self.repeated = 0

    def _begins(self, strokes):
        for _, k in self.known:
            if k.startswith(strokes):
                return True
        return False

    def _longer(self, strokes):
        for _, k in self.known:
            if len(k) > len(strokes) and k.startswith(strokes):
                return True
        return False

    def _named(self, strokes):
        for p, k in self.known:
            if k == strokes:
                return p
        return None

    def _end(self, strokes):
        if self._longer(strokes):
            self.strokes = strokes
            return None
        self.strokes = ""
        return self._named(strokes)

    def step(self, level, now):
        """(pattern,) when one has just become certain, else None."""
        self.debounce.step(level, now)
        told = self.look(self.debounce.stable, now)
        return (told,) if told else None

    def look(self, held, now):
        told = None
        passed = hw.ticks_diff(now, self.since)
        if held and not self.held:
            if self.strokes and passed >= self.gap:
                told, self.strokes = self._named(self.strokes), ""
            self.held, self.since, self.long, self.early = True, now, False, False
            nxt = self.strokes + "s"
            if told is None and not self.waits and self._named(nxt) and not self._longer(nxt) and not self._begins(self.strokes + "l"):
                told, self.strokes, self.early = self._named(nxt), "", True
        elif held and not self.early:
            if not self.long and passed >= self.long_ms and (self.waits or self._begins(self.strokes + "l")):
                self.long, self.repeated = True, now
                told = self._end(self.strokes + "l")
            elif self.long and self.repeats and hw.ticks_diff(now, self.repeated) >= self.repeat_ms:
                self.repeated = now
                told = "repeat"
        elif not held and self.held:
            self.held, self.since = False, now
            if self.long:
                told = "long-release" if self.tells_release else None
            elif not self.early:
                told = self._end(self.strokes + "s")
            self.early = False
        elif not held and self.strokes and passed >= self.gap:
            told, self.strokes = self._named(self.strokes), ""
        return told
