"""Lines of totals and subtotals are set aside: they are computed from the other rows, and would be counted twice.

A line is one if a cell says so (``Total``) and the rest of it is blank or numbers, or if it has no words at all and
each of its numbers is the sum of those above it.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.model.relation import Step
from hemplit.core.shape.looks import is_number, is_total, is_word, number
from hemplit.core.shape.working import Working, occupied, set_aside_rows

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.shape.working import WorkingColumn

ACT = "set aside totals"
SETTINGS = {"rows": "rows"}
#: A line of totals fills at most this share of the columns; the last lines are looked at whatever they fill.
FILLED = 0.75
LAST = 3
#: A sum agrees if it is within rounding.
TOLERANCE = 0.011


def find(working: Working) -> Iterator[Step]:
    """The step if there are such lines, saying which sums agree."""
    if working.row_count < 3:
        return
    sparse = occupied(working) <= FILLED * len(working.columns)
    sparse[-LAST:] = True
    rows = np.flatnonzero(sparse)
    labelled = _labelled(working, rows)
    found: list[int] = []
    agreeing: set[str] = set()
    for row in sorted({*labelled, *rows[-LAST:].tolist()}):
        sums = _agreeing(working, row, found) if row >= working.row_count - LAST or len(labelled) < 50 else set()
        if (row in labelled and (_is_sparse(working, row) or sums)) or (sums and not _has_words(working, row)):
            found.append(row)
            agreeing |= sums
    if found and len(found) < working.row_count / 2:
        names = ", ".join(f"'{column.name}'" for column in working.columns if column.name in agreeing)
        why = f"the sum of {names} agrees" if names else f"'{labelled[found[0]]}'"
        yield Step(ACT, (("rows", tuple(int(working.grid_rows[row]) + 1 for row in found)),), why)


def _labelled(working: Working, rows: np.ndarray) -> dict[int, str]:
    """Which of the rows say that they are totals, with the text."""
    found: dict[int, str] = {}
    for column in working.columns:
        codes = column.cells.codes[rows]
        for code in np.unique(codes[codes >= 0]).tolist():
            text = str(column.cells.texts[code].as_py())
            if is_total(text):
                found.update(dict.fromkeys(rows[codes == code].tolist(), text))
    return found


def _has_words(working: Working, row: int) -> bool:
    return any(is_word(text) for text in working.row_texts(row))


def _is_sparse(working: Working, row: int) -> bool:
    """Whether, beside the label and at most one more word, the line has nothing but numbers, and blanks."""
    texts = [text for text in working.row_texts(row) if text.strip()]
    words = [text for text in texts if not is_number(text) and not is_total(text)]
    return len(words) <= 1 and len(texts) <= FILLED * len(working.columns)


def _agreeing(working: Working, row: int, totals: list[int]) -> set[str]:
    """The columns whose number in the row is the sum of the rows above, or of those since the line of totals before."""
    agreeing = set()
    for column in working.columns:
        text = working.text(row, column)
        if not is_number(text):
            continue
        wanted = number(text)
        values = _numbers(column)[:row]
        values[totals] = 0
        since = totals[-1] + 1 if totals else 0
        sums = (np.nansum(values), np.nansum(values[since:]))
        enough = np.count_nonzero(~np.isnan(values[since:])) > 1
        if not enough or not any(math.isclose(wanted, one, abs_tol=TOLERANCE) for one in sums):
            return set()
        agreeing.add(column.name)
    return agreeing


def _numbers(column: WorkingColumn) -> np.ndarray:
    texts = [str(text) for text in column.cells.texts.to_pylist()]
    values = np.array([number(text) if is_number(text) else np.nan for text in texts] + [np.nan])
    return values[column.cells.codes]


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet without the rows named in the step."""
    return set_aside_rows(working, step.numbers("rows"), ACT)
