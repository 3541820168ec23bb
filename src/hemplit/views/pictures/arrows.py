"""Which columns determine which: a box with an arrow to the columns that follow from it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.diagram.letters import cut, width_of
from hemplit.core.diagram.sizes import LETTERS, LONGEST_NAME
from hemplit.views.pictures.shapes import Block, Drawing, Shape, Stroke, Words

if TYPE_CHECKING:
    from collections.abc import Sequence

#: The height of a column's box, what is beside its text, between boxes, and for an arrow; how wide the whole may be.
HIGH, INSIDE, BETWEEN, ARROW, WIDEST = 26.0, 10.0, 8.0, 44.0, 1180.0
HEAD = 5.0


def arrows_of(determined: Sequence[tuple[tuple[str, ...], tuple[str, ...]]]) -> Drawing:
    """A line for each group of columns, with those that it determines behind an arrow."""
    names = [" + ".join(cut(name, LONGEST_NAME) for name in left) for left, _ in determined]
    first = max(width_of(name, LETTERS, bold=True) for name in names) + 2 * INSIDE
    shapes: list[Shape] = []
    y, widest = BETWEEN, first
    for name, (_, right) in zip(names, determined, strict=True):
        own = width_of(name, LETTERS, bold=True) + 2 * INSIDE
        shapes += [
            Block(first - own + 1, y, own, HIGH, "box entity", 3.0),
            Words(first - own + 1 + INSIDE, y + 17.5, name, "key", LETTERS),
        ]
        middle, begin = y + HIGH / 2, first + ARROW
        tip = begin - 4
        shapes += [
            Stroke(((first + 3, middle), (tip, middle)), "line"),
            Stroke(((tip - HEAD, middle - HEAD), (tip, middle), (tip - HEAD, middle + HEAD)), "line"),
        ]
        x = begin
        for header in right:
            text = cut(header, LONGEST_NAME)
            wide = width_of(text, LETTERS) + 2 * INSIDE
            if x > begin and x + wide > WIDEST:
                x, y = begin, y + HIGH + BETWEEN / 2
            shapes += [
                Block(x, y, wide, HIGH, "box lookup", 11.0),
                Words(x + INSIDE, y + 17.5, text, "column", LETTERS),
            ]
            x += wide + BETWEEN
            widest = max(widest, x)
        y += HIGH + BETWEEN
    said = "; ".join(
        f"{name} determines {', '.join(right)}" for name, (_, right) in zip(names, determined, strict=True)
    )
    page = Block(0, 0, widest, y, "page")
    return Drawing("Which columns determine which", said, widest, y, (page, *shapes))
