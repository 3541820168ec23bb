"""Lines of totals and subtotals are set aside: they are computed from the other rows, and would be counted twice.

A line is one if a cell says so (``Total``) and the rest of it is blank or numbers, or if it holds nothing but numbers
that are the sums of those above, and no beginning; beside these it may have one text of its own (``All kilns``).
"""

from __future__ import annotations

import math
import re
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import distinct
from hemplit.core.model.acts import Act
from hemplit.core.model.relation import Step
from hemplit.core.shape.looks import is_number, is_total, number
from hemplit.core.shape.working import Working, occupied, set_aside_rows
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from hemplit.core.model.relation import Setting
    from hemplit.core.shape.working import Flags, WorkingColumn

ACT = Act.TOTALS
SETTINGS = {"labels": "texts?", "seen": "number?", "each_file": "number?", "keep": "flag?"}
#: A line of totals fills at most this share of the columns; the last lines are looked at whatever they fill.
FILLED = 0.75
LAST = 3
#: The sum of fewer lines can be met by accident.
ENOUGH = 4
#: In fewer lines nothing is looked for; a step that is recorded takes a total under one line, too.
FEWEST = 3
#: Lines of totals are fewer than this share of all; where each says what it is, there may be a subtotal, a tax and a
#: total under the one line of a form.
MOST, MOST_OF_LABELLED = 0.5, 0.8
#: So many labels are named in the step; what else says that it is a total is found all the same.
MOST_LABELS = 4
#: A sum agrees if it is within rounding.
TOLERANCE = 0.011
AVERAGE = re.compile("average|avg|mean|durchschnitt|moyenne|media", re.IGNORECASE)


def find(working: Working) -> Iterator[Step]:
    """The step if there are such lines, saying which sums agree."""
    found = _rows(working, ()) if working.row_count >= FEWEST else NONE
    most = MOST if len(found.labels) < len(found.rows) else MOST_OF_LABELLED
    if found.rows and len(found.rows) < most * working.row_count:
        names = ", ".join(f"'{column.name}'" for column in working.columns if column.name in found.agreeing)
        why = working.rows_said(working.grid_rows[found.rows]) + (f"; the sum of {names} agrees" if names else "")
        labels = tuple(dict.fromkeys(found.labels[row] for row in found.rows if row in found.labels))[:MOST_LABELS]
        settings: tuple[tuple[str, Setting], ...] = (("labels", labels),) if labels else ()
        yield Step(ACT, (*settings, ("seen", len(found.rows))), why)


@dataclass(frozen=True)
class Totals:
    """The lines, what those that have a label say, and the columns of which a sum agrees."""

    rows: list[int]
    labels: dict[int, str]
    agreeing: set[str]


NONE = Totals([], {}, set())


def _rows(working: Working, labels: Sequence[str]) -> Totals:
    """The lines of totals; ``labels`` are texts that mean a total here, whatever else they say."""
    working = working.in_cells
    if not working.columns:
        return NONE
    sparse = occupied(working) <= FILLED * len(working.columns)
    sparse[-LAST:] = True
    ends = _ends(working)
    rows = np.flatnonzero(sparse)
    labelled = _labelled(working, rows, {_plain(text) for text in labels if not is_total(text)})
    numbers = _Numbers()
    found: list[int] = []
    agreeing: set[str] = set()
    for row in sorted({*labelled, *rows[-LAST:].tolist()}):
        if row not in labelled and working.columns[0].filled[row] and not _lacks_what_others_have(working, row):
            continue
        sums = _agreeing(working, row, found, numbers)
        at_the_end = ends[row] and _is_sparse(working, row)
        own = _own_label(working, row, sums) if sums and row not in labelled and row > ENOUGH else ""
        if row in labelled:
            is_total_line = bool(sums) or at_the_end or _speaks_of_all(working, row)
        elif own:
            is_total_line = True
            labelled[row] = own
        else:
            begins = working.columns[0].filled[row]
            is_total_line = bool(sums) and not begins and _is_nothing_but(working, row, sums)
        if is_total_line:
            found.append(row)
            agreeing |= sums
    between = [*_between(working, [row for row in found if row in labelled])]
    labelled |= {row: next(filter(None, working.row_texts(row)), "") for row in between}
    found = sorted({*found, *between})
    said = {row: labelled[row] for row in found if row in labelled}
    return Totals(found, said, agreeing) if len(found) < working.row_count else NONE


def _ends(working: Working) -> Flags:
    """The last rows of each form: of the sheet, or before rows that were taken out of it; shape (rows,)."""
    ends = np.zeros(working.row_count, dtype=bool)
    last = np.append(np.diff(working.grid_rows) > 1, True)
    for back in range(LAST):
        ends[: working.row_count - back] |= last[back:]
    return ends


