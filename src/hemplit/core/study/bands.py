"""Classes that follow from ranges of a number or a date: 0 to 6 m is small, from 6 m on it is medium.

Put in order by the number, each class must stand in one piece. What is kept is the smallest value of each class.
"""

from __future__ import annotations

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


def bands(columns: Sequence[Column], exact: Collection[tuple[int, int]]) -> tuple[Band, ...]:
    """The columns that follow from ranges of another, each with its lower limits.

    ``exact`` are the pairs of columns of which the first decides the second: a band is such a pair with an order.
    """
    found = []
    for by, right in sorted(exact):
        number, column = columns[by], columns[right]
        values = len(column.values)
        if number.kind.word not in ORDERED or column.kind.word not in CLASSES or not 2 <= values <= MOST_CLASSES:
            continue
        if len(number.values) < FEWEST_VALUES_PER_CLASS * values or column.blanks != number.blanks:
            continue
        limits = _limits(number, column)
        if limits is not None:
            found.append(Band(column.name, number.name, limits, len(number.values)))
    return tuple(found)


def _limits(number: Column, column: Column) -> tuple[tuple[str, str], ...] | None:
    by = with_blank(number.codes, len(number.values))
    if first_conflict(by, column.codes) is not None:
        return None
    classes = column.codes[first_rows(by)[: len(number.values)]]
    order = pc.sort_indices(number.values).to_numpy()
    ordered = classes[order]
    starts = np.concatenate([[0], np.flatnonzero(ordered[1:] != ordered[:-1]) + 1])
    if len(starts) != len(distinct(ordered)):
        return None
    return tuple(
        (
            kinds.show(number.values[int(order[start])].as_py(), number.kind),
            kinds.show(column.values[int(ordered[start])].as_py(), column.kind),
        )
        for start in starts
    )
