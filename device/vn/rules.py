"""What an input does to an output without asking anybody.

A first value, and the first one after unknown, is where a rule begins to look: only what changes from there acts."""
from vn import hw

LONG_STEP_MS = 2000  # what came in during a longer one is not acted on


class Rules:
    def __init__(self, rules, by_slug):
        self.rules, self.by_slug = rules, by_slug
        self.held = {}  # rule -> whether its condition held
        self.since = {}  # rule -> when it began to, while it has not acted yet
        self.at = None

    def step(self, told, alone, now):
        """(slug, value) for every rule that acts now. `told` has the events of this step by slug."""
        if self.at is not None and hw.ticks_diff(now, self.at) > LONG_STEP_MS:
            self.held, self.since, told = {}, {}, {}
        self.at = now
        out = []
        for i, rule in enumerate(self.rules):
            works, when = rule.get("works", "always"), rule["when"]
            source = self.by_slug[rule["from"]]
            if isinstance(when, str) and when != "gone":
                acts = told.get(rule["from"]) == when
            else:
                acts = source.known() and self._lasted(i, when, source.now_is(), rule.get("forS", 0), now)
            if acts and (works == "always" or (works == "alone" and alone)):
                value, target = rule["do"], self.by_slug[rule["to"]]
                out.append((rule["to"], (not target.now_is()) if value == "toggle" else value))
        return out

    def _lasted(self, i, when, value, for_s, now):
        """True once, when what the rule waits for has come and has lasted."""
        was = self.held.get(i)
        holds = _holds(when, value, was)
        self.held[i] = holds
        if not holds:
            self.since.pop(i, None)
        elif was is False:
            self.since[i] = now
        if i not in self.since or hw.ticks_diff(now, self.since[i]) < for_s * 1000:
            return False
        del self.since[i]
        return True


def _holds(when, value, was):
    """None where nothing is known to compare; a value inside the band keeps what was."""
    if when is None or when == "gone":
        return value is None
    if value is None:
        return None
    if not isinstance(when, dict):
        return value is when
    if "is" in when:
        return value == when["is"]
    band = when.get("band", 0) if was else 0
    return value > when["above"] - band if "above" in when else value < when["below"] + band
