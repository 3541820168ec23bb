"""All minimal exact dependencies and candidate keys of a table: complete and minimal, whatever its shape.

What comes in is one grouping of the rows per column, a blank being one value, equal to itself; what goes out are
indices of columns. Four ways, each with its own module, lead to the same answer:

- few rows (``all_pairs``): all pairs of rows are compared; what they agree in is then known, and nothing needs
checking;
- few columns on the left (``levels``): well-chosen pairs rule out most sets of columns, the rest is checked on the
rows;
- all left sides of up to 22 columns (``lattice``): a number for each set of columns;
- all left sides of more columns (``transversal``): one after the other, in bounded memory.
"""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.model.progress import silent
from hemplit.core.study.dependencies.all_pairs import all_agreements, marked_agreements
from hemplit.core.study.dependencies.lattice import MOST_COLUMNS, listed, minimal_decisions
from hemplit.core.study.dependencies.levels import Levels
from hemplit.core.study.dependencies.rows import Table
from hemplit.core.study.dependencies.sets import largest, merged
from hemplit.core.study.dependencies.transversal import minimal_lefts
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from hemplit.core.columns.codes import Grouping
    from hemplit.core.model.progress import Progress
    from hemplit.core.study.dependencies.sets import Sets

    #: A minimal left side and what it decides, the number of columns standing for the row itself.
    Decision = tuple[tuple[int, ...], tuple[int, ...]]

#: Up to so many columns on the left, looking level by level is quicker than knowing all.
SHALLOW = 3
#: So many pairs are compared in less time than it takes to look for telling ones.
FEW_PAIRS = 500_000
#: So many pairs are compared, if there are at most 22 columns, when all left sides are asked for: some 5 s.
MANY_PAIRS = 320_000_000

#: Of the agreements of drawn pairs so many are kept: more of them take longer to go through than they save.
MOST_DRAWN = 40_000
#: For transversals so many pairs are compared, a second or two for each ten million, unless they agree in more than
#: this many ways: to find the smallest of many differences takes long. Then, and in taller tables, some are drawn.
PAIRS_FOR_TRANSVERSALS = 40_000_000
MOST_FOR_TRANSVERSALS = 600_000
DRAWN_FOR_TRANSVERSALS = 8_000
#: After so many candidates that did not hold it is quicker to begin again, knowing why.
COUNTER_EXAMPLES = 2_000
FINDING = "finding what determines each column"
CHECKING = "checking left sides on the rows"
COMPARING = "comparing all rows"


@dataclass(frozen=True)
class Found:
    """One minimal dependency as column indices."""

    left: tuple[int, ...]
    right: int


@dataclass(frozen=True)
class Decided:
    """All minimal dependencies and all minimal keys up to the depth, in order of size and position.

    ``unfinished`` says in words what is missing if a time limit ended the search; it is empty if nothing is.
    """

    dependencies: tuple[Found, ...]
    keys: tuple[tuple[int, ...], ...]
    unfinished: str = ""


class TimeLimitError(Exception):
    """Ends a search before it is finished; a caller's ``progress`` raises it with a text that says why."""


def decide(
    columns: Sequence[Grouping],
    rows: int,
    depth: int | None = None,
    progress: Progress = silent,
    *,
    most: int | None = None,
    lefts: Sequence[Grouping] | None = None,
) -> Decided:
    """Which columns decide which, with at most ``depth`` columns on the left, or any number for None.

    Memory is that of the answer and a few arrays of one number per row. The search ends early if ``progress`` raises
    ``TimeLimitError`` or more than ``most`` dependencies are found: then all that is listed holds and is minimal, and
    ``unfinished`` says that there may be more.

    ``lefts`` are other groupings of the same columns for when they stand on the left, finer ones: with every blank a
    value of its own there, rows with a blank on the left say nothing.

    >>> from hemplit.core.columns.codes import Grouping
    >>> boat, owner = Grouping(np.array([0, 1, 0, 2]), 3), Grouping(np.array([0, 0, 0, 1]), 2)
    >>> decide([boat, owner], 4)
    Decided(dependencies=(Found(left=(0,), right=1),), keys=(), unfinished='')
    """
    dependencies: list[Found] = []
    keys: list[tuple[int, ...]] = []
    unfinished = ""
    try:
        for left, rights in _stream_finer(columns, lefts or columns, rows, depth, progress):
            dependencies += [Found(left, right) for right in rights if right < len(columns)]
            if rights[-1] == len(columns):
                keys.append(left)
            if most is not None and len(dependencies) > most:
                raise TimeLimitError(f"stopped after {most:,} dependencies")
    except TimeLimitError as limit:
        unfinished = str(limit)
    dependencies.sort(key=lambda found: (len(found.left), found.left, found.right))
    keys.sort(key=lambda key: (len(key), key))
    return Decided(tuple(dependencies), tuple(keys), unfinished)


