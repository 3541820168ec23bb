"""The proof: the tables rejoined are the sheet, the target holds the tables, and every cell is accounted for."""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.columns.codes import Grouping, combine, first_rows, with_blank
from hemplit.core.model.account import Fate
from hemplit.core.model.acts import Act
from hemplit.core.model.arrays import of, taken
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.proof import Check, Difference
from hemplit.core.proof.rejoin import rejoin
from hemplit.dataclasses import dataclass, replace

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.grid import Codes, Grid, GridColumn
    from hemplit.core.model.relation import Column, Relation
    from hemplit.core.model.tables import Table, Tables, View, ViewColumn

#: So many differences are spelled out; the count tells how many there are.
SHOWN = 5


def check_rejoin(relation: Relation, tables: Tables, view: View, only: str | None = None) -> Check:
    """Whether the tables, joined along their references, give every cell of the sheet back, or ``only`` of a column."""
    given = rejoin(tables, view)
    if view.lists:
        given = _in_order_of(relation, given)
    wrong = 0
    shown: list[Difference] = []
    for name, column in given.items():
        if only not in (None, name):
            continue
        original = relation.by_name[name]
        rows = np.flatnonzero(_differs(original, column))
        wrong += len(rows)
        for row in rows[: SHOWN - len(shown)]:
            place = f"{relation.source.title} {relation.address(int(row), original)}"
            shown.append(Difference(place, kinds.shown_at(original, int(row)), kinds.shown_at(column, int(row))))
    what = f"joining the tables rebuilds {relation.source.title} exactly"
    return Check(what, relation.row_count * len(given), "cells", wrong, tuple(shown))


def rows_not_given_back(relation: Relation, tables: Tables, view: View) -> list[tuple[int, str]]:
    """The rows of a sheet that the tables, joined again, would give back otherwise, each with its first such cell."""
    found: dict[int, str] = {}
    given = rejoin(tables, view)
    for name, column in (_in_order_of(relation, given) if view.lists else given).items():
        original = relation.by_name[name]
        for row in np.flatnonzero(_differs(original, column)).tolist():
            at = f"{relation.source.title} {relation.address(row, original)}"
            said = f"{at}: '{name}' is '{kinds.shown_at(original, row)}'"
            if len(original.codes) == len(column.codes):
                found.setdefault(row, f"{said}, and the tables would give back '{kinds.shown_at(column, row)}'")
    return sorted(found.items())


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
    if len(back.codes) != count or np.bincount(back.codes).max(initial=0) > 1:
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
    what = f"the {many} tables hold exactly what was split" if many > 1 else "the table holds exactly what was split"
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
    """The key of each row as one text; what a database holds without a key says so."""
    parts = [pc.fill_null(pc.cast(rows.column(name).combine_chunks(), pa.string()), "\x1e") for name in table.key]
    return pc.binary_join_element_wise(*parts, "\x1f") if len(parts) > 1 else parts[0]


def _by_key(table: Table, expected: pa.Table, stored: pa.Table) -> list[Difference]:
    wanted, held = _keys(table, expected), _keys(table, stored)
    place = pc.index_in(wanted, held)
    missing = pc.is_null(place).to_numpy(zero_copy_only=False)
    extra = pc.is_null(pc.index_in(held, wanted)).to_numpy(zero_copy_only=False)
    found = [Difference(f"{table.name} {_key(wanted, row)}", "a row", "no row") for row in np.flatnonzero(missing)]
    found += [Difference(f"{table.name} {_key(held, row)}", "no row", "a row") for row in np.flatnonzero(extra)]
    encoded = held.dictionary_encode()
    codes = encoded.indices.to_numpy(zero_copy_only=False)
    again = np.flatnonzero(first_rows(Grouping(codes, len(encoded.dictionary)))[codes] != np.arange(len(codes)))
    found += [Difference(f"{table.name} {_key(held, row)}", "one row", "another of this key") for row in again]
    rows = np.flatnonzero(~missing)
    there = pa.array(place.to_numpy(zero_copy_only=False)[rows].astype(np.int64))
    for name in expected.column_names:
        one, two = expected.column(name).take(pa.array(rows)), stored.column(name).take(there)
        for index in np.flatnonzero(_unequal(one, two)):
            spot = f"{table.name}.{name} {_key(wanted, int(rows[index]))}"
            found.append(Difference(spot, _said(one[index]), _said(two[index])))
    return found


