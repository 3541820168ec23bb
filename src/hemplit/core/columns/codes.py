"""Integer codes: the few operations on which all heavy work rests, each linear in the rows and without a Python loop.

Codes of shape (rows,) run from 0 to ``size`` - 1; ``with_blank`` gives blanks a code of their own where they count as
a value.
"""

from __future__ import annotations

from functools import reduce
from math import prod
from typing import TYPE_CHECKING, NamedTuple, TypeVar

import numpy as np
import pyarrow as pa

from hemplit.core.model.grid import EMPTY

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence
    from typing import Any

    import numpy.typing as npt

    from hemplit.core.model.grid import Codes

#: A table of flags up to this many times the rows is quicker than sorting the rows; measured from 10^4 to 10^6 rows.
FLAGS_PER_ROW = 16
#: Columns that do not tell rows apart nearly always show it in so many of them.
FIRST = 4_096

Number = TypeVar("Number", bound="np.integer[Any]")


class Grouping(NamedTuple):
    """Rows put into groups: ``codes`` of shape (rows,) and the number of groups."""

    codes: Codes
    size: int


def with_blank(codes: Codes, size: int) -> Grouping:
    """Gives blanks the code ``size``, so that an empty cell is one value, equal to itself.

    >>> with_blank(np.array([0, EMPTY, 1], dtype=np.int32), 2)
    Grouping(codes=array([0, 2, 1], dtype=int32), size=3)
    """
    blank = codes == EMPTY
    if not blank.any():
        return Grouping(codes, size)
    return Grouping(np.where(blank, np.int32(size), codes), size + 1)


def distinct(numbers: npt.NDArray[Number]) -> npt.NDArray[Number]:
    """The different numbers, in order. Asked for these alone, ``np.unique`` reads all of ``numpy.ma`` first.

    >>> distinct(np.array([3, 1, 3])).tolist()
    [1, 3]
    """
    return np.unique(numbers, return_counts=True)[0]


def are_among(numbers: npt.NDArray[Number], wanted: npt.ArrayLike) -> npt.NDArray[np.bool_]:
    """Which of the numbers are among those that are wanted, without what ``np.isin`` reads first.

    >>> are_among(np.array([3, 1, 5]), [5, 3, 3]).tolist(), are_among(np.array([3, 1]), []).tolist()
    ([True, False, True], [False, False])
    """
    able = distinct(np.asarray(wanted, numbers.dtype))
    if not len(able):
        return np.zeros(numbers.shape, dtype=bool)
    return able[np.minimum(np.searchsorted(able, numbers), len(able) - 1)] == numbers


def combine(left: Grouping, right: Grouping) -> Grouping:
    """Rows agree in the result where they agree in both; codes stay dense.

    >>> pair = combine(Grouping(np.array([0, 0, 1, 0]), 2), Grouping(np.array([0, 1, 1, 0]), 2))
    >>> pair.codes.tolist(), pair.size
    ([0, 1, 2, 0], 3)
    """
    space = left.size * right.size
    key = left.codes.astype(np.int64) * right.size + right.codes
    if space <= FLAGS_PER_ROW * len(key) + 1024:
        present = np.zeros(space, dtype=bool)
        present[key] = True
        dense = np.cumsum(present, dtype=np.int32) - np.int32(1)
        return Grouping(dense[key], int(dense[-1]) + 1 if space else 0)
    distinct, codes = np.unique(key, return_inverse=True)
    return Grouping(codes.astype(np.int32), len(distinct))


def first_rows(grouping: Grouping) -> npt.NDArray[np.int64]:
    """The first row of each group, shape (groups,); -1 for a group without rows.

    >>> first_rows(Grouping(np.array([1, 0, 1]), 2)).tolist()
    [1, 0]
    """
    first = np.full(grouping.size, -1, dtype=np.int64)
    # The last writer of a place wins, so writing backwards leaves the first row.
    first[grouping.codes[::-1]] = np.arange(len(grouping.codes) - 1, -1, -1)
    return first


def by_first_appearance(grouping: Grouping) -> tuple[Grouping, npt.NDArray[np.int64]]:
    """Numbers the groups in the order in which they appear and drops those without rows.

    Returns the new grouping and, of shape (groups,), the first row of each.

    >>> grouping, first = by_first_appearance(Grouping(np.array([3, 1, 3, 0]), 5))
    >>> grouping.codes.tolist(), first.tolist()
    ([0, 1, 0, 2], [0, 1, 3])
    """
    first = first_rows(grouping)
    present = np.flatnonzero(first >= 0)
    order = present[np.argsort(first[present], kind="stable")]
    renumbered = np.zeros(grouping.size, dtype=np.int32)
    renumbered[order] = np.arange(len(order), dtype=np.int32)
    return Grouping(renumbered[grouping.codes], len(order)), first[order]


def tell_apart(columns: Sequence[tuple[Codes, int]]) -> bool:
    """Whether columns, with the number of values of each, together tell the rows apart in which all are filled.

    >>> tell_apart([(np.array([0, 0, EMPTY, EMPTY]), 1), (np.array([0, 1, 0, 0]), 2)])
    True
    """
    rows = np.flatnonzero(np.logical_and.reduce([codes != EMPTY for codes, _ in columns]))
    if prod(size for _, size in columns) < len(rows):
        return False
    for some in (rows[:FIRST], rows) if len(rows) > FIRST else (rows,):
        whole = reduce(combine, (Grouping(codes[some], size) for codes, size in columns))
        if int(np.bincount(whole.codes, minlength=1).max(initial=0)) > 1:
            return False
    return True


