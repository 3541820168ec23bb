"""What all readers share: a column of texts becomes a column of codes."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.model.grid import EMPTY, GridColumn

if TYPE_CHECKING:
    from collections.abc import Sequence


def from_texts(texts: Sequence[str | None]) -> GridColumn:
    """The grid column of these texts; None and the empty text are cells without content.

    >>> from_texts(["Kittiwake", "", "Kittiwake"]).codes.tolist()
    [0, -1, 0]
    """
    return from_encoded(pa.array([text or None for text in texts], pa.string()).dictionary_encode())


def from_encoded(encoded: pa.DictionaryArray) -> GridColumn:
    """The grid column of a dictionary-encoded array."""
    codes = pc.fill_null(encoded.indices, EMPTY).to_numpy(zero_copy_only=False).astype(np.int32, copy=False)
    return GridColumn(codes, encoded.dictionary)
