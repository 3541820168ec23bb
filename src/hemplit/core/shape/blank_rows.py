"""Rows without any content are set aside: they hold nothing, and keeping them would put empty rows into the tables.

Job   Boat              Job   Boat
17    Kittiwake   →     17    Kittiwake
(nothing)               18    Dunlin
18    Dunlin
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.model.acts import Act
from hemplit.core.model.relation import Step
from hemplit.core.shape.working import Working, occupied, set_aside_rows

if TYPE_CHECKING:
    from collections.abc import Iterator

ACT = Act.BLANK_ROWS
SETTINGS: dict[str, str] = {}


def find(working: Working) -> Iterator[Step]:
    """The step if there are such rows."""
    rows = working.grid_rows[occupied(working) == 0]
    if len(rows):
        yield Step(ACT, (), f"{len(rows):,} without any content: {working.rows_said(rows)}")


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet without the rows that have no content."""
    return set_aside_rows(working, occupied(working) == 0, ACT, named=False)
