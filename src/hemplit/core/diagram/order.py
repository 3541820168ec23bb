"""In which order the tables of each layer stand, so that the lines cross as little as they can.

The second step of the layered method of Sugiyama, Tagawa and Toda (1981): each layer by the middle of what it is tied
to, then single tables moved as long as fewer lines cross. A line that passes a layer has a place in it, too.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    import numpy.typing as npt

#: So often each layer is put in order by its neighbours; the best of all rounds counts.
ROUNDS = 12
#: Single nodes are moved in so many rounds at most.
MOVING = 8
#: More than the lines that go out from one table.
PLACES = 1_000


@dataclass(frozen=True)
class Hop:
    """A part of a line between two layers: nodes in the ``left`` and the right one, or both in the left one.

    ``out`` and ``into`` are the places at the nodes where it begins and ends, 0 where it may end anywhere.
    """

    left: int
    right: int
    out: int = 0
    into: int = 0


@dataclass
class Order:
    """The nodes of each layer, from top to bottom; ``gaps`` are the hops behind each layer, ``loops`` those in it."""

    layers: list[list[int]]
    gaps: Sequence[Sequence[Hop]]
    loops: Sequence[Sequence[Hop]]

    def crossings(self) -> int:
        """How many lines cross if each gap is drawn as well as it can be."""
        return sum(self.crossings_behind(gap) for gap in range(len(self.layers)))

    def crossings_behind(self, gap: int) -> int:
        """How many lines cross between a layer and the next.

        >>> at_columns, one_free = [Hop(0, 1, 2), Hop(0, 2, 1)], [Hop(0, 1, 2), Hop(0, 2)]
        >>> [Order([[0], [1, 2]], [hops, []], [[], []]).crossings_behind(0) for hops in (at_columns, one_free)]
        [1, 0]
        """
        hops, loops = self.gaps[gap], self.loops[gap]
        places = {node: place for place, node in enumerate(self.layers[gap])}
        found = 0
        left = np.array([places[hop.left] * PLACES + hop.out for hop in hops])
        if len(hops) > 1:
            behind = {node: place for place, node in enumerate(self.layers[gap + 1])}
            right = np.array([behind[hop.right] * PLACES + hop.into for hop in hops])
            found += int((_signs(left) * _signs(right) < 0).sum()) // 2
        for loop in loops:
            ends = sorted((places[loop.left] * PLACES + loop.out, places[loop.right] * PLACES + loop.into))
            found += int(((left > ends[0]) & (left < ends[1])).sum())
        return found


def _signs(places: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
    """Which of each two ends is lower; neither where they are at one node and one of them may be anywhere."""
    apart = places[:, None] - places[None, :]
    signs = np.sign(apart)
    free = places % PLACES == 0
    if free.any():
        signs[(np.abs(apart) < PLACES // 2) & (free[:, None] | free[None, :])] = 0
    return signs


def put_in_order(order: Order) -> int:
    """Puts each layer in order by its neighbours, and says how many lines cross then."""
    best, kept = order.crossings(), [list(layer) for layer in order.layers]
    for number in range(ROUNDS):
        for at in _sweep(len(order.layers), forth=number % 2 == 0):
            _by_neighbours(order, at, forth=number % 2 == 0)
        found = order.crossings()
        if found < best:
            best, kept = found, [list(layer) for layer in order.layers]
    order.layers[:] = kept
    return best


def improve(order: Order, crossings: int) -> int:
    """Moves single nodes as long as fewer lines cross, and says how many do then."""
    for _ in range(MOVING):
        before = crossings
        for at in range(len(order.layers)):
            crossings -= _move_singly(order, at)
        if crossings in (0, before):
            break
    return crossings


def _sweep(count: int, *, forth: bool) -> Iterator[int]:
    yield from range(1, count) if forth else range(count - 2, -1, -1)


def _by_neighbours(order: Order, at: int, *, forth: bool) -> None:
    """Puts a layer in the order of the middles of what its nodes are tied to in the layer before it, or behind it."""
    other = at - 1 if forth else at + 1
    places = {node: place for place, node in enumerate(order.layers[other])}
    tied: dict[int, list[float]] = {}
    for hop in order.gaps[min(at, other)]:
        own, there, port = (hop.right, hop.left, hop.out) if forth else (hop.left, hop.right, hop.into)
        tied.setdefault(own, []).append(places[there] + port / PLACES)
    now = {node: place for place, node in enumerate(order.layers[at])}
    middles = {node: sum(tied[node]) / len(tied[node]) if node in tied else now[node] for node in now}
    order.layers[at].sort(key=lambda node: (middles[node], now[node]))


def _move_singly(order: Order, at: int) -> int:
    """Moves each node of a layer to where fewer lines cross; says how many fewer cross then."""

    def here() -> int:
        before = order.crossings_behind(at - 1) if at else 0
        return before + order.crossings_behind(at)

    layer, spared = order.layers[at], 0
    for node in list(layer):
        best, now = here(), layer.index(node)
        if not best:
            break
        first, to = best, now
        for place in range(len(layer)):
            layer.remove(node)
            layer.insert(place, node)
            found = here()
            if found < best:
                best, to = found, place
        layer.remove(node)
        layer.insert(to, node)
        spared += first - best
    return spared
