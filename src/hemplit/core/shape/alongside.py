"""Columns of which each row holds as many values in a cell as the list beside them, one for each of its values.

    Parts                Amounts
    rope, cleat          2, 4
    rope                 1
    cleat, paint, rope   4, 1, 30

Numbers list nothing by themselves. Words could be a list of their own, with as many values by chance: that is one in
the number of orders in which lists of these lengths can stand. Where what stands beside a word comes again with it,
it is none.
"""

from __future__ import annotations

import math
from collections import Counter
from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core.columns.codes import combine, first_rows, with_blank
from hemplit.core.model.grid import EMPTY
from hemplit.core.shape.looks import is_number
from hemplit.core.texts.listed import SEPARATORS, values_of
from hemplit.core.texts.words import shown_together
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    import numpy.typing as npt

    from hemplit.core.shape.working import WorkingColumn

#: Of so many different texts it is seen whether they are numbers.
LOOKED_AT = 5_000
#: Columns of words go alongside by no greater chance; of the lists in 360 sheets none was joined to one that is not
#: meant with it.
BY_CHANCE = 0.05
#: By so much where another column goes alongside, too: amounts, each with its unit.
BESIDE_ANOTHER = 0.25
#: So many pairs of words come again with each other; one may by chance.
AGAIN = 2
#: One row, or this share of them, may be odd without hiding that two columns go alongside; it is told.
MOST_ODD = 0.02
#: So many rows show nearly always that columns do not go alongside.
FIRST_ROWS = 1_000


def and_further(names: Sequence[str]) -> str:
    """What is said of such columns in the reason of a step."""
    return f", and {shown_together(names)} as many in each row" if names else ""


def alongside(column: WorkingColumn, by: str, others: Iterable[WorkingColumn]) -> dict[str, npt.NDArray[np.int64]]:
    """The columns that hold as many values in each row as a list does, and not by chance, each with the few rows in
    which it does not."""
    many = how_many(column, by)
    found = [(other.name, _beside(column, many, other, by)) for other in others if other is not column]
    sure = any(one is not None and one.chance <= BY_CHANCE and not len(one.odd) for _, one in found)
    most = BESIDE_ANOTHER if sure else BY_CHANCE
    return {name: one.odd for name, one in found if one is not None and one.chance <= most}


@dataclass(frozen=True)
class _Beside:
    """The rows in which a column does not hold as many values as a list, and by what chance it does in the others."""

    odd: npt.NDArray[np.int64]
    chance: float


def _beside(column: WorkingColumn, many: npt.NDArray[np.int64], other: WorkingColumn, by: str) -> _Beside | None:
    """How a column stands beside a list that holds so ``many`` values in each row; None if they differ in more than a
    few rows, or if all rows hold as many, which says nothing."""
    some = other.cells.texts.slice(0, LOOKED_AT)
    if not pc.any(pc.match_substring_regex(some, SEPARATORS[by])).as_py():
        return None
    odd = np.zeros(0, np.int64)
    for rows in (FIRST_ROWS, None):
        odd = np.flatnonzero(many[:rows] != how_many(other, by, rows))
        if len(odd) > max(MOST_ODD * len(many[:rows]), 1):
            return None
    pairs = first_rows(combine(*(with_blank(one.cells.codes, len(one.cells.texts)) for one in (column, other))))
    lengths = Counter(many[np.setdiff1d(pairs, odd)].tolist())
    several = sum(count for length, count in lengths.items() if length > 1)
    if several < 2 or len(lengths) < 2:
        return None
    numbers = all(is_number(part) for text in some.to_pylist() for part in values_of(str(text), by))
    if numbers or _come_together(column, other, by, np.setdiff1d(pairs, odd)):
        return _Beside(odd, 0.0)
    orders = math.lgamma(lengths.total() + 1) - sum(math.lgamma(count + 1) for count in lengths.values())
    return _Beside(odd, math.exp(-orders))


def _come_together(column: WorkingColumn, other: WorkingColumn, by: str, rows: npt.NDArray[np.int64]) -> bool:
    """Whether each word of a list always has the same word beside it and is alone with that, and some come again so.

    ``rows`` are those to look at.
    """
    found: Counter[tuple[str, str]] = Counter()
    for row in rows[:LOOKED_AT].tolist():
        codes = column.cells.codes[row], other.cells.codes[row]
        if EMPTY not in codes:
            texts = (str(one.cells.texts[int(code)]) for one, code in zip((column, other), codes, strict=True))
            found.update(zip(*(values_of(text, by) for text in texts), strict=True))
    alone = all(len({pair[side] for pair in found}) == len(found) for side in (0, 1))
    return alone and sum(times > 1 for times in found.values()) >= AGAIN


def how_many(column: WorkingColumn, by: str, rows: int | None = None) -> npt.NDArray[np.int64]:
    """How many values stand in each cell of the first rows, or of all, shape (rows,)."""
    codes = column.cells.codes[:rows]
    texts = column.cells.texts.slice(0, int(codes.max(initial=EMPTY)) + 1).to_pylist()
    return np.array([*(len(values_of(str(text), by)) for text in texts), 0])[codes]
