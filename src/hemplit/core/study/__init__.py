"""Relation → findings: what the data shows, with evidence, before anything is decided."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.at_once import beside
from hemplit.core.columns.codes import Grouping, first_conflict, with_blank
from hemplit.core.model.findings import Dependency, Findings, Near
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.progress import silent
from hemplit.core.study.bands import bands
from hemplit.core.study.computed import MOST_NUMBERS, computed
from hemplit.core.study.counted import counted_anew
from hemplit.core.study.crossed import crossed
from hemplit.core.study.dependencies import Found, TimeLimitError, decide
from hemplit.core.study.derived import derived
from hemplit.core.study.evidence import evidence
from hemplit.core.study.facts import facts
from hemplit.core.study.filled import closed_lists, code_forms, filled_where, of_sorts, one_filled
from hemplit.core.study.multivalued import MOST_COLUMNS as MOST_FOR_LISTS
from hemplit.core.study.multivalued import multivalued
from hemplit.core.study.near import Breaks, holds_nearly, how_it_breaks, near
from hemplit.core.study.shared import shared_values
from hemplit.core.study.trouble import trouble
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Container, Iterable, Sequence

    from hemplit.core.model.grid import Codes
    from hemplit.core.model.progress import Progress
    from hemplit.core.model.relation import Relation

#: Dependencies with more columns on the left are looked for only when asked.
DEPTH = 3

#: Findings hold no more dependencies than this; ``dependencies.stream`` gives any number, one after the other.
MOST = 100_000
#: Sheets of more columns are refused: most databases hold no table of them, and pairs of columns fill the memory.
MOST_STUDIED = 2_000
#: In a sheet with more columns than this, pairs of columns decide nothing that anybody meant.
WIDE = 100
#: So many rows tell whether a column nearly decides another, which is asked of so many pairs of columns.
SAMPLE = 20_000
MOST_NEARLY = 1_000
#: A column with a few blanks still names something in the other rows.
FEW_BLANKS = 0.1


def study(
    relation: Relation, depth: int | None = DEPTH, progress: Progress = silent, *, ignore_blanks: bool = False
) -> Findings:
    """All findings of one relation; left sides have at most ``depth`` columns, any number for None.

    A blank is one value, equal to itself; or, with ``ignore_blanks``, rows with a blank on the left are passed over.
    """
    groupings = grouped(relation)
    lefts = grouped_where_filled(relation) if ignore_blanks else None
    names = relation.names
    aside = {column.name for column in relation.beside.values()}
    plain = [column for column in relation.columns if column.name not in aside]
    with beside(relation.row_count) as begin:
        columns = begin(lambda: tuple(facts(column, beside=column.name in aside) for column in relation.columns))
        formulas = begin(lambda: (*computed(relation), *derived(relation.columns)))
        odd = begin(lambda: trouble(relation))
        decided = decide(groupings, relation.row_count, depth, progress, most=MOST, lefts=lefts)
        exact = _pairs([(one.left, one.right) for one in decided.dependencies], decided.keys, len(names))
        lists = begin(lambda: multivalued(relation.columns, groupings, exact))
        proofs = begin(lambda: evidence(groupings, relation.row_count, decided.dependencies))
        near_pairs = begin(lambda: _nearly(relation, groupings, decided.dependencies))
        shared = begin(lambda: shared_values(relation.columns, {(names[one], names[other]) for one, other in exact}))
        made = {one.name for one in formulas()}
        return Findings(
            source=relation.source,
            row_count=relation.row_count,
            steps=relation.steps,
            of=relation.of,
            in_blocks=relation.block is not None,
            columns=columns(),
            keys=tuple(tuple(names[index] for index in key) for key in decided.keys),
            dependencies=tuple(
                Dependency(
                    tuple(names[index] for index in found.left),
                    names[found.right],
                    proofs().get(found),
                    _blank_decides(relation, found.left, found.right),
                )
                for found in decided.dependencies
            ),
            computed=formulas(),
            bands=tuple(band for band in bands(relation.columns, exact) if band.name not in made),
            counted=tuple(some for some in counted_anew(relation.columns, exact) if aside.isdisjoint(some)),
            crossed=tuple(some for some in crossed(relation.columns, exact) if aside.isdisjoint(some)),
            shared=shared(),
            filled_where=filled_where(plain),
            of_sorts=of_sorts(plain),
            one_filled=one_filled(plain),
            closed_lists=closed_lists(plain),
            code_forms=code_forms(plain),
            multivalued=lists(),
            where_filled=_where_filled(relation, groupings, exact),
            nearly=frozenset(near_pairs()),
            breaks_again=frozenset(pair for pair, breaks in near_pairs().items() if breaks is Breaks.AGAIN),
            slips=frozenset(pair for pair, breaks in near_pairs().items() if breaks is Breaks.BY_A_SIGN),
            trouble=odd(),
            depth=depth,
            unfinished=decided.unfinished,
        )


def limits(columns: int) -> tuple[str, ...]:
    """What is not looked for in a sheet of so many columns, in words; nothing in those that offices have.

    >>> limits(40)
    ()
    """
    cut = {
        "lists that are independent of each other": MOST_FOR_LISTS,
        "columns that two others determine together": WIDE,
        "columns that others compute": MOST_NUMBERS,
    }
    return tuple(f"with {columns:,} columns, {what} are not looked for" for what, most in cut.items() if columns > most)


def exact_pairs(found: Findings) -> set[tuple[int, int]]:
    """The pairs of columns, by their places, of which the first decides the second in every row."""
    place = {facts.name: index for index, facts in enumerate(found.columns)}
    dependencies = [(tuple(place[name] for name in one.left), place[one.right]) for one in found.dependencies]
    return _pairs(dependencies, [tuple(place[name] for name in key) for key in found.keys], len(place))


def _pairs(
    dependencies: Iterable[tuple[tuple[int, ...], int]], keys: Iterable[tuple[int, ...]], columns: int
) -> set[tuple[int, int]]:
    """Keys decide everything, and everything decides a constant."""
    everything = range(columns)
    pairs = {(one, right) for left, right in dependencies if len(left) < 2 for one in (left or everything)}
    pairs |= {(key[0], right) for key in keys if len(key) == 1 for right in everything}
    return {(one, other) for one, other in pairs if one != other}


def _where_filled(
    relation: Relation, groupings: Sequence[Grouping], exact: Container[tuple[int, int]]
) -> tuple[Dependency, ...]:
    """What columns with a few blanks decide where they are filled, if a blank as one value decides it not."""
    made = []
    for left, column in enumerate(relation.columns):
        if not 0 < column.blanks <= FEW_BLANKS * relation.row_count or len(column.values) == column.filled:
            continue
        rows = np.flatnonzero(column.codes != EMPTY)
        found = []
        for right, other in enumerate(groupings):
            some = (rows[:SAMPLE], rows)
            if (
                right != left
                and (left, right) not in exact
                and all(
                    first_conflict(Grouping(column.codes[part], len(column.values)), other.codes[part]) is None
                    for part in some
                )
            ):
                found.append(Found((left,), right))
        apart = [*groupings]
        apart[left] = _blanks_apart(column.codes, len(column.values))
        names = relation.names
        for one, proof in evidence(apart, relation.row_count, found).items():
            decides = _blank_decides(relation, one.left, one.right)
            made.append(Dependency((names[left],), names[one.right], proof, decides))
    return tuple(made)


def _nearly(relation: Relation, groupings: Sequence[Grouping], found: Iterable[Found]) -> dict[tuple[str, str], Breaks]:
    """The columns that decide another but for a few rows, by a sample, and how: those that do so exactly with a second
    column, and those that are decided by it."""
    found = list(found)
    pairs = {(left, one.right) for one in found if len(one.left) == 2 for left in one.left}
    pairs |= {(one.right, one.left[0]) for one in found if len(one.left) == 1}
    step = max(len(groupings[0].codes) // SAMPLE, 1) if groupings else 1
    some = [Grouping(np.ascontiguousarray(grouping.codes[::step]), grouping.size) for grouping in groupings]
    chosen = [pair for pair in sorted(pairs)[:MOST_NEARLY] if holds_nearly(*(some[one] for one in pair))]
    names = relation.names
    return {
        (names[left], names[right]): breaks
        for left, right in chosen
        if (breaks := how_it_breaks(groupings[left], groupings[right], relation.columns[right])) is not None
    }


def study_ties(
    relation: Relation, depth: int | None, share: float, progress: Progress = silent, *, ignore_blanks: bool = False
) -> Findings:
    """All findings, and also the near dependencies.

    A near dependency breaks in at most ``share`` of the rows.
    """
    found = study(relation, depth, progress, ignore_blanks=ignore_blanks)
    groupings = grouped(relation)
    exact = exact_pairs(found)
    nearly: tuple[Near, ...] = ()
    unfinished = found.unfinished
    try:
        nearly = near(relation, groupings, exact, share, progress)
    except TimeLimitError as limit:
        unfinished = "; ".join(part for part in (unfinished, str(limit)) if part)
    return replace(found, unfinished=unfinished, near=nearly)


def grouped(relation: Relation) -> list[Grouping]:
    """The columns of a relation as the dependency search takes them: a blank is one value, equal to itself."""
    return [with_blank(column.codes, len(column.values)) for column in relation.columns]


def grouped_where_filled(relation: Relation) -> list[Grouping]:
    """The same, but each blank is a value of its own."""
    return [_blanks_apart(column.codes, len(column.values)) for column in relation.columns]


def _blanks_apart(codes: Codes, size: int) -> Grouping:
    blank = np.flatnonzero(codes == EMPTY)
    apart = codes.copy()
    apart[blank] = np.arange(size, size + len(blank))
    return Grouping(apart, size + len(blank))


def _blank_decides(relation: Relation, left: tuple[int, ...], right: int) -> bool:
    blank = [relation.columns[index].codes == EMPTY for index in left if relation.columns[index].blanks]
    if not blank:
        return False
    filled = relation.columns[right].codes != EMPTY
    return any(bool((filled & rows).any()) for rows in blank)
