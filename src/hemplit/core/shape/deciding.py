"""Which columns of a sheet decide another but for a few cells, while these are still to be put right."""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import Grouping, combine, with_blank
from hemplit.core.model.grid import EMPTY
from hemplit.core.shape.looks import is_date, is_word
from hemplit.core.shape.working import SHOWN, compact, mark, with_column
from hemplit.core.texts.vocabulary import FREE_TEXT, MOMENT
from hemplit.core.texts.words import is_identifier, is_measure, shown_together, words
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    import numpy.typing as npt

    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Step
    from hemplit.core.shape.working import Working, WorkingColumn

#: What decides a column breaks in no more of the rows than a few slips would.
MOST_BREAKING = 0.02
#: So many rows at least must bear that out, and chance would do so in less than one of 10^12 sheets.
FEWEST_REPEATS = 30
MARGIN = 12.0
#: So many rows tell most of the columns apart that decide nothing, and so many texts those that are no words.
FIRST_ROWS, LOOKED_AT = 5_000, 5
#: So many tell most of them apart that break more than seldom.
FIRST_FEW = 1_000
#: So many texts tell whether a column holds codes.
CODES_LOOKED_AT = 50
#: So many texts tell whether a column holds dates.
DATES_LOOKED_AT = 20


def identifies(column: WorkingColumn) -> bool:
    """Whether the column names or numbers something that several rows speak of."""
    said = words(column.name)
    if is_identifier(said):
        return True
    probe = column.cells.texts.slice(0, LOOKED_AT).to_pylist()
    return not is_measure(said) and FREE_TEXT.isdisjoint(said) and all(is_word(str(text)) for text in probe)


def holds_codes(column: WorkingColumn) -> bool:
    """Whether the column holds codes, of which one letter more or less makes another one."""
    if is_identifier(words(column.name)):
        return True
    probe = [str(text) for text in column.cells.texts.slice(0, CODES_LOOKED_AT).to_pylist()]
    return all(" " not in text and any(map(str.isdigit, text)) for text in probe)


def tells_when(column: WorkingColumn) -> bool:
    """Whether the column says when something was, by its header or by its texts."""
    probe = [str(text) for text in column.cells.texts.slice(0, DATES_LOOKED_AT).to_pylist()]
    return not MOMENT.isdisjoint(words(column.name)) or (bool(probe) and all(map(is_date, probe)))


def together(columns: Sequence[WorkingColumn]) -> Grouping:
    """The rows that agree in all columns; ``EMPTY`` where one is blank."""
    if len(columns) == 1:
        return Grouping(columns[0].cells.codes, len(columns[0].cells.texts))
    whole = reduce(combine, (with_blank(one.cells.codes, len(one.cells.texts)) for one in columns))
    filled = np.logical_and.reduce([one.filled for one in columns])
    return Grouping(np.where(filled, whole.codes, np.int32(EMPTY)), whole.size)


def recoded(working: Working, step: Step, number: int, change: Callable[[WorkingColumn, Grouping], Codes]) -> Working:
    """The sheet with other codes in the column of a step, by the rows that agree in the columns that it goes by.

    It stays as it is if one of these columns is not there.
    """
    column = working.named(step.text("column"))
    others = [one for one in map(working.named, step.texts("by")) if one is not None]
    if column is None or len(others) < len(step.texts("by")):
        return working
    codes = change(column, together(others))
    changed = mark(column, codes != column.cells.codes, number)
    return with_column(working, column, replace(column, cells=compact(codes, column.cells.texts), changed=changed))


def places(working: Working, column: WorkingColumn, rows: npt.NDArray[np.intp], by: Sequence[WorkingColumn]) -> str:
    """Some cells by address, and the columns in which other rows agree with theirs, in words."""
    named = ", ".join(working.address(int(row), column) for row in rows[:SHOWN])
    more = f" and {len(rows) - SHOWN:,} more" if len(rows) > SHOWN else ""
    return f"{named}{more}: rows of the same " + shown_together(one.name for one in by)


def company(column: WorkingColumn, others: Sequence[WorkingColumn]) -> list[WorkingColumn]:
    """The columns that this one decides but for a few cells: what always stands beside each of its texts."""
    own = together((column,))
    return [one for one in others if nearly_decides(own, one)]


def description(column: WorkingColumn, others: Sequence[WorkingColumn]) -> tuple[WorkingColumn, ...]:
    """The fewest columns that this one decides and that together decide it, two at least; none if there are none."""
    if not identifies(column):
        return ()
    parts = sorted(company(column, others), key=lambda one: (-len(one.cells.texts), one.position))
    tried = (tuple(parts[:count]) for count in range(2, len(parts) + 1))
    return next((by for by in tried if nearly_decides(together(by), column)), ())


