"""All minimal dependencies and keys of a table with few columns, from what its rows agree in.

With up to 22 columns there is room for a number per set of columns. What a set X decides is the intersection of all
agreements that contain X; one pass per column computes it for every X at once (the "zeta transform" of the lattice),
another finds the X of which no smaller set decides the same. Time and memory are 2^columns × columns, whatever the
number of dependencies.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Iterator

    import numpy.typing as npt

    Masks = npt.NDArray[np.uint32]

#: 2^22 numbers of 4 bytes are 16 MiB, and three such arrays are needed.
MOST_COLUMNS = 22


def minimal_decisions(agreed: npt.NDArray[np.bool_], columns: int) -> Masks:
    """For each set of columns, as an index, the columns that it decides and no smaller set does.

    ``agreed`` has shape (2^columns,) and flags what two rows agree in. Bit ``columns`` of a result says that the set is
    a minimal key.

    >>> agreed = np.zeros(4, dtype=bool)
    >>> agreed[0b10] = True  # two rows agree in column 1 only
    >>> minimal_decisions(agreed, 2).tolist()  # column 0 is a key, and column 1 is constant
    [2, 4, 0, 0]
    """
    every = np.arange(1 << columns, dtype=np.uint32)
    closed = np.where(agreed, every, np.uint32((1 << (columns + 1)) - 1))
    for column in range(columns):
        without, with_it = _halves(closed, column)
        np.bitwise_and(without, with_it, out=without)
    decided = closed & ~every
    smaller = np.zeros_like(decided)
    for column in range(columns):
        _, with_it = _halves(smaller, column)
        without, _ = _halves(decided, column)
        np.bitwise_or(with_it, without, out=with_it)
    # What a set decides is decided by every larger one, so one column less is small enough to look at.
    return decided & ~smaller


def _halves(masks: Masks, column: int) -> tuple[Masks, Masks]:
    """Views of the sets without and with a column, in the same order otherwise."""
    cube = masks.reshape(-1, 2, 1 << column)
    return cube[:, 0, :], cube[:, 1, :]


def listed(decisions: Masks, columns: int, depth: int) -> Iterator[tuple[tuple[int, ...], tuple[int, ...]]]:
    """The sets of at most ``depth`` columns that decide something, with what they decide, smaller sets first."""
    some = np.flatnonzero(decisions)
    sizes = np.bitwise_count(some.astype(np.uint32))
    flags = (some[:, None] >> np.arange(columns)) & 1
    order = np.lexsort((*(1 - flags.T[::-1]), sizes))
    for index in order:
        if sizes[index] > depth:
            return
        left = tuple(np.flatnonzero(flags[index]).tolist())
        decided = int(decisions[some[index]])
        yield left, tuple(right for right in range(columns + 1) if decided >> right & 1)
