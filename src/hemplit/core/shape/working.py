"""The sheet while it is being shaped: columns of raw texts that still know their cells, and the account of the rest."""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.columns.codes import Grouping, combine, first_rows, stack
from hemplit.core.model.account import Cells, Fate
from hemplit.core.model.arrays import of
from hemplit.core.model.grid import EMPTY, Grid, GridColumn, Range, Source
from hemplit.dataclasses import dataclass, replace

if TYPE_CHECKING:
    from collections.abc import Sequence

    import numpy.typing as npt

    from hemplit.core.model.acts import Act
    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Column, Relation

    Flags = npt.NDArray[np.bool_]

#: So many rows or places are named in words; a count tells how many there are.
SHOWN = 4
#: Of several files, whose names go with them, fewer.
SHOWN_OF_FILES = 2
#: Where so few rows go, it is quicker to look for each of their texts in the others than to count all texts.
FEW = 3
#: Why the titles over a table are left out.
ABOVE = "above the header"


@dataclass(frozen=True)
class WorkingColumn:
    """A column on its way: its place in the grid, its name once the header is known, its cells.

    ``changed`` of shape (rows,) holds the number of the step that changed a cell, 0 for none; None if there are none.
    ``own`` is false for values that stand in no cells of their own; ``part_of`` is then the place in the grid of the
    cells of which they are a part.
    """

    position: int
    name: str
    cells: GridColumn
    own: bool = True
    changed: npt.NDArray[np.int8] | None = None
    places: tuple[int, ...] = ()
    part_of: int | None = None
    headers: tuple[str, ...] = ()

    @property
    def filled(self) -> Flags:
        return self.cells.filled


@dataclass(frozen=True)
class Working:
    """What is left of the grid; ``grid_rows`` of shape (rows,) tells each row's place in it.

    ``children`` are relations that were taken out of it, ``of`` the columns a child shares with where it was taken
    from; ``account`` holds the cells that stand in no column any more. ``again`` of shape (rows, 2) has the rows of the
    grid that say again what another tells, each with that one.
    """

    source: Source
    columns: tuple[WorkingColumn, ...]
    grid_rows: npt.NDArray[np.int64]
    merged: tuple[Range, ...] = ()
    too_long: tuple[int, ...] = ()
    account: tuple[Cells, ...] = ()
    children: tuple[Working, ...] = ()
    name: str = ""
    of: tuple[str, ...] = ()
    block: npt.NDArray[np.int16] | None = None
    again: npt.NDArray[np.int64] | None = None

    @property
    def row_count(self) -> int:
        return len(self.grid_rows)

    @property
    def in_cells(self) -> Working:
        """The sheet with only the columns that stand in cells of their own."""
        return replace(self, columns=tuple(column for column in self.columns if column.own))

    @property
    def own_positions(self) -> tuple[int, ...]:
        """The places in the grid of the columns that hold its cells."""
        return tuple(column.position for column in self.columns if column.own)

    def text(self, row: int, column: WorkingColumn) -> str:
        """The text of one cell, empty if there is none."""
        return column.cells.text(row)

    def row_texts(self, row: int) -> list[str]:
        """The texts of one row."""
        return [self.text(row, column) for column in self.columns]

    def first_texts(self, count: int) -> list[list[str]]:
        """The texts of the first rows."""
        texts = [column.cells.first_texts(count) for column in self.columns]
        return [[column[row] for column in texts] for row in range(min(self.row_count, count))]

    def named(self, name: str) -> WorkingColumn | None:
        """The column of that name, if it is there."""
        return next((column for column in self.columns if column.name == name), None)

    def address(self, row: int, column: WorkingColumn) -> str:
        return self.source.address(int(self.grid_rows[row]), column.position)

    def rows_said(self, rows: Sequence[int] | npt.NDArray[np.int64]) -> str:
        """Some rows of the grid, counted from 0, in words."""
        most = SHOWN_OF_FILES if self.source.parts else SHOWN
        more = f" and {len(rows) - most:,} more" if len(rows) > most else ""
        places = [self.source.row(int(row)) for row in rows[:most]]
        if self.source.parts:
            return ", ".join(f"{file}row {within + 1}" for file, within in places) + more
        return f"row{'s' if len(rows) > 1 else ''} {', '.join(str(within + 1) for _, within in places)}{more}"

    def places(self, column: WorkingColumn, rows: npt.NDArray[np.int64]) -> tuple[str, ...]:
        """The addresses and texts of some cells."""
        return tuple(f"{self.address(int(row), column)} '{self.text(int(row), column)}'" for row in rows[:SHOWN])


