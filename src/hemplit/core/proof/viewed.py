"""The proof that a view of a target gives a sheet back, cell for cell."""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.columns.codes import combine, first_rows, with_blank
from hemplit.core.model.arrays import of, taken
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.proof import SHOWN, Check, Difference
from hemplit.core.proof.stored import as_text, joined, plain, unequal
from hemplit.core.proof.telling import AS_STORED
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Column, Relation
    from hemplit.core.model.tables import Tables, View, ViewColumn


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
    read: Callable[[], Iterable[pa.Table]],
    some: tuple[npt.NDArray[np.bool_], Iterable[pa.Table]] | None = None,
) -> Check:
    """Whether a view of a target gives every cell of a sheet as it was shaped.

    ``read`` gives its rows in pieces, in the order of the rows of its base table that ``order`` says; if they come
    otherwise they are read again and compared without regard to it. ``relations`` hold that of the sheet and those
    taken out of it. Where the others follow from ``some`` rows, which ones these are, shape (rows,), and their pieces,
    these are read first, and the others only if one of them is not what it should be.
    """
    relation = relations[view.sheet]
    sheets = {one.name: one.sheet for one in tables.views}
    wanted = [_as_given(column, relation, relations, sheets) for column in view.columns]
    what = f"view {view.name} gives back {relation.source.title}"
    compared = relation.row_count * len(wanted)
    if some is not None and len(order) == relation.row_count:
        telling, pieces = some
        few = order[telling[order]]
        if _in_order(wanted, few, pieces) == []:
            what += f", read in the {len(few):,} rows from which all others follow"
            return Check(what, len(few) * len(wanted), "cells", 0, ())
    one_each = not view.lists and len(order) == relation.row_count
    cells = _in_order(wanted, order if one_each else np.arange(relation.row_count), read())
    if cells == []:
        return Check(what, compared, "cells", 0, ())
    kept = list(read())
    if any(piece.num_columns != len(wanted) for piece in kept):
        found = Difference(f"view {view.name}", f"{len(wanted)} columns", f"{kept[0].num_columns} columns")
        return Check(what, compared, "cells", 1, (found,))
    given = joined(kept) if kept else None
    rows_found = _rows_that_differ(view, [column.at(slice(None)) for column in wanted], given)
    if given is not None and one_each and cells and len(cells) <= len(rows_found):
        # No row is missing, and of each but a cell or so is another: these are told.
        told = [
            Difference(
                f"view {view.name}, {relation.row(row)}, {view.columns[place].header}",
                as_text(wanted[place].at(slice(row, row + 1))[0]),
                as_text(given.column(place)[int(np.flatnonzero(order == row)[0])]),
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
            if given.num_chunks == 1 and expected.equals(given.chunk(0)):
                continue  # the quick way, which nearly always tells
            odd = np.flatnonzero(unequal(pa.chunked_array([expected]), given))
            cells += [(int(rows[row]), place) for row in odd]
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
    if column.kind.word in AS_STORED:
        return column.values
    return pa.array([kinds.show(value, column.kind) for value in column.values.to_pylist()], pa.string())


def _rows_that_differ(view: View, wanted: Sequence[pa.Array], given: pa.Table | None) -> list[Difference]:
    """The rows that one side has more often than the other, whatever their order."""
    rows = len(wanted[0]) if wanted else 0
    columns = []
    for place, column in enumerate(wanted):
        other = pa.chunked_array([], column.type) if given is None else given.column(place)
        both = (
            pa.concat_arrays([column, plain(other, column.type)])
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
        said = ", ".join(as_text(both[int(first[group])]) for _, both in columns[:SHOWN])
        count = abs(int(more[group]))
        times = "a row" if count == 1 else f"{count:,} rows"
        spot = f"view {view.name} [{said}]"
        found.append(Difference(spot, times, "none") if more[group] > 0 else Difference(spot, "none", times))
    return found


def _alike(column: pa.Array, other: pa.ChunkedArray) -> bool:
    return plain(other, column.type).type.equals(column.type)
