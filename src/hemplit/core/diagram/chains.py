"""The lines of a diagram as hops from layer to layer; where one passes a layer it has a node there."""

from __future__ import annotations

from itertools import pairwise
from typing import TYPE_CHECKING

from hemplit.core.diagram.order import Hop, Order
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.model.diagram import Tie


@dataclass(frozen=True)
class Chain:
    """The hops of one tie from left to right, the first of them in the gap behind layer ``first``.

    ``number`` is the place of its first hop among those of all chains. ``forth``: the table that refers stands left.
    ``is_loop``: both tables stand in layer ``first``.
    """

    tie: Tie
    number: int
    hops: tuple[Hop, ...]
    first: int
    forth: bool = True
    is_loop: bool = False


def chains_of(ties: Sequence[Tie], numbers: dict[str, int], layer: Sequence[int]) -> tuple[list[Chain], Order]:
    """The chain of each tie, and all nodes in layers: the tables by their numbers, then the passing lines."""
    count = max(layer) + 1
    layers: list[list[int]] = [[] for _ in range(count)]
    for node, at in enumerate(layer):
        layers[at].append(node)
    gaps: list[list[Hop]] = [[] for _ in range(count)]
    loops: list[list[Hop]] = [[] for _ in range(count)]
    chains: list[Chain] = []
    number, free = 0, len(layer)
    for tie in ties:
        child, parent = numbers[tie.table], numbers[tie.to]
        row = tie.columns[0] + 1
        here, there = layer[child], layer[parent]
        if here == there:
            hop = Hop(child, parent, row)
            loops[here].append(hop)
            chains.append(Chain(tie, number, (hop,), here, is_loop=True))
            number += 1
            continue
        forth = here < there
        first, last = sorted((here, there))
        passed = list(range(free, free + last - first - 1))
        free += len(passed)
        for at, node in enumerate(passed, first + 1):
            layers[at].append(node)
        nodes = [child, *passed, parent] if forth else [parent, *passed, child]
        hops = tuple(
            Hop(one, two, row if one == child else 0, row if two == child else 0) for one, two in pairwise(nodes)
        )
        for at, hop in enumerate(hops, first):
            gaps[at].append(hop)
        chains.append(Chain(tie, number, hops, first, forth))
        number += len(hops)
    return chains, Order(layers, gaps, loops)
