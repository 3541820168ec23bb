"""Independent lists under one key: within each value of X, every value of Y stands with every value of Z.

A sheet that lists the skills and the languages of each person in one table has a line for every combination. X ->> Y |
Z holds if, for each value of X, there are as many different combinations as the numbers of different parts multiply to.
After Fagin, "Multivalued dependencies and a new normal form for relational databases" (1977).
"""

from __future__ import annotations

from functools import reduce
from itertools import combinations
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import Grouping, combine, first_rows
from hemplit.core.model.findings import Multivalued
from hemplit.core.model.grid import EMPTY

if TYPE_CHECKING:
    from collections.abc import Collection, Sequence

    import numpy.typing as npt

    from hemplit.core.model.relation import Column

#: Only where both lists have several items does the combination say anything; so many such groups are no accident.
FEWEST_GROUPS = 3
#: So many rows of whole groups are looked at first; what is not independent there is not independent.
FIRST_ROWS = 1000
#: Among more columns the pairs under each take seconds, and no sheet that only combines lists has so many.
MOST_COLUMNS = 80


def multivalued(
    columns: Sequence[Column], groupings: Sequence[Grouping], exact: Collection[tuple[int, int]]
) -> tuple[Multivalued, ...]:
    """The single columns under which the others fall into independent parts, with the parts.

    Columns that X decides, given as pairs in ``exact``, belong to X and to no part. ``groupings`` are the columns with
    a blank as one value.
    """
    found = []
    if len(columns) > MOST_COLUMNS:
        return ()
    if any(grouping.size == len(grouping.codes) for grouping in groupings):
        return ()  # with what tells all rows apart nothing combines freely
    for left, grouping in enumerate(groupings):
        rest = [
            right
            for right, other in enumerate(groupings)
            if right != left and other.size > 1 and (left, right) not in exact
        ]
        if len(rest) < 2 or not 1 < grouping.size < len(grouping.codes):
            continue
        some = _whole_groups(grouping)
        if len(_parts(_at(grouping, some), [_at(groupings[right], some) for right in rest])) < 2:
            continue
        parts = _parts(grouping, [groupings[right] for right in rest])
        if len(parts) < 2:
            continue
        groups = _telling_groups(grouping, [groupings[right] for right in rest], parts)
        if groups >= FEWEST_GROUPS:
            members = [[rest[member] for member in part] for part in parts]
            shown = tuple(tuple(columns[member].name for member in part) for part in members)
            product = _product(grouping, groupings, members).sum()
            alone = all(_blank_alone(grouping, columns, groupings, part) for part in members)
            separable = not columns[left].blanks and product == len(grouping.codes) and alone
            found.append(Multivalued((columns[left].name,), shown, groups, separable))
    return tuple(found)


def _whole_groups(grouping: Grouping) -> npt.NDArray[np.intp]:
    counts = np.bincount(grouping.codes, minlength=grouping.size)
    order = np.argsort(-counts, kind="stable")  # the largest groups tell most
    enough = int(np.searchsorted(np.cumsum(counts[order]), FIRST_ROWS)) + 1
    chosen = np.zeros(grouping.size, dtype=bool)
    chosen[order[:enough]] = True
    return np.flatnonzero(chosen[grouping.codes])


def _at(grouping: Grouping, rows: npt.NDArray[np.intp]) -> Grouping:
    return Grouping(grouping.codes[rows], grouping.size)


def _counts(left: Grouping, both: Grouping) -> npt.NDArray[np.int64]:
    """For each value of the left side how many different values stand with it; ``both`` combines the two."""
    first = first_rows(both)
    return np.bincount(left.codes[first[first >= 0]], minlength=left.size)


def _parts(left: Grouping, rest: Sequence[Grouping]) -> list[list[int]]:
    """The finest parts of the rest that may be independent under the left side; one part if there are none."""
    rows = len(left.codes)
    part_of = list(range(len(rest)))
    joined: dict[int, tuple[Grouping, npt.NDArray[np.int64]]] = {}

    def under_left(member: int) -> tuple[Grouping, npt.NDArray[np.int64]]:
        if member not in joined:
            both = combine(left, rest[member])
            joined[member] = both, _counts(left, both)
        return joined[member]

    # What varies most depends on most of the others, and the sooner all are in one part, the better.
    for one, other in combinations(sorted(range(len(rest)), key=lambda member: -rest[member].size), 2):
        if part_of[one] == part_of[other]:
            continue
        (both, counts), (_, others) = under_left(one), under_left(other)
        expected = int((counts * others).sum())
        if expected > rows or combine(both, rest[other]).size != expected:
            low, high = sorted((part_of[one], part_of[other]))
            part_of = [low if part == high else part for part in part_of]
        if not any(part_of):
            break
    parts = [[member for member, own in enumerate(part_of) if own == part] for part in dict.fromkeys(part_of)]
    # Independent in pairs is not independent together, so the whole is counted, too.
    if len(parts) > 1 and _combined(left, rest, range(len(rest))).size != _product(left, rest, parts).sum():
        return [list(range(len(rest)))]
    return parts


def _combined(left: Grouping, rest: Sequence[Grouping], part: Sequence[int]) -> Grouping:
    return reduce(combine, (rest[member] for member in part), left)


def _product(left: Grouping, rest: Sequence[Grouping], parts: Sequence[Sequence[int]]) -> npt.NDArray[np.int64]:
    counts = [_counts(left, _combined(left, rest, part)) for part in parts]
    return np.multiply.reduce(counts)


def _blank_alone(left: Grouping, columns: Sequence[Column], groupings: Sequence[Grouping], part: Sequence[int]) -> bool:
    """Whether a value of the left side that has a blank in this list has nothing else in it."""
    blank = np.logical_and.reduce([columns[member].codes == EMPTY for member in part])
    several = _counts(left, _combined(left, groupings, part)) > 1
    return not (blank & several[left.codes]).any()


def _telling_groups(left: Grouping, rest: Sequence[Grouping], parts: Sequence[Sequence[int]]) -> int:
    """The groups in which at least two parts have several values."""
    several = [_counts(left, _combined(left, rest, part)) > 1 for part in parts]
    return int((np.sum(several, axis=0) > 1).sum())
