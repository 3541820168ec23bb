"""Relation × design → tables. Whatever a design asks for is either done without loss or refused with the cells that
stand against it; nothing is ever dropped in silence.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import reduce
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core import kinds, resolve
from hemplit.core.codes import Grouping, by_first_appearance, combine, first_conflict, first_rows, with_blank
from hemplit.core.gather import gathered, view_name
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import Kind
from hemplit.core.model.tables import Reference, Table, TableColumn, Tables, View, ViewColumn
from hemplit.errors import DesignError, nearest

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.design import ColumnPlan, Design, SheetPlan, TablePlan
    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Relation

ID = Kind("whole number")


@dataclass(frozen=True)
class Filled:
    """A table with its place in the sheet: ``row_of`` of shape (sheet rows,) is its row for each, or ``EMPTY``."""

    table: Table
    row_of: Codes


def split(design: Design, relations: Mapping[str, Relation]) -> Tables:
    """The tables that the design makes of the relations, which are given by sheet name.

    Raises ``DesignError`` where the data contradict the design, naming the cells.
    """
    filled: dict[str, Filled] = {}
    for plan in resolve.filling_order(design, design.tables):
        filled[plan.name] = _fill(design, plan, relations[plan.sheet], filled)
    # The view of a sheet gathers cells from those of the relations that were taken out of it, which come first.
    ordered = sorted(design.sheets, key=lambda sheet: sheet.of is None)
    views = tuple(_view(design, sheet, relations) for sheet in ordered)
    return Tables(tuple(one.table for one in filled.values()), views)


def _fill(design: Design, plan: TablePlan, relation: Relation, filled: Mapping[str, Filled]) -> Filled:
    cells = {
        column.name: _cells(design, plan, column, relation, filled) for column in plan.stored if column.ids is None
    }
    if plan.each_row:
        row_of = np.arange(relation.row_count, dtype=np.int32)
        first: npt.NDArray[np.int64] = np.arange(relation.row_count)
    else:
        row_of, first = _rows_by_identity(plan, relation, cells)
    columns = tuple(_column(plan, column, cells, first) for column in plan.stored)
    table = Table(plan.name, plan.purpose, columns, plan.key, plan.unique, resolve.references(design, plan), len(first))
    _check_filled(plan, relation, table, first)
    for columns_alike in (plan.key, *plan.unique):
        _check_unique(plan, relation, table, columns_alike, first)
    return Filled(table, row_of)


def _cells(
    design: Design, plan: TablePlan, column: ColumnPlan, relation: Relation, filled: Mapping[str, Filled]
) -> TableColumn:
    """The column as it would be with one row per row of the sheet."""
    header = resolve.source(design, plan, column)
    if header is not None:
        if header not in relation.by_name:
            raise DesignError(
                resolve.place(plan, column),
                f"{relation.source.title} has no column '{header}'",
                nearest(header, relation.names),
            )
        came = relation.by_name[header]
        cells = TableColumn(column.name, came.kind, came.codes, came.values, column.required)
        to = resolve.target(design, plan, column)
        if to is not None and to.table.sheet != plan.sheet:
            return _with_values_of(filled[to.table.name].table.by_name[to.column.name], cells, plan, column, relation)
        return cells
    pointed = resolve.target(design, plan, column)
    if pointed is None:
        raise DesignError(resolve.place(plan, column), "it has no content", "give it 'from', 'to' or 'ids'")
    other = filled[pointed.table.name]
    ids = other.table.by_name[pointed.column.name]
    return TableColumn(column.name, ids.kind, other.row_of, ids.values, column.required)


def _with_values_of(
    key: TableColumn, cells: TableColumn, plan: TablePlan, column: ColumnPlan, relation: Relation
) -> TableColumn:
    """The column with the values of the key that it refers to, which stands in another relation."""
    renumber = pc.fill_null(pc.index_in(cells.values, key.values), EMPTY).to_numpy(zero_copy_only=False)
    codes = np.append(renumber.astype(np.int32), np.int32(EMPTY))[cells.codes]
    orphan = (codes == EMPTY) & (cells.codes != EMPTY)
    if orphan.any():
        row = int(orphan.argmax())
        raise DesignError(
            resolve.place(plan, column),
            f"{relation.source.title} {relation.row(row)} has {_shown(cells, row)}, which '{column.to}' has not",
            "take 'to' off the column, or correct the sheet",
        )
    return TableColumn(cells.name, key.kind, codes, key.values, cells.required)


def _column(
    plan: TablePlan, column: ColumnPlan, cells: Mapping[str, TableColumn], first: npt.NDArray[np.int64]
) -> TableColumn:
    if column.ids is not None:
        return TableColumn(
            column.name, ID, np.arange(len(first), dtype=np.int32), pa.array(np.arange(1, len(first) + 1)), True
        )
    whole = cells[column.name]
    required = column.required or column.name in plan.key
    return TableColumn(whole.name, whole.kind, whole.codes[first], whole.values, required)


def identity(plan: TablePlan) -> tuple[str, ...]:
    """The columns whose values tell one row of the table from another in the sheet.

    The key; where that is made up, the first unique columns, or else all columns.
    """
    made_up = {column.name for column in plan.stored if column.ids is not None}
    if not made_up.intersection(plan.key):
        return plan.key
    natural = tuple(column.name for column in plan.stored if column.name not in made_up)
    return plan.unique[0] if plan.unique else natural


def _rows_by_identity(
    plan: TablePlan, relation: Relation, cells: Mapping[str, TableColumn]
) -> tuple[Codes, npt.NDArray[np.int64]]:
    names = identity(plan)
    blank = {name: cell.codes == EMPTY for name, cell in cells.items()}
    rest_blank = _all([blank[name] for name in cells if name not in names], relation.row_count)
    if names == plan.key:
        some_blank = ~_all([~blank[name] for name in names], relation.row_count)
        absent = some_blank & rest_blank
        _check_key_filled(plan, relation, cells, some_blank & ~rest_blank)
    else:
        absent = rest_blank & _all([blank[name] for name in names], relation.row_count)
    present = np.flatnonzero(~absent)
    grouped = reduce(combine, (_grouping(cells[name], present) for name in names))
    grouping, first = by_first_appearance(grouped)
    for name in cells:
        if name not in names:
            conflict = first_conflict(grouping, cells[name].codes[present])
            if conflict is not None:
                rows = (int(present[conflict[0]]), int(present[conflict[1]]))
                raise _conflict(plan, relation, [cells[one] for one in names], cells[name], rows)
    row_of = np.full(relation.row_count, EMPTY, dtype=np.int32)
    row_of[present] = grouping.codes
    return row_of, present[first]


def _all(flags: Sequence[npt.NDArray[np.bool_]], rows: int) -> npt.NDArray[np.bool_]:
    return reduce(np.logical_and, flags, np.ones(rows, dtype=bool))


def _grouping(column: TableColumn, rows: npt.NDArray[np.int64] | slice = slice(None)) -> Grouping:
    return with_blank(column.codes[rows], len(column.values))


def _shown(column: TableColumn, row: int) -> str:
    code = int(column.codes[row])
    return "a blank" if code == EMPTY else f"'{kinds.show(column.values[code].as_py(), column.kind)}'"


def _row(relation: Relation, row: int) -> str:
    return relation.row(row)


def _conflict(
    plan: TablePlan, relation: Relation, same: Sequence[TableColumn], column: TableColumn, rows: tuple[int, int]
) -> DesignError:
    shown = ", ".join(f"{one.name} {_shown(one, rows[0])}" for one in same)
    values = " and ".join(f"{_shown(column, row)} in {_row(relation, row)}" for row in rows)
    return DesignError(
        f"{resolve.place(plan)}.columns.{column.name}",
        f"{relation.source.title} has two values for {shown}: {values}",
        "correct the sheet, or move the column to a table whose key decides it",
    )


def _check_key_filled(
    plan: TablePlan, relation: Relation, cells: Mapping[str, TableColumn], faulty: npt.NDArray[np.bool_]
) -> None:
    if faulty.any():
        row = int(faulty.argmax())
        name = next(name for name in plan.key if cells[name].codes[row] == EMPTY)
        raise DesignError(
            f"{resolve.place(plan)}.key",
            f"{relation.source.title} {_row(relation, row)} has no value for '{name}', yet the table has content there",
            "fill the cell, or use a made-up key such as \"id = { ids = 'number' }\"",
        )


def _check_filled(plan: TablePlan, relation: Relation, table: Table, first: npt.NDArray[np.int64]) -> None:
    for column in table.columns:
        blank = column.codes == EMPTY
        if column.required and blank.any():
            raise DesignError(
                f"{resolve.place(plan)}.columns.{column.name}",
                f"{relation.source.title} {_row(relation, int(first[int(blank.argmax())]))} is blank there, "
                "and the column is in the key or required",
                "fill the cell, or take 'required' or the key off the column",
            )


def _check_unique(
    plan: TablePlan, relation: Relation, table: Table, names: Sequence[str], first: npt.NDArray[np.int64]
) -> None:
    columns = [table.by_name[name] for name in names]
    complete = np.flatnonzero(_all([column.codes != EMPTY for column in columns], table.row_count))
    grouping = reduce(combine, (_grouping(column, complete) for column in columns))
    earlier = complete[first_rows(grouping)[grouping.codes]] if len(complete) else complete
    again = np.flatnonzero(earlier != complete)
    if len(again):
        one, two = int(earlier[again[0]]), int(complete[again[0]])
        shown = ", ".join(f"{column.name} {_shown(column, one)}" for column in columns)
        raise DesignError(
            resolve.place(plan),
            f"{' + '.join(names)} is not unique: {relation.source.title} has {shown} in "
            f"{_row(relation, int(first[one]))} and in {_row(relation, int(first[two]))}",
            "choose another key, or correct the sheet",
        )


def _view(design: Design, sheet: SheetPlan, relations: Mapping[str, Relation]) -> View:
    """Every header of the sheet, reached from the base table along the fewest references."""
    relation = relations[sheet.name]
    base = next(table for table in design.tables_of(sheet.name) if table.each_row)
    ways: dict[str, tuple[tuple[Reference, ...], str]] = {}
    formulas = {
        column.source: column.formula for table in design.tables for column in table.columns if not column.store
    }
    queue: list[tuple[TablePlan, tuple[Reference, ...]]] = [(base, ())]
    for table, path in queue:
        for column in table.stored:
            header = resolve.source(design, table, column)
            if header is not None:
                ways.setdefault(header, (path, column.name))
        queue += [
            (design.by_name[reference.table], (*path, reference))
            for reference in resolve.references(design, table)
            if design.by_name[reference.table].sheet == sheet.name
        ]
    columns = gathered(design, sheet, relations)
    for came in relation.columns:
        if came.name in ways:
            way, name = ways[came.name]
            columns.append((came.position, ViewColumn(came.name, came.kind, way, name)))
        elif formulas.get(came.name) is not None:
            columns.append((came.position, ViewColumn(came.name, came.kind, formula=formulas[came.name])))
        elif came.name not in sheet.leave_out:
            raise DesignError(
                f"sheets.{sheet.name}",
                f"column '{came.name}' of {relation.source.title} is in no table that '{base.name}' leads to",
                "give it a column line in a table, or name it in leave_out",
            )
    columns.sort(key=lambda column: column[0])
    return View(view_name(design, sheet), sheet.name, base.name, tuple(column for _, column in columns))
