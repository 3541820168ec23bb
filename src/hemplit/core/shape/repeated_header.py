"""Header rows that stand again inside the data, as printed pages and pasted months have them, are set aside.

Where several files are read as one sheet, each begins with its header, and what stands above it goes with it.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.model.account import Fate
from hemplit.core.model.acts import Act
from hemplit.core.model.relation import Step
from hemplit.core.shape.working import ABOVE, Working, keep_rows, set_aside_rows

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.shape.working import Flags

ACT = Act.REPEATED_HEADER
SETTINGS = {"keep": "flag?"}
#: A row repeats the header if it has at least this share of its names in their places, and nothing else.
SAME = 0.6


def find(working: Working) -> Iterator[Step]:
    """The step if there are such rows, or will be, as there are files."""
    again, above = _rows(working)
    rows = working.grid_rows[again | above]
    if len(rows):
        yield Step(ACT, (), f"{np.count_nonzero(again):,} that say the header again: {working.rows_said(rows)}")
    elif working.source.parts:
        yield Step(ACT, (), "each further file has one")


def _rows(working: Working) -> tuple[Flags, Flags]:
    """The rows that say the header again, and those above it in each further file; shape (rows,) both."""
    none = np.zeros(working.row_count, dtype=bool)
    columns = [column for column in working.columns if column.own]
    places = [pc.index(column.cells.texts, pa.scalar(column.name, pa.string())).as_py() for column in columns]
    named = len(places)
    if sum(code >= 0 for code in places) < max(min(2, named), SAME * named):
        return none, none
    same = np.zeros(working.row_count, dtype=np.int64)
    other = np.zeros(working.row_count, dtype=np.int64)
    for column, code in zip(columns, places, strict=True):
        hits = column.cells.codes == code if code >= 0 else np.zeros(working.row_count, dtype=bool)
        same += hits
        other += column.filled & ~hits
    again = (same >= max(min(2, named), SAME * named)) & (other == 0)
    again |= (same >= 2) & (same >= 0.8 * named)
    again &= same > 0
    above = _above(working, again) & ~again
    return (none, none) if (again | above).all() else (again, above)


def _above(working: Working, again: Flags) -> Flags:
    """The rows of each further file that stand above its header."""
    above = np.zeros(working.row_count, dtype=bool)
    for _, start in working.source.parts[1:]:
        headers = np.flatnonzero(again & (working.grid_rows >= start))
        if len(headers):
            above |= (working.grid_rows >= start) & (np.arange(working.row_count) < headers[0])
    return above


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet without these rows."""
    if step.flag("keep"):
        return working
    again, above = _rows(working)
    left = set_aside_rows(working, again, ACT, named=False)
    return keep_rows(left, ~above[~again], Fate.LEFT_OUT, ABOVE, named=True)