def start(grid: Grid) -> Working:
    """The whole grid, nothing done to it yet."""
    columns = tuple(WorkingColumn(position, "", cells) for position, cells in enumerate(grid.columns))
    return Working(grid.source, columns, np.arange(grid.row_count), grid.merged, grid.too_long)


def keep_rows(working: Working, keep: Flags, fate: Fate, reason: str, *, named: bool = False) -> Working:
    """Only the rows where ``keep``, of shape (rows,), is true; the others are accounted for under the reason.

    Texts that no row holds any more are dropped.
    """
    if keep.all():
        return working
    columns = tuple(
        replace(
            column,
            cells=kept(column.cells, keep),
            changed=None if column.changed is None else column.changed[keep],
        )
        for column in working.columns
    )
    gone = Cells(fate, reason, working.grid_rows[~keep], working.own_positions, named)
    return replace(
        working,
        columns=columns,
        grid_rows=working.grid_rows[keep],
        block=None if working.block is None else working.block[keep],
        account=(*working.account, gone) if gone.positions else working.account,
    )


def set_aside_rows(working: Working, rows: Flags, act: Act, *, named: bool = True) -> Working:
    """The sheet without the rows that are flagged, shape (rows,)."""
    return keep_rows(working, ~rows, Fate.LEFT_OUT, act, named=named)


def keep_columns(working: Working, keep: Sequence[WorkingColumn], fate: Fate, reason: str) -> Working:
    """Only these columns; the cells of the others are accounted for under the reason."""
    kept_columns = {id(column) for column in keep}
    gone = tuple(column.position for column in working.columns if column.own and id(column) not in kept_columns)
    account = (Cells(fate, reason, working.grid_rows, gone),) if gone and working.row_count else ()
    return replace(working, columns=tuple(keep), account=(*working.account, *account))


def kept(cells: GridColumn, keep: Flags) -> GridColumn:
    """The cells of some rows, only with the texts that these hold."""
    dropped = np.flatnonzero(~keep)
    if not len(dropped):
        return cells
    if len(dropped) > FEW:
        return compact(cells.codes[keep], cells.texts)
    first = int(dropped[-1]) + 1
    codes = cells.codes[first:] if len(dropped) == first else cells.codes[keep]
    texts = cells.texts
    for code in sorted(set(cells.codes[dropped].tolist()) - {EMPTY}, reverse=True):
        if not (codes == code).any():
            # The header stands first, so its text has the first code, and the quicker way is the usual one.
            codes = codes - (codes > code) if code else np.maximum(codes - np.int32(1), np.int32(EMPTY))
            texts = pa.concat_arrays([texts.slice(0, code), texts.slice(code + 1)])
    return GridColumn(codes, texts)


def compact(codes: Codes, texts: pa.StringArray) -> GridColumn:
    """Only the texts that some cell holds."""
    held = np.bincount(codes[codes != EMPTY], minlength=len(texts)) > 0
    if held.all():
        return GridColumn(codes, texts)
    renumber = np.append(np.cumsum(held, dtype=np.int32) - np.int32(1), np.int32(EMPTY))
    return GridColumn(renumber[codes], texts.filter(of(held)))


def of_texts(texts: Sequence[str]) -> GridColumn:
    """The cells with these texts; the empty text is no content.

    >>> of_texts(["Teal", "", "Teal"]).codes.tolist()
    [0, -1, 0]
    """
    place = {text: code for code, text in enumerate(dict.fromkeys(filter(None, texts)))}
    codes = np.array([place.get(text, EMPTY) for text in texts], dtype=np.int32)
    return GridColumn(codes, pa.array([*place], pa.string()))


def shown_texts(column: Column) -> pa.StringArray:
    """The distinct values of a column of a relation as the sheet writes them."""
    return pa.array([kinds.show(value, column.kind) for value in column.values.to_pylist()], pa.string())