def _key(keys: pa.Array, row: int | np.integer) -> str:
    return f"[{keys[row].as_py()}]".replace("\x1f", ", ").replace("\x1e", "a blank")


def _said(value: pa.Scalar) -> str:
    return "a blank" if value.as_py() is None else str(value.as_py())


def check_structure(compared: int, found: Sequence[Difference]) -> Check:
    """Whether the tables, keys, references, rules, indexes and views of a target are as they were written."""
    what = "tables, keys, references, rules and views are as they were written"
    return Check(what, compared, "parts", len(found), tuple(found[:SHOWN]))


@dataclass(frozen=True)
class _Cells:
    """The cells of one header as a view writes them: the distinct ones, and a code for each row."""

    values: pa.Array
    codes: Codes

    def at(self, rows: npt.NDArray[np.integer] | slice) -> pa.Array:
        """The cells of some rows."""
        return taken(self.values, self.codes[rows])


def check_view(
    view: View,
    tables: Tables,
    relations: Mapping[str, Relation],
    order: npt.NDArray[np.int64],
    read: Callable[[npt.NDArray[np.bool_] | None], Iterable[pa.Table]],
    telling: npt.NDArray[np.bool_] | None = None,
) -> Check:
    """Whether a view of a target gives every cell of a sheet as it was shaped.

    ``read`` gives its rows in pieces, in the order of the rows of its base table that ``order`` says; if they come
    otherwise they are read again and compared without regard to it. ``relations`` hold that of the sheet and those
    taken out of it. Where some rows are ``telling``, so that the others follow from them, these are read first, and the
    others only if one of them is not what it should be.
    """
    relation = relations[view.sheet]
    sheets = {one.name: one.sheet for one in tables.views}
    wanted = [_as_given(column, relation, relations, sheets) for column in view.columns]
    what = f"view {view.name} gives back {relation.source.title}"
    compared = relation.row_count * len(wanted)
    if telling is not None and len(order) == relation.row_count:
        few = order[telling[order]]
        if _in_order(wanted, few, read(telling)) == []:
            what += f", read in the {len(few):,} rows from which all others follow"
            return Check(what, len(few) * len(wanted), "cells", 0, ())
    one_each = not view.lists and len(order) == relation.row_count
    cells = _in_order(wanted, order if one_each else np.arange(relation.row_count), read(None))
    if cells == []:
        return Check(what, compared, "cells", 0, ())
    kept = list(read(None))
    if any(piece.num_columns != len(wanted) for piece in kept):
        found = Difference(f"view {view.name}", f"{len(wanted)} columns", f"{kept[0].num_columns} columns")
        return Check(what, compared, "cells", 1, (found,))
    given = pa.concat_tables(kept, promote_options="permissive") if kept else None
    rows_found = _rows_that_differ(view, [column.at(slice(None)) for column in wanted], given)
    if given is not None and one_each and cells and len(cells) <= len(rows_found):
        # No row is missing, and of each but a cell or so is another: these are told.
        told = [
            Difference(
                f"view {view.name}, {relation.row(row)}, {view.columns[place].header}",
                _said(wanted[place].at(slice(row, row + 1))[0]),
                _said(given.column(place)[int(np.flatnonzero(order == row)[0])]),
            )
            for row, place in sorted(cells)[:SHOWN]
        ]
        return Check(what, compared, "cells", len(cells), tuple(told))
    return Check(what, compared, "rows" if rows_found else "cells", len(rows_found), tuple(rows_found[:SHOWN]))


