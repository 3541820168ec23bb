"""The last step of shaping: the texts of a column become values of the kind that all of them have."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.codes import Grouping, first_rows
from hemplit.core.model.grid import EMPTY, GridColumn
from hemplit.core.model.relation import Column
from hemplit.errors import InputError

if TYPE_CHECKING:
    import pyarrow as pa

    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Kind
    from hemplit.core.shape.working import Working, WorkingColumn


def read_values(column: WorkingColumn, decided: Kind | None, working: Working) -> Column:
    """The column with its texts read as values; one value written in several ways is one value.

    Raises ``InputError`` with the first cell that is not of the ``decided`` kind.
    """
    cells = column.cells
    kind = decided or kinds.recognise(cells.texts)
    values = kinds.parse(cells.texts, kind)
    if values.null_count:
        raise _misfit(column, kind, values, working)
    merged = pc.dictionary_encode(values) if kind.word == "decimal" else None
    if merged is None or len(merged.dictionary) == len(values):
        return _column(column, kind, cells.codes, values)
    return _column(column, kind, _merge(cells, merged), merged.dictionary)


def _column(column: WorkingColumn, kind: Kind, codes: Codes, values: pa.Array) -> Column:
    return Column(
        column.name,
        column.position,
        kind,
        codes,
        values,
        column.own,
        column.changed,
        column.places,
        column.part_of,
        column.headers,
    )


def _merge(cells: GridColumn, merged: pa.DictionaryArray) -> np.ndarray[tuple[int], np.dtype[np.int32]]:
    renumber = np.append(merged.indices.to_numpy().astype(np.int32), np.int32(EMPTY))
    return renumber[cells.codes]  # EMPTY is -1 and so finds the last place


def _misfit(column: WorkingColumn, kind: Kind, values: pa.Array, working: Working) -> InputError:
    code = int(np.flatnonzero(pc.is_null(values).to_numpy(zero_copy_only=False))[0])
    filled = column.cells.codes != EMPTY
    first = first_rows(Grouping(column.cells.codes[filled], len(column.cells.texts)))
    row = int(working.grid_rows[filled][first[code]])
    form = f" in the form {kind.form}" if kind.form else ""
    return InputError(
        f"{working.source.title} {working.source.address(row, column.position)}",
        f"'{column.cells.texts[code].as_py()}' under '{column.name}' is not a value of kind '{kind}'{form}",
        'correct the cell, or write kind = "text" for this column in the design',
    )
