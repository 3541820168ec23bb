"""The header row gives the columns their names: the first row of the sheet that has content.

    A       B               Job     Boat
    Job     Boat       →    17      Kittiwake
    17      Kittiwake

A header must be there once and not be empty, so an empty one is named for its letters (``Column D``) and the second
``Boat`` becomes ``Boat (2)``. Columns with neither header nor content are set aside.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from hemplit.core.model.grid import EMPTY, column_letters
from hemplit.core.model.relation import Step
from hemplit.core.shape.working import Working, keep_rows

ACT = "take names from the header row"
SETTINGS = ("row",)


def find(working: Working) -> Step | None:
    """The step, naming the first row that is left; None for a sheet without rows."""
    if not len(working.grid_rows):
        return None
    row = int(working.grid_rows[0]) + 1
    headers = [header for column in working.columns if (header := working.text(0, column).strip())]
    doubts = [
        f"{count} {what}"
        for count, what in (
            (len(working.columns) - len(headers), "without a name"),
            (len(headers) - len(set(headers)), "named like another column"),
        )
        if count
    ]
    return Step(ACT, (("row", row),), "the first row with content" + (f"; {', '.join(doubts)}" if doubts else ""))


def act(working: Working, step: Step) -> Working:
    """The sheet below the header row, its columns named."""
    row = step.setting("row")
    index = int(np.flatnonzero(working.grid_rows == int(str(row)) - 1)[0])
    headers = [working.text(index, column) for column in working.columns]
    below = keep_rows(working, working.grid_rows > working.grid_rows[index])
    kept = [
        (header, column)
        for header, column in zip(headers, below.columns, strict=True)
        if header.strip() or (column.cells.codes != EMPTY).any()
    ]
    names = _unique([header or f"Column {column_letters(column.position)}" for header, column in kept])
    columns = tuple(replace(column, name=name) for name, (_, column) in zip(names, kept, strict=True))
    return replace(below, columns=columns)


def _unique(names: list[str]) -> list[str]:
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
