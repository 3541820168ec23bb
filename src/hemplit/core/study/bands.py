"""Classes that follow from ranges of a number or a date: 0 to 6 m is small, from 6 m on it is medium.

Put in order by the number, each class must stand in one piece. What is kept is the smallest value of each class.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.columns.codes import distinct, first_conflict, first_rows, with_blank
from hemplit.core.model.findings import Band

if TYPE_CHECKING:
    from collections.abc import Collection, Sequence

    from hemplit.core.model.relation import Column

ORDERED = ("whole number", "decimal", "date", "date and time", "time")
CLASSES = ("text", "yes/no", "whole number")
MOST_CLASSES = 50
#: With fewer values per class the order may be an accident.
FEWEST_VALUES_PER_CLASS = 4
#: So likely it may be that chance puts classes in order in one of the pairs of columns that are tried.
MOST_CHANCE = math.log(0.1)


def bands(columns: Sequence[Column], exact: Collection[tuple[int, int]]) -> tuple[Band, ...]:
    """The columns that follow from ranges of another, each with its lower limits.

    ``exact`` are the pairs of columns of which the first decides the second: a band is such a pair with an order.
    """
    found = []
    tried = sum(one.kind.word in ORDERED for one in columns) * sum(one.kind.word in CLASSES for one in columns)
    for by, right in sorted(exact):
        number, column = columns[by], columns[right]
        values = len(column.values)
        if number.kind.word not in ORDERED or column.kind.word not in CLASSES or not 2 <= values <= MOST_CLASSES:
            continue
        if len(number.values) < FEWEST_VALUES_PER_CLASS * values or column.blanks != number.blanks:
            continue
        limits = _limits(number, column, tried)
        if limits is not None:
            found.append(Band(column.name, number.name, limits, len(number.values)))
    return tuple(found)


def _limits(number: Column, column: Column, tried: int) -> tuple[tuple[str, str], ...] | None:
    """The smallest value of each class with that; None if they do not stand in pieces, or may do so by accident."""
    by = with_blank(number.codes, len(number.values))
    if first_conflict(by, column.codes) is not None:
        return None
    classes = column.codes[first_rows(by)[: len(number.values)]]
    order = pc.sort_indices(number.values).to_numpy()
    ordered = classes[order]
    starts = np.concatenate([[0], np.flatnonzero(ordered[1:] != ordered[:-1]) + 1])
    if len(starts) != len(distinct(ordered)):
        return None
    sizes = np.diff(np.append(starts, len(ordered)))
    if _by_chance(sizes.tolist()) + math.log(tried) > MOST_CHANCE:
        return None
    return tuple(
        (
            kinds.show(number.values[int(order[start])].as_py(), number.kind),
            kinds.show(column.values[int(ordered[start])].as_py(), column.kind),
        )
        for start in starts
    )


def _by_chance(sizes: Sequence[int]) -> float:
    """The logarithm of the chance that classes of so many values each would stand in one piece each.

    >>> round(math.exp(_by_chance([14, 1])), 3)  # one odd value out of fifteen, at one of the ends
    0.133
    """
    ways = math.lgamma(sum(sizes) + 1) - sum(math.lgamma(size + 1) for size in sizes)
    return math.lgamma(len(sizes) + 1) - ways
