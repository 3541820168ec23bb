"""Whether what was taken out of each row of a sheet could belong to a thing of which several rows speak.

It could not if no column that comes again decides it; then nobody need look for its owner.
"""

from __future__ import annotations

from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import Grouping, combine, with_blank
from hemplit.core.texts.words import is_person

if TYPE_CHECKING:
    from hemplit.core.model.relation import Relation

#: One row that says the same again does so by accident: two permits of one holder for the same vehicle.
AGAIN = 2
#: Of so many rows it is seen first whether anything could decide what was taken out of them.
FIRST_ROWS = 2_000
#: Different sums of these stand for different entries; a sum that two have by chance costs a draft, and no truth.
SPREAD = np.uint64(0x9E3779B97F4A7C15)


def may_belong(relation: Relation, child: Relation) -> bool:
    """Whether a column, or the two of a name, that come again in the rows decide all that was taken out of each."""
    filled = [column for column in relation.columns if not column.blanks]
    able = [Grouping(column.codes, len(column.values)) for column in filled]
    able += [
        combine(Grouping(one.codes, len(one.values)), Grouping(two.codes, len(two.values)))
        for one, two in pairwise(filled)
        if is_person((one.name, two.name))
    ]
    for rows in (FIRST_ROWS, relation.row_count):
        said = said_of(relation, child, min(rows, relation.row_count))
        able = [group for group in able if _decides(group, said)]
    return bool(able)


def _decides(group: Grouping, said: Grouping) -> bool:
    """Whether a group says as much as it and what was taken out of the same first rows, and something again there."""
    first = Grouping(group.codes[: len(said.codes)], group.size)
    different = int(np.count_nonzero(np.bincount(first.codes, minlength=1)))
    return len(first.codes) >= different + AGAIN and combine(first, said).size == different


def said_of(relation: Relation, child: Relation, rows: int) -> Grouping:
    """What was taken out of each of the first rows of a relation, as one value."""
    place = np.full(int(relation.grid_rows.max(initial=-1)) + 1, rows, dtype=np.int64)
    place[relation.grid_rows[:rows]] = np.arange(rows)
    of = place[child.grid_rows]
    some = np.flatnonzero(of < rows)
    entries = Grouping(np.zeros(len(some), dtype=np.int32), 1)
    for column in child.columns[len(child.of) :]:
        entries = combine(entries, with_blank(column.codes[some], len(column.values)))
    sums = np.zeros(rows, dtype=np.uint64)
    weights = (entries.codes.astype(np.uint64) + np.uint64(1)) * SPREAD
    np.add.at(sums, of[some], weights ^ (weights >> np.uint64(29)))
    values, codes = np.unique(sums, return_inverse=True)
    return Grouping(codes.astype(np.int32), len(values))
