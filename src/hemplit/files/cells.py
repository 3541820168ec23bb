"""What all readers share: a column of values becomes a column of codes, and a value becomes a plain text."""

from __future__ import annotations

from datetime import date, datetime, time
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.model.grid import EMPTY, GridColumn

if TYPE_CHECKING:
    from collections.abc import Sequence

#: Below this every whole number has a double of its own.
EXACT = 1e15


def from_texts(texts: Sequence[str | None]) -> GridColumn:
    """The grid column of these texts; None and the empty text are cells without content.

    >>> from_texts(["Kittiwake", "", "Kittiwake"]).codes.tolist()
    [0, -1, 0]
    """
    array = pa.array(texts, pa.string())
    return from_encoded(pc.if_else(pc.equal(array, ""), None, array).dictionary_encode())


def from_encoded(encoded: pa.DictionaryArray) -> GridColumn:
    """The grid column of a dictionary-encoded array."""
    codes = pc.fill_null(encoded.indices, EMPTY).to_numpy(zero_copy_only=False).astype(np.int32, copy=False)
    return GridColumn(codes, encoded.dictionary)


def from_values(values: Sequence[object]) -> GridColumn:
    """The grid column of cells that hold numbers, dates, yes and no, or texts; each different value is written once.

    >>> from_values([1.0, "Kittiwake", True, 1.0]).texts.to_pylist()
    ['1', 'Kittiwake', 'TRUE']
    """
    types = set(map(type, values))
    if types == {str}:
        return from_texts(values)  # type: ignore[arg-type]
    if bool in types:  # True equals 1, and both would get one text
        values = [plain_text(value) if isinstance(value, bool) else value for value in values]
    codes: dict[object, int] = {}
    texts: dict[str, int] = {}
    for value in dict.fromkeys(values):
        text = plain_text(value)
        codes[value] = texts.setdefault(text, len(texts)) if text else EMPTY
    numbers = np.fromiter(map(codes.__getitem__, values), dtype=np.int32, count=len(values))
    return GridColumn(numbers, pa.array(list(texts), pa.string()))


def plain_text(value: object) -> str:
    """A value as plainly as it can be written without loss: dates in the ISO form, whole numbers without a point."""
    match value:
        case None:
            text = ""
        case bool():
            text = "TRUE" if value else "FALSE"
        case float():
            text = str(int(value)) if value.is_integer() and abs(value) < EXACT else repr(value)
        case datetime():
            text = value.isoformat(" ", "seconds") if value.time() != time() else value.date().isoformat()
        case date() | time():
            text = value.isoformat()
        case bytes():
            text = value.decode("utf-8", "replace")
        case _:
            text = str(value)
    return text
