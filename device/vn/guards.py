"""What may not be on together, or not without something else."""


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
