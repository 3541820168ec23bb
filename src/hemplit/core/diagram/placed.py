"""Layers in their order → boxes and lines with their places on the page."""

from __future__ import annotations

from itertools import pairwise
from typing import TYPE_CHECKING

from hemplit.core.diagram.letters import width_of
from hemplit.core.diagram.sizes import BETWEEN, CORNER, ENDS, PASSING, SIGN, SMALL, TRACK, box_width, height_of, row_of
from hemplit.core.diagram.spaced import spaced
from hemplit.core.diagram.tracks import Strand, seeming_one, tracks_of
from hemplit.core.model.diagram import Box, Route
from hemplit.dataclasses import dataclass, field

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.diagram.chains import Chain
    from hemplit.core.diagram.order import Order
    from hemplit.core.model.diagram import DrawnTable, Point

#: So often the layers are moved up and down by what they are tied to.
ROUNDS = 10
#: How much more a line that passes a layer wants to be straight, and a line to begin at its column, than others.
STRAIGHT, AT_COLUMN = 6.0, 100.0
#: Ends on one side of a box are put in order by the other ends, so that this is done more than once.
PASSES = 3
#: Ends of lines that seem one in any order of tracks are moved so far, so often at most.
NUDGE, NUDGES = 4.0, 12
#: More than any height.
FAR = 1e6


