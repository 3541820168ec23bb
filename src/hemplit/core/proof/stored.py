"""The proof that a target holds exactly the rows of all tables."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.columns.codes import Grouping, first_rows
from hemplit.core.model.proof import SHOWN, Check, Difference
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Sequence

    import numpy.typing as npt

    from hemplit.core.model.tables import Table, Tables


def check_stored(
    tables: Tables, expected: Callable[[Table], pa.Table], stored: Callable[[Table], Iterable[pa.Table]]
) -> Check:
    """Whether a target holds exactly the rows of all tables.

    ``expected`` gives rows of a table in the target's own types, ``stored`` what the target holds, in pieces. They are
    compared in order, and if that fails by key, since a database owes nobody an order.
    """
    cells = sum(table.row_count * len(table.columns) for table in tables.tables)
    differences: list[Difference] = []
    for table in tables.tables:
        if not _is_held(table, expected, stored(table)):
            differences += _by_key(table, expected(table), joined([*stored(table)]))
    many = len(tables.tables)
    what = f"the {many} tables hold exactly what was split" if many > 1 else "the table holds exactly what was split"
    return Check(what, cells, "cells", len(differences), tuple(differences[:SHOWN]))


def _is_held(table: Table, expected: Callable[[Table], pa.Table], pieces: Iterable[pa.Table]) -> bool:
    start = 0
    for piece in pieces:
        own = expected(_rows_of(table, start, piece.num_rows))
        start += piece.num_rows
        if own.num_rows != piece.num_rows:
            return False
        if any(unequal(own.column(name), piece.column(name)).any() for name in own.column_names):
            return False
    return start == table.row_count


def _rows_of(table: Table, start: int, count: int) -> Table:
    """So many rows of a table, or as many as there are."""
    some = slice(start, start + count)
    columns = tuple(replace(column, codes=column.codes[some]) for column in table.columns)
    return replace(table, columns=columns, row_count=len(columns[0].codes))


def in_order(table: Table, order: npt.NDArray[np.int64]) -> Table:
    """A table with its rows in another order."""
    if np.array_equal(order, np.arange(table.row_count)):
        return table
    return replace(table, columns=tuple(replace(column, codes=column.codes[order]) for column in table.columns))


def joined(pieces: Sequence[pa.Table]) -> pa.Table:
    """All rows; a column into which somebody wrote a text, so that not all pieces are numbers, is one of texts."""
    for name in pieces[0].column_names:
        types = {piece.column(name).type for piece in pieces}
        if len(types) > 1 and not all(map(pa.types.is_primitive, types)):
            place = pieces[0].column_names.index(name)
            texts = [pc.cast(piece.column(name), pa.string()) for piece in pieces]
            pieces = [piece.set_column(place, name, one) for piece, one in zip(pieces, texts, strict=True)]
    return pa.concat_tables(pieces, promote_options="permissive")


def plain(column: pa.ChunkedArray, like: pa.DataType) -> pa.Array:
    """What a target holds in a column, as that type if it is one of numbers like it, and else as texts."""
    array = column.combine_chunks()
    if array.type.equals(like):
        return array
    if pa.types.is_integer(array.type) and pa.types.is_floating(like):
        return pc.cast(array, like)
    return pc.cast(array, pa.string())


def unequal(expected: pa.ChunkedArray, stored: pa.ChunkedArray) -> npt.NDArray[np.bool_]:
    """In which rows a column is not what it should be, shape (rows,)."""
    one = expected.combine_chunks()
    two = plain(stored, one.type)
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
        for index in np.flatnonzero(unequal(one, two)):
            spot = f"{table.name}.{name} {_key(wanted, int(rows[index]))}"
            found.append(Difference(spot, as_text(one[index]), as_text(two[index])))
    return found


def _key(keys: pa.Array, row: int | np.integer) -> str:
    return f"[{keys[row].as_py()}]".replace("\x1f", ", ").replace("\x1e", "a blank")


def as_text(value: pa.Scalar) -> str:
    """A value as it is told."""
    return "a blank" if value.as_py() is None else str(value.as_py())
