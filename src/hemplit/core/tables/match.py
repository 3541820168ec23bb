"""To which row of another table each row of a table points, by the values of the keys alone."""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core.columns.codes import Grouping, combine, first_rows, with_blank
from hemplit.core.model.grid import EMPTY

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

    import numpy.typing as npt

    from hemplit.core.model.grid import Codes
    from hemplit.core.model.tables import Reference, Table, TableColumn


def match(table: Table, reference: Reference, other: Table) -> Codes:
    """For each row of the table the row of the other to which the reference points, ``EMPTY`` for none."""
    pointing = [table.by_name[name] for name in reference.columns]
    pointed = [other.by_name[name] for name in reference.table_columns]
    shared = [_shared(one, two) for one, two in zip(pointing, pointed, strict=True)]
    both = reduce(combine, shared)
    rows = table.row_count
    blank = reduce(np.logical_or, (column.codes == EMPTY for column in pointing))
    place: npt.NDArray[np.int64] = first_rows(Grouping(both.codes[rows:], both.size))
    return np.where(blank, EMPTY, place[both.codes[:rows]]).astype(np.int32)


def rows_behind(tables: Mapping[str, Table], base: str) -> Iterator[tuple[str, Codes]]:
    """For each way along references the table at its end, and the row there of each row of the base table."""
    own = np.arange(tables[base].row_count, dtype=np.int32)
    ways: list[tuple[tuple[str, ...], Codes]] = [((base,), own)]
    while ways:
        way, rows = ways.pop()
        yield way[-1], rows
        table = tables[way[-1]]
        for reference in table.references:
            if reference.table not in way:
                onward = np.append(match(table, reference, tables[reference.table]), np.int32(EMPTY))[rows]
                ways.append(((*way, reference.table), onward))


def _shared(pointing: TableColumn, pointed: TableColumn) -> Grouping:
    """Both columns one after the other, coded alike."""
    if pointing.values is pointed.values:
        codes = pointing.codes
    else:
        same = pc.fill_null(pc.index_in(pointing.values, pointed.values), EMPTY)
        codes = np.append(same.to_numpy(zero_copy_only=False).astype(np.int32), np.int32(EMPTY))[pointing.codes]
    return with_blank(np.concatenate([codes, pointed.codes]), len(pointed.values))