def stream(
    columns: Sequence[Grouping], rows: int, depth: int | None = None, progress: Progress = silent
) -> Iterator[Decision]:
    """The same as ``decide``, handed on as it is found, each left side perhaps several times for different columns."""
    width = len(columns)
    deepest = width if depth is None else min(depth, width)
    pairs = rows * (rows - 1) // 2
    if not pairs:
        yield (), tuple(range(width + 1))
        return
    if deepest <= SHALLOW:
        table = None if pairs <= FEW_PAIRS else Table(columns, rows)
        known = _compared(columns, rows, progress) if table is None else _drawn(table, progress)
        yield from Levels(width, known, table).run(deepest, partial(progress, "looking at larger left sides"))
    elif width <= MOST_COLUMNS and pairs <= MANY_PAIRS:
        agreed = marked_agreements(columns, rows, partial(progress, COMPARING))
        yield from listed(minimal_decisions(agreed, width), width, deepest)
    elif width > MOST_COLUMNS and pairs <= PAIRS_FOR_TRANSVERSALS:
        known = _compared(columns, rows, progress)
        if len(known) > MOST_FOR_TRANSVERSALS:
            yield from _confirmed_one_by_one(Table(columns, rows), deepest, progress)
            return
        for right in range(width + 1):
            for left in _transversals(known, width, right, deepest, progress):
                yield left, (right,)
    elif width > MOST_COLUMNS:
        yield from _confirmed_one_by_one(Table(columns, rows), deepest, progress)
    else:
        yield from _confirmed(Table(columns, rows), deepest, progress)


def _stream_finer(
    columns: Sequence[Grouping], lefts: Sequence[Grouping], rows: int, depth: int | None, progress: Progress
) -> Iterator[Decision]:
    """The same with other groupings on the left: these join as columns of their own, and the answer is picked over.

    What is minimal among all sets of columns is so among those that may stand on the left.
    """
    finer = [column for column in range(len(columns)) if lefts[column].size != columns[column].size]
    if not finer:
        yield from stream(columns, rows, depth, progress)
        return
    width = len(columns)
    original = [*range(width), *finer]
    for left, rights in stream([*columns, *(lefts[column] for column in finer)], rows, depth, progress):
        own = tuple(sorted(original[column] for column in left))
        decided = [right for right in rights if right < width and right not in own]
        decided += [width] if rights[-1] == len(original) else []
        if decided and not set(finer).intersection(left):
            yield own, tuple(decided)


def _compared(columns: Sequence[Grouping], rows: int, progress: Progress) -> Sets:
    return all_agreements(columns, rows, partial(progress, COMPARING))


def _drawn(table: Table, progress: Progress) -> Sets:
    parts = []
    for done, part in enumerate(table.draw()):
        progress("comparing sample rows", done, len(table.columns))
        parts.append(part)
    return largest(merged(parts, table.words), MOST_DRAWN)


def _confirmed(table: Table, depth: int, progress: Progress) -> Iterator[Decision]:
    """All left sides of a table with few columns and too many rows to compare all pairs.

    The candidates that some pairs leave are checked on the rows, until no counter-example is new. One that was
    confirmed stays minimal: every smaller set has been ruled out by two rows.
    """
    width = len(table.columns)
    known = _drawn(table, progress)
    confirmed: set[tuple[tuple[int, ...], int]] = set()
    while True:
        agreed = np.zeros(1 << width, dtype=bool)
        agreed[known[:, 0].astype(np.intp)] = True
        new: list[Sets] = []
        for done, (left, rights) in enumerate(listed(minimal_decisions(agreed, width), width, depth)):
            progress(CHECKING, done, len(known))
            holding, against = table.confirm(left, [right for right in rights if (left, right) not in confirmed])
            for right in holding:
                confirmed.add((left, right))
                yield left, (right,)
            new.append(against)
        grown = merged((known, *new), table.words)
        if len(grown) == len(known):
            return
        known = grown


def _confirmed_one_by_one(table: Table, depth: int, progress: Progress) -> Iterator[Decision]:
    """The same for many columns: right side by right side, so that only the left sides of one are kept in mind."""
    width = len(table.columns)
    known = largest(_drawn(table, progress), DRAWN_FOR_TRANSVERSALS)
    for right in range(width + 1):
        confirmed: set[tuple[int, ...]] = set()
        while True:
            new: list[Sets] = []
            for left in _transversals(known, width, right, depth, progress):
                if left not in confirmed:
                    progress(CHECKING, right, width + 1)
                    holding, against = table.confirm(left, (right,))
                    if holding:
                        confirmed.add(left)
                        yield left, (right,)
                    else:
                        new.append(against)
                if len(new) == COUNTER_EXAMPLES:
                    break
            if not new:
                break
            known = merged((known, *new), table.words)


def _transversals(known: Sets, columns: int, right: int, depth: int, progress: Progress) -> Iterator[tuple[int, ...]]:
    return minimal_lefts(known, columns, right, depth, partial(progress, FINDING, right, columns + 1))
