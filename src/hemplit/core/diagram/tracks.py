"""Where the upright parts of lines stand between two layers, so that lines cross only where they must.

The third step of layered methods for lines of level and upright parts (Sander, 1996): each upright part has a track of
its own where it would touch another, and the order of tracks is the one with the fewest crossings.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Sequence

    import numpy.typing as npt

#: Lines that are nearer than this would seem to be one.
NEAR = 3.0
#: What it costs that two lines seem to be one.
SEEMS_ONE = 100
#: The order of tracks is improved in so many rounds at most.
ROUNDS = 12


@dataclass(frozen=True)
class Strand:
    """A line between two layers, from a height at the left to one at the right, or back to the left."""

    begin: float
    end: float
    back: bool = False

    @property
    def is_straight(self) -> bool:
        return not self.back and abs(self.begin - self.end) < 0.5

    @property
    def lefts(self) -> tuple[float, ...]:
        return (self.begin, self.end) if self.back else (self.begin,)

    @property
    def rights(self) -> tuple[float, ...]:
        return () if self.back else (self.end,)

    @property
    def span(self) -> tuple[float, float]:
        low, high = sorted((self.begin, self.end))
        return low - NEAR, high + NEAR


def tracks_of(strands: Sequence[Strand]) -> list[int]:
    """The track of each line, counted from the left; that of a straight one means nothing.

    >>> tracks_of([Strand(0, 50), Strand(10, 60), Strand(100, 120)])
    [1, 0, 0]
    """
    bent = [place for place, strand in enumerate(strands) if not strand.is_straight]
    cost = np.array([[_cost(strands[one], strands[two]) for two in bent] for one in bent]).reshape(len(bent), len(bent))
    order = _order(cost, [strands[place] for place in bent])
    tracks = [0] * len(strands)
    for at, node in enumerate(order):
        own = strands[bent[node]]
        tracks[bent[node]] = 1 + max(
            (
                tracks[bent[other]]
                for other in order[:at]
                if cost[other, node] != cost[node, other] or _meet(own, strands[bent[other]])
            ),
            default=-1,
        )
    return tracks


def seeming_one(strands: Sequence[Strand], tracks: Sequence[int]) -> tuple[int, int] | None:
    """Two lines of which the left part of one lies on the right part of the other; None if there are none.

    >>> seeming_one([Strand(0, 50), Strand(50, 0)], [1, 0]), seeming_one([Strand(0, 50), Strand(20, 70)], [1, 0])
    ((0, 1), None)
    """
    for one, left in enumerate(strands):
        for two, right in enumerate(strands):
            beyond = left.is_straight or right.is_straight or tracks[one] >= tracks[two]
            if one != two and beyond and any(abs(a - b) < NEAR for a in left.lefts for b in right.rights):
                return one, two
    return None


def _cost(one: Strand, two: Strand) -> int:
    """How often two lines cross, and whether they seem one, where the first one's upright part stands left."""
    low, high = one.span
    found = sum(low < height < high for height in two.lefts)
    low, high = two.span
    found += sum(low < height < high for height in one.rights)
    return found + SEEMS_ONE * sum(abs(a - b) < NEAR for a in two.lefts for b in one.rights)


def _meet(one: Strand, two: Strand) -> bool:
    return one.span[0] <= two.span[1] and two.span[0] <= one.span[1]


def _order(cost: npt.NDArray[np.int64], strands: Sequence[Strand]) -> list[int]:
    """An order of few crossings: by heights at first, then each moved to its best place until none gains."""
    order = sorted(
        range(len(strands)), key=lambda one: (strands[one].begin - strands[one].end > 0, -strands[one].begin)
    )
    for _ in range(ROUNDS):
        before = list(order)
        for node in before:
            order.remove(node)
            # What it costs to stand before the first, then behind one after the other.
            first = int(cost[node, order].sum()) if order else 0
            steps = [int(cost[other, node] - cost[node, other]) for other in order]
            costs = [first, *(first + sum(steps[: place + 1]) for place in range(len(steps)))]
            order.insert(costs.index(min(costs)), node)
        if order == before:
            break
    return order
