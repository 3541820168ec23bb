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

from dataclasses import dataclass, replace
from functools import reduce
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.codes import Grouping, combine, with_blank
from hemplit.core.model.grid import EMPTY, GridColumn
from hemplit.core.model.relation import Step
from hemplit.core.shape.looks import is_word
from hemplit.core.shape.working import SHOWN, Working, mark, with_column
from hemplit.core.words import MEASURE, is_identifier, words

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.model.grid import Codes
    from hemplit.core.shape.working import WorkingColumn

ACT = "fill gaps"
SETTINGS = {"column": "text", "by": "texts"}
#: Where more than this share of the rows could be filled, they are blank by intention.
MOST_GAPS = 0.05
#: What decides a column breaks in no more of the rows than a few slips would.
MOST_BREAKING = 0.005
#: So many rows at least must bear that out, and chance would do so in less than one of 10^12 sheets.
FEWEST_REPEATS = 30
MARGIN = 12.0
#: So many rows tell most of the columns apart that decide nothing, and so many texts those that are no words.
FIRST_ROWS, LOOKED_AT = 20_000, 5


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
        by_one = (_filling(column, (one,), gaps) for one in others if _identifies(one))
        found = [one for one in (*by_one, _by_description(column, others, gaps)) if one is not None]
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
            named = ", ".join(working.address(int(row), column) for row in rows[:SHOWN])
            more = f" and {len(rows) - SHOWN:,} more" if len(rows) > SHOWN else ""
            same = " + ".join(f"'{by.name}'" for by in one.by)
            why = f"{named}{more}: all other rows of the same {same} say it"
            yield Step(ACT, (("column", column.name), ("by", tuple(by.name for by in one.by))), why)


def _identifies(column: WorkingColumn) -> bool:
    """Whether the column names or numbers something that several rows speak of."""
    said = words(column.name)
    if is_identifier(said):
        return True
    probe = column.cells.texts.slice(0, LOOKED_AT).to_pylist()
    return not MEASURE.intersection(said) and all(is_word(str(text)) for text in probe)


def _by_description(
    column: WorkingColumn, others: Sequence[WorkingColumn], gaps: npt.NDArray[np.intp]
) -> Filling | None:
    """What several columns together say that this one decides, if they tell its values apart."""
    if not _identifies(column):
        return None
    own = Grouping(column.cells.codes, len(column.cells.texts))
    parts = [one for one in others if _nearly_decides(own, one.cells.codes)]
    parts.sort(key=lambda one: (-len(one.cells.texts), one.position))
    tried = (_filling(column, tuple(parts[:count]), gaps) for count in range(2, len(parts) + 1))
    return next((one for one in tried if one is not None), None)


def _filling(column: WorkingColumn, by: tuple[WorkingColumn, ...], gaps: npt.NDArray[np.intp]) -> Filling | None:
    """What other columns together say of the gaps, if they decide the column in all other rows."""
    codes, group = column.cells.codes, _together(by)
    if not _nearly_decides(group, codes):
        return None
    both = (codes != EMPTY) & (group.codes != EMPTY)
    repeats = int(np.count_nonzero(both)) - len(np.unique(group.codes[both]))
    shares = column.cells.counts / column.cells.counts.sum()
    if repeats < FEWEST_REPEATS or -repeats * np.log10((shares * shares).sum()) < MARGIN:
        return None
    said = _agreed(codes, group)[group.codes[gaps]]
    return Filling(by, said) if 0 < np.count_nonzero(said != EMPTY) <= MOST_GAPS * np.count_nonzero(both) else None


def _together(columns: Sequence[WorkingColumn]) -> Grouping:
    """The rows that agree in all columns; ``EMPTY`` where one is blank."""
    if len(columns) == 1:
        return Grouping(columns[0].cells.codes, len(columns[0].cells.texts))
    whole = reduce(combine, (with_blank(one.cells.codes, len(one.cells.texts)) for one in columns))
    filled = np.logical_and.reduce([one.filled for one in columns])
    return Grouping(np.where(filled, whole.codes, np.int32(EMPTY)), whole.size)


def _nearly_decides(group: Grouping, codes: Codes) -> bool:
    """Whether rows of one group say the same but for a few slips; the first rows settle most cases."""
    return all(
        _breaking(Grouping(group.codes[some], group.size), codes[some]) <= MOST_BREAKING * len(codes[some])
        for some in (slice(FIRST_ROWS), slice(None))
    )


def _breaking(group: Grouping, codes: Codes) -> int:
    """How many rows say something else than the last of their group."""
    both = np.flatnonzero((codes != EMPTY) & (group.codes != EMPTY))
    said = np.full(group.size, EMPTY, dtype=np.int32)
    said[group.codes[both]] = codes[both]
    return int(np.count_nonzero(codes[both] != said[group.codes[both]]))


def _agreed(codes: Codes, group: Grouping) -> Codes:
    """What all rows of a group say, shape (groups + 1,); ``EMPTY`` if they differ or say nothing, and at the end."""
    both = np.flatnonzero((codes != EMPTY) & (group.codes != EMPTY))
    said = np.full(group.size + 1, EMPTY, dtype=np.int32)
    said[group.codes[both]] = codes[both]
    said[group.codes[both][codes[both] != said[group.codes[both]]]] = EMPTY
    return said


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet with the blanks of a column filled where all rows that agree in the others say one thing."""
    column = working.named(step.text("column"))
    others = [one for one in map(working.named, step.texts("by")) if one is not None]
    if column is None or len(others) < len(step.texts("by")):
        return working
    codes, group = column.cells.codes, _together(others)
    said = _agreed(codes, group)[group.codes]
    gaps = (codes == EMPTY) & (said != EMPTY)
    cells = GridColumn(np.where(gaps, said, codes), column.cells.texts)
    return with_column(working, column, replace(column, cells=cells, changed=mark(column, gaps, number)))
