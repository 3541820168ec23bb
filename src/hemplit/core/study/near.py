"""Dependencies that hold but for a few rows, and the rows that break them: most of the time, somebody mistyped.

For each value of the left side the right side agrees on its most frequent value; the rows with another one are those to
remove, and they are the fewest. That is the error g3 of Kivinen and Mannila, "Approximate inference of functional
dependencies from relations" (1995). Left sides are single columns: slips show against what one column says.
"""

from __future__ import annotations

from enum import Enum
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core import kinds
from hemplit.core.columns.codes import distinct, most_frequent
from hemplit.core.model.findings import Breach, Near
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import TEXT
from hemplit.core.texts.twins import are_twins, is_a_sign_off
from hemplit.core.texts.words import is_identifier, words

if TYPE_CHECKING:
    from collections.abc import Collection, Sequence

    import numpy.typing as npt

    from hemplit.core.columns.codes import Grouping
    from hemplit.core.model.progress import Progress
    from hemplit.core.model.relation import Column, Relation

#: Where more than this share of the rows that repeat a left side break the dependency, the left side says little.
MOST_OF_REPEATS = 0.2
#: A column nearly decides another if it breaks in so small a share of the rows that repeat it; of fewer, one row may be
#: the second of two people in one town.
NEARLY = 0.1
#: In tall tables one in so many groups is looked at first: if they break too often alone, all do.
FIRST_GROUPS = 8
TALL = 50_000
#: Slips hardly come so often in the same words beside the same left side; what differs on purpose does.
AGAIN = 3
#: So many slips are the most that anybody makes in one column beside one that says the same.
MOST_SLIPS = 50
#: So many breaking rows are named; the count tells how many there are.
NAMED = 50


def near(
    relation: Relation,
    groupings: Sequence[Grouping],
    exact: Collection[tuple[int, int]],
    share: float,
    progress: Progress,
) -> tuple[Near, ...]:
    """The dependencies of which at most ``share`` of all rows would have to go, likely slips first.

    ``exact`` are the pairs of columns of which the first decides the second without exception. Where one row is more
    than that share, it may break what a code decides, or look like a slip.
    """
    if not share:
        return ()
    most = max(int(share * relation.row_count), 1)
    usable = [right for right, grouping in enumerate(groupings) if _varies(grouping, most)]
    found = []
    for left, grouping in enumerate(groupings):
        progress("looking for exceptions", left, len(groupings))
        repeats = relation.row_count - grouping.size
        limit = min(most, int(MOST_OF_REPEATS * repeats))
        if grouping.size < 2 or not limit:
            continue
        for right in usable:
            if right != left and (left, right) not in exact and _may_hold(grouping, groupings[right], limit):
                agreed = most_frequent(grouping, groupings[right])
                rows = np.flatnonzero(groupings[right].codes != agreed[grouping.codes])
                if len(rows) <= limit:
                    sides = (relation.columns[left].name,), relation.columns[right]
                    found.append(described(relation, *sides, rows, agreed[grouping.codes[rows]]))
    if most > share * relation.row_count:
        found = [one for one in found if one.twins or is_identifier(words(one.left[0]))]
    return tuple(sorted(found, key=lambda one: (-one.twins / one.rows, one.rows, one.left, one.right)))


def holds_nearly(left: Grouping, right: Grouping) -> bool:
    """Whether a value of the left side says the same on the right but for a few of the rows that repeat it.

    >>> from hemplit.core.columns.codes import Grouping
    >>> one, two, three = (Grouping(np.repeat([0, 1], [20 - odd, odd]), 2) for odd in (1, 2, 4))
    >>> holds_nearly(one, two), holds_nearly(one, three)
    (True, False)
    """
    repeats = len(left.codes) - int(np.count_nonzero(np.bincount(left.codes, minlength=left.size)))
    breaking = int((right.codes != most_frequent(left, right)[left.codes]).sum())
    return repeats > 0 and breaking <= NEARLY * repeats


class Breaks(Enum):
    """How what nearly holds breaks."""

    NOW_AND_THEN = 1
    AGAIN = 2
    """The same comes again: a team that plays in another league for a year does so in all of its rows."""
    BY_A_SIGN = 3
    """Each row that breaks says what the others do but for a sign."""


def how_it_breaks(left: Grouping, right: Grouping, column: Column) -> Breaks | None:
    """How it breaks that a left side nearly decides a ``column``, which is grouped on the right; None if not."""
    agreed = most_frequent(left, right)[left.codes]
    odd = np.flatnonzero(right.codes != agreed)
    if not len(odd):
        return None
    if breaks_again(left, right, odd):
        return Breaks.AGAIN
    pairs = distinct(right.codes[odd].astype(np.int64) * right.size + agreed[odd])
    if column.kind != TEXT or len(pairs) > MOST_SLIPS:
        return Breaks.NOW_AND_THEN
    texts = ([_text(column, code) for code in divmod(pair, right.size)] for pair in pairs.tolist())
    return Breaks.BY_A_SIGN if all(is_a_sign_off(one, other) for one, other in texts) else Breaks.NOW_AND_THEN


def breaks_again(left: Grouping, right: Grouping, odd: npt.NDArray[np.intp]) -> bool:
    """Whether what the ``odd`` rows say comes again, as no slip does.

    >>> from hemplit.core.columns.codes import Grouping
    >>> right = Grouping(np.array([0, 0, 0, 0, 1, 1, 1]), 2)
    >>> breaks_again(Grouping(np.zeros(7, int), 1), right, np.array([4, 5, 6]))
    True
    """
    different = len(distinct(left.codes[odd].astype(np.int64) * right.size + right.codes[odd]))
    return len(odd) >= AGAIN * different > 0


def _varies(grouping: Grouping, most: int) -> bool:
    """Whether the column is more than one value with a few exceptions, which anything would nearly decide."""
    return grouping.size > 1 and len(grouping.codes) - int(np.bincount(grouping.codes).max()) > most


def _may_hold(left: Grouping, right: Grouping, limit: int) -> bool:
    if len(left.codes) <= TALL:
        return True
    some = np.flatnonzero(left.codes % FIRST_GROUPS == 0)
    first = type(left)(left.codes[some], left.size)
    agreed = most_frequent(first, type(right)(right.codes[some], right.size))
    return int((right.codes[some] != agreed[first.codes]).sum()) <= limit


def described(
    relation: Relation,
    left: tuple[str, ...],
    right: Column,
    rows: npt.NDArray[np.intp],
    agreed: npt.NDArray[np.int64],
    of: int | None = None,
) -> Near:
    """A near dependency by the ``rows`` that break it and what the others there say, ``of`` so many (None for all)."""
    twins: dict[tuple[int, int], bool] = {}
    named: list[Breach] = []
    count = 0
    for row, wanted in zip(rows.tolist(), agreed.tolist(), strict=True):
        code = int(right.codes[row])
        if (code, wanted) not in twins:
            twins[code, wanted] = are_twins(_text(right, code), _text(right, wanted)) and right.kind == TEXT
        count += twins[code, wanted]
        if len(named) < NAMED:
            place = relation.address(row, right)
            named.append(Breach(place, _text(right, code), _text(right, wanted), twins[code, wanted]))
    named.sort(key=lambda one: not one.twin)
    return Near(left, right.name, len(rows), len(rows) / (of or relation.row_count), count, tuple(named))


def _text(column: Column, code: int) -> str:
    """The text of a code, in which the blank has the number after the last value."""
    return "" if code in (EMPTY, len(column.values)) else kinds.show(column.values[code].as_py(), column.kind)
