"""Parquet files → one grid whose first row holds the names of the columns."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.model.grid import EMPTY, Grid, GridColumn, Source
from hemplit.errors import InputError
from hemplit.files.cells import from_encoded, plain_text

if TYPE_CHECKING:
    from pathlib import Path


def read(path: Path) -> tuple[Grid, ...]:
    """The one table of the file.

    Raises ``InputError`` if the file is none, or a column holds more than one value in a cell.
    """
    import pyarrow.parquet

    try:
        table = pyarrow.parquet.read_table(path)
        table.validate(full=True)
    except (pa.ArrowException, OSError, UnicodeDecodeError) as error:
        first_line = str(error).splitlines()[0]
        raise InputError(str(path), f"this is no Parquet file ({first_line})", "save it again") from error
    return (of_table(table, str(path), "Parquet"),)


def of_table(table: pa.Table, name: str, taken_as: str = "") -> Grid:
    """The grid of an Arrow table. Raises ``InputError`` if a column holds more than one value in a cell."""
    for field in table.schema:
        if pa.types.is_nested(field.type):
            raise InputError(
                f"{name} column '{field.name}'", f"its cells hold {field.type}", "save it with one value in a cell"
            )
    columns = tuple(_column(field.name, table.column(place)) for place, field in enumerate(table.schema))
    return Grid(Source(name, taken_as=taken_as), columns, table.num_rows + 1)


def _texts(values: pa.Array) -> list[str | None]:
    """Each value as a text; dates and times by Arrow, which knows years after 9999 and billionths of a second."""
    if not pa.types.is_temporal(values.type) or pa.types.is_duration(values.type):
        return [None if value is None else plain_text(value) for value in _plain(values).to_pylist()]
    texts = pc.replace_substring_regex(pc.cast(values, pa.string()), r"(\.\d*?)0+(Z|[+-]\d\d:?\d\d)?$", r"\1\2")
    texts = pc.replace_substring_regex(texts, r"\.(Z|[+-]\d\d:?\d\d)?$", r"\1")
    midnight = pc.match_substring_regex(texts, r" 00:00:00$")
    if pa.types.is_timestamp(values.type) and pc.all(midnight).as_py():
        texts = pc.replace_substring(texts, " 00:00:00", "")
    return texts.to_pylist()


def _plain(values: pa.Array) -> pa.Array:
    """Spans of time no finer than the library tells."""
    return pc.cast(values, pa.duration("us"), safe=False) if pa.types.is_duration(values.type) else values


def _column(name: str, values: pa.ChunkedArray) -> GridColumn:
    array = values.combine_chunks()
    encoded = array if pa.types.is_dictionary(array.type) else array.dictionary_encode()
    texts = [text or None for text in _texts(encoded.dictionary)]
    as_texts = pa.DictionaryArray.from_arrays(encoded.indices.cast(pa.int32()), pa.array(range(len(texts)), pa.int32()))
    merged = pa.array([name, *texts], pa.string()).dictionary_encode()
    renumber = merged.indices.fill_null(EMPTY).to_numpy(zero_copy_only=False).astype(np.int32)
    codes = from_encoded(as_texts).codes
    below = np.append(renumber[1:], np.int32(EMPTY))[codes]
    return GridColumn(np.concatenate([renumber[:1], below]), merged.dictionary)
