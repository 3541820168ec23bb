"""Rows without any content are set aside: they hold nothing, and keeping them would put empty rows into the tables.

Job   Boat              Job   Boat
17    Kittiwake   →     17    Kittiwake
(nothing)               18    Dunlin
18    Dunlin
"""

from __future__ import annotations

import numpy as np

from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import Step
from hemplit.core.shape.working import Working, keep_rows

ACT = "set aside blank rows"
SETTINGS = ("rows",)


def find(working: Working) -> Step | None:
    """The step if there are such rows; the rows are counted from 1, as a spreadsheet shows them."""
    blank = np.ones(len(working.grid_rows), dtype=bool)
    for column in working.columns:
        blank &= column.cells.codes == EMPTY
    if not blank.any():
        return None
    rows = tuple(int(row) + 1 for row in working.grid_rows[blank])
    return Step(ACT, (("rows", rows),), f"{len(rows)} without any content")


def act(working: Working, step: Step) -> Working:
    """The sheet without the rows named in the step."""
    rows = np.array(step.setting("rows"), dtype=np.int64) - 1
    return keep_rows(working, ~np.isin(working.grid_rows, rows))
