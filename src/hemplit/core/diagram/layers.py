"""In which upright layer of a diagram each table stands.

What is tied should stand in neighbouring layers, and no layer should be much taller than the page, so that the tables
to which much is tied come to stand in the middle and what they refer to around them.

The first step of the layered method of Sugiyama, Tagawa and Toda (1981), with the assignment by descent from several
layers at once instead of by longest paths, as a line of a diagram may lead either way.
"""

from __future__ import annotations

from collections import deque
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

#: What it costs that two tied tables stand in one layer, and for each layer that a line must pass.
SAME, PASSED = 1.2, 1.0
#: What it costs that a layer is a table too tall.
TOO_TALL = 1.5
#: Descents end after so many rounds at the latest; all that were tried ended before the sixth.
MOST_ROUNDS = 30


def parts_of(count: int, pairs: Sequence[tuple[int, int]]) -> Iterator[list[int]]:
    """The parts of a diagram that nothing ties to each other."""
    part = list(range(count))
    for one, two in pairs:
        old, new = part[two], part[one]
        part = [new if number == old else number for number in part]
    for number in dict.fromkeys(part):
        yield [node for node in range(count) if part[node] == number]


def layers_of(heights: Sequence[float], pairs: Sequence[tuple[int, int]], tallest: float, most: int) -> list[int]:
    """The layer of each table, from 0; ``pairs`` are tied, and a layer should be no taller than ``tallest``.

    There are at most so many layers: what would stand farther out is folded back.

    >>> layers_of([100, 40, 40, 40], [(0, 1), (0, 2), (0, 3)], 120, 5)
    [1, 2, 0, 2]
    """
    tied: list[list[int]] = [[] for _ in heights]
    for one, two in pairs:
        if one != two:
            tied[one].append(two)
            tied[two].append(one)
    layer = _folded(_from_the_middle(heights, tied), most)
    filled = _filled(heights, layer)
    mean = sum(heights) / len(heights)
    for _ in range(MOST_ROUNDS):
        moved = False
        for node, own in enumerate(tied):
            here = layer[node]

            def cost(at: int, node: int = node, own: list[int] = own, here: int = here) -> float:
                reach = sum(SAME if layer[other] == at else PASSED * (abs(layer[other] - at) - 1) for other in own)
                before = filled.get(at, 0.0) - (heights[node] if at == here else 0.0)
                over = max(before + heights[node] - tallest, 0.0) - max(before - tallest, 0.0)
                return reach + TOO_TALL * over / mean

            near = {layer[other] + step for other in own for step in (-1, 0, 1)} | {here}
            best = min(sorted(at for at in near if 0 <= at < most), key=cost)
            if cost(best) < cost(here) - 1e-9:
                filled[here] -= heights[node]
                filled[best] = filled.get(best, 0.0) + heights[node]
                layer[node] = best
                moved = True
        if not moved:
            break
    return _numbered(layer)


def _from_the_middle(heights: Sequence[float], tied: Sequence[Sequence[int]]) -> list[int]:
    """Layers by the distance from the table to which most is tied, on the side where there is more room."""
    middle = max(range(len(tied)), key=lambda node: (len(tied[node]), -node))
    layer = {middle: 0}
    filled = {0: heights[middle]}
    waiting = deque([middle])
    while waiting:
        node = waiting.popleft()
        for other in sorted(tied[node], key=lambda one: -heights[one]):
            if other in layer:
                continue
            here = layer[node]
            sides = (here + 1, here - 1) if here == 0 else (here + (1 if here > 0 else -1),)
            at = min(sides, key=lambda side: filled.get(side, 0.0))
            layer[other] = at
            filled[at] = filled.get(at, 0.0) + heights[other]
            waiting.append(other)
    return [layer[node] for node in range(len(tied))]


def _folded(layer: Sequence[int], most: int) -> list[int]:
    """The layers counted from 0, those past the last of ``most`` as in a mirror behind it."""
    first = min(layer)
    if max(layer) - first < most:
        return [at - first for at in layer]
    half, turn = most // 2, max(2 * (most - 1), 1)
    places = [(at + half) % turn for at in layer]
    return [min(place, turn - place) if most > 1 else 0 for place in places]


def _filled(heights: Sequence[float], layer: Sequence[int]) -> dict[int, float]:
    filled: dict[int, float] = {}
    for height, at in zip(heights, layer, strict=True):
        filled[at] = filled.get(at, 0.0) + height
    return filled


def _numbered(layer: Sequence[int]) -> list[int]:
    """The layers counted from 0, none of them empty."""
    places = {at: place for place, at in enumerate(sorted(set(layer)))}
    return [places[at] for at in layer]