@dataclass
class Placed:
    """One part of a diagram: ``tables`` are the first nodes of the order, the others lines that pass a layer."""

    tables: Sequence[DrawnTable]
    chains: Sequence[Chain]
    order: Order
    tops: dict[int, float] = field(default_factory=dict)
    ends: dict[tuple[int, bool], float] = field(default_factory=dict)
    """The height of each end of a hop, by the hop's place in the list of all and whether it is the right end."""

    def __post_init__(self) -> None:
        self.heights = [height_of(table) for table in self.tables]
        self.hops = [(chain.first + at, hop) for chain in self.chains for at, hop in enumerate(chain.hops)]
        self.loops = {chain.number for chain in self.chains if chain.is_loop}
        self._set_heights()
        for _ in range(PASSES):
            self._set_ends()

    def _is_table(self, node: int) -> bool:
        return node < len(self.tables)

    def _height(self, node: int) -> float:
        return self.heights[node] if self._is_table(node) else 0.0

    # Heights ----------------------------------------------------------------------------------------------------------

    def _set_heights(self) -> None:
        """Puts each node as near as it can be to what it is tied to, without changing the order."""
        for layer in self.order.layers:
            for node, top in zip(layer, self._spaced(layer, [0.0] * len(layer), [1.0] * len(layer)), strict=True):
                self.tops[node] = top
        tied: dict[int, list[tuple[int, float, float]]] = {node: [] for node in self.tops}
        for place, (_, hop) in enumerate(self.hops):
            if place not in self.loops:
                left, right = self._offset(hop.left, hop.out), self._offset(hop.right, hop.into)
                tied[hop.left].append((hop.right, right, left))
                tied[hop.right].append((hop.left, left, right))
        count = len(self.order.layers)
        for number in range(ROUNDS):
            for at in range(count) if number % 2 else range(count - 1, -1, -1):
                layer = self.order.layers[at]
                wanted, weights = [], []
                for node in layer:
                    pulls = [
                        (self.tops[other] + there - own, 1.0 if self._is_table(other) else STRAIGHT)
                        for other, there, own in tied[node]
                    ]
                    heavy = sum(weight for _, weight in pulls)
                    wanted.append(sum(one * weight for one, weight in pulls) / heavy if pulls else self.tops[node])
                    weights.append(heavy * (1.0 if self._is_table(node) else STRAIGHT) if pulls else 0.1)
                self.tops.update(zip(layer, self._spaced(layer, wanted, weights), strict=True))
        highest = min(self.tops.values())
        self.tops = {node: top - highest for node, top in self.tops.items()}

    def _spaced(self, layer: Sequence[int], wanted: Sequence[float], weights: Sequence[float]) -> list[float]:
        apart = [0.0]
        for one, two in pairwise(layer):
            between = BETWEEN if self._is_table(one) and self._is_table(two) else PASSING
            apart.append(self._height(one) + between)
        return spaced(wanted, weights, apart)

    def _offset(self, node: int, place: int) -> float:
        """How far below the top of a node a line ends: at its column, or in the middle."""
        if self._is_table(node) and place:
            return row_of(place - 1)
        return self._height(node) / 2

    # Ends of lines ----------------------------------------------------------------------------------------------------

    def _set_ends(self) -> None:
        """Spreads the ends of lines on each side of each box, so that no two seem one and most lines are straight."""
        sides: dict[tuple[int, bool], list[tuple[int, bool]]] = {}
        for place, (_, hop) in enumerate(self.hops):
            sides.setdefault((hop.left, True), []).append((place, False))
            sides.setdefault((hop.right, place in self.loops), []).append((place, True))
        for (node, _), some in sides.items():
            if not self._is_table(node):
                self.ends.update(dict.fromkeys(some, self.tops[node]))
                continue
            wanted = {end: self._wanted(end, node) for end in some}
            some = self._in_order(some, wanted, node)
            low, high = self.tops[node] + CORNER, self.tops[node] + self._height(node) - CORNER
            apart = min(ENDS, (high - low) / max(len(some) - 1, 1))
            heights = spaced(
                [min(max(wanted[end], low), high) for end in some],
                [AT_COLUMN if self._place(end) else 1.0 for end in some],
                [apart] * len(some),
            )
            room = apart * (len(some) - 1)
            for number, (end, height) in enumerate(zip(some, heights, strict=True)):
                self.ends[end] = min(max(height, low + apart * number), high - room + apart * number)

    def _in_order(
        self, ends: Sequence[tuple[int, bool]], wanted: dict[tuple[int, bool], float], node: int
    ) -> list[tuple[int, bool]]:
        """The ends on one side of a box: those at columns as the columns are, each other where its line crosses least.

        Two lines do not cross near a box if they stand there as they do at their other ends.
        """
        far = {end: self._far(end, node) for end in ends}
        order = sorted(filter(self._place, ends), key=lambda end: (wanted[end], far[end]))
        for end in sorted((end for end in ends if not self._place(end)), key=lambda end: far[end]):
            costs = [
                (
                    sum(far[other] > far[end] for other in order[:at])
                    + sum(far[other] < far[end] for other in order[at:]),
                    sum(wanted[other] > wanted[end] for other in order[:at])
                    + sum(wanted[other] < wanted[end] for other in order[at:]),
                    -at,
                )
                for at in range(len(order) + 1)
            ]
            order.insert(costs.index(min(costs)), end)
        return order

    def _far(self, end: tuple[int, bool], node: int) -> float:
        """How high the other end of a line is; that of one to the same layer is past all others."""
        place, at_right = end
        hop = self.hops[place][1]
        other, there = (hop.left, hop.out) if at_right else (hop.right, hop.into)
        if other == node:
            return self._wanted(end, node)
        height = self.ends.get((place, not at_right), self.tops[other] + self._offset(other, there))
        return height + (FAR if height > self.tops[node] else -FAR) if place in self.loops else height

    def _place(self, end: tuple[int, bool]) -> int:
        place, at_right = end
        hop = self.hops[place][1]
        return hop.into if at_right else hop.out

    def _wanted(self, end: tuple[int, bool], node: int) -> float:
        """The height that would make a line straight, or that of its column."""
        if self._place(end):
            return self.tops[node] + row_of(self._place(end) - 1)
        place, at_right = end
        hop = self.hops[place][1]
        other, there = (hop.left, hop.out) if at_right else (hop.right, hop.into)
        return self.tops[other] + self._offset(other, there)

    # The page ---------------------------------------------------------------------------------------------------------

    def drawn(self) -> tuple[float, float, list[Box], list[Route]]:
        """Width and height, the boxes and the lines."""
        wide = [box_width(table) for table in self.tables]
        widths = [
            max((wide[node] for node in layer if self._is_table(node)), default=0.0) for layer in self.order.layers
        ]
        tracks, gaps = self._tracks()
        lefts, x = [], 0.0
        for at, width in enumerate(widths):
            lefts.append(x)
            x += width + gaps[at]
        boxes = {}
        for at, layer in enumerate(self.order.layers):
            for node in filter(self._is_table, layer):
                table = self.tables[node]
                own, top = wide[node], self.tops[node]
                rows = tuple(top + row_of(place) for place in range(len(table.columns)))
                boxes[node] = Box(table, lefts[at] + (widths[at] - own) / 2, top, own, self.heights[node], rows)
        starts = [left + width for left, width in zip(lefts, widths, strict=True)]
        routes = [Route(chain.tie, self._points(chain, tracks, boxes, starts)) for chain in self.chains]
        height = max(box.y + box.height for box in boxes.values())
        lowest = max([height, *(y for route in routes for _, y in route.points)])
        return x, lowest, [boxes[node] for node in range(len(self.tables))], routes

    def _tracks(self) -> tuple[dict[int, float], list[float]]:
        """How far behind its layer the upright part of each hop stands, and how wide each gap is."""
        tracks: dict[int, float] = {}
        gaps = []
        for gap in range(len(self.order.layers)):
            places = [place for place, (at, _) in enumerate(self.hops) if at == gap]
            strands, found = self._strands(places)
            for _ in range(NUDGES):
                pair = seeming_one(strands, found)
                if pair is None or not self._nudge(places[pair[0]], places[pair[1]]):
                    break
                strands, found = self._strands(places)
            before, behind = self._roles(gap)
            for place, track in zip(places, found, strict=True):
                tracks[place] = SIGN + before + TRACK * track
            bent = [track for track, strand in zip(found, strands, strict=True) if not strand.is_straight]
            last = gap == len(self.order.layers) - 1
            rest = (TRACK if bent else 0.0) if last else SIGN + behind
            gaps.append(SIGN + before + TRACK * max(bent, default=0) + rest if places else 0.0)
        return tracks, gaps

    def _strands(self, places: Sequence[int]) -> tuple[list[Strand], list[int]]:
        """The lines of a gap, and the track of each."""
        strands = [Strand(self.ends[place, False], self.ends[place, True], place in self.loops) for place in places]
        return strands, tracks_of(strands)

    def _nudge(self, one: int, other: int) -> bool:
        """Moves the left end of a line, or the right one of another, a little, so that they no longer seem one."""
        for place, at_right in ((other, True), (one, False)):
            hop = self.hops[place][1]
            if self._is_table(hop.right if at_right else hop.left):
                self.ends[place, at_right] += NUDGE
                return True
        return False

    def _roles(self, gap: int) -> tuple[float, float]:
        """How much room the words at lines need that leave a box in this gap, at its left and at its right."""
        before = behind = 0.0
        for chain in self.chains:
            room = width_of(chain.tie.role, SMALL) + 6 if chain.tie.role else 0.0
            if chain.forth and chain.first == gap:
                before = max(before, room)
            elif not chain.forth and chain.first + len(chain.hops) - 1 == gap:
                behind = max(behind, room)
        return before, behind

    def _points(
        self, chain: Chain, tracks: dict[int, float], boxes: dict[int, Box], starts: Sequence[float]
    ) -> tuple[Point, ...]:
        """The corners of a line, from the table that refers."""
        first, last = boxes[chain.hops[0].left], boxes[chain.hops[-1].right]
        height = self.ends[chain.number, False]
        points = [(first.x + first.width, height)]
        for at in range(len(chain.hops)):
            end = self.ends[chain.number + at, True]
            # What is level but for a hair stays level.
            if chain.is_loop or abs(self.ends[chain.number + at, False] - end) >= 0.5:
                x = starts[chain.first + at] + tracks[chain.number + at]
                points += [(x, height), (x, end)]
                height = end
        points.append((last.x + last.width if chain.is_loop else last.x, height))
        return tuple(points if chain.forth else reversed(points))
