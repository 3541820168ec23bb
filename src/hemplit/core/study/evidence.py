"""How much a dependency has been put to the test.

Three numbers: how many pairs of rows agree in the left side and so could have contradicted it; how much repetition a
table of its own would remove; and how likely it would be by chance. For the last, deal the values of the right side out
to the rows anew: a group of s rows with the same left side then holds one value only with probability sum(p_v ** s),
p_v being the share of value v, and all groups do so with about the product of these. This is the permutation null of
Mandros, Boley and Vreeken, "Discovering reliable approximate functional dependencies" (2017), for an exact dependency,
with the groups taken as independent.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.model.findings import Evidence
from hemplit.core.study.dependencies.rows import Table
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    import numpy.typing as npt

    from hemplit.core.columns.codes import Grouping
    from hemplit.core.study.dependencies import Found

#: So many rows are grouped at most, all left sides together; what comes after is listed without evidence.
MOST_ROWS = 400_000_000


def evidence(columns: Sequence[Grouping], rows: int, dependencies: Iterable[Found]) -> dict[Found, Evidence]:
    """The evidence for each dependency, in the order given, until the work would be too much."""
    table = Table(columns, rows)
    shares = [np.bincount(column.codes, minlength=column.size) / max(rows, 1) for column in columns]
    lefts: dict[tuple[int, ...], _Left] = {}
    found = {}
    for one in dependencies:
        if one.left not in lefts:
            if (len(lefts) + 1) * rows > MOST_ROWS:
                break
            lefts[one.left] = _left(table, one.left)
        left = lefts[one.left]
        found[one] = Evidence(left.groups, rows - left.groups, left.pairs, _chance(left, shares[one.right]))
    return found


@dataclass(frozen=True)
class _Left:
    """What the groups of a left side are: how many, the pairs of rows in them, the different sizes above one row, and
    how many groups have each."""

    groups: int
    pairs: int
    sizes: npt.NDArray[np.int64]
    counts: npt.NDArray[np.int64]


def _left(table: Table, left: tuple[int, ...]) -> _Left:
    counts = np.bincount(table.group(left).sizes if left else [table.rows])
    sizes = np.flatnonzero(counts)
    counts = counts[sizes]
    several = sizes > 1
    pairs = int((counts * (sizes * (sizes - 1) // 2)).sum())
    return _Left(int(counts.sum()), pairs, sizes[several], counts[several])


def _chance(left: _Left, shares: npt.NDArray[np.float64]) -> float:
    """The common logarithm of the probability that every group holds one value only."""
    if not len(left.sizes) or not len(shares):
        return 0.0
    # Equal shares and equal sizes need to be looked at once; the largest share is taken out so that nothing underflows.
    different, often = np.unique(shares[shares > 0], return_counts=True)
    relative = np.log(different / different[-1])
    exponents = left.sizes[:, None] * relative
    one_value = left.sizes * np.log(different[-1]) + np.log((np.exp(exponents) * often).sum(axis=1))
    return float((left.counts * one_value).sum() / np.log(10)) + 0.0
