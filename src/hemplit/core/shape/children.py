"""Relations that are taken out of another: the columns that tell where they belong, and how they are put together."""

from __future__ import annotations

from dataclasses import replace
from functools import reduce
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa

from hemplit.core.codes import Grouping, combine
from hemplit.core.model.grid import EMPTY, GridColumn
from hemplit.core.shape.looks import is_date
from hemplit.core.shape.working import Working, WorkingColumn
from hemplit.core.words import MEASURE, words

if TYPE_CHECKING:
    from collections.abc import Collection, Sequence

    import numpy.typing as npt

ROW_NUMBER = "Row No"
#: So many columns together may tell the rows apart; only the first of the sheet are looked at.
FIRST_COLUMNS = 8


def key_of(working: Working, without: Collection[str]) -> tuple[str, ...]:
    """The column or two of the sheet that tell its rows apart; the number of the row if there are none."""
    columns = [column for column in working.columns if column.name not in without and _may_be_key(column)]
    for column in columns:
        if _unique((column,)):
            return (column.name,)
    first = columns[:FIRST_COLUMNS]
    for place, one in enumerate(first):
        for two in first[place + 1 :]:
            if _unique((one, two)):
                return (one.name, two.name)
    return (ROW_NUMBER,)


def _may_be_key(column: WorkingColumn) -> bool:
    if not column.filled.all() or MEASURE.intersection(words(column.name)):
        return False
    probe = [str(text) for text in column.cells.texts.slice(0, 20).to_pylist()]
    return not any("." in text and text.replace(".", "").isdigit() for text in probe) and not all(map(is_date, probe))


def _unique(columns: tuple[WorkingColumn, ...]) -> bool:
    whole = reduce(combine, (Grouping(column.cells.codes, len(column.cells.texts)) for column in columns))
    return bool((np.bincount(whole.codes, minlength=whole.size) <= 1).all())


def shared(working: Working) -> set[str]:
    """The columns by which relations that were taken out already hang on this one, and which must stay."""
    return {name for child in working.children for name in child.of}


def with_key(working: Working, key: Sequence[str]) -> Working:
    """The sheet with its rows numbered, if that is the key and they are not yet."""
    if ROW_NUMBER not in key or working.named(ROW_NUMBER) is not None:
        return working
    numbers = pa.array([str(row) for row in range(1, working.row_count + 1)], pa.string())
    column = WorkingColumn(0, ROW_NUMBER, GridColumn(np.arange(working.row_count, dtype=np.int32), numbers), own=False)
    return replace(working, columns=(column, *working.columns))


def copied(working: Working, key: Sequence[str], rows: npt.NDArray[np.int64]) -> tuple[WorkingColumn, ...]:
    """The columns of the key, with the values of those rows."""
    columns = [column for column in working.columns if column.name in key]
    return tuple(
        WorkingColumn(column.position, column.name, GridColumn(column.cells.codes[rows], column.cells.texts), own=False)
        for column in columns
    )


def from_codes(name: str, position: int, codes: npt.NDArray[np.integer], texts: Sequence[str]) -> WorkingColumn:
    """A column whose values stand in no cells of the sheet."""
    return WorkingColumn(
        position, name, GridColumn(codes.astype(np.int32), pa.array(list(texts), pa.string())), own=False
    )


def stacked(columns: Sequence[WorkingColumn | None], rows: int) -> GridColumn:
    """The cells of several columns one below the other, a lacking column being blank in all rows."""
    parts: list[npt.NDArray[np.int32]] = []
    texts: list[pa.Array] = []
    offset = 0
    for column in columns:
        if column is None:
            parts.append(np.full(rows, EMPTY, dtype=np.int32))
            continue
        codes = column.cells.codes
        parts.append(np.where(codes == EMPTY, codes, codes + np.int32(offset)).astype(np.int32))
        texts.append(column.cells.texts)
        offset += len(column.cells.texts)
    encoded = pa.concat_arrays(texts).dictionary_encode()
    renumber = np.append(encoded.indices.to_numpy().astype(np.int32), np.int32(EMPTY))
    return GridColumn(renumber[np.concatenate(parts)], encoded.dictionary)
