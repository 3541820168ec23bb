"""Numbers that count anew under what two columns say together: lines of a revision of a quote, stops of a route's trip.

Where they run from 1 without a gap under each pair, somebody numbered what stands under it: the pair is what the rows
hang on, as an order is of its lines.
"""

from __future__ import annotations

from itertools import combinations
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import Grouping, combine, distinct
from hemplit.core.texts.words import is_measure, words

if TYPE_CHECKING:
    from collections.abc import Collection, Sequence

    import numpy.typing as npt

    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Column

#: So few rows that begin a count show of nearly all pairs that they do not tell them apart, and so many of most.
FIRST = (500, 20_000)
#: Two pairs count from 1 to 2 by accident.
FEWEST_COUNTS = 3


def counted_anew(columns: Sequence[Column], exact: Collection[tuple[int, int]]) -> tuple[tuple[str, str, str], ...]:
    """Two columns and one behind them that counts the rows under both from 1, and under neither of them alone.

    ``exact`` are the pairs of columns, by their places, of which the first decides the second.
    """
    found = []
    for place, counter in enumerate(columns):
        numbers = _numbers(counter)
        if numbers is None:
            continue
        before = [one for one in range(place) if not columns[one].blanks and len(columns[one].values) > 1]
        before = [one for one in before if len(columns[one].values) < counter.filled]
        begun = np.flatnonzero(numbers == 1)
        for pair in combinations(before, 2):
            one, other = (Grouping(columns[part].codes, len(columns[part].values)) for part in pair)
            if pair in exact or pair[::-1] in exact or one.size * other.size < len(begun):
                continue
            apart = all(_tells_apart(one, other, begun[:most]) for most in FIRST)
            if apart and _counts(combine(one, other), numbers):
                found.append((columns[pair[0]].name, columns[pair[1]].name, counter.name))
    return tuple(found)


def _numbers(counter: Column) -> Codes | None:
    """The numbers of a column that counts from 1, of shape (rows,); None if it does not."""
    if counter.kind.word != "whole number" or counter.blanks or len(counter.values) == len(counter.codes):
        return None
    if is_measure(words(counter.name)):
        return None
    values = counter.values.to_numpy(zero_copy_only=False)
    unbroken = len(values) > 1 and values.min() == 1 and values.max() == len(values)
    return values[counter.codes] if unbroken else None


def _tells_apart(one: Grouping, other: Grouping, rows: npt.NDArray[np.int64]) -> bool:
    """Whether no two of the rows agree in both."""
    whole = one.codes[rows].astype(np.int64) * other.size + other.codes[rows]
    return len(distinct(whole)) == len(whole)


def _counts(both: Grouping, numbers: Codes) -> bool:
    """Whether the numbers run from 1 without a gap under each pair, none of them twice."""
    sizes = np.bincount(both.codes, minlength=both.size)
    highest = np.zeros(both.size, dtype=np.int64)
    np.maximum.at(highest, both.codes, numbers)
    if not np.array_equal(highest, sizes) or np.count_nonzero(sizes > 1) < FEWEST_COUNTS:
        return False
    return combine(both, Grouping(numbers, int(numbers.max()) + 1)).size == len(numbers)
