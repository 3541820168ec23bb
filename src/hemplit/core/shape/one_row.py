"""One row that a person wants left out, named by its number and by what stands in it: both must still be true.

    { do = "skip this row", row = 17, says = ["Teal", "trial only"] }

It is never found, only written by hand; in several files that are read as one sheet, ``file`` names the file.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.model.acts import Act
from hemplit.core.shape.working import Working, set_aside_rows
from hemplit.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.model.relation import Step

ACT = Act.ONE_ROW
SETTINGS = {"row": "number", "says": "texts", "file": "text?"}


def find(working: Working) -> Iterator[Step]:
    """Nothing: only a person knows such a row."""
    return iter(())


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet without the row. Raises ``InputError`` if something else stands there now."""
    wanted = step.number("row")
    file = step.text("file")
    said = f"{file} row {wanted}" if file else f"row {wanted}"
    rows = [place for place, row in enumerate(working.grid_rows.tolist()) if _is_meant(working, row, wanted, file)]
    there = working.row_texts(rows[0]) if rows else []
    if not rows or not set(step.texts("says")) <= set(there):
        now = ", ".join(text for text in there[:4] if text) or "nothing"
        raise InputError(
            working.source.title,
            f"{said} says {now}, and the step that sets it aside was written for {', '.join(step.texts('says'))}",
            "correct the step, or delete it",
        )
    return set_aside_rows(working, np.isin(np.arange(working.row_count), rows), ACT)


def _is_meant(working: Working, row: int, wanted: int, file: str) -> bool:
    name, within = working.source.row(row)
    return within + 1 == wanted and (not file or name.strip() == file)