def _in_order(
    wanted: Sequence[_Cells], order: npt.NDArray[np.int64], pieces: Iterable[pa.Table]
) -> list[tuple[int, int]] | None:
    """The rows and columns of the cells that are others than they should be; None if these are not these rows."""
    start = 0
    cells: list[tuple[int, int]] = []
    for piece in pieces:
        rows = order[start : start + piece.num_rows]
        start += piece.num_rows
        if piece.num_columns != len(wanted) or len(rows) < piece.num_rows:
            return None
        for place, column in enumerate(wanted):
            expected, given = column.at(rows), piece.column(place)
            if not (
                given.num_chunks == 1 and expected.equals(given.chunk(0))
            ):  # the quick way, which nearly always tells
                odd = _unequal(pa.chunked_array([expected]), given)
                cells += [(int(rows[row]), place) for row in np.flatnonzero(odd)] if odd.any() else []
    return cells if start == len(order) else None


def _as_given(
    column: ViewColumn, relation: Relation, relations: Mapping[str, Relation], sheets: Mapping[str, str]
) -> _Cells:
    """The cells of one header of the sheet as a view writes them: numbers as they are, all else as the sheet does."""
    if column.gathered is None:
        came = relation.by_name[column.header]
        return _Cells(_written(came), came.codes)
    gathered = column.gathered
    child = relations[sheets[gathered.view]]
    value = child.by_name[gathered.column]
    place = np.full(int(relation.grid_rows.max(initial=-1)) + 1, EMPTY, dtype=np.int64)
    place[relation.grid_rows] = np.arange(relation.row_count)
    rows = place[child.grid_rows]
    if gathered.at is not None:
        order = child.by_name[gathered.order]
        at = [code for code, one in enumerate(order.values.to_pylist()) if one == gathered.at]
        here = np.flatnonzero(np.isin(order.codes, at))
        codes = np.full(relation.row_count, EMPTY, dtype=np.int32)
        codes[rows[here]] = value.codes[here]
        return _Cells(_written(value), _told_again(codes, child, place))
    entries = np.argsort(rows, kind="stable")
    counts = np.bincount(rows, minlength=relation.row_count)
    texts = taken(pc.cast(_written(value), pa.string()), value.codes[entries])
    lists = pa.ListArray.from_arrays(of(np.append(0, np.cumsum(counts)).astype(np.int32)), texts)
    codes = np.where(counts > 0, np.arange(relation.row_count), EMPTY).astype(np.int32)
    return _Cells(pc.binary_join(lists, gathered.between), _told_again(codes, child, place))


def _told_again(codes: Codes, child: Relation, place: npt.NDArray[np.int64]) -> Codes:
    """The cells with those of the rows that say again what others tell; ``place`` has each row of the grid."""
    if child.again is not None:
        again, first = place[child.again].T
        codes[again] = codes[first]
    return codes


def _written(column: Column) -> pa.Array:
    """The distinct values as a view writes them."""
    if column.kind.word in ("whole number", "decimal", "text"):
        return column.values
    return pa.array([kinds.show(value, column.kind) for value in column.values.to_pylist()], pa.string())


def _rows_that_differ(view: View, wanted: Sequence[pa.Array], given: pa.Table | None) -> list[Difference]:
    """The rows that one side has more often than the other, whatever their order."""
    rows = len(wanted[0]) if wanted else 0
    columns = []
    for place, column in enumerate(wanted):
        other = pa.chunked_array([], column.type) if given is None else given.column(place)
        both = (
            pa.concat_arrays([column, _plain(other, column.type)])
            if _alike(column, other)
            else pa.concat_arrays([pc.cast(column, pa.string()), pc.cast(other.combine_chunks(), pa.string())])
        )
        encoded = both.dictionary_encode()
        codes = pc.fill_null(encoded.indices, EMPTY).to_numpy(zero_copy_only=False).astype(np.int32)
        columns.append((with_blank(codes, len(encoded.dictionary)), both))
    whole = reduce(combine, (grouping for grouping, _ in columns))
    more = np.bincount(whole.codes[:rows], minlength=whole.size) - np.bincount(whole.codes[rows:], minlength=whole.size)
    first = first_rows(whole)
    found = []
    for group in np.flatnonzero(more):
        said = ", ".join(_said(both[int(first[group])]) for _, both in columns[:SHOWN])
        count = abs(int(more[group]))
        times = "a row" if count == 1 else f"{count:,} rows"
        spot = f"view {view.name} [{said}]"
        found.append(Difference(spot, times, "none") if more[group] > 0 else Difference(spot, "none", times))
    return found


