"""Cells that somebody forgot to fill: the boat has a berth in every row but one, and the blank takes it over.

    Boat   Berth        Boat   Berth
    Teal   W1           Teal   W1
    Teal           →    Teal   W1
    Knot   E4           Knot   E4

That is done where a column that names or numbers something decides this one in all other rows, and could not have done
so by accident; or where what this one decides describes one thing only. The rows of the group that are filled, two at
least, must say the same, but for one in fifty that may err.

A blank that has a cause stays. It has one where it stands beside other blanks more often than chance would have it,
where half of the rows of the same thing are blank, or where all rows of some owner are: a yard tells no prices, a
visitor has no berth. How sure the rest is, is weighed: the odds that the group is right against its errors and
against blanks left on purpose, of which there are more where others of the column have a cause.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import Grouping, most_frequent
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import Step
from hemplit.core.shape.deciding import (
    LOOKED_AT,
    description,
    filled,
    identifies,
    nearly_decides,
    places,
    recoded,
    together,
)
from hemplit.core.texts.vocabulary import MOMENT
from hemplit.core.texts.words import is_measure, stem_of, words
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.model.grid import Codes
    from hemplit.core.shape.working import Flags, Working, WorkingColumn

ACT = Act.GAPS
SETTINGS = {"column": "column", "by": "columns"}
#: Where more than this share of the rows could be filled, they are blank by intention.
MOST_GAPS = 0.05
#: What decides a column may err in no more of the rows, nor in more than this share of the errors of always guessing
#: the commonest value; groups of fewer rows tell nothing of that.
MOST_ERRORS, OF_GUESSING, FEWEST_ROWS = 0.02, 0.05, 3
#: So many rows of a group must say it, since one may be wrong itself.
FEWEST_FILLED = 2
#: Blanks together are no chance from a likelihood of a thousand to one on.
NO_CHANCE = math.log(1000)
#: Blanks that somebody left for a reason that nobody sees, and how much likelier they are where others have a cause.
ON_PURPOSE, UNSEEN = 0.01, 0.1
#: A gap is filled if that is so many times likelier right than wrong; if it is likelier right at all, it is proposed.
SURE, LIKELY = 10.0, 1.0


@dataclass(frozen=True)
class Filling:
    """What other columns say of the gaps of a column: ``said`` of shape (gaps,) holds codes, ``EMPTY`` for nothing."""

    by: tuple[WorkingColumn, ...]
    said: Codes
    odds: float


def find(working: Working) -> Iterator[Step]:
    """A step for each column with gaps, and for each column or description that fills some of them."""
    for column in working.columns:
        gaps = np.flatnonzero(~column.filled)
        if not len(gaps) or len(column.cells.texts) < 2:
            continue
        others = [one for one in working.columns if one is not column and len(one.cells.texts) > 1]
        caused = _caused(column, others)
        if np.count_nonzero(~caused[gaps]) > MOST_GAPS * working.row_count:
            continue
        able = [(one,) for one in others if _could_name(one)]
        alone = _alone(column, others)
        fillings = (_filling(column, by, gaps, caused, alone) for by in (*able, description(column, others)))
        found = [one for one in fillings if one is not None]
        yield from _steps(working, column, gaps, found)


def _could_name(column: WorkingColumn) -> bool:
    """Whether a column names or numbers something, or holds whole numbers of which the header does not say what for."""
    if identifies(column):
        return True
    numbers = all(str(text).isdecimal() for text in column.cells.texts.slice(0, LOOKED_AT).to_pylist())
    said = words(column.name)
    return numbers and not is_measure(said) and MOMENT.isdisjoint(said)


def _steps(
    working: Working, column: WorkingColumn, gaps: npt.NDArray[np.intp], fillings: Sequence[Filling]
) -> Iterator[Step]:
    """The fewest fillings that fill what can be filled; the sure ones and those by one column first."""
    left = np.ones(len(gaps), dtype=bool)
    for one in sorted(
        fillings,
        key=lambda one: (one.odds < SURE, len(one.by), -np.count_nonzero(one.said != EMPTY), one.by[0].position),
    ):
        rows = gaps[left & (one.said != EMPTY)]
        left &= one.said == EMPTY
        if len(rows):
            why = f"{places(working, column, rows, one.by)} say it"
            settings = (("column", column.name), ("by", tuple(by.name for by in one.by)))
            yield Step(ACT, settings, why, proposed=one.odds < SURE, strength=one.odds)


def _filling(
    column: WorkingColumn, by: tuple[WorkingColumn, ...], gaps: npt.NDArray[np.intp], caused: Flags, alone: Flags
) -> Filling | None:
    """What other columns together say of the gaps, if they decide the column in all other rows.

    It is not sure of a thing that is told of nowhere else: a guest of this yard may have a berth in another one.
    """
    if not by or not nearly_decides(together(by), column):
        return None
    errors = _errors(column, together(by))
    if errors is None:
        return None
    said = _said(column, together(by), caused)[gaps]
    fillable = np.count_nonzero(said != EMPTY)
    if not 0 < fillable <= MOST_GAPS * np.count_nonzero(column.filled):
        return None
    purpose = ON_PURPOSE + UNSEEN * np.count_nonzero(caused[gaps]) / len(gaps)
    right = (1 - errors) * (1 - purpose)
    odds = float(right / (1 - right))
    if alone[gaps][said != EMPTY].any():
        odds = min(odds, LIKELY)
    return Filling(by, said, odds) if odds >= LIKELY else None


def _errors(column: WorkingColumn, group: Grouping) -> float | None:
    """The share of rows that say otherwise than most of their group; None if that is too much."""
    both = filled(group, column.cells.codes)
    size = len(column.cells.texts)
    part, own = Grouping(group.codes[both], group.size), column.cells.codes[both]
    large = np.bincount(part.codes, minlength=group.size)[part.codes] >= FEWEST_ROWS
    if not large.any():
        return None
    wrong = own[large] != most_frequent(part, Grouping(own, size))[part.codes[large]]
    errors = float(np.count_nonzero(wrong)) / len(wrong)
    guessing = 1 - float(column.cells.counts.max()) / float(column.cells.counts.sum())
    return errors if errors < MOST_ERRORS and errors <= OF_GUESSING * guessing else None


def _said(column: WorkingColumn, group: Grouping, caused: Flags) -> Codes:
    """What the rows of its group say of each row, shape (rows,); ``EMPTY`` for nothing, or if its blank has a cause.

    They must all say the same, but for as few as may err, so many at least, and half of them may not be blank.
    """
    codes = column.cells.codes
    both = filled(group, codes)
    part, own = group.codes[both], codes[both]
    said = np.full(group.size + 1, EMPTY, dtype=np.int32)
    said[:-1] = most_frequent(Grouping(part, group.size), Grouping(own, len(column.cells.texts)))
    known = np.flatnonzero(group.codes != EMPTY)
    rows = np.bincount(group.codes[known], minlength=group.size + 1)
    there = np.bincount(part, minlength=group.size + 1)
    wrong = np.bincount(part[own != said[part]], minlength=group.size + 1)
    said[(there < FEWEST_FILLED) | (2 * there <= rows) | (wrong > MOST_ERRORS * there)] = EMPTY
    return np.where(caused | (group.codes == EMPTY), np.int32(EMPTY), said[group.codes])


def _caused(column: WorkingColumn, others: Sequence[WorkingColumn]) -> Flags:
    """Which blanks of a column have a cause: other blanks beside them, or an owner all of whose rows are blank."""
    blank = ~column.filled
    caused = np.zeros(len(blank), dtype=bool)
    many, rows = int(np.count_nonzero(blank)), len(blank)
    if not many:
        return caused
    for one in others:
        beside = blank & ~one.filled
        together_, its = int(np.count_nonzero(beside)), rows - int(np.count_nonzero(one.filled))
        if together_ and _likelihood(together_, many, its / rows) > NO_CHANCE:
            caused |= beside
        filled_rows = np.flatnonzero(one.filled)
        sizes = np.bincount(one.cells.codes[filled_rows], minlength=len(one.cells.texts))
        blanks = np.bincount(one.cells.codes[filled_rows][blank[filled_rows]], minlength=len(sizes))
        # Nobody forgets all rows of one owner: so many blanks would have come together by chance.
        whole = (blanks == sizes) & (sizes > 1) & (sizes * math.log(rows / many) > NO_CHANCE)
        if whole.any():
            caused[filled_rows] |= whole[one.cells.codes[filled_rows]] & blank[filled_rows]
    return caused


def _alone(column: WorkingColumn, others: Sequence[WorkingColumn]) -> Flags:
    """The rows of a thing of which no row fills the column, though by its header it is the column of that thing."""
    alone = np.zeros(len(column.cells.codes), dtype=bool)
    said = words(column.name)
    for one in others:
        about = stem_of(one.name)
        if about and identifies(one) and said[: len(about)] == about and len(said) > len(about):
            told = np.bincount(
                one.cells.codes[filled(together((one,)), column.cells.codes)], minlength=len(one.cells.texts)
            )
            alone |= one.filled & (told[one.cells.codes] == 0)
    return alone


def _likelihood(hits: int, of: int, chance: float) -> float:
    """The logarithm of how much likelier so many hits are if they belong together than by that chance."""
    share = hits / of
    if share <= chance or chance >= 1:
        return 0.0
    missed = (of - hits) * math.log((1 - share) / (1 - chance)) if hits < of else 0.0
    return hits * math.log(share / chance) + missed


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet with the blanks of a column filled where all rows that agree in the others say one thing."""

    def change(column: WorkingColumn, group: Grouping) -> Codes:
        others = [one for one in working.columns if one is not column and len(one.cells.texts) > 1]
        codes = column.cells.codes
        return np.where(codes == EMPTY, _said(column, group, _caused(column, others)), codes)

    return recoded(working, step, number, change)
