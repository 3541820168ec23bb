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

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import Grouping
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import Step
from hemplit.core.shape.agreed import Slip, holds_words, is_broken_by_slips, odd_ones, pairs_of, possible_slips
from hemplit.core.shape.deciding import (
    company,
    description,
    identifies,
    nearly_decides,
    not_last,
    places,
    recoded,
    together,
)
from hemplit.core.texts.words import is_identifier, stem_of, words

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.model.grid import Codes
    from hemplit.core.shape.working import Working, WorkingColumn

ACT = Act.SIBLINGS
SETTINGS = {"column": "column", "instead": "text", "of": "text", "by": "columns"}


def find(working: Working) -> Iterator[Step]:
    """A step for each text that stands in the place of another."""
    for column in working.columns:
        slips = possible_slips(column.cells.texts.to_pylist()) if holds_words(column) else set()
        if not slips:
            continue
        others = [one for one in working.columns if one is not column and len(one.cells.texts) > 1]
        alone = [(one,) for one in others if identifies(one) or _is_measure_of(one, column)]
        for by in (*alone, description(column, others)):
            if not by or not not_last(together(by), column.cells.codes):
                continue
            by_one = len(by) == 1 and identifies(by[0])
            if not nearly_decides(together(by), column) and not (by_one and is_broken_by_slips(column, by[0])):
                continue
            rows, meant = odd_ones(column, together(by))
            pairs = pairs_of(column, rows, meant)
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


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet with another text in the rows whose siblings mostly have it."""

    def change(column: WorkingColumn, group: Grouping) -> Codes:
        odd, meant = (column.cells.texts.index(step.text(key)).as_py() for key in ("of", "instead"))
        codes = column.cells.codes.copy()
        rows, said = odd_ones(column, group)
        if EMPTY not in (odd, meant):
            codes[rows[(codes[rows] == odd) & (said == meant)]] = meant
        return codes

    return recoded(working, step, number, change)
