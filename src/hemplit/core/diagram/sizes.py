"""How large boxes are and how far apart things stand, in pixels."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.diagram.letters import cut, width_of

if TYPE_CHECKING:
    from hemplit.core.model.diagram import DrawnTable

#: Letters of the columns, of the marks beside them, and of titles.
LETTERS, SMALL, LARGE = 12.5, 10.0, 14.0
#: The line of a column, the head of a box, and what is free above its first and below its last line.
ROW, HEAD, PADDING = 20.0, 32.0, 6.0
#: Beside the text in a box, and the least width of one.
INSIDE, NARROWEST = 12.0, 140.0
#: The column of marks in a box.
MARKS = 48.0
#: Names are cut in the middle if they are longer.
LONGEST_NAME = 40
#: Between boxes of a layer, and around a line that passes it.
BETWEEN, PASSING = 28.0, 15.0
#: Where a line ends at a table that it refers to: so far from the next end, and from a corner.
ENDS, CORNER = 11.0, 5.0
#: What the sign at the end of a line needs, and how far upright lines stand from each other.
SIGN, TRACK = 30.0, 11.0
#: Between parts of a diagram that nothing ties, and around the whole.
PARTS, MARGIN = 44.0, 28.0
#: Pages are wider than high, as windows are.
ASPECT = 1.6


def lines_of(table: DrawnTable) -> int:
    """How many lines the box of a table has below its head."""
    return len(table.columns) + (table.more > 0)


def height_of(table: DrawnTable) -> float:
    """How high the box of a table is."""
    return HEAD + PADDING + lines_of(table) * ROW + PADDING


def row_of(place: int) -> float:
    """The middle of a line of a box, from its top."""
    return HEAD + PADDING + (place + 0.5) * ROW


def box_width(table: DrawnTable) -> float:
    """How wide the box of a table must be."""
    head = width_of(cut(table.name, LONGEST_NAME), LARGE, bold=True) + width_of(table.purpose, SMALL) + 3 * INSIDE
    lines = [
        MARKS + width_of(cut(column.name, LONGEST_NAME), LETTERS, bold=True) + width_of(column.type, SMALL) + 3 * INSIDE
        for column in table.columns
    ]
    return max(head, *lines, NARROWEST)
