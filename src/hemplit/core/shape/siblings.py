"""Cells that say something else than all other rows of the same thing, and only by a slip.

    Boat Ref   Boat            Boat Ref   Boat
    R17        Heron XVII      R17        Heron XVII
    R17        Heron XII   →   R17        Heron XVII
    R12        Heron XII       R12        Heron XII

A spelling that is right elsewhere cannot be corrected wherever it stands, only in the rows whose siblings all say the
other. It is proposed and never done by itself: people are called Bill in one list and Billy in the next, and the cells
of this sort that real tables have are nearly all right as they are.

On few rows one slip is a large share of them. There it is enough that nothing but slips stands against what decides,
and that the words of the column are not so alike that two meet by chance.
"""

from __future__ import annotations

from collections import Counter
from itertools import combinations
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from rapidfuzz.distance import OSA

from hemplit.core.columns.codes import Grouping, most_frequent
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import Step
from hemplit.core.shape.deciding import (
    breaks_in_few,
    company,
    description,
    filled,
    identifies,
    is_chance,
    nearly_decides,
    not_last,
    places,
    recoded,
    together,
)
from hemplit.core.shape.looks import is_word
from hemplit.core.shape.slips import writing_of
from hemplit.core.texts.twins import differs_in_a_sign, sharing_a_half
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
#: Slips alone may stand against what decides a column in one row, or in this share of them, and in no more than a
#: person looks at; if so small a share of the other texts are alike, and if chance would bear that out in less than one
#: of 10^2 sheets. With these none is seen in 67 tables that are right as they are.
SLIPS_ALONE, MOST_SLIPS, ALIKE, MARGIN = 0.02, 20, 0.02, 2.0


class Slip(NamedTuple):
    """One text, by its code, in place of another."""

    odd: int
    meant: int


def find(working: Working) -> Iterator[Step]:
    """A step for each text that stands in the place of another."""
    for column in working.columns:
        slips = _possible(column.cells.texts.to_pylist()) if _holds_words(column) else set()
        if not slips:
            continue
        others = [one for one in working.columns if one is not column and len(one.cells.texts) > 1]
        alone = [(one,) for one in others if identifies(one) or _is_measure_of(one, column)]
        for by in (*alone, description(column, others)):
            if not by or not not_last(together(by), column.cells.codes):
                continue
            if not nearly_decides(together(by), column) and not (
                len(by) == 1 and identifies(by[0]) and _is_broken_by_slips(column, by[0])
            ):
                continue
            rows, meant = _odd(column, together(by))
            pairs = _pairs(column, rows, meant)
            possible = [slip for slip in dict.fromkeys(pairs) if slip in slips]
            beside = company(column, [one for one in others if one not in by]) if possible else []
            for slip in possible:
                own = rows[[pair == slip for pair in pairs]]
                if _is_no_thing(column, by, slip, own) and _is_in_company(column, beside, slip, own):
                    slips.discard(slip)
                    yield _step(working, column, by, slip, own)


def broken_by_slips(column: WorkingColumn, naming: Sequence[WorkingColumn]) -> WorkingColumn | None:
    """What decides a column of words but for slips, of several a code; None if none of those does that ``naming``
    things."""
    if not _holds_words(column):
        return None
    able = [one for one in naming if one is not column and _is_broken_by_slips(column, one)]
    return min(able, key=lambda one: not is_identifier(words(one.name)), default=None)


def _holds_words(column: WorkingColumn) -> bool:
    texts = column.cells.texts
    return 2 <= len(texts) <= MOST_TEXTS and all(is_word(str(text)) for text in texts.slice(0, 3).to_pylist())


def _is_broken_by_slips(column: WorkingColumn, by: WorkingColumn) -> bool:
    """Whether another column decides this one in all rows but for slips, and hardly by chance."""
    group = together((by,))
    most = min(max(1, int(SLIPS_ALONE * len(group.codes))), MOST_SLIPS)
    if not breaks_in_few(group, column.cells.codes, most) or is_chance(group, column, 0, MARGIN):
        return False
    odd, _ = _odd(column, group)
    rows, meant = slips_of(column, group)
    if not 0 < len(odd) <= min(most, len(rows)) or is_chance(group, column, len(rows), MARGIN):
        return False
    texts = column.cells.texts.to_pylist()
    pairs = len(set(_pairs(column, rows, meant)))
    alike = len({frozenset(one) for one in _possible(texts)}) - pairs
    return alike <= ALIKE * (len(texts) * (len(texts) - 1) // 2 - pairs)


def slips_of(column: WorkingColumn, group: Grouping) -> tuple[npt.NDArray[np.intp], Codes]:
    """The rows that are slips of what most of their group say, which stand nowhere else, and what that is."""
    rows, meant = _odd(column, group)
    pairs = Counter(_pairs(column, rows, meant))
    slips = {one for one, count in pairs.items() if count == column.cells.counts[one.odd] and _looks_so(column, one)}
    own = np.array([one in slips for one in _pairs(column, rows, meant)], dtype=bool)
    return rows[own], meant[own]


def _looks_so(column: WorkingColumn, slip: Slip) -> bool:
    odd, meant = (str(column.cells.texts[code]) for code in slip)
    return _is_slip(odd, meant) and not differs_in_a_sign(odd, meant)


def _pairs(column: WorkingColumn, rows: npt.NDArray[np.intp], meant: Codes) -> list[Slip]:
    return [Slip(int(column.cells.codes[row]), int(code)) for row, code in zip(rows, meant, strict=True)]


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
    codes, group = column.cells.codes, together(by).codes
    same = np.isin(group, group[rows])
    clear = np.count_nonzero(same & (codes == slip.meant)) > np.count_nonzero(same & (codes == slip.odd))
    why = f"{places(working, column, rows, by)} {'mostly say so' if clear else 'say both'}"
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
    """What most rows of a group say, of two as frequent what is more common in the column, or its writing is; shape
    (groups + 1,)."""
    codes = column.cells.codes
    both = filled(group, codes)
    writings = [writing_of(str(text)) for text in column.cells.texts.to_pylist()]
    common = Counter(writings)
    order = np.lexsort((-np.array([common[one] for one in writings]), -column.cells.counts))
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
