"""A command: done, done already, or refused with the reason."""
import json

REMEMBERED = 8  # command ids that are not done twice


def run(node, where, payload, now):
    ident = until = None
    try:
        value = json.loads(payload)
    except ValueError:
        return node._answer(where, ident, "refused", "not JSON")
    if where == "rx":
        from vn.node import once

        return once("rx").run(node, value, now)
    if isinstance(value, dict):
        ident, until, value = value.get("id"), value.get("until"), value.get("value")
    if ident is not None and (where, ident) in node.done_ids:
        return node._answer(where, ident, "done", None)
    reason = _late(node, until) or node._do(where, value, now)
    if reason is None and ident is not None:
        node.done_ids.append((where, ident))
        del node.done_ids[:-REMEMBERED]
    node._answer(where, ident, "refused" if reason else "done", reason)


def _late(node, until):
    if until is None:
        return None
    utc = node.utc()
    if utc is None:
        return "the clock is not set yet"
    return "too late" if not isinstance(until, (int, float)) or utc > until else None
