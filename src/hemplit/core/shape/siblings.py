"""Cells that say something else than all other rows of the same thing, and only by a slip.

    Boat Ref   Boat            Boat Ref   Boat
    R17        Heron XVII      R17        Heron XVII
    R17        Heron XII   →   R17        Heron XVII
    R12        Heron XII       R12        Heron XII

A spelling that is right elsewhere cannot be corrected wherever it stands, only in the rows whose siblings all say the
other. It is proposed and never done by itself: people are called Bill in one list and Billy in the next, and the cells
of this sort that real tables have are nearly all right as they are.
"""

from __future__ import annotations

from itertools import combinations
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from rapidfuzz.distance import OSA

from hemplit.core.columns.codes import Grouping, most_frequent
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import Step
from hemplit.core.shape.deciding import (
    company,
    description,
    filled,
    identifies,
    nearly_decides,
    not_last,
    places,
    recoded,
    together,
)
from hemplit.core.shape.looks import is_word
from hemplit.core.texts.twins import sharing_a_half
from hemplit.core.texts.words import is_identifier, stem_of, words

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.model.grid import Codes
    from hemplit.core.shape.working import Working, WorkingColumn

ACT = Act.SIBLINGS
SETTINGS = {"column": "column", "instead": "text", "of": "text", "by": "columns"}
#: So many letters may differ, and shorter texts are all alike.
MOST_LETTERS, SHORTEST = 2, 3
#: Up to so many capitals are a code, of which another letter makes another one.
LONGEST_LETTERS = 4
#: Columns of more different texts are not looked at, nor more texts that have a half in common.
MOST_TEXTS, MOST_ALIKE = 2_000, 50


class Slip(NamedTuple):
    """One text, by its code, in place of another."""

    odd: int
    meant: int


def find(working: Working) -> Iterator[Step]:
    """A step for each text that stands in the place of another."""
    for column in working.columns:
        texts = column.cells.texts
        if not 2 <= len(texts) <= MOST_TEXTS or not all(is_word(str(text)) for text in texts.slice(0, 3).to_pylist()):
            continue
        slips = _possible(texts.to_pylist())
        if not slips:
            continue
        others = [one for one in working.columns if one is not column and len(one.cells.texts) > 1]
        alone = [(one,) for one in others if identifies(one) or _is_measure_of(one, column)]
        for by in (*alone, description(column, others)):
            if not by or not nearly_decides(together(by), column) or not not_last(together(by), column.cells.codes):
                continue
            rows, meant = _odd(column, together(by))
            pairs = [Slip(int(column.cells.codes[row]), int(code)) for row, code in zip(rows, meant, strict=True)]
            possible = [slip for slip in dict.fromkeys(pairs) if slip in slips]
            beside = company(column, [one for one in others if one not in by]) if possible else []
            for slip in possible:
                own = rows[[pair == slip for pair in pairs]]
                if _is_no_thing(column, by, slip, own) and _is_in_company(column, beside, slip, own):
                    slips.discard(slip)
                    yield _step(working, column, by, slip, own)


def _is_measure_of(one: WorkingColumn, column: WorkingColumn) -> bool:
    """Whether a column that identifies nothing is, by its header, one of what the other names: "Part", "Part Price"."""
    about = stem_of(column.name)
    named = bool(about) and words(one.name)[: len(about)] == about
    return named and not identifies(one) and nearly_decides(together((column,)), one)


def _is_no_thing(column: WorkingColumn, by: Sequence[WorkingColumn], slip: Slip, rows: npt.NDArray[np.intp]) -> bool:
    """Whether the odd text in these rows is no thing of its own, which is like the other one in what they go by.

    A code tells that. Else the text goes with something else in all of its other rows; or it has none and stands in one
    cell only, beside a name: two things may have one price, and be described alike.
    """
    if len(by) == 1 and is_identifier(words(by[0].name)):
        return True
    elsewhere = np.setdiff1d(np.flatnonzero(column.cells.codes == slip.odd), rows)
    if not len(elsewhere):
        return len(by) == 1 and identifies(by[0]) and len(rows) == 1
    codes = together(by).codes
    return not bool(np.isin(codes[rows], codes[elsewhere]).any())


