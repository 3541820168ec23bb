"""A diagram of tables → a picture of it: boxes in layers, lines of level and upright parts between them.

The layered method of Sugiyama, Tagawa and Toda (Methods for visual understanding of hierarchical system structures,
1981), with lines as in Sander (A fast heuristic for hierarchical Manhattan layout, 1996). Nothing is left to chance:
the same tables give the same picture.
"""

from __future__ import annotations

from itertools import product
from math import sqrt
from typing import TYPE_CHECKING

from hemplit.core.diagram.chains import chains_of
from hemplit.core.diagram.layers import layers_of, parts_of
from hemplit.core.diagram.order import improve, put_in_order
from hemplit.core.diagram.placed import Placed
from hemplit.core.diagram.sizes import ASPECT, BETWEEN, MARGIN, PARTS, SIGN, box_width, height_of
from hemplit.core.model.diagram import Box, Diagram, Picture, Route
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.diagram.chains import Chain
    from hemplit.core.diagram.order import Order
    from hemplit.core.model.diagram import DrawnTable, Tie

#: How many layers there may be, more or fewer than would make the page as wide as it should be, and how tall they may
#: be, of what that needs: all of these are tried.
MORE_LAYERS, TALL = (-1, 0, 1, 2, 4, 20), (0.9, 1.4, 2.5)
#: Of so many, those that seem best, lines are untangled as far as they can be, and the best is drawn; of fewer where
#: there are many tables. In 120 random diagrams 332 lines cross then, and 1,485 in the layered layout of a library.
FINALS, FEW_FINALS, MANY = 8, 3, 24
#: A crossing is worth so many pixels of the page.
CROSSING = 200.0

_Part = tuple[float, float, list[Box], list[Route]]


def lay_out(diagram: Diagram) -> Picture:
    """Where all that is drawn stands.

    >>> from hemplit.core.model.diagram import Diagram, DrawnTable
    >>> picture = lay_out(Diagram("", (DrawnTable("boats", "entity", ()), DrawnTable("towns", "lookup", ())), ()))
    >>> [box.table.name for box in picture.boxes]
    ['boats', 'towns']
    """
    numbers = {table.name: number for number, table in enumerate(diagram.tables)}
    pairs = [(numbers[tie.table], numbers[tie.to]) for tie in diagram.ties]
    parts = []
    for nodes in parts_of(len(diagram.tables), pairs):
        tables = [diagram.tables[node] for node in nodes]
        names = {table.name for table in tables}
        parts.append(_part(tables, [tie for tie in diagram.ties if tie.table in names]))
    return _beside(diagram, parts)


def _part(tables: Sequence[DrawnTable], ties: Sequence[Tie]) -> _Part:
    """The best picture of tables that are all tied to each other."""
    numbers = {table.name: number for number, table in enumerate(tables)}
    heights = [height_of(table) for table in tables]
    pairs = [(numbers[tie.table], numbers[tie.to]) for tie in ties]
    widths = [box_width(table) for table in tables]
    wide = sum(widths) / len(tables) + 3 * SIGN
    ideal = sqrt(sum(height + BETWEEN for height in heights) * wide / ASPECT)
    wanted = round(ideal * ASPECT / wide)
    tried: dict[tuple[int, ...], tuple[float, int, list[Chain], Order]] = {}
    for more, share in product(MORE_LAYERS, TALL):
        most, tallest = max(wanted + more, 2), max(ideal * share, max(heights))
        layer = layers_of([height + BETWEEN for height in heights], pairs, tallest, most)
        if tuple(layer) not in tried:
            chains, order = chains_of(ties, numbers, layer)
            crossings = put_in_order(order)
            size = _size_of(layer, widths, heights)
            tried[tuple(layer)] = (_cost(*size, crossings), crossings, chains, order)
    finals: list[tuple[float, _Part]] = []
    finalists = FINALS if len(tables) <= MANY else FEW_FINALS
    for _, crossings, chains, order in sorted(tried.values(), key=lambda one: one[0])[:finalists]:
        left = improve(order, crossings)
        part = Placed(tables, chains, order).drawn()
        finals.append((_cost(part[0], part[1], left), part))
    return min(finals, key=lambda one: one[0])[1]


def _size_of(layer: Sequence[int], widths: Sequence[float], heights: Sequence[float]) -> tuple[float, float]:
    """About how wide and high layers are, before anything has its place."""
    wide, high = [0.0] * (max(layer) + 1), [0.0] * (max(layer) + 1)
    for at, width, height in zip(layer, widths, heights, strict=True):
        wide[at] = max(wide[at], width)
        high[at] += height + BETWEEN
    return sum(wide) + 3 * SIGN * (len(wide) - 1), max(high)


def _cost(width: float, height: float, crossings: int) -> float:
    return max(width / ASPECT, height) + CROSSING * crossings


def _beside(diagram: Diagram, parts: Sequence[_Part]) -> Picture:
    """All parts on one page, the largest first, in rows from left to right."""
    area = sum((width + PARTS) * (height + PARTS) for width, height, _, _ in parts)
    most = max([sqrt(area * ASPECT), *(width for width, _, _, _ in parts)])
    x, y, tall, wide = MARGIN, MARGIN, 0.0, 0.0
    boxes: list[Box] = []
    routes: list[Route] = []
    for width, height, its_boxes, its_routes in sorted(parts, key=lambda part: -part[1]):
        if x > MARGIN and x + width > most + MARGIN:
            x, y, tall = MARGIN, y + tall + PARTS, 0.0
        boxes += [replace(box, x=box.x + x, y=box.y + y, rows=tuple(row + y for row in box.rows)) for box in its_boxes]
        routes += [replace(route, points=tuple((px + x, py + y) for px, py in route.points)) for route in its_routes]
        x, tall = x + width + PARTS, max(tall, height)
        wide = max(wide, x - PARTS)
    order = {table.name: place for place, table in enumerate(diagram.tables)}
    boxes.sort(key=lambda box: order[box.table.name])
    return Picture(diagram.title, wide + MARGIN, y + tall + MARGIN, tuple(boxes), tuple(routes))