def as_working(relation: Relation) -> Working:
    """The columns of a relation as those of a sheet that is being shaped; none of it can be acted on."""
    columns = (
        WorkingColumn(one.position, one.name, GridColumn(one.codes, shown_texts(one)), own=one.own)
        for one in relation.columns
    )
    return Working(relation.source, tuple(columns), relation.grid_rows)


def rows_like(working: Working, row: int) -> Flags:
    """The rows that say in all columns what this one says, shape (rows,)."""
    like = np.ones(working.row_count, dtype=bool)
    for column in working.columns:
        like &= column.cells.codes == column.cells.codes[row]
    return like


def stacked(parts: Sequence[tuple[GridColumn | None, int]]) -> GridColumn:
    """The cells of several columns one below the other; where there is no column, so many blanks."""
    nothing = pa.array([], pa.string())
    given = [
        (np.full(rows, EMPTY, dtype=np.int32), nothing) if cells is None else (cells.codes, cells.texts)
        for cells, rows in parts
    ]
    return GridColumn(*stack(given))


def tell_apart(columns: Sequence[WorkingColumn], rows: Flags | slice = slice(None)) -> bool:
    """Whether the columns, which are filled there, tell those rows apart."""
    whole = reduce(combine, (Grouping(column.cells.codes[rows], len(column.cells.texts)) for column in columns))
    return bool((np.bincount(whole.codes, minlength=whole.size) <= 1).all())


def rewritten(column: WorkingColumn, texts: pa.StringArray, number: int) -> WorkingColumn:
    """The column with other texts, one for each of its distinct ones (null for a blank), by the step of that number."""
    before = column.cells.texts
    other = pc.fill_null(pc.not_equal(before, texts), True).to_numpy(zero_copy_only=False)
    if not other.any():
        return column
    encoded = texts.dictionary_encode()
    renumber = pc.fill_null(encoded.indices, EMPTY).to_numpy(zero_copy_only=False).astype(np.int32)
    codes = np.append(renumber, np.int32(EMPTY))[column.cells.codes]
    touched = np.append(other, False)[column.cells.codes]
    return replace(column, cells=GridColumn(codes, encoded.dictionary), changed=mark(column, touched, number))


def mark(column: WorkingColumn, touched: Flags, number: int) -> npt.NDArray[np.int8]:
    """Which step changed each cell, the first that did."""
    changed = np.zeros(len(touched), dtype=np.int8) if column.changed is None else column.changed.copy()
    changed[touched & (changed == 0)] = number
    return changed


def with_column(working: Working, column: WorkingColumn, instead: WorkingColumn) -> Working:
    """The sheet with one column put in the place of another."""
    return replace(working, columns=tuple(instead if one is column else one for one in working.columns))


def with_further(working: Working, name: str, cells: GridColumn) -> Working:
    """The sheet with one column more, of values that stand in no cells of their own."""
    position = max((column.position for column in working.columns), default=-1) + 1
    return replace(working, columns=(*working.columns, WorkingColumn(position, name, cells, own=False)))


def files_of(working: Working, rows: npt.NDArray[np.int64] | None = None) -> Grouping:
    """Which file each row comes from; ``rows`` of the grid, or all that are left."""
    starts = [start for _, start in working.source.parts] or [0]
    places = np.searchsorted(starts, working.grid_rows if rows is None else rows, side="right") - 1
    return Grouping(places.astype(np.int32), len(starts))


def last_above(filled: Flags, group: npt.NDArray[np.integer]) -> npt.NDArray[np.int64]:
    """For each row the last one with content at or above it in its group, -1 where there is none.

    >>> last_above(np.array([True, False, False]), np.array([0, 0, 1])).tolist()
    [0, 0, -1]
    """
    last = np.maximum.accumulate(np.where(filled, np.arange(len(filled)), -1))
    return np.where((last >= 0) & (group[last] == group), last, -1)


def first_places(column: WorkingColumn) -> npt.NDArray[np.int64]:
    """The first row that holds each distinct text."""
    filled = np.flatnonzero(column.filled)
    return filled[first_rows(Grouping(column.cells.codes[filled], len(column.cells.texts)))]


def occupied(working: Working) -> npt.NDArray[np.int64]:
    """How many cells of each row are filled, shape (rows,)."""
    full = sum(column.cells.full for column in working.columns)
    total = np.full(working.row_count, full, dtype=np.int64)
    for column in working.columns:
        if not column.cells.full:
            total += column.filled
    return total
