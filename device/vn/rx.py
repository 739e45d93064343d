"""Raw frames of what nobody knows, while somebody listens: `rx/set {id, forS}` is answered, and ends by itself."""
LONGEST_S = 600


def run(node, wish, now):
    try:
        ident, for_s = wish.get("id"), int(wish.get("forS"))
    except (ValueError, TypeError, AttributeError):
        return node._answer("rx", None, "refused", "takes {id, forS}")
    ears = [s.driver for s in node.signals if hasattr(s.driver, "listen")]
    if not ears or not 0 <= for_s <= LONGEST_S:
        why = "takes 0 to %d s" % LONGEST_S if ears else "there is no receiver on this node"
        return node._answer("rx", ident, "refused", why)
    for driver in ears:
        driver.listen(now, for_s)
    node._answer("rx", ident, "done", None)
