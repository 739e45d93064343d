"""What may not be on together, or not without something else; and what an input does to an output without asking anybody."""


def why_not(guards, by_slug, slug, value):
    """Why this output may not take this value now, or None."""
    if not value:
        return None
    for g in guards:
        if g["kind"] == "exclusive" and slug in g["of"]:
            for other in g["of"]:
                if other != slug and other in by_slug and by_slug[other].now_is():
                    return "%s is on; both together are not allowed" % other
        elif g["kind"] == "needs" and g["output"] == slug and by_slug[g["input"]].now_is() is not g["is"]:
            return "%s is not %s" % (g["input"], "on" if g["is"] else "off")
    return None


def enforce(guards, by_slug, now):
    """Switches off what has lost what it needs; gives (slug, why) for each."""
    off = []
    for g in guards:
        if g["kind"] == "needs":
            output = by_slug[g["output"]]
            if output.now_is() and by_slug[g["input"]].now_is() is not g["is"]:
                output.driver.command(False if output.now_is() is True else 0, now)
                off.append((g["output"], "switched off: %s is not %s" % (g["input"], "on" if g["is"] else "off")))
    return off


class Rules:
    def __init__(self, rules, by_slug):
        self.rules, self.by_slug = rules, by_slug
        self.before = {}

    def step(self, told, alone):
        """(slug, value) for every rule that acts now. `told` has the events of this step by slug."""
        out = []
        for at, rule in enumerate(self.rules):
            works, when = rule.get("works", "always"), rule["when"]
            source = self.by_slug[rule["from"]]
            if isinstance(when, str):
                acts = told.get(rule["from"]) == when
            elif not source.known():
                continue
            else:
                acts = self._crossed(at, when, source.now_is())
            if acts and (works == "always" or (works == "alone" and alone)):
                value, target = rule["do"], self.by_slug[rule["to"]]
                out.append((rule["to"], (not target.now_is()) if value == "toggle" else value))
        return out

    def _crossed(self, at, when, value):
        if isinstance(when, dict):
            if value is None:
                return False
            true_now = value > when["above"] if "above" in when else value < when["below"]
        else:
            true_now = value is when
        was = self.before.get(at)
        self.before[at] = true_now
        return true_now and was is False
