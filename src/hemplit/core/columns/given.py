"""How values came about: numbers that were given out one after the other, and rows for every thing at every time."""

from __future__ import annotations

from math import prod
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Sequence

#: Of numbers that are given out one after the other few are missing.
GIVEN_OUT = 2
#: Rows that are half of all that a thing and a moment could make are a table of every one at every time.
CROSSED = 0.5
#: A pair names the rows if chance would have made so many pairs of rows alike in it, and none are.
COLLISIONS = 10.0


def are_given_out(lowest: float, highest: float, different: int) -> bool:
    """Whether of the whole numbers between few are missing.

    >>> are_given_out(401, 420, 18), are_given_out(22100, 61000, 18)
    (True, False)
    """
    return highest - lowest < GIVEN_OUT * different


def are_crossed(sizes: Sequence[int], rows: int) -> bool:
    """Whether there is a row for most of what columns with so many values could say together.

    >>> are_crossed((3, 2), 6), are_crossed((4, 5), 5)
    (True, False)
    """
    return rows >= CROSSED * prod(sizes)
