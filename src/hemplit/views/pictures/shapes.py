"""A picture of tables → the shapes that it consists of, each in a style of the theme."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.diagram.letters import cut, width_of
from hemplit.core.diagram.sizes import HEAD, INSIDE, LARGE, LETTERS, LONGEST_NAME, MARGIN, MARKS, ROW, SMALL
from hemplit.core.model.diagram import Mark
from hemplit.dataclasses import dataclass, replace

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.model.diagram import Box, Picture, Point, Route

#: How far from the edge of a box the signs of a line stand, and how large they are.
FOOT, BAR, SECOND_BAR, RING, RADIUS, HALF = 12.0, 7.0, 12.0, 17.0, 4.0, 5.5
#: The title above a picture, a line of the legend, and what is free around its entries.
TITLE, LEGEND, FREE = 40.0, 24.0, 22.0


@dataclass(frozen=True)
class Block:
    """A rectangle with round corners."""

    x: float
    y: float
    width: float
    height: float
    style: str
    radius: float = 0.0


@dataclass(frozen=True)
class Stroke:
    """A line through points, its corners a little round if it is to be ``soft``."""

    points: tuple[Point, ...]
    style: str
    soft: bool = False


@dataclass(frozen=True)
class Ring:
    """A circle that hides what is behind it."""

    x: float
    y: float
    radius: float
    style: str


@dataclass(frozen=True)
class Words:
    """A text whose baseline begins, or with ``ends`` ends, at a point; ``whole`` is what it says if it was cut."""

    x: float
    y: float
    text: str
    style: str
    size: float
    ends: bool = False
    whole: str = ""


Shape = Block | Stroke | Ring | Words


@dataclass(frozen=True)
class Drawing:
    """All shapes on a page, those behind first; ``told`` says the same to those who do not see it."""

    title: str
    told: str
    width: float
    height: float
    shapes: tuple[Shape, ...]


def drawing_of(picture: Picture, *, framed: bool = True) -> Drawing:
    """The drawing of a picture; ``framed`` with its title and the legend."""
    width, lines = picture.width, 0
    legend: list[Shape] = []
    top = TITLE if framed and picture.title else 0.0
    if framed:
        width = max(width, min(_legend_width(picture), 760.0), width_of(picture.title, 17, bold=True) + 2 * MARGIN)
        legend, lines = _legend(picture, width, picture.height + top + 4)
    height = picture.height + top + lines * LEGEND + (16 if lines else 0)
    shapes: list[Shape] = [Block(0, 0, width, height, "page")]
    if top:
        shapes.append(Words(MARGIN, MARGIN + 14, picture.title, "title", 17))
    left = (width - picture.width) / 2
    for route in picture.routes:
        shapes += _moved(_route(route), left, top)
    for box in picture.boxes:
        shapes += _moved(_box(box), left, top)
    return Drawing(picture.title or "Diagram of the tables", _told(picture), width, height, (*shapes, *legend))


def _told(picture: Picture) -> str:
    """The tables and how they are tied, in words."""
    tables = ", ".join(f"{box.table.name} ({box.table.purpose})" for box in picture.boxes)
    ties = "; ".join(
        f"{route.tie.table} → {route.tie.to}" + (f" as {route.tie.role}" if route.tie.role else "")
        for route in picture.routes
    )
    return f"Tables: {tables}. References: {ties or 'none'}."


def _moved(shapes: Iterator[Shape], x: float, y: float) -> Iterator[Shape]:
    for shape in shapes:
        if isinstance(shape, Stroke):
            yield replace(shape, points=tuple((px + x, py + y) for px, py in shape.points))
        else:
            yield replace(shape, x=shape.x + x, y=shape.y + y)


def _box(box: Box) -> Iterator[Shape]:
    table = box.table
    purpose = table.purpose or "other"
    radius = 7.0 if purpose in ("lookup", "range") else 3.0
    yield Block(box.x, box.y, box.width, box.height, f"box {purpose}", radius)
    yield Block(box.x, box.y, box.width, HEAD, f"head {purpose}", radius)
    yield Stroke(((box.x, box.y + HEAD), (box.x + box.width, box.y + HEAD)), f"rule {purpose}")
    name = cut(table.name, LONGEST_NAME)
    whole = table.name if name != table.name else ""
    yield Words(box.x + INSIDE, box.y + 21, name, "name", LARGE, whole=whole)
    yield Words(box.x + box.width - INSIDE, box.y + 20.5, table.purpose, "quiet", SMALL, ends=True)
    for column, row in zip(table.columns, box.rows, strict=True):
        if column.mark in (Mark.KEY, Mark.KEY_AND_REFERENCE):
            yield Block(box.x + 1.5, row - ROW / 2, box.width - 3, ROW, "key row")
        calculated = column.mark is Mark.CALCULATED
        style = "key" if column.mark in (Mark.KEY, Mark.KEY_AND_REFERENCE) else "calculated" if calculated else "column"
        name = cut(column.name, LONGEST_NAME)
        whole = column.name if name != column.name else ""
        yield Words(box.x + INSIDE, row + 3.5, column.mark.value, "mark", SMALL)
        yield Words(box.x + INSIDE + MARKS, row + 4.5, name, style, LETTERS, whole=whole)
        kind = column.type if column.required else f"{column.type} ?"
        yield Words(box.x + box.width - INSIDE, row + 4, kind, "quiet", SMALL, ends=True)
    if table.more:
        last = box.y + box.height - 6 - ROW / 2
        many = f"… {table.more} more column{'s' if table.more > 1 else ''}"
        yield Words(box.x + INSIDE + MARKS, last + 4, many, "quiet", LETTERS)


def _route(route: Route) -> Iterator[Shape]:
    tie = route.tie
    style = "range line" if tie.is_range else "line"
    (begin, second), (before, end) = route.points[:2], route.points[-2:]
    yield Stroke(route.points, style, soft=True)
    if tie.is_range:
        yield Ring(*end, 3.0, "dot")
        return
    yield from _many(begin, 1.0 if second[0] > begin[0] else -1.0, single=tie.single)
    yield from _one(end, 1.0 if before[0] > end[0] else -1.0, optional=tie.optional)
    if tie.role:
        to_right = second[0] > begin[0]
        x = begin[0] + (RING + RADIUS + 3) * (1 if to_right else -1)
        yield Words(x, begin[1] - 3.5, tie.role, "role", SMALL, ends=not to_right)


def _many(at: Point, way: float, *, single: bool) -> Iterator[Shape]:
    """The sign where a line leaves the table that refers: none or many of its rows, or none or one."""
    x, y = at
    if single:
        yield _bar(x + BAR * way, y)
    else:
        for spread in (-HALF, HALF):
            yield Stroke(((x, y + spread), (x + FOOT * way, y)), "sign")
    yield Ring(x + RING * way, y, RADIUS, "ring")


def _one(at: Point, way: float, *, optional: bool) -> Iterator[Shape]:
    """The sign where a line reaches the table that it refers to: one row of it, or none or one."""
    x, y = at
    yield _bar(x + BAR * way, y)
    yield Ring(x + RING * way, y, RADIUS, "ring") if optional else _bar(x + SECOND_BAR * way, y)


def _bar(x: float, y: float) -> Stroke:
    return Stroke(((x, y - HALF), (x, y + HALF)), "sign")


# The legend -----------------------------------------------------------------------------------------------------------


def _entries(picture: Picture) -> list[tuple[str, str]]:
    """The signs and words that occur in the picture, with what they mean."""
    ties = [route.tie for route in picture.routes]
    columns = [column for box in picture.boxes for column in box.table.columns]
    marks = {column.mark for column in columns}
    entries = [
        ("many", "none or many rows", any(not tie.single for tie in ties if not tie.is_range)),
        ("single", "none or one row", any(tie.single for tie in ties if not tie.is_range)),
        ("one", "always one row", any(not tie.optional for tie in ties if not tie.is_range)),
        ("maybe", "one row or blank", any(tie.optional for tie in ties if not tie.is_range)),
        ("range", "a number lies in a range", any(tie.is_range for tie in ties)),
        ("", "key: primary key", bool(marks & {Mark.KEY, Mark.KEY_AND_REFERENCE})),
        ("", "ref: names a row of another table", bool(marks & {Mark.REFERENCE, Mark.KEY_AND_REFERENCE})),
        ("", "unique: no value twice", Mark.UNIQUE in marks),
        ("", "calc: calculated in a view", Mark.CALCULATED in marks),
        ("", "?: may be blank", any(not column.required for column in columns)),
    ]
    return [(sign, text) for sign, text, occurs in entries if occurs]


def _legend_width(picture: Picture) -> float:
    return sum(_entry_width(*entry) for entry in _entries(picture)) + 2 * MARGIN


def _entry_width(sign: str, text: str) -> float:
    return (34 if sign else 0) + width_of(text, SMALL) + FREE


def _legend(picture: Picture, width: float, top: float) -> tuple[list[Shape], int]:
    """The shapes of the legend, and how many lines it has."""
    shapes: list[Shape] = []
    x, line = MARGIN, 0
    for sign, text in _entries(picture):
        if x > MARGIN and x + _entry_width(sign, text) - FREE > width - MARGIN:
            x, line = MARGIN, line + 1
        y = top + line * LEGEND
        if sign:
            shapes += _sample(sign, x, y)
            x += 34
        shapes.append(Words(x, y + 3.5, text, "quiet", SMALL))
        x += width_of(text, SMALL) + FREE
    return shapes, line + 1 if shapes else 0


def _sample(sign: str, x: float, y: float) -> Iterator[Shape]:
    yield Stroke(((x, y), (x + 26, y)), "range line" if sign == "range" else "line")
    if sign in ("many", "single"):
        yield from _many((x, y), 1.0, single=sign == "single")
    elif sign in ("one", "maybe"):
        yield from _one((x, y), 1.0, optional=sign == "maybe")
    if sign != "range":
        yield Stroke(((x, y - 8), (x, y + 8)), "edge")
