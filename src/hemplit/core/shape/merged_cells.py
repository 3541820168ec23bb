"""A value in cells that were merged down belongs to each row that they span.

Dock    Berth            Dock    Berth
West    W1               West    W1
 "      W2         →     West    W2
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY, GridColumn
from hemplit.core.model.relation import Step
from hemplit.core.shape.working import Working, WorkingColumn, mark
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.model.grid import Range

ACT = Act.MERGED_CELLS
SETTINGS = {"columns": "columns"}


def find(working: Working) -> Iterator[Step]:
    """The step if cells of the table are merged down."""
    if not working.row_count:
        return
    top = int(working.grid_rows[0])
    down = [one for one in working.merged if one.bottom > one.top >= top]
    names = tuple(column.name for column in working.columns if any(_in(column, one) for one in down))
    if names:
        yield Step(ACT, (("columns", names),), f"{len(down)} merged ranges")


def _in(column: WorkingColumn, area: Range) -> bool:
    return area.left <= column.position <= area.right


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet with the value of a merged range in each of its rows."""
    columns = []
    for column in working.columns:
        codes = column.cells.codes.copy()
        for area in working.merged if column.name in step.texts("columns") else ():
            if _in(column, area):
                inside = (working.grid_rows >= area.top) & (working.grid_rows <= area.bottom)
                rows = np.flatnonzero(inside)
                if len(rows) and codes[rows[0]] != EMPTY:
                    codes[rows] = codes[rows[0]]
        touched = codes != column.cells.codes
        cells = GridColumn(codes, column.cells.texts)
        changed = mark(column, touched, number) if touched.any() else column.changed
        columns.append(replace(column, cells=cells, changed=changed))
    return replace(working, columns=tuple(columns))
