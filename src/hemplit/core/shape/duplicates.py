"""Rows that repeat an earlier row in every cell, where that doubles a key of the sheet, are set aside.

A block that was pasted twice doubles the numbers of its jobs, and no job happens twice. Where nothing numbers the rows,
two equal rows may be two equal events, and both stay; so do they where all columns hold numbers, as of measurements.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import doubled, with_blank
from hemplit.core.model.acts import Act
from hemplit.core.model.relation import Step
from hemplit.core.shape.deciding import tells_when
from hemplit.core.shape.looks import all_but, is_number
from hemplit.core.shape.names import period_in
from hemplit.core.shape.working import Working, files_of, set_aside_rows, tell_apart
from hemplit.core.texts.words import is_identifier, is_measure, numbers_lines, words

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.shape.working import Flags, WorkingColumn

ACT = Act.DUPLICATES
SETTINGS = {"key": "columns", "seen": "number?", "each_file": "number?", "keep": "flag?"}
#: A key without a word for it stands in one of the first columns and holds digits.
FIRST_COLUMNS = 2
#: So many distinct texts tell what a column holds.
LOOKED_AT = 50


def find(working: Working) -> Iterator[Step]:
    """The step if there are such rows, and a key that they double."""
    again = _again(working)
    if not again.any():
        return
    key = _key(working, ~again)
    if key:
        rows = working.grid_rows[again]
        why = f"{working.rows_said(rows)}; delete this line if they are events"
        yield Step(ACT, (("key", key), ("seen", len(rows))), why)


def _again(working: Working) -> Flags:
    """The rows that repeat an earlier one in every cell, shape (rows,); what months say alike is said of each."""
    columns = [with_blank(column.cells.codes, len(column.cells.texts)) for column in working.columns]
    if _are_of_months(working):
        columns.append(files_of(working))
    return doubled(columns, working.row_count)


def _are_of_months(working: Working) -> bool:
    """Whether each file is named for another month, and no column says when anything was."""
    periods = {period_in(path) for path, _ in working.source.parts}
    dated = any(map(tells_when, working.columns))
    return len(periods) == len(working.source.parts) > 1 and "" not in periods and not dated


def _key(working: Working, keep: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> tuple[str, ...]:
    """A column, or one and the number of the line under it, that tells the rows apart once each is there once."""
    said = any(not all_but(0, _probe(column), is_number) for column in working.columns)
    for place, column in enumerate(working.columns):
        if _numbers_things(column, place, said) and _unique((column,), keep):
            return (column.name,)
    for one in working.columns[: 2 * FIRST_COLUMNS]:
        for line in working.columns:
            if line is not one and _numbers_lines(line) and _unique((one, line), keep):
                return (one.name, line.name)
    return ()


def _probe(column: WorkingColumn) -> list[str]:
    return [str(text) for text in column.cells.texts.slice(0, LOOKED_AT).to_pylist()]


def _numbers_things(column: WorkingColumn, place: int, said: bool) -> bool:
    """Whether the column numbers the rows, by its header or by its place; ``said``: they hold more than numbers."""
    if is_identifier(words(column.name)):
        return True
    probe = _probe(column)
    coded = all(any(map(str.isdigit, text)) and any(map(str.isalpha, text)) for text in probe)
    counted = said and place == 0 and all(text.isdigit() for text in probe) and not is_measure(words(column.name))
    return place < FIRST_COLUMNS and bool(probe) and (coded or counted) and " " not in "".join(probe)


def _numbers_lines(column: WorkingColumn) -> bool:
    return numbers_lines(words(column.name)) and all(text.isdigit() for text in _probe(column))


def _unique(columns: tuple[WorkingColumn, ...], keep: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> bool:
    return all(column.filled[keep].all() for column in columns) and tell_apart(columns, keep)


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet without the rows that repeat an earlier one; where their key is blank they may be two, and stay."""
    if step.flag("keep"):
        return working
    again = _again(working)
    for name in step.texts("key"):
        column = working.named(name)
        again &= column is not None and column.filled
    return set_aside_rows(working, again, ACT)
