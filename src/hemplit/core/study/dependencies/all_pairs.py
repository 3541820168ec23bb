"""What any two rows of a table agree in, by comparing all pairs: the quickest way for up to some 20,000 rows.

For each column and value, one bit per row tells who has that value; the bits of up to 16 columns lie in one 16-bit
number. A row is compared with all later ones by or-ing one such array per column, which runs at memory speed: 2 × 10^8
pairs of 17 columns take 2.3 s. Tried and slower: comparing column by column (4 s; two threads 2.8 s, at twice the
work), 8 and 32 bits a number (2.7 and 2.8 s), sorting the sets of a row instead of marking them in a table.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.study.dependencies.sets import agreements, merged, row_by_row, word_count

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    import numpy.typing as npt

    from hemplit.core.columns.codes import Grouping
    from hemplit.core.study.dependencies.sets import Sets

PLANE = 16
#: A column with more values than this keeps the rows of each value instead of a bit per value and row.
MOST_VALUES = 64
#: The caller is asked whether to go on after so many rows.
ROWS_BETWEEN_STOPS = 256


class _Values:
    """One column: for a row, where the later rows with the same value are."""

    def __init__(self, column: Grouping, bit: int) -> None:
        self.bit = np.uint16(1 << bit)
        self.codes = column.codes
        self.table: npt.NDArray[np.uint16] | None = None
        if column.size <= MOST_VALUES:
            values = np.arange(column.size, dtype=column.codes.dtype)
            self.table = (values[:, None] == column.codes).astype(np.uint16) * self.bit
        else:
            self.order = np.argsort(column.codes, kind="stable")
            self.place = np.empty_like(self.order)
            self.place[self.order] = np.arange(len(self.order))
            self.end = np.cumsum(np.bincount(column.codes, minlength=column.size))

    def mark(self, row: int, agreed: npt.NDArray[np.uint16]) -> None:
        """Sets this column's bit for each row after ``row`` that has its value; ``agreed`` begins with the next row."""
        code = self.codes[row]
        if self.table is not None:
            np.bitwise_or(agreed, self.table[code, row + 1 :], out=agreed)
        else:
            agreed[self.order[self.place[row] + 1 : self.end[code]] - (row + 1)] |= self.bit


def marked_agreements(
    columns: Sequence[Grouping], rows: int, stop: Callable[[int, int], None]
) -> npt.NDArray[np.bool_]:
    """Flags of shape (2^columns,): which sets of columns are what some two rows agree in. For up to 22 columns.

    Time is pairs of rows × columns. ``stop`` is told the rows done and all rows, and may raise to end it.
    """
    planes = [
        [_Values(column, bit) for bit, column in enumerate(columns[low : low + PLANE])]
        for low in range(0, len(columns), PLANE)
    ]
    seen = np.zeros(1 << len(columns), dtype=bool)
    plane_buffer = np.empty(rows, dtype=np.uint16)
    index_buffer = np.empty((2, rows), dtype=np.intp)
    for row in range(rows - 1):
        if row % ROWS_BETWEEN_STOPS == 0:
            stop(row, rows)
        later = rows - row - 1
        agreed, (index, high) = plane_buffer[:later], index_buffer[:, :later]
        for number, plane in enumerate(planes):
            agreed[:] = 0
            for values in plane:
                values.mark(row, agreed)
            if number == 0:
                np.copyto(index, agreed)
            else:
                np.copyto(high, agreed)
                np.left_shift(high, PLANE * number, out=high)
                np.bitwise_or(index, high, out=index)
        seen[index] = True
    return seen


def all_agreements(columns: Sequence[Grouping], rows: int, stop: Callable[[int, int], None]) -> Sets:
    """What any two rows agree in, each set once, for any number of columns and up to a few million pairs."""
    cells = row_by_row([column.codes for column in columns])
    words = word_count(len(columns))
    parts: list[Sets] = []
    block = max(1, (1 << 16) // max(rows, 1))
    for start in range(0, rows - 1, block):
        stop(start, rows)
        first, second = np.nonzero(np.arange(rows) > np.arange(start, min(start + block, rows - 1))[:, None])
        parts.append(agreements(cells, first + start, second, words))
        if len(parts) == 64:
            parts = [merged(parts, words)]
    return merged(parts, words)