def _alike(column: pa.Array, other: pa.ChunkedArray) -> bool:
    return _plain(other, column.type).type.equals(column.type)


def as_one(checks: Sequence[Check], most: int) -> Check:
    """The checks of all pieces of a sheet as one, which shows no more differences than that."""
    compared, different = (sum(getattr(one, name) for one in checks) for name in ("compared", "different"))
    shown = tuple(one for check in checks for one in check.differences)
    return Check(checks[0].what, compared, checks[0].unit, different, shown[:most])


def check_cells(grid: Grid, relation: Relation) -> Check:
    """Whether every cell that no step changed has in the relation the value that it shows in the sheet.

    One that a step keeps beside has it there.
    """
    compared, wrong = 0, 0
    shown: list[Difference] = []
    for column in relation.columns:
        if not column.own:
            continue
        for position, places, rows, holding in _held(relation, column):
            cells = grid.columns[position]
            one, two = cells.codes[places], np.append(holding.codes, np.int32(EMPTY))[rows]
            faulty = np.flatnonzero(_other_value(cells, holding)(one, two))
            compared += len(places)
            wrong += len(faulty)
            for at in faulty[: SHOWN - len(shown)]:
                address = relation.source.address(int(places[at]), position)
                value = kinds.shown_at(holding, int(rows[at])) if rows[at] != EMPTY else ""
                shown.append(Difference(address, cells.text(int(places[at])), value))
    what = f"the cells of {relation.source.title} that no step changed are as in the sheet"
    return Check(what, compared, "cells", wrong, tuple(shown))


def _held(
    relation: Relation, column: Column
) -> Iterator[tuple[int, npt.NDArray[np.int64], npt.NDArray[np.int64], Column]]:
    """The cells that no step changed, by their column and rows in the grid, with the rows of the relation that hold
    them, or ``EMPTY``, and the column there."""
    changed = np.zeros(relation.row_count, dtype=np.int8) if column.changed is None else column.changed
    for position, rows in relation.blocks_of(column):
        some = rows[changed[rows] == 0]
        yield position, relation.grid_rows[some], some, column
        if relation.again is not None:
            row_of = np.full(int(relation.again.max(initial=-1)) + 1, EMPTY, dtype=np.int64)
            told = rows[relation.grid_rows[rows] < len(row_of)]
            row_of[relation.grid_rows[told]] = told
            parts = [part for part in relation.account if part.fate == Fate.CHANGED and position in part.positions]
            as_it_is = np.logical_and.reduce(
                [np.ones(len(relation.again), dtype=bool)]
                + [np.isin(relation.again[:, 0], part.rows, invert=True) for part in parts]
            )
            again, first = relation.again[as_it_is].T
            yield position, again, row_of[first], column
    beside = relation.beside.get(column.position)
    if beside is not None and column.changed is not None:
        some = np.flatnonzero(changed == Act.BESIDE.number)
        yield column.position, relation.grid_rows[some], some, beside


def _other_value(cells: GridColumn, column: Column) -> Callable[[Codes, Codes], npt.NDArray[np.bool_]]:
    """Tells, for codes of the sheet and of the relation side by side, where they do not stand for one value."""
    read = kinds.parse(cells.texts, column.kind)
    place = pc.fill_null(pc.index_in(read, column.values, skip_nulls=True), len(column.values))
    renumber = np.append(place.to_numpy(zero_copy_only=False).astype(np.int32), np.int32(EMPTY))
    return lambda one, two: np.not_equal(renumber[one], two)
