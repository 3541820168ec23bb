"""Sets of columns as bits, and what two rows agree in.

A set of columns is a row of ``words``: unsigned 64-bit integers, column 0 in the lowest bit of the first word. One more
bit than there are columns stands for "the row itself": no two rows agree in it, so whatever decides it is a key.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    import numpy.typing as npt

    #: Shape (sets, words).
    Sets = npt.NDArray[np.uint64]
    Rows = npt.NDArray[np.int64]

WORD = 64


def word_count(columns: int) -> int:
    """How many words hold the columns and the bit for the row itself."""
    return columns // WORD + 1


def pack(members: npt.NDArray[np.bool_], words: int) -> Sets:
    """Sets from flags of shape (sets, columns).

    >>> pack(np.array([[True, False, True]]), 1).tolist()
    [[5]]
    """
    packed = np.packbits(members, axis=1, bitorder="little")
    padded = np.zeros((len(packed), words * 8), dtype=np.uint8)
    padded[:, : packed.shape[1]] = packed
    return padded.view("<u8")


def unpack(sets: Sets, columns: int) -> npt.NDArray[np.bool_]:
    """Flags of shape (sets, columns).

    >>> unpack(np.array([[5]], dtype=np.uint64), 3).tolist()
    [[True, False, True]]
    """
    as_bytes = np.ascontiguousarray(sets).view(np.uint8).reshape(len(sets), 8 * sets.shape[1])
    return np.unpackbits(as_bytes, axis=1, count=columns, bitorder="little").astype(bool)


def singleton(column: int, words: int) -> npt.NDArray[np.uint64]:
    """The set of one column, shape (words,)."""
    one = np.zeros(words, dtype=np.uint64)
    one[column // WORD] = np.uint64(1) << np.uint64(column % WORD)
    return one


def everything(columns: int) -> npt.NDArray[np.uint64]:
    """All columns and the row itself, shape (words,)."""
    return pack(np.ones((1, columns + 1), dtype=bool), word_count(columns))[0]


def distinct(sets: Sets) -> Sets:
    """Each set once, in ascending order."""
    if sets.shape[1] > 1:
        return np.unique(sets, axis=0)
    ordered = np.sort(sets[:, 0])
    return ordered[np.concatenate([[True], ordered[1:] != ordered[:-1]])][:, None] if len(ordered) else sets


def merged(parts: Iterable[Sets], words: int) -> Sets:
    """All sets of the parts, each once."""
    given = [part for part in parts if len(part)]
    return distinct(np.concatenate(given)) if given else np.zeros((0, words), dtype=np.uint64)


def largest(sets: Sets, count: int) -> Sets:
    """So many of the sets, those with the most columns, which rule out the most."""
    if len(sets) <= count:
        return sets
    sizes = np.bitwise_count(sets).sum(axis=1).astype(np.int64)
    return sets[np.sort(np.argsort(-sizes, kind="stable")[:count])]


def agreements(codes: Sequence[npt.NDArray[np.integer]], one: Rows, two: Rows, words: int) -> Sets:
    """What each pair of rows agrees in, each distinct set once; ``codes`` are the columns, of shape (rows,).

    Time is pairs × columns; memory is bounded by taking the pairs in chunks.
    """
    chunk = 1 << 16
    parts = []
    for start in range(0, len(one), chunk):
        left, right = one[start : start + chunk], two[start : start + chunk]
        equal = np.empty((len(left), len(codes)), dtype=bool)
        for index, column in enumerate(codes):
            np.equal(column.take(left), column.take(right), out=equal[:, index])
        parts.append(distinct(pack(equal, words)))
    return merged(parts, words)
