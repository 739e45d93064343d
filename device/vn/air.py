"""Senders that are heard, not built: what their codes mean, who of several gateways says it, and when it is past.

The gateway named `via` says a burst at once; the others wait by their rank and keep still when the mark of somebody
who was first comes. `via` moves by claim alone, and a claim counts once the broker has given it back.
"""
import json

from vn import hw
from vn.codes import Bursts
from vn.node import once

RANK_MS, MARK_MS = 800, 2000
STOOD_IN, OF = 3, 10  # bursts said in another's place after which one claims


class Told:
    """One thing a sender tells: an event, a state that ends, or a bit."""

    def __init__(self, spec):
        self.slug, self.event = spec["slug"], spec["kind"] == "event"
        self.at, self.bit = spec.get("at"), spec.get("is", "1")
        self.codes = [(c.encode(), v) for c, v in (spec.get("codes") or {}).items()]
        self.end_s, self.then = spec.get("endS"), spec.get("then")
        self.value = self.said = self.since = None
        self.ended = False

    def of(self, content):
        """What this content says of it: (value,), or None when it says nothing."""
        if self.at is not None:
            return (chr(content[self.at]) == self.bit,)
        for code, value in self.codes:
            if fits(code, content):
                return (value,)
        return None

    def known(self):
        return not self.event

    def now_is(self):
        return self.value


def fits(pattern, content):
    """A dot stands for any bit."""
    for i in range(len(pattern)):
        if pattern[i] != 46 and pattern[i] != content[i]:
            return False
    return True


class Sender:
    def __init__(self, spec):
        self.slug, self.family, self.address = spec["slug"], spec["family"], spec["address"].encode()
        self.rank, self.others = spec.get("rank", 0), tuple(spec.get("others") or ())
        self.told = [Told(s) for s in spec["signals"]]
        self.via = None
        self.wait = None  # content and when it is to be said
        self.mark = None  # content and when another said it
        self.stood = [0] * OF if self.others else None


def begin(node, spec):
    """What senders say goes before the rules of the node, which hear of it."""
    node.rules = air = Air(node, spec, node.rules)
    for s in node.signals:
        if hasattr(s.driver, "listen"):
            s.driver.air = air