def _between(working: Working, found: Sequence[int]) -> Iterator[int]:
    """The rows between a total and the next, such as a tax, that fill no cells but those which that fills."""
    for one, two in pairwise(found):
        if two - one <= LAST:
            filled = [column for column in working.columns if not column.filled[two]]
            rows = range(one + 1, two)
            yield from (row for row in rows if not any(column.filled[row] for column in filled))


def _plain(label: str) -> str:
    return label.strip().rstrip(":").casefold()


def _labelled(working: Working, rows: np.ndarray, given: set[str]) -> dict[int, str]:
    """Which of the rows say that they are totals, with the text."""
    found: dict[int, str] = {}
    for column in working.columns:
        codes = column.cells.codes[rows]
        for code in distinct(codes[codes >= 0]).tolist():
            text = str(column.cells.texts[code].as_py())
            # A word that other lines have in that column, too, is a value there.
            if (is_total(text) or _plain(text) in given) and column.cells.counts[code] == np.count_nonzero(
                codes == code
            ):
                found.update(dict.fromkeys(rows[codes == code].tolist(), text))
    return found


def _is_nothing_but(working: Working, row: int, sums: set[str]) -> bool:
    """Whether the line has no other cells than those sums."""
    return {column.name for column in working.columns if column.filled[row]} == sums


def _own_label(working: Working, row: int, sums: set[str]) -> str:
    """The one text that a line of sums has beside them, if no other line says it, and what all others have is blank."""
    others = [column for column in working.columns if column.filled[row] and column.name not in sums]
    if len(others) != 1 or is_number(working.text(row, others[0])):
        return ""
    own = int(others[0].cells.counts[others[0].cells.codes[row]]) == 1
    return working.text(row, others[0]) if own and _lacks_what_others_have(working, row) else ""


def _lacks_what_others_have(working: Working, row: int) -> bool:
    """Whether a column is blank there that is filled in nearly all lines."""
    blank = (column for column in working.columns if not column.filled[row])
    return any(np.count_nonzero(~column.filled) <= LAST for column in blank)


def _is_sparse(working: Working, row: int) -> bool:
    """Whether, beside the label and at most one more word, the line has nothing but numbers, and blanks."""
    texts = [text for text in working.row_texts(row) if text.strip()]
    words = [text for text in texts if not is_number(text) and not is_total(text)]
    return len(words) <= 1 and 0 < len(texts) <= FILLED * len(working.columns) and not is_number(texts[0])


def _speaks_of_all(working: Working, row: int) -> bool:
    """Whether the line holds nothing but the label, or an average, which no sum can agree with."""
    texts = [text for text in working.row_texts(row) if text.strip()]
    average = any(AVERAGE.fullmatch(text.strip().rstrip(":")) for text in texts)
    return len(texts) == 1 or (average and _is_sparse(working, row))


def _agreeing(working: Working, row: int, totals: list[int], numbers: _Numbers) -> set[str]:
    """The columns whose number in the row is the sum of the rows above, or of those since the line of totals before.

    Where most numbers of the row agree with nothing, those that do are an accident.
    """
    agreeing = set()
    shown = 0
    for column in working.columns:
        text = working.text(row, column)
        if not is_number(text):
            continue
        shown += 1
        values = numbers.of(column)[:row].copy()
        values[totals] = 0
        since = totals[-1] + 1 if totals else 0
        sums = (np.nansum(values), np.nansum(values[since:]))
        enough = np.count_nonzero(~np.isnan(values[since:])) > 1
        if enough and any(math.isclose(number(text), one, abs_tol=TOLERANCE) for one in sums):
            agreeing.add(column.name)
    return agreeing if 2 * len(agreeing) >= shown else set()


class _Numbers:
    """The columns as numbers, each read once and only if it is asked for."""

    def __init__(self) -> None:
        self._known: dict[int, np.ndarray] = {}

    def of(self, column: WorkingColumn) -> np.ndarray:
        """Shape (rows,), not a number where the cell is none."""
        if column.position not in self._known:
            texts = [str(text) for text in column.cells.texts.to_pylist()]
            values = np.array([number(text) if is_number(text) else np.nan for text in texts] + [np.nan])
            self._known[column.position] = values[column.cells.codes]
        return self._known[column.position]


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet without these lines."""
    if step.flag("keep"):
        return working
    return set_aside_rows(
        working, np.isin(np.arange(working.row_count), _rows(working, step.texts("labels")).rows), ACT
    )
