"""The sheet while it is being shaped: columns of raw texts that still know their cells."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa

from hemplit.core.codes import Grouping, by_first_appearance
from hemplit.core.model.grid import EMPTY, Grid, GridColumn, Source

if TYPE_CHECKING:
    import numpy.typing as npt


@dataclass(frozen=True)
class WorkingColumn:
    """A column on its way: its place in the grid, its name once the header is known, its cells."""

    position: int
    name: str
    cells: GridColumn


@dataclass(frozen=True)
class Working:
    """What is left of the grid; ``grid_rows`` of shape (rows,) tells each row's place in it."""

    source: Source
    columns: tuple[WorkingColumn, ...]
    grid_rows: npt.NDArray[np.int64]

    def text(self, row: int, column: WorkingColumn) -> str:
        """The text of one cell, empty if there is none."""
        code = int(column.cells.codes[row])
        return "" if code == EMPTY else str(column.cells.texts[code].as_py())


def start(grid: Grid) -> Working:
    """The whole grid, nothing done to it yet."""
    columns = tuple(WorkingColumn(position, "", cells) for position, cells in enumerate(grid.columns))
    return Working(grid.source, columns, np.arange(grid.row_count))


def keep_rows(working: Working, keep: npt.NDArray[np.bool_]) -> Working:
    """Only the rows where ``keep``, of shape (rows,), is true; texts that no row holds any more are dropped."""
    if keep.all():
        return working
    columns = tuple(
        WorkingColumn(column.position, column.name, _kept(column.cells, keep)) for column in working.columns
    )
    return Working(working.source, columns, working.grid_rows[keep])


def _kept(cells: GridColumn, keep: npt.NDArray[np.bool_]) -> GridColumn:
    codes = cells.codes[keep]
    filled = codes != EMPTY
    grouping, first = by_first_appearance(Grouping(codes[filled], len(cells.texts)))
    renumbered = np.full(len(codes), EMPTY, dtype=np.int32)
    renumbered[filled] = grouping.codes
    texts = cells.texts.take(pa.array(codes[filled][first]))
    return GridColumn(renumbered, texts)
