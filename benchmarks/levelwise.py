"""The yardstick: a plain search for all minimal dependencies and possible keys, level by level, each set on all rows.

What comes in is one grouping of the rows per column; what goes out are indices of columns. A set of columns determines
another column if every group of rows that agree in the set agree in that column, too. Supersets of a left side that
already determines a column, and of a key, are never tried. After Huhtala, Kärkkäinen, Porkka and Toivonen, "TANE: an
efficient algorithm for discovering functional and approximate dependencies" (1999).
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import Grouping, combine, first_rows

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

#: A counter-example is nearly always among the first rows; only what passes there is checked on all rows.
SAMPLE = 2000


@dataclass(frozen=True)
class Found:
    """One minimal dependency as column indices, with the number of groups of its left side."""

    left: tuple[int, ...]
    right: int
    groups: int


@dataclass(frozen=True)
class Decided:
    """All minimal dependencies and all minimal keys up to the depth, in order of size and position."""

    dependencies: tuple[Found, ...]
    keys: tuple[tuple[int, ...], ...]


def decide(
    columns: Sequence[Grouping], rows: int, depth: int, progress: Callable[[int, int], None] | None = None
) -> Decided:
    """Which columns determine which, with at most ``depth`` columns on the left.

    Time is at most rows x columns^(depth + 1); memory a few groupings. ``progress`` is told the level and the depth.

    >>> boat, owner = Grouping(np.array([0, 1, 0, 2]), 3), Grouping(np.array([0, 0, 0, 1]), 2)
    >>> determine([boat, owner], 4, 2)
    Decided(dependencies=(Found(left=(0,), right=1, groups=3),), keys=())
    """
    dependencies: list[Found] = []
    keys: list[tuple[int, ...]] = []
    decided_by: list[list[frozenset[int]]] = [[] for _ in columns]
    for right, column in enumerate(columns):
        if column.size <= 1:
            dependencies.append(Found((), right, 1))
            decided_by[right].append(frozenset())
    if rows <= 1:
        return Decided(tuple(dependencies), ((),))
    for level in range(1, depth + 1):
        if progress is not None:
            progress(level, depth)
        for left, grouping in _groupings(columns, level, keys):
            members = frozenset(left)
            if grouping.size == rows:
                keys.append(left)
            rest = [
                right
                for right in range(len(columns))
                if right not in members and not any(smaller <= members for smaller in decided_by[right])
            ]
            for right in _decides(grouping, columns, rest):
                dependencies.append(Found(left, right, grouping.size))
                decided_by[right].append(members)
    return Decided(tuple(dependencies), tuple(keys))


def _groupings(
    columns: Sequence[Grouping], level: int, keys: Sequence[tuple[int, ...]]
) -> Iterator[tuple[tuple[int, ...], Grouping]]:
    """Every set of ``level`` columns that holds no key, with its grouping; shared beginnings are combined once."""
    known = [frozenset(key) for key in keys]
    stack: list[tuple[tuple[int, ...], Grouping]] = []
    for left in combinations(range(len(columns)), level):
        if any(key <= frozenset(left) for key in known):
            continue
        while stack and stack[-1][0] != left[: len(stack[-1][0])]:
            stack.pop()
        while len(stack) < level:
            size = len(stack) + 1
            column = columns[left[size - 1]]
            stack.append((left[:size], combine(stack[-1][1], column) if stack else column))
        yield stack.pop()


def _decides(grouping: Grouping, columns: Sequence[Grouping], rest: Sequence[int]) -> list[int]:
    rows = len(grouping.codes)
    sample = min(rows, SAMPLE)
    first = first_rows(Grouping(grouping.codes[:sample], grouping.size))[grouping.codes[:sample]]
    likely = [
        right for right in rest if np.array_equal(columns[right].codes[:sample], columns[right].codes[:sample][first])
    ]
    if not likely or sample == rows:
        return likely
    first = first_rows(grouping)[grouping.codes]
    return [right for right in likely if np.array_equal(columns[right].codes, columns[right].codes[first])]
