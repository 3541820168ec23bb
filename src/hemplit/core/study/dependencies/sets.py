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
    #: Shape (rows, columns).
    Cells = npt.NDArray[np.uint16] | npt.NDArray[np.int32]

WORD = 64
#: So many rows or pairs are worked on at a time.
CHUNK = 1 << 14


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
    """Each set once, in ascending order.

    Tried and slower: NumPy's own for rows (6 to 18 times), which compares them field by field.
    """
    ordered = np.sort(sets, axis=0) if sets.shape[1] == 1 else sets[np.lexsort(sets.T[::-1])]
    return ordered[np.append(True, (ordered[1:] != ordered[:-1]).any(axis=1))] if len(ordered) else sets


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


def row_by_row(codes: Sequence[npt.NDArray[np.integer]]) -> Cells:
    """The columns as one array of shape (rows, columns), in which a row lies in one place of the memory."""
    largest_code = max((int(column.max()) for column in codes if len(column)), default=0)
    kind = np.uint16 if largest_code < 1 << 16 else np.int32
    cells = np.empty((len(codes[0]) if codes else 0, len(codes)), dtype=kind)
    for start in range(0, len(cells), CHUNK):
        for index, column in enumerate(codes):
            cells[start : start + CHUNK, index] = column[start : start + CHUNK]
    return cells


def agreements(cells: Cells, one: Rows, two: Rows, words: int) -> Sets:
    """What each pair of rows agrees in, each distinct set once; ``cells`` are codes of shape (rows, columns).

    Time is pairs × columns; memory is bounded by taking the pairs in chunks. Tried and slower: gathering the pairs
    column by column (3 times), as each cell of a pair then lies in another place of the memory.
    """
    parts = []
    for start in range(0, len(one), CHUNK):
        left, right = one[start : start + CHUNK], two[start : start + CHUNK]
        parts.append(distinct(pack(cells.take(left, axis=0) == cells.take(right, axis=0), words)))
    return merged(parts, words)
