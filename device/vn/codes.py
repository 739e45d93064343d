"""Codes from pulses, by families that are data: whole numbers, and not a byte of memory asked for.

What core/radio makes of a frame this makes of it, digit by digit: lengths in µs, scales in 256ths.
"""
from array import array

LEAST_SCALE, MOST_SCALE = 154, 410
LETTERS = b"01f"
BURST_MS, SLOTS = 600, 4


class Family:
    def __init__(self, spec):
        symbols = [spec["zero"], spec["one"]]
        if "open" in spec:
            symbols.append(spec["open"])
        self.lead = array("H", spec.get("lead") or ())
        self.n, self.width, self.kinds = spec["n"], len(symbols[0]), len(symbols)
        self.us = array("H", [us for s in symbols for us in s])
        self.high, self.gap, self.tol = spec["high"], spec["gap"], spec["tol"]
        whole = len({sum(s) for s in symbols}) == 1
        # Pulses that are the same whatever is said: all together, or those that do not differ.
        same = [all(s[j] == symbols[0][j] for s in symbols) for j in range(self.width)]
        self.steady = bytes([1 if whole or x else 0 for x in same])
        self.nominal = self.n * sum(us for us, same in zip(symbols[0], self.steady) if same)

    def decode(self, us, count, gap, code):
        """How many symbols are spoilt in the frame that the first `count` of `us` are, 63 for each in `code` beside the
        letters; -1 when it is none of this family or more than half is spoilt."""
        lead, width, n = len(self.lead), self.width, self.n
        if count != lead + n * width + 1:
            return -1
        scale = 256
        if self.nominal:
            heard = 0
            for j in range(width):
                if self.steady[j]:
                    at = lead + j
                    for _ in range(n):
                        heard += us[at]
                        at += width
            scale = heard * 256 // self.nominal
        if scale < LEAST_SCALE or scale > MOST_SCALE:
            return -1
        heard = told = 0
        at = lead
        for _ in range(n):
            base = self._nearest(us, at, scale) * width
            for j in range(width):
                heard += us[at + j]
                told += self.us[base + j]
            at += width
        scale = heard * 256 // told
        if scale < LEAST_SCALE or scale > MOST_SCALE:
            return -1
        for j in range(lead):
            if self._off_long(us[j], self.lead[j], scale):
                return -1
        if self._off_long(us[count - 1], self.high, scale) or gap * 512 < self.gap * scale:
            return -1
        at = lead
        most = self.tol * scale
        spoilt = 0
        for i in range(n):
            kind = self._nearest(us, at, scale)
            base = kind * width
            code[i] = LETTERS[kind]
            for j in range(width):
                if abs(us[at + j] * 256 - self.us[base + j] * scale) > most:
                    code[i] = 63
            if code[i] == 63:
                spoilt += 1
            at += width
        return -1 if spoilt * 2 > n else spoilt

    def _off_long(self, pulse, nominal, scale):
        by = abs(pulse * 256 - nominal * scale)
        return by > self.tol * scale and by * 4 > nominal * scale

    def _nearest(self, us, at, scale):
        best = least = 0
        for kind in range(self.kinds):
            by = 0
            base = kind * self.width
            for j in range(self.width):
                by += abs(us[at + j] * 256 - self.us[base + j] * scale)
            if kind == 0 or by < least:
                best, least = kind, by
        return best


class Bursts:
    """Of the frames of one family: two equal ones are demanded, a burst counts once, and senders that speak at once do not
    disturb each other's count. Where hardly a frame is whole each symbol is voted for by itself: two who say the same
    against nobody, or three against one."""

    def __init__(self, spec, ticks_diff):
        self.family, self.diff = Family(spec), ticks_diff
        self.n = self.family.n
        self.code = bytearray(self.n)
        self.slots = [bytearray(self.n) for _ in range(SLOTS)]
        self.at, self.frames = [0] * SLOTS, [0] * SLOTS
        self.votes, self.voted = bytearray(3 * self.n), 0

    def hear(self, us, count, gap, now):
        """True when this frame makes a burst certain, which is in `code` then."""
        spoilt = self.family.decode(us, count, gap, self.code)
        if spoilt < 0:
            return False
        told = False
        if spoilt == 0:
            k = self._slot(now)
            self.frames[k] += 1
            told = self.frames[k] == 2
        whole = self._vote(now)
        if whole and not told:
            for j in range(self.n):
                self.code[j] = LETTERS[self._certain(j)]
            k = self._slot(now)
            told = self.frames[k] < 2
            if told:
                self.frames[k] = 2
        return told

    def _vote(self, now):
        """Adds this frame's letters; True when every symbol has its votes."""
        votes, n = self.votes, self.n
        if self.diff(now, self.voted) >= BURST_MS:
            for at in range(len(votes)):
                votes[at] = 0
        self.voted = now
        whole = True
        for i in range(n):
            for kind in range(3):
                at = kind * n + i
                if LETTERS[kind] == self.code[i] and votes[at] < 200:
                    votes[at] += 1
            if self._certain(i) < 0:
                whole = False
        return whole

    def _certain(self, i):
        """Which letter this symbol is by its votes; -1 while that is open."""
        best = -1
        most = rest = 0
        for kind in range(3):
            n = self.votes[kind * self.n + i]
            if n > most:
                rest += most
                most = n
                best = kind
            else:
                rest += n
        return best if most >= 2 and rest <= 1 and most >= 2 + rest else -1

    def _slot(self, now):
        """The place of the code in `code`, with no frames where it was not heard in this burst."""
        oldest = 0
        for k in range(SLOTS):
            if self.frames[k] and self.slots[k] == self.code:
                if self.diff(now, self.at[k]) >= BURST_MS:
                    self.frames[k] = 0
                self.at[k] = now
                return k
            if self.frames[oldest] and (not self.frames[k] or self.diff(self.at[k], self.at[oldest]) < 0):
                oldest = k
        slot = self.slots[oldest]
        for i in range(self.n):
            slot[i] = self.code[i]
        self.at[oldest] = now
        self.frames[oldest] = 0
        return oldest