def nearly_decides(group: Grouping, column: WorkingColumn) -> bool:
    """Whether rows of one group say the same but for a few cells, and could not do so by accident."""
    rows = len(group.codes)
    # A group says one text, and each text more than there are groups stands in a row that says something else.
    blank = np.count_nonzero(group.codes == EMPTY)
    if np.count_nonzero(column.cells.counts) - group.size - blank > MOST_BREAKING * rows:
        return False
    for some in (slice(FIRST_ROWS), slice(None)) if rows > FIRST_ROWS else (slice(None),):  # the first settle most
        codes = column.cells.codes[some]
        groups, said = _where_filled(group.codes[some], codes)
        most = MOST_BREAKING * len(codes)
        if _not_last(groups, said, group.size) > most and _not_most(groups, said, len(column.cells.texts)) > most:
            return False
    return _repeats(groups) >= FEWEST_REPEATS and not is_chance(group, column, 0, MARGIN)


def is_chance(group: Grouping, column: WorkingColumn, breaking: int, margin: float) -> bool:
    """Whether rows of one group, but for so many, might say the same by accident in one of 10^``margin`` sheets."""
    repeats = _repeats(group.codes[filled(group, column.cells.codes)]) - breaking
    shares = column.cells.counts / column.cells.counts.sum()
    return bool(-repeats * np.log10((shares * shares).sum()) < margin)


def _repeats(groups: Codes) -> int:
    """How many rows stand in a group that another row stands in before."""
    return len(groups) - int(np.count_nonzero(np.bincount(groups)))


def breaks_in_few(group: Grouping, codes: Codes, most: int) -> bool:
    """Whether some rows, and no more than that, may say something else than their group: in each there break as many
    as differ from its first row or from its last one, so that two slips at both ends are missed.

    >>> boats, names = Grouping(np.array([0, 0, 0, 1, 1, 1]), 2), np.array([3, 4, 4, 5, 5, 6])
    >>> breaks_in_few(boats, names, 2), breaks_in_few(boats, names, 1), breaks_in_few(boats, boats.codes, 1)
    (True, False, False)
    """
    for some in (slice(FIRST_FEW), slice(None)) if len(codes) > FIRST_FEW else (slice(None),):  # the first settle most
        groups, said = _where_filled(group.codes[some], codes[some])
        last = said != _ends(groups, said, group.size)
        if not last.any():
            continue
        first = said != _ends(groups[::-1], said[::-1], group.size)[::-1]
        differ = (np.bincount(groups[odd], minlength=group.size) for odd in (first, last))
        if np.minimum(*differ).sum() > most:
            return False
    return bool(last.any())


def _ends(groups: Codes, said: Codes, size: int) -> Codes:
    """For each row what the last row of its group says."""
    ends = np.empty(size, dtype=np.int32)
    ends[groups] = said
    return ends[groups]


def not_last(group: Grouping, codes: Codes) -> int:
    """How many rows say something else than the last of their group: 0 if and only if it decides them."""
    return _not_last(*_where_filled(group.codes, codes), group.size)


def _not_last(groups: Codes, said: Codes, size: int) -> int:
    """The same of rows that are filled, in groups below that size."""
    return int(np.count_nonzero(said != _ends(groups, said, size)))


def _not_most(groups: Codes, said: Codes, texts: int) -> int:
    """How many rows say something else than the most of their group."""
    pairs = groups.astype(np.int64) * texts + said
    pairs.sort()
    starts = np.flatnonzero(np.concatenate([[True], pairs[1:] != pairs[:-1]]))
    counts = np.diff(starts, append=len(pairs))
    owners = pairs[starts] // texts
    firsts = np.flatnonzero(np.concatenate([[True], owners[1:] != owners[:-1]]))
    return len(pairs) - int(np.maximum.reduceat(counts, firsts).sum())


def _where_filled(groups: Codes, said: Codes) -> tuple[Codes, Codes]:
    """Both in the rows of which both is known."""
    both = (groups != EMPTY) & (said != EMPTY)
    return (groups, said) if both.all() else (groups[both], said[both])


def filled(group: Grouping, codes: Codes) -> npt.NDArray[np.intp]:
    """The rows of which both is known."""
    return np.flatnonzero((codes != EMPTY) & (group.codes != EMPTY))
