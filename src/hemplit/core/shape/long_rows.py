"""Lines of a text file with more cells than the header has are set aside: nobody can tell which cell is one too many.

Job,Boat                       Job,Boat
17,Kittiwake             →     17,Kittiwake
18,Dunlin, the grey one        (line 3 is set aside)
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.model.relation import Step
from hemplit.core.shape.working import ASIDE, Working, keep_columns, set_aside_rows

if TYPE_CHECKING:
    from collections.abc import Iterator

ACT = "set aside lines that are too long"
SETTINGS = {"rows": "rows"}


def find(working: Working) -> Iterator[Step]:
    """The step if there are such lines."""
    rows = [row for row in working.too_long if np.isin(row, working.grid_rows)]
    if rows:
        yield Step(
            ACT,
            (("rows", tuple(row + 1 for row in rows)),),
            f"{len(rows)} with more cells than the header; a cell that holds the delimiter must stand in quotes",
        )


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet without these lines, and without the columns that only they filled."""
    left = set_aside_rows(working, step.numbers("rows"), ACT)
    keep = [one for one in left.columns if one.filled.any() or not one.name.startswith("Column ")]
    return keep_columns(left, keep, ASIDE, "columns with neither header nor content")