def stack(parts: Sequence[tuple[Codes, pa.Array]]) -> tuple[Codes, pa.Array]:
    """The codes of several columns one below the other, with the distinct values of all.

    >>> codes, values = stack([(np.array([0, EMPTY]), pa.array(["a"])), (np.array([1]), pa.array(["b", "a"]))])
    >>> codes.tolist(), values.to_pylist()
    ([0, -1, 0], ['a', 'b'])
    """
    encoded = pa.concat_arrays([values for _, values in parts]).dictionary_encode()
    renumber = np.append(encoded.indices.to_numpy().astype(np.int32), np.int32(EMPTY))
    starts = np.cumsum([0, *(len(values) for _, values in parts)]).tolist()
    codes = [np.where(own == EMPTY, EMPTY, own + start) for (own, _), start in zip(parts, starts, strict=False)]
    return renumber[np.concatenate(codes)], encoded.dictionary


def at_rows(codes: Codes, values: pa.Array, rows: npt.NDArray[np.integer]) -> tuple[Codes, pa.Array]:
    """A column at some of its rows, with the values that stand there only.

    >>> codes, values = at_rows(np.array([2, EMPTY, 0]), pa.array(["a", "b", "c"]), np.array([0, 1]))
    >>> codes.tolist(), values.to_pylist()
    ([0, -1], ['c'])
    """
    present, own = np.unique(codes[rows], return_inverse=True)
    blank = int(len(present) > 0 and present[0] == EMPTY)
    return (own - blank).astype(np.int32), values.take(pa.array(present[blank:]))


def most_frequent(left: Grouping, right: Grouping) -> npt.NDArray[np.int64]:
    """For each value of the left side the most frequent value of the right, the earlier one of two as frequent.

    >>> most_frequent(Grouping(np.array([0, 0, 0, 1]), 2), Grouping(np.array([1, 1, 0, 0]), 2)).tolist()
    [1, 0]
    """
    key = left.codes.astype(np.int64) * right.size + right.codes
    key.sort()
    starts = np.flatnonzero(np.concatenate([[True], key[1:] != key[:-1]]))
    counts = np.diff(starts, append=len(key))
    groups, values = np.divmod(key[starts], right.size)
    order = np.lexsort((-values, counts, groups))
    agreed = np.zeros(left.size, dtype=np.int64)
    agreed[groups[order]] = values[order]  # the last writer wins, and the most frequent stands last
    return agreed


def doubled(columns: Iterable[Grouping], rows: int) -> npt.NDArray[np.bool_]:
    """Whether each row agrees with an earlier one in all columns, shape (rows,).

    >>> doubled([Grouping(np.array([0, 1, 0]), 2), Grouping(np.array([0, 0, 0]), 1)], 3).tolist()
    [False, False, True]
    """
    again = np.zeros(rows, dtype=bool)
    left = np.arange(rows)
    whole = Grouping(np.zeros(rows, dtype=np.int32), 1)
    todo = sorted(columns, key=lambda column: -column.size)
    while todo and len(left):
        # Of the columns that need no sorting the one that tells the most rows apart goes first.
        quick = (place for place, one in enumerate(todo) if one.size * whole.size <= FLAGS_PER_ROW * len(left))
        column = todo.pop(next(quick, -1))
        whole = combine(whole, Grouping(column.codes[left], column.size))
        alone = (np.bincount(whole.codes, minlength=whole.size) == 1)[whole.codes]
        if alone.any():
            left = left[~alone]
            whole, _ = by_first_appearance(Grouping(whole.codes[~alone], whole.size))
    again[left] = first_rows(whole)[whole.codes] != np.arange(len(left))
    return again


def only_there(grouping: Grouping, there: npt.NDArray[np.bool_]) -> npt.NDArray[np.int64]:
    """The groups that stand in some rows, if none of them stands in any other; else none.

    >>> only_there(Grouping(np.array([0, 1, 0, 2]), 3), np.array([True, False, True, False])).tolist()
    [0]
    >>> only_there(Grouping(np.array([0, 0, 1]), 2), np.array([True, False, True])).tolist()
    []
    """
    here = np.zeros(0, dtype=bool)
    for rows in (slice(FIRST), slice(None)):  # the first rows settle most cases
        codes, some = grouping.codes[rows], there[rows]
        here, elsewhere = (np.bincount(codes[part], minlength=grouping.size) > 0 for part in (some, ~some))
        if (here & elsewhere).any():
            return np.zeros(0, dtype=np.int64)
    return np.flatnonzero(here)


def first_conflict(grouping: Grouping, codes: Codes) -> tuple[int, int] | None:
    """The first two rows of one group that differ in ``codes``, or None if the group decides them.

    >>> first_conflict(Grouping(np.array([0, 1, 0]), 2), np.array([5, 6, 7]))
    (0, 2)
    """
    first = first_rows(grouping)[grouping.codes]
    differs = codes != codes[first]
    row = int(differs.argmax()) if len(differs) else 0
    return (int(first[row]), row) if len(differs) and differs[row] else None
