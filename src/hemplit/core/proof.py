"""The proof: the tables rejoined are the sheet, the target holds the tables, and every cell is accounted for."""

from __future__ import annotations

from dataclasses import replace
from functools import reduce
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.codes import Grouping, combine, first_rows, with_blank
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.proof import Check, Difference, Ledger, SetAside
from hemplit.core.rejoin import rejoin
from hemplit.core.shape import NUMBERS
from hemplit.core.shape.working import CARRIED, CHANGED

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.design import SheetPlan
    from hemplit.core.model.grid import Codes, Grid, GridColumn
    from hemplit.core.model.relation import Column, Relation
    from hemplit.core.model.tables import Table, Tables, View

#: So many differences are spelled out; the count tells how many there are.
SHOWN = 5


def check_rejoin(relation: Relation, tables: Tables, view: View) -> Check:
    """Whether the tables, joined along their references, give every cell of the sheet back."""
    given = rejoin(tables, view)
    if view.lists:
        given = _in_order_of(relation, given)
    wrong = 0
    shown: list[Difference] = []
    for name, column in given.items():
        original = relation.by_name[name]
        rows = np.flatnonzero(_differs(original, column))
        wrong += len(rows)
        for row in rows[: SHOWN - len(shown)]:
            place = f"{relation.source.title} {relation.address(int(row), original)}"
            shown.append(Difference(place, _cell(original, int(row)), _cell(column, int(row))))
    what = f"the tables joined again give {relation.source.title} back"
    return Check(what, relation.row_count * len(given), "cells", wrong, tuple(shown))


def _in_order_of(relation: Relation, given: Mapping[str, Column]) -> dict[str, Column]:
    """The rows given back in the order of the sheet, as lists have no order: to each row the first that is the same.

    A row of the sheet that is not given back is blank; rows too many leave the columns as they are.
    """
    count = relation.row_count
    alike = reduce(
        combine,
        (
            with_blank(np.concatenate([relation.by_name[name].codes, _recoded(relation.by_name[name], column)]), size)
            for name, column in given.items()
            for size in [len(relation.by_name[name].values) + 1]
        ),
    )
    back = Grouping(alike.codes[count:], alike.size)
    if len(back.codes) != count or len(np.unique(back.codes)) != count:
        return dict(given)
    rows = first_rows(back)[alike.codes[:count]]
    return {
        name: replace(column, codes=np.append(column.codes, np.int32(EMPTY))[rows]) for name, column in given.items()
    }


def _recoded(original: Column, given: Column) -> Codes:
    """The codes of a column by the values of the original; one past them for a value that it does not have."""
    if original.values is given.values:
        return given.codes
    place = pc.fill_null(pc.index_in(given.values, original.values), len(original.values))
    return np.append(place.to_numpy(zero_copy_only=False).astype(np.int32), np.int32(EMPTY))[given.codes]


def _differs(original: Column, given: Column) -> npt.NDArray[np.bool_]:
    if len(original.codes) != len(given.codes):
        return np.ones(len(original.codes), dtype=bool)
    return np.not_equal(original.codes, _recoded(original, given))


def _cell(column: Column, row: int) -> str:
    code = int(column.codes[row])
    return "" if code == EMPTY else kinds.show(column.values[code].as_py(), column.kind)


def check_stored(tables: Tables, expected: Mapping[str, pa.Table], stored: Mapping[str, pa.Table]) -> Check:
    """Whether a target holds exactly the rows of all tables; both sides, by table name, in the target's own types.

    Rows are compared in order, and if that fails by key, since a database owes nobody an order.
    """
    cells = sum(table.row_count * len(table.columns) for table in tables.tables)
    differences: list[Difference] = []
    for table in tables.tables:
        one, two = expected[table.name], stored[table.name]
        alike = one.num_rows == two.num_rows and not any(
            _unequal(one.column(name), two.column(name)).any() for name in one.column_names
        )
        if not alike:
            differences += _by_key(table, one, two)
    many = len(tables.tables)
    what = f"the {many} tables as stored are the tables as split" if many > 1 else "the table as stored is as split"
    return Check(what, cells, "cells", len(differences), tuple(differences[:SHOWN]))


def _plain(column: pa.ChunkedArray, like: pa.DataType) -> pa.Array:
    array = column.combine_chunks()
    if array.type.equals(like):
        return array
    if pa.types.is_integer(array.type) and pa.types.is_floating(like):
        return pc.cast(array, like)
    return pc.cast(array, pa.string())


def _unequal(expected: pa.ChunkedArray, stored: pa.ChunkedArray) -> npt.NDArray[np.bool_]:
    one = expected.combine_chunks()
    two = _plain(stored, one.type)
    if not two.type.equals(one.type):
        one = pc.cast(one, pa.string())
    same = pc.fill_null(pc.equal(one, two), False)
    both_blank = pc.and_(pc.is_null(one), pc.is_null(two))
    return np.logical_not(pc.or_(same, both_blank).to_numpy(zero_copy_only=False))


def _keys(table: Table, rows: pa.Table) -> pa.Array:
    parts = [pc.fill_null(pc.cast(rows.column(name).combine_chunks(), pa.string()), "") for name in table.key]
    return pc.binary_join_element_wise(*parts, "\x1f") if len(parts) > 1 else parts[0]


