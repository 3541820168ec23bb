"""NumPy's arrays as Arrow's. ``pa.array`` does the same, but first reads all of ``numpy.ma``: 0.01 s of a command."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa

if TYPE_CHECKING:
    import numpy.typing as npt


def of(values: npt.NDArray[np.number | np.bool_], filled: npt.NDArray[np.bool_] | None = None) -> pa.Array:
    """Numbers, or yes and no, of shape (rows,), with nothing where they are not ``filled``; numbers are not copied.

    >>> of(np.array([3, 1]), np.array([True, False])).to_pylist(), of(np.array([True, False])).to_pylist()
    ([3, None], [True, False])
    """
    held = _bits(values.astype(np.bool_)) if values.dtype == np.bool_ else pa.py_buffer(np.ascontiguousarray(values))
    mask = None if filled is None or filled.all() else _bits(filled)
    return pa.Array.from_buffers(pa.from_numpy_dtype(values.dtype), len(values), [mask, held])


def taken(values: pa.Array, codes: npt.NDArray[np.integer]) -> pa.Array:
    """The value of each code, of shape (rows,), and nothing for a code below 0.

    >>> taken(pa.array(["Teal", "Knot"]), np.array([1, -1, 1])).to_pylist()
    ['Knot', None, 'Knot']
    """
    return values.take(of(codes, codes >= 0))


def _bits(flags: npt.NDArray[np.bool_]) -> pa.Buffer:
    return pa.py_buffer(np.packbits(flags, bitorder="little"))
