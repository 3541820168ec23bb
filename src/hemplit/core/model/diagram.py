"""The entity–relationship diagram: what is drawn of tables, and where it stands on the page.

Lengths are in pixels, from the top left corner of the page.
"""

from __future__ import annotations

from enum import Enum
from functools import cached_property
from itertools import pairwise

from hemplit.dataclasses import dataclass

Point = tuple[float, float]


class Mark(Enum):
    """What a column is to its table."""

    KEY = "key"
    KEY_AND_REFERENCE = "key, ref"
    REFERENCE = "ref"
    UNIQUE = "unique"
    CALCULATED = "calc"
    PLAIN = ""


@dataclass(frozen=True)
class DrawnColumn:
    """One line in the box of a table."""

    name: str
    type: str
    mark: Mark
    required: bool


@dataclass(frozen=True)
class DrawnTable:
    """What is drawn of a table: some of its columns, and how many are left away."""

    name: str
    purpose: str
    columns: tuple[DrawnColumn, ...]
    more: int = 0


@dataclass(frozen=True)
class Tie:
    """What ties a table to another: a reference, or a range of numbers in which a value lies.

    ``columns`` are the rows of the box from which it goes out. ``optional``: a row may refer to none. ``single``: at
    most one row refers to the same. ``role`` says in which part where one word is needed.
    """

    table: str
    columns: tuple[int, ...]
    to: str
    optional: bool = False
    single: bool = False
    is_range: bool = False
    role: str = ""


@dataclass(frozen=True)
class Diagram:
    """What is to be drawn."""

    title: str
    tables: tuple[DrawnTable, ...]
    ties: tuple[Tie, ...]


@dataclass(frozen=True)
class Box:
    """A table on the page; ``rows`` are the middles of the lines of its columns."""

    table: DrawnTable
    x: float
    y: float
    width: float
    height: float
    rows: tuple[float, ...]


@dataclass(frozen=True)
class Route:
    """The line of a tie: from the table that refers to the one it refers to, level and upright parts in turn."""

    tie: Tie
    points: tuple[Point, ...]

    @cached_property
    def parts(self) -> tuple[tuple[Point, Point], ...]:
        return tuple(pairwise(self.points))


@dataclass(frozen=True)
class Picture:
    """Boxes and lines on a page of a size."""

    title: str
    width: float
    height: float
    boxes: tuple[Box, ...]
    routes: tuple[Route, ...]