def _by_key(table: Table, expected: pa.Table, stored: pa.Table) -> list[Difference]:
    wanted, held = _keys(table, expected), _keys(table, stored)
    place = pc.index_in(wanted, held)
    missing = pc.is_null(place).to_numpy(zero_copy_only=False)
    extra = pc.is_null(pc.index_in(held, wanted)).to_numpy(zero_copy_only=False)
    found = [Difference(f"{table.name} {_key(wanted, row)}", "a row", "no row") for row in np.flatnonzero(missing)]
    found += [Difference(f"{table.name} {_key(held, row)}", "no row", "a row") for row in np.flatnonzero(extra)]
    rows = np.flatnonzero(~missing)
    there = pa.array(place.to_numpy(zero_copy_only=False)[rows].astype(np.int64))
    for name in expected.column_names:
        one, two = expected.column(name).take(pa.array(rows)), stored.column(name).take(there)
        for index in np.flatnonzero(_unequal(one, two)):
            spot = f"{table.name}.{name} {_key(wanted, int(rows[index]))}"
            found.append(Difference(spot, _said(one[index]), _said(two[index])))
    return found


def _key(keys: pa.Array, row: int | np.integer) -> str:
    return f"[{keys[row].as_py()}]".replace("\x1f", ", ")


def _said(value: pa.Scalar) -> str:
    return "a blank" if value.as_py() is None else str(value.as_py())


def check_cells(grid: Grid, relation: Relation) -> Check:
    """Whether every cell that no step changed has in the relation the value that it shows in the sheet."""
    compared, wrong = 0, 0
    shown: list[Difference] = []
    for column in relation.columns:
        if not column.own:
            continue
        rows = np.arange(relation.row_count) if column.changed is None else np.flatnonzero(column.changed == 0)
        for position, some in _by_position(relation, column, rows):
            cells = grid.columns[position]
            one, two = cells.codes[relation.grid_rows[some]], column.codes[some]
            faulty = some[_other_value(cells, column)(one, two)]
            compared += len(some)
            wrong += len(faulty)
            for row in faulty[: SHOWN - len(shown)]:
                text = cells.text(int(relation.grid_rows[row]))
                shown.append(Difference(relation.address(int(row), column), text, _cell(column, int(row))))
    what = f"the cells of {relation.source.title} that no step changed are as in the sheet"
    return Check(what, compared, "cells", wrong, tuple(shown))


def _by_position(
    relation: Relation, column: Column, rows: npt.NDArray[np.int64]
) -> Iterator[tuple[int, npt.NDArray[np.int64]]]:
    if relation.block is None or not column.places:
        yield column.position, rows
        return
    for block, position in enumerate(column.places):
        if position >= 0:
            yield position, rows[relation.block[rows] == block]


def _other_value(cells: GridColumn, column: Column) -> Callable[[Codes, Codes], npt.NDArray[np.bool_]]:
    """Tells, for codes of the sheet and of the relation side by side, where they do not stand for one value."""
    read = kinds.parse(cells.texts, column.kind)
    place = pc.fill_null(pc.index_in(read, column.values, skip_nulls=True), len(column.values))
    renumber = np.append(place.to_numpy(zero_copy_only=False).astype(np.int32), np.int32(EMPTY))
    return lambda one, two: np.not_equal(renumber[one], two)


def ledger(grid: Grid, family: Sequence[tuple[Relation, View, SheetPlan]]) -> Ledger:
    """Where every cell of a sheet went; ``family`` is its relation and those that were taken out of it."""
    carried = computed = 0
    changes: dict[str, int] = {}
    aside: dict[str, int] = {}
    for relation, view, sheet in family:
        for fate, reason, cells in relation.account:
            if fate == CARRIED:
                carried += cells
            else:
                account = changes if fate == CHANGED else aside
                account[reason] = account.get(reason, 0) + cells
        for column in relation.columns:
            if column.own:
                same, changed = _of_column(relation, column)
                if column.name in sheet.leave_out:
                    reason = f"left out by the design: {column.name}"
                    aside[reason] = aside.get(reason, 0) + same + sum(changed.values())
                    continue
                carried += same
                for act, cells in changed.items():
                    changes[act] = changes.get(act, 0) + cells
        computed += sum(column.formula is not None for column in view.columns) * relation.row_count
    return Ledger(
        sheet=family[0][0].source.title,
        cells=grid.cell_count,
        carried=carried,
        computed=computed,
        changes=tuple(SetAside(reason, cells) for reason, cells in changes.items()),
        set_aside=tuple(SetAside(reason, cells) for reason, cells in aside.items()),
    )


def _of_column(relation: Relation, column: Column) -> tuple[int, dict[str, int]]:
    """How many cells of a column are carried over the same, and how many each step changed."""
    cells = relation.row_count
    if relation.block is not None and column.places:
        cells = int((np.array(column.places)[relation.block] >= 0).sum())
    if column.changed is None:
        return cells, {}
    counts = np.bincount(column.changed, minlength=len(NUMBERS) + 1)
    changed = {act: int(counts[number]) for act, number in NUMBERS.items() if counts[number]}
    return cells - sum(changed.values()), changed
