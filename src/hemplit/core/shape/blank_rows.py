"""Rows without any content are set aside: they hold nothing, and keeping them would put empty rows into the tables.

Job   Boat              Job   Boat
17    Kittiwake   →     17    Kittiwake
(nothing)               18    Dunlin
18    Dunlin
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.model.relation import Step
from hemplit.core.shape.working import Working, occupied, set_aside_rows

if TYPE_CHECKING:
    from collections.abc import Iterator

ACT = "set aside blank rows"
SETTINGS = {"rows": "rows"}


def find(working: Working) -> Iterator[Step]:
    """The step if there are such rows; the rows are counted from 1, as a spreadsheet shows them."""
    rows = working.grid_rows[occupied(working) == 0]
    if len(rows):
        yield Step(ACT, (("rows", tuple((rows + 1).tolist())),), f"{len(rows)} without any content")


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet without the rows named in the step."""
    return set_aside_rows(working, step.numbers("rows"), ACT)