class Air:
    def __init__(self, node, spec, rules):
        self.node, self.rules = node, rules
        self.slug = node.base[len(node.root) + 1 :]
        self.client = self.arriving = None  # the connection this has been made known to
        self.senders = [Sender(s) for s in spec["senders"]]
        self.families = [Bursts(f, hw.ticks_diff) for f in spec["families"]]
        self.heard = []
        self.here = {}  # other gateways, by slug: whether they are online
        for s in self.senders:
            for told in s.told:
                # The same questions are asked of them as of the node's own.
                node.by_slug[s.slug + "/" + told.slug] = told
                told.since = node.uptime_s

    def topics(self):
        """What is to be subscribed to beside the node's own."""
        root = self.node.root
        for s in self.senders:
            yield "%s/%s/via" % (root, s.slug)
            if s.others:
                yield "%s/%s/heard" % (root, s.slug)
        for other in {o for s in self.senders for o in s.others}:
            yield "%s/%s/status" % (root, other)

    def _arrive(self):
        """The broker has let the node in: what is asked of it, one thing a step; then states are said anew by whom they
        are said."""
        client = self.client
        client.on_message = self.message
        for topic in self.topics():
            once("arrive").subscribe(client, topic)
            yield
        for s in self.senders:
            for told in s.told:
                told.said = None
                if not told.event and (told.ended or told.value is not None) and self._mine(s):
                    self._state(s, told)
                    yield

    def _connection(self):
        client = self.node.client
        if client.state != "up":
            self.client = self.arriving = None
        elif self.client is not client:
            self.client = client
            self.arriving = self._arrive()
            for s in self.senders:
                # Who has said what waits here meanwhile nobody knows.
                s.wait = s.mark = None
        if self.arriving:
            try:
                next(self.arriving)
            except StopIteration:
                self.arriving = None

    def frame(self, us, count, gap, now):
        """A frame the receiver has cut out. What it makes certain waits for the next step."""
        for family in range(len(self.families)):
            # Makes that are alike read each other's frames: whose address it is decides.
            bursts = self.families[family]
            if bursts.hear(us, count, gap, now):
                for s in self.senders:
                    if s.family == family and fits(s.address, bursts.code):
                        self.heard.append((s, bytes(bursts.code)))

    def step(self, events, alone, now):
        """Before the rules of the node: `events` is what they hear of in this step, also by SENDER/SIGNAL."""
        self._connection()
        while self.heard:
            s, content = self.heard.pop(0)
            for told in s.told:
                got = told.of(content)
                if got and told.event:
                    events[s.slug + "/" + told.slug] = got[0]
            self._take(s, content)
            self._first(s, content, now)
        for s in self.senders:
            if s.wait and hw.ticks_diff(now, s.wait[1]) >= 0:
                content, s.wait = s.wait[0], None
                self._say(s, content, now)
            for told in s.told:
                if told.end_s and not told.ended and self.node.uptime_s - told.since >= told.end_s:
                    # Not over before somebody has said so: who speaks for it may be gone by then.
                    told.value = told.then
                    if self.client and self._mine(s):
                        told.ended = True
                        self._state(s, told)
        return self.rules.step(events, alone, now) if self.rules else ()

    def _mine(self, s):
        """Whether this gateway speaks for it: it is `via`, or whoever is cannot."""
        return s.via == self.slug or not self._present(s.via)

    def _present(self, slug):
        return slug is not None and (slug == self.slug or self.here.get(slug, False))

    def _take(self, s, content):
        for told in s.told:
            got = told.of(content)
            if got and not told.event:
                told.value, told.since, told.ended = got[0], self.node.uptime_s, False

    def _first(self, s, content, now):
        if s.mark and s.mark[0] == content and hw.ticks_diff(now, s.mark[1]) < MARK_MS:
            s.mark = None
            return self._stood_in(s, False)
        present = self._present(s.via)
        if s.via == self.slug or (not present and s.rank == 0):
            return self._say(s, content, now)
        if s.wait:
            # What waited gives way to what came after it, and is said before.
            self._say(s, s.wait[0], now)
        s.wait = (content, hw.ticks_add(now, (s.rank + (1 if present else 0)) * RANK_MS))

    def _say(self, s, content, now):
        node = self.node
        for told in s.told:
            got = told.of(content)
            if not got:
                continue
            if told.event:
                node.client.publish(self._topic(s, told.slug), json.dumps(got[0]), False, 1, now)
            elif told.said != (got[0],):
                self._state(s, told)
        mark = '{"by":"%s","content":"%s"}' % (self.slug, str(content, "utf-8"))
        node.client.publish(self._topic(s, "heard"), mark, False, 1, now)
        if s.via != self.slug and (self._stood_in(s, True) or not self._present(s.via)):
            node.client.publish(self._topic(s, "via"), '"%s"' % self.slug, True, 1)

    def _stood_in(self, s, did):
        """True when it was done often enough of late for a claim."""
        if s.stood is None:
            return False
        s.stood.append(1 if did else 0)
        s.stood.pop(0)
        return sum(s.stood) >= STOOD_IN

    def _state(self, s, told):
        told.said = (told.value,)
        self.node.client.publish(self._topic(s, told.slug), json.dumps(told.value), True, 1)

    def _topic(self, s, leaf):
        return "%s/%s/%s" % (self.node.root, s.slug, leaf)

    def message(self, topic, payload, retained):
        """What others say of senders; the rest is the node's."""
        if topic is None or not self._about(topic, payload, hw.ticks_ms()):
            self.node._message(topic, payload, retained)

    def _about(self, topic, payload, now):
        parts = topic.split("/")
        if len(parts) != 3 or parts[0] != self.node.root:
            return False
        who, leaf = parts[1], parts[2]
        try:
            value = json.loads(payload) if payload else None
        except ValueError:
            return False
        if leaf == "status" and who != self.slug:
            self.here[who] = isinstance(value, dict) and value.get("is") == "online"
            return True
        for s in self.senders:
            if s.slug == who and leaf == "via":
                if value != s.via and s.stood:
                    s.stood = [0] * OF
                s.via = value if isinstance(value, str) else None
                return True
            if s.slug == who and leaf == "heard" and isinstance(value, dict) and value.get("by") != self.slug:
                self._marked(s, str(value.get("content")).encode(), now)
                return True
        return False

    def _marked(self, s, content, now):
        if len(content) != len(s.address):
            return
        if s.wait and s.wait[0] == content:
            s.wait = None
            self._stood_in(s, False)
        else:
            s.mark = (content, now)
        self._take(s, content)
        for told in s.told:
            if not told.event:
                told.said = (told.value,)
