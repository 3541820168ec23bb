"""Cells that somebody forgot to fill: the boat has a berth in every row but one, and the blank takes it over.

    Boat   Berth        Boat   Berth
    Teal   W1           Teal   W1
    Teal           →    Teal   W1
    Knot   E4           Knot   E4

That is done where a column that names or numbers something decides this one in all other rows, and could not have done
so by accident; or where what this one decides describes one thing only. A blank whose siblings are all blank means
none, and stays.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import Step
from hemplit.core.shape.deciding import description, filled, identifies, nearly_decides, places, recoded, together

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.codes import Grouping
    from hemplit.core.model.grid import Codes
    from hemplit.core.shape.working import Working, WorkingColumn

ACT = Act.GAPS
SETTINGS = {"column": "column", "by": "columns"}
#: Where more than this share of the rows could be filled, they are blank by intention.
MOST_GAPS = 0.05


@dataclass(frozen=True)
class Filling:
    """What other columns say of the gaps of a column: ``said`` of shape (gaps,) holds codes, ``EMPTY`` for nothing."""

    by: tuple[WorkingColumn, ...]
    said: Codes


def find(working: Working) -> Iterator[Step]:
    """A step for each column with gaps, and for each column or description that fills some of them."""
    for column in working.columns:
        gaps = np.flatnonzero(~column.filled)
        if not len(gaps) or len(column.cells.texts) < 2:
            continue
        others = [one for one in working.columns if one is not column and len(one.cells.texts) > 1]
        by_one = (_filling(column, (one,), gaps) for one in others if identifies(one))
        found = [one for one in (*by_one, _filling(column, description(column, others), gaps)) if one is not None]
        yield from _steps(working, column, gaps, found)


def _steps(
    working: Working, column: WorkingColumn, gaps: npt.NDArray[np.intp], fillings: Sequence[Filling]
) -> Iterator[Step]:
    """The fewest fillings that fill what can be filled; those by one column first."""
    left = np.ones(len(gaps), dtype=bool)
    for one in sorted(
        fillings, key=lambda one: (len(one.by), -np.count_nonzero(one.said != EMPTY), one.by[0].position)
    ):
        rows = gaps[left & (one.said != EMPTY)]
        left &= one.said == EMPTY
        if len(rows):
            why = f"{places(working, column, rows, one.by)} all say it"
            yield Step(ACT, (("column", column.name), ("by", tuple(by.name for by in one.by))), why)


def _filling(column: WorkingColumn, by: tuple[WorkingColumn, ...], gaps: npt.NDArray[np.intp]) -> Filling | None:
    """What other columns together say of the gaps, if they decide the column in all other rows."""
    if not by or not nearly_decides(together(by), column):
        return None
    said = _agreed(column.cells.codes, together(by))[together(by).codes[gaps]]
    fillable = np.count_nonzero(said != EMPTY)
    return Filling(by, said) if 0 < fillable <= MOST_GAPS * np.count_nonzero(column.filled) else None


def _agreed(codes: Codes, group: Grouping) -> Codes:
    """What all rows of a group say, shape (groups + 1,); ``EMPTY`` if they differ or say nothing, and at the end."""
    both = filled(group, codes)
    said = np.full(group.size + 1, EMPTY, dtype=np.int32)
    said[group.codes[both]] = codes[both]
    said[group.codes[both][codes[both] != said[group.codes[both]]]] = EMPTY
    return said


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet with the blanks of a column filled where all rows that agree in the others say one thing."""
    return recoded(working, step, number, _without_gaps)


def _without_gaps(column: WorkingColumn, group: Grouping) -> Codes:
    codes = column.cells.codes
    return np.where(codes == EMPTY, _agreed(codes, group)[group.codes], codes)
