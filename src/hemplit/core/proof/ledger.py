"""Where every cell of a sheet went. A map of the grid has a place for each cell; whoever holds cells marks them there.

A cell that nobody marks is lost, and one that two mark is there twice: either shows in the ledger, whatever went wrong
before. Nothing here believes the counts of the steps.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import distinct
from hemplit.core.model.account import Fate
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.proof import Ledger, LeftOutRow, Reason
from hemplit.core.shape.area import OUTSIDE
from hemplit.dataclasses import dataclass, replace

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.model.design import SheetPlan
    from hemplit.core.model.grid import Grid
    from hemplit.core.model.relation import Column, Relation
    from hemplit.core.model.tables import View

BY_DESIGN = "leave_out in the design"
NO_TABLE = "outside of the tables that the design takes"


@dataclass(frozen=True)
class Member:
    """A relation of the sheet, the view that gives it back, and what the design says of it."""

    relation: Relation
    view: View
    sheet: SheetPlan

    @property
    def headers(self) -> dict[str, Fate]:
        """What the view gives back, and whether it has it from a table or calculates it."""
        return {one.header: Fate.STORED if one.formula is None else Fate.CALCULATED for one in self.view.columns}

    @property
    def keeps_places(self) -> bool:
        """Whether cells that became rows can be put back: by the key of the row they stood in, and their place."""
        of = self.relation.of
        return not of or {*of, self.relation.columns[-1].name} <= self.headers.keys()

    def fate_of(self, header: str) -> tuple[Fate, str] | None:
        """What becomes of the cells of a column; None if it is in no table and nobody asked for that."""
        fate = self.headers.get(header)
        if fate is not None and self.keeps_places:
            return fate, ""
        asked = header in self.sheet.leave_out or not self.keeps_places
        return (Fate.LEFT_OUT, f"{BY_DESIGN}: {header}") if asked else None


class _Map:
    """A mark for each cell of a grid, shape (rows,) for each column; 0 for none."""

    def __init__(self, grid: Grid) -> None:
        self._marks = [np.zeros(grid.row_count, dtype=np.int16) for _ in grid.columns]
        self._meanings: dict[tuple[Fate, str], int] = {}
        self.twice = 0

    def mark(self, position: int, rows: npt.NDArray[np.integer], fate: Fate, reason: str) -> None:
        """Cells of a column that nobody has marked yet."""
        marks = self._marks[position]
        self.twice += int(np.count_nonzero(marks[rows]))
        marks[rows] = self._number(fate, reason)

    def mark_again(self, position: int, rows: npt.NDArray[np.integer], fate: Fate, reason: str) -> None:
        """Cells that have another fate after all."""
        self._marks[position][rows] = self._number(fate, reason)

    def unmarked(self, position: int) -> npt.NDArray[np.bool_]:
        """Shape (rows,)."""
        return np.equal(self._marks[position], 0)

    def _number(self, fate: Fate, reason: str) -> int:
        return self._meanings.setdefault((fate, reason), len(self._meanings) + 1)

    def counts(self) -> tuple[int, dict[tuple[Fate, str], int]]:
        """How many cells are unmarked, and how many have each mark."""
        total = np.zeros(len(self._meanings) + 1, dtype=np.int64)
        for marks in self._marks:
            total += np.bincount(marks, minlength=len(total))
        return int(total[0]), {meaning: int(total[number]) for meaning, number in self._meanings.items()}


def ledger(grid: Grid, members: Sequence[Member]) -> Ledger:
    """The ledger of a grid; ``members`` are the relations of all sheets of the design that were read from it."""
    cells = _Map(grid)
    for member in members:
        _mark_account(cells, member)
        for column in member.relation.columns:
            if column.own:
                _mark_column(cells, member, column)
    for member in members:
        for column in member.relation.columns:
            if column.part_of is not None and column.name not in member.headers:
                rows = member.relation.grid_rows[column.codes != EMPTY]
                cells.mark_again(column.part_of, rows, Fate.LEFT_OUT, f"{BY_DESIGN}: {column.name}, a part of the cell")
    _mark_outside(cells, grid, members)
    missing, counts = cells.counts()
    of = {fate: {reason: many for (one, reason), many in counts.items() if one == fate and many} for fate in Fate}
    title = members[0].relation.source.title if members else grid.source.title
    return Ledger(
        sheet=title if sum(not one.relation.of for one in members) < 2 else grid.source.title,
        cells=grid.cell_count,
        stored=sum(of[Fate.STORED].values()),
        calculated=sum(of[Fate.CALCULATED].values()),
        changes=tuple(Reason(reason, many) for reason, many in of[Fate.CHANGED].items()),
        left_out=tuple(Reason(reason, many) for reason, many in of[Fate.LEFT_OUT].items()),
        rows=tuple(_left_out_rows(grid, members)),
        unaccounted=missing,
        twice=cells.twice,
    )


def added(one: Ledger, other: Ledger) -> Ledger:
    """The accounts of two pieces of one sheet as one."""

    def all_of(some: tuple[Reason, ...], more: tuple[Reason, ...]) -> tuple[Reason, ...]:
        cells: dict[str, int] = {}
        for reason in (*some, *more):
            cells[reason.reason] = cells.get(reason.reason, 0) + reason.cells
        return tuple(Reason(reason, many) for reason, many in cells.items())

    return replace(
        one,
        cells=one.cells + other.cells,
        stored=one.stored + other.stored,
        calculated=one.calculated + other.calculated,
        changes=all_of(one.changes, other.changes),
        left_out=all_of(one.left_out, other.left_out),
        rows=(*one.rows, *other.rows),
        unaccounted=one.unaccounted + other.unaccounted,
        twice=one.twice + other.twice,
    )


def _mark_account(cells: _Map, member: Member) -> None:
    for part in member.relation.account:
        decided = member.fate_of(part.column) if part.column else (Fate.STORED, "")
        if part.reason == OUTSIDE or (decided is None and part.fate != Fate.LEFT_OUT):
            continue
        fate, reason = part.fate, part.reason
        if decided is not None and decided[0] == Fate.LEFT_OUT and part.fate != Fate.LEFT_OUT:
            fate, reason = decided
        for position in part.positions:
            cells.mark(position, part.rows, fate, reason)


def is_list(relation: Relation) -> bool:
    """Whether the rows of a relation are the entries of lists: then no column of it has cells of its own."""
    return bool(relation.of) and not any(column.own for column in relation.columns)


def _mark_column(cells: _Map, member: Member, column: Column) -> None:
    decided = member.fate_of(column.name)
    if decided is None:
        return
    fate, reason = decided
    relation = member.relation
    as_it_is = (0, Act.BESIDE.number) if column.position in relation.beside else (0,)
    for position, rows in relation.blocks_of(column):
        of_grid = relation.grid_rows[rows]
        if fate == Fate.LEFT_OUT or column.changed is None:
            cells.mark(position, of_grid, fate, reason)
            continue
        by = column.changed[rows]
        for number in distinct(by).tolist():
            what = (fate, reason) if number in as_it_is else (Fate.CHANGED, Act.of(number))
            cells.mark(position, of_grid[by == number], *what)


def _mark_outside(cells: _Map, grid: Grid, members: Sequence[Member]) -> None:
    """The cells that stand outside of the tables of all sheets; one that another of them lost stays unmarked."""
    outside = [
        [part for part in member.relation.account if part.reason == OUTSIDE]
        for member in members
        if not member.relation.of
    ]
    for position in range(len(grid.columns)) if all(outside) else ():
        count = np.zeros(grid.row_count, dtype=np.int16)
        for parts in outside:
            for part in parts:
                if position in part.positions:
                    count[part.rows] += 1
        rows = np.flatnonzero(count == len(outside))
        cells.mark(position, rows, Fate.LEFT_OUT, NO_TABLE)


def _left_out_rows(grid: Grid, members: Sequence[Member]) -> Iterator[LeftOutRow]:
    """The rows that were left out although something stands in them."""
    for member in members:
        for part in member.relation.account:
            for row in part.rows.tolist() if part.named else ():
                texts = tuple(grid.columns[position].text(row) for position in part.positions)
                if any(texts):
                    file, within = grid.source.row(row)
                    yield LeftOutRow(f"{file}row {within + 1}", part.reason, texts)