def _is_in_company(
    column: WorkingColumn, beside: Sequence[WorkingColumn], slip: Slip, rows: npt.NDArray[np.intp]
) -> bool:
    """Whether the rows say beside the odd text what goes with the other one, and not what goes with itself."""
    codes = column.cells.codes
    elsewhere = np.setdiff1d(np.flatnonzero(codes == slip.odd), rows)
    meant = np.flatnonzero(codes == slip.meant)
    for_odd = for_meant = 0
    for one in beside:
        own, others = (_usual(one, some) for some in (elsewhere, meant))
        if own != others:
            for_odd += int(np.count_nonzero(one.cells.codes[rows] == own))
            for_meant += int(np.count_nonzero(one.cells.codes[rows] == others))
    return for_meant >= for_odd


def _usual(column: WorkingColumn, rows: npt.NDArray[np.intp]) -> int | None:
    """What the most of the rows say; None if there are none."""
    return int(np.bincount(column.cells.codes[rows] + 1).argmax()) - 1 if len(rows) else None


def _possible(texts: Sequence[str]) -> set[Slip]:
    """The texts that could stand in place of another."""
    lower = [text.casefold() for text in texts]
    groups = (alike[:MOST_ALIKE] for alike in sharing_a_half(lower))
    pairs = {
        (min(pair), max(pair))
        for alike in groups
        for pair in combinations(alike, 2)
        if abs(len(lower[pair[0]]) - len(lower[pair[1]])) <= MOST_LETTERS  # which most are not, and is told at once
    }
    slips = [pair for pair in pairs if _is_slip(texts[pair[0]], texts[pair[1]])]
    return {slip for one, other in slips for slip in (Slip(one, other), Slip(other, one))}


def _step(
    working: Working, column: WorkingColumn, by: Sequence[WorkingColumn], slip: Slip, rows: npt.NDArray[np.intp]
) -> Step:
    odd, meant = (str(column.cells.texts[code]) for code in slip)
    names = tuple(one.name for one in by)
    settings = (("column", column.name), ("instead", meant), ("of", odd), ("by", names))
    why = f"{places(working, column, rows, by)} mostly say so"
    return Step(ACT, settings, why, proposed=True, strength=1 / len(rows))


def _is_slip(odd: str, meant: str) -> bool:
    """Whether a person who meant the one could have typed the other, which goes for both ways round.

    What differs in a digit is another thing.
    """
    one, other = odd.casefold(), meant.casefold()
    if min(len(one), len(other)) < SHORTEST or [c for c in one if c.isdigit()] != [c for c in other if c.isdigit()]:
        return False
    if (
        odd.isupper()
        and meant.isupper()
        and max(len(odd), len(meant)) <= LONGEST_LETTERS
        and _differs_in_one(odd, meant)
    ):
        return False
    letters = 1 if min(len(one), len(other)) < 2 * SHORTEST else MOST_LETTERS
    return bool(OSA.distance(one, other, score_cutoff=letters) <= letters)


def _differs_in_one(one: str, other: str) -> bool:
    return len(one) == len(other) and sum(left != right for left, right in zip(one, other, strict=True)) == 1


def _odd(column: WorkingColumn, group: Grouping) -> tuple[npt.NDArray[np.intp], Codes]:
    """The rows that say something else than most of their group, and what that is."""
    codes = column.cells.codes
    said = _most(column, group)[group.codes]
    rows = np.flatnonzero((codes != EMPTY) & (said != EMPTY) & (codes != said))
    return rows, said[rows]


def _most(column: WorkingColumn, group: Grouping) -> Codes:
    """What most rows of a group say, of two as frequent what is more common in the column; shape (groups + 1,)."""
    codes = column.cells.codes
    both = filled(group, codes)
    order = np.argsort(-column.cells.counts, kind="stable")
    rank = np.empty(len(order), dtype=np.int32)
    rank[order] = np.arange(len(order), dtype=np.int32)
    part = Grouping(group.codes[both], group.size)
    said = np.full(group.size + 1, EMPTY, dtype=np.int32)
    there = np.flatnonzero(np.bincount(part.codes))
    said[there] = order[most_frequent(part, Grouping(rank[codes[both]], len(order)))][there]
    return said


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet with another text in the rows whose siblings mostly have it."""

    def change(column: WorkingColumn, group: Grouping) -> Codes:
        odd, meant = (column.cells.texts.index(step.text(key)).as_py() for key in ("of", "instead"))
        codes = column.cells.codes.copy()
        rows, said = _odd(column, group)
        if EMPTY not in (odd, meant):
            codes[rows[(codes[rows] == odd) & (said == meant)]] = meant
        return codes

    return recoded(working, step, number, change)
