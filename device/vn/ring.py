"""Lengths of pulses on their way from an interrupt to the program: a ring that is filled without a byte of memory."""
from array import array

SIZE = 512  # a power of two


class Ring:
    def __init__(self):
        self.cells = array("H", bytes(2 * SIZE))
        self.head = self.tail = self.lost = 0

    def put(self, us, level):
        """`us` of `level`; the lowest bit carries the level."""
        nxt = (self.head + 1) & (SIZE - 1)
        if nxt == self.tail:
            self.lost += 1
            return
        self.cells[self.head] = ((us if us < 65534 else 65534) & 65534) | level
        self.head = nxt

    def take(self):
        """(µs, level) of the oldest, or None."""
        if self.tail == self.head:
            return None
        cell = self.cells[self.tail]
        self.tail = (self.tail + 1) & (SIZE - 1)
        return cell & 65534, cell & 1
