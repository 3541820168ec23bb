"""The header row gives the columns their names; what stands above it is a title and set aside.

    A                     B               Job     Boat
    Jobs of the yard                      17      Kittiwake
    Job                   Boat       →
    17                    Kittiwake

The header is the first row that names about as many columns as the rows below it fill, all with words. Two rows are one
header where the upper spans the lower (``Owner`` over ``Name`` and ``Phone``): the names are joined. A name must be
there once and not be empty, so an empty one becomes its letters (``Column D``) and the second ``Boat`` becomes
``Boat (2)``. Columns with neither header nor content are set aside.
"""

from __future__ import annotations

import re
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.model.grid import column_letters
from hemplit.core.model.relation import Step
from hemplit.core.shape.looks import DEEPEST, header_row, is_date, is_number, is_word
from hemplit.core.shape.working import ASIDE, CARRIED, Working, keep_columns, keep_rows

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

ACT = "take names from the header"
SETTINGS = {"rows": "rows"}


def find(working: Working) -> Iterator[Step]:
    """The step, naming the one or two rows of the header; nothing for a sheet without rows."""
    top = [working.row_texts(row) for row in range(min(working.row_count, DEEPEST))]
    if not top:
        return
    row = header_row(top) or 0
    rows = _with_its_partner(working, top, row)
    names = _joined(working, rows, top)
    filled = [name for name, column in zip(names, working.columns, strict=True) if name or column.filled.any()]
    doubts = [
        f"{count} {what}"
        for count, what in (
            (filled.count(""), "without a name"),
            (len(filled) - len(set(filled)) - max(filled.count("") - 1, 0), "named like another column"),
        )
        if count
    ]
    what = "two rows that name the columns" if len(rows) > 1 else "the first row that names the columns"
    if rows[0]:
        what += f"; {rows[0]} above it set aside"
    why = what + (f"; {', '.join(doubts)}" if doubts else "")
    yield Step(ACT, (("rows", tuple(int(working.grid_rows[row]) + 1 for row in rows)),), why)


def _with_its_partner(working: Working, top: Sequence[Sequence[str]], row: int) -> tuple[int, ...]:
    """The row, or the two rows that make up the header together."""
    if row and _spans(working, top, row - 1, row):
        return (row - 1, row)
    if row + 2 < len(top) and _spans(working, top, row, row + 1):
        return (row, row + 1)
    return (row,)


def _spans(working: Working, top: Sequence[Sequence[str]], upper: int, lower: int) -> bool:
    """Whether the upper row names groups of columns that the lower one names singly."""
    above, below = ([text.strip() for text in top[row]] for row in (upper, lower))
    if not all(is_word(text) for text in (*above, *below) if text) or not any(below):
        return False
    if int(working.grid_rows[lower]) != int(working.grid_rows[upper]) + 1:
        return False
    rows = {int(working.grid_rows[upper])}
    merged = [one for one in working.merged if one.top in rows and one.right > one.left]
    width = sum(bool(text) for text in below)
    if any(one.right - one.left + 1 < width for one in merged):
        return True
    spanned = [bool(two) and not one for one, two in zip(above, below, strict=True)]
    named = [one for one in above if one]
    if len(named) < 2 or not any(spanned):
        return False
    if lower + 1 >= len(top) or not above[next(i for i, two in enumerate(below) if two)]:
        return False
    # Where no merged ranges tell, the lower row must be unlike the rows below it, or its names say the same twice.
    twice = len({two for two in below if two}) < width
    inner = [index for index, two in enumerate(below) if two]
    unlike = any(is_number(top[lower + 1][index]) or is_date(top[lower + 1][index]) for index in inner)
    complete = all(one or two for one, two in zip(above, below, strict=True))
    return twice or (unlike and complete and not all(below))


def _joined(working: Working, rows: Sequence[int], top: Sequence[Sequence[str]]) -> list[str]:
    if len(rows) == 1:
        return [_tidy(text) for text in top[rows[0]]]
    above, below = ([_tidy(text) for text in top[row]] for row in rows)
    upper_row = int(working.grid_rows[rows[0]])
    reach = {}
    for one in working.merged:
        if one.top == upper_row:
            reach.update(dict.fromkeys(range(one.left, one.right + 1), one.left))
    names, last = [], ""
    for index, column in enumerate(working.columns):
        spread = above[index] or (last if column.position in reach or not working.merged else "")
        last = above[index] or spread
        names.append(" ".join(part for part in (spread if below[index] else above[index], below[index]) if part))
    return names


def _tidy(text: str) -> str:
    """A header without line breaks, doubled and outer blanks."""
    return re.sub(r"[\s\u00a0\u200b\ufeff]+", " ", text).strip()


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet below the header, its columns named."""
    numbers = [row - 1 for row in step.numbers("rows")]
    indices = np.flatnonzero(np.isin(working.grid_rows, numbers)).tolist()
    if not indices:
        return working
    upto = [working.row_texts(row) for row in range(indices[-1] + 1)]
    headers = _joined(working, indices, upto)
    titles = np.arange(working.row_count) < indices[0]
    above = f"above the header: {working.rows_said(working.grid_rows[titles])}"
    below = keep_rows(working, ~titles, ASIDE, above)
    below = keep_rows(below, below.grid_rows > numbers[-1], CARRIED, "header")
    kept = [column for header, column in zip(headers, below.columns, strict=True) if header or column.filled.any()]
    known = {column.position: header for header, column in zip(headers, below.columns, strict=True)}
    named = keep_columns(below, kept, ASIDE, "columns with neither header nor content")
    names = unique([known[column.position] or f"Column {column_letters(column.position)}" for column in kept])
    return replace(named, columns=tuple(replace(column, name=name) for name, column in zip(names, kept, strict=True)))


def unique(names: Sequence[str]) -> list[str]:
    """The names, a number behind those that are there already.

    >>> unique(["Boat", "Berth", "Boat"])
    ['Boat', 'Berth', 'Boat (2)']
    """
    taken: set[str] = set()
    given = []
    for name in names:
        candidate, count = name, 1
        while candidate in taken or (count > 1 and candidate in names):
            count += 1
            candidate = f"{name} ({count})"
        taken.add(candidate)
        given.append(candidate)
    return given
