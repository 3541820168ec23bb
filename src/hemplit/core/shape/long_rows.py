"""Lines of a text file with more cells than the header has are set aside: nobody can tell which cell is one too many.

Job,Boat                       Job,Boat
17,Kittiwake             →     17,Kittiwake
18,Dunlin, the grey one        (line 3 is set aside)
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.model.account import Fate
from hemplit.core.model.acts import Act
from hemplit.core.model.relation import Step
from hemplit.core.shape.working import Working, keep_columns, set_aside_rows

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.shape.working import Flags

ACT = Act.LONG_ROWS
SETTINGS = {"seen": "number?", "each_file": "number?", "keep": "flag?"}


def find(working: Working) -> Iterator[Step]:
    """The step if there are such lines."""
    rows = working.grid_rows[_rows(working)]
    if len(rows):
        why = f"{working.rows_said(rows)}: more cells than the header; one that holds the delimiter must be in quotes"
        yield Step(ACT, (("seen", len(rows)),), why)


def _rows(working: Working) -> Flags:
    return np.isin(working.grid_rows, working.too_long)


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet without these lines, and without the columns that only they filled."""
    if step.flag("keep"):
        return working
    left = set_aside_rows(working, _rows(working), ACT)
    keep = [one for one in left.columns if one.filled.any() or not one.name.startswith("Column ")]
    return keep_columns(left, keep, Fate.LEFT_OUT, "columns that only such lines fill")
