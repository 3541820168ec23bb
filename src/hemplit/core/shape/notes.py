"""What is written below a table (notes, sources, the name of who printed it) is no row of it and is set aside.

A line at the end is a note if only its first cell is filled and a blank row parts it from the table, or it begins as
notes begin, or it is a sentence.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.model.acts import Act
from hemplit.core.model.relation import Step
from hemplit.core.shape.looks import is_total, is_word
from hemplit.core.shape.working import Working, occupied, set_aside_rows

if TYPE_CHECKING:
    from collections.abc import Iterator

ACT = Act.NOTES
SETTINGS = {"seen": "number?", "each_file": "number?", "keep": "flag?"}
NOTE = re.compile(
    r"\*|\(|†|(foot)?notes?\b|n\.?b\.?\b|sources?\b|printed|created|generated|exported|prepared|updated|page \d|legend"
    r"|end of|as of|all (amounts|figures|prices|weights)|hinweise?\b|quelle|stand:|gedruckt|seite \d|nota\b|fuente"
    r"|imprim|remarques?\b",
    re.IGNORECASE,
)
#: So many words in a row make a sentence.
SENTENCE = 5
#: So many lines of notes there are at most.
MOST = 12


def find(working: Working) -> Iterator[Step]:
    """The step if there are such lines."""
    notes = _rows(working)
    if notes:
        first = next(text for text in working.row_texts(notes[-1]) if text)
        why = f"'{first[:40]}'" + (f" and {len(notes) - 1} more" if len(notes) > 1 else "")
        yield Step(ACT, (("seen", len(notes)),), f"{working.rows_said(working.grid_rows[notes[::-1]])}: {why}")


def _rows(working: Working) -> list[int]:
    """The lines of notes, the last first."""
    working = working.in_cells
    if len(working.columns) < 3 or working.row_count < 3:
        return []
    filled = occupied(working)
    last = working.row_count
    notes: list[int] = []
    for row in range(last - 1, max(last - 1 - MOST, 0), -1):
        if not _could_be(working, row, int(filled[row])):
            break
        notes.append(row)
    while notes and not _is_note(working, notes):
        notes.pop()
    return notes


def _could_be(working: Working, row: int, filled: int) -> bool:
    texts = [text for text in working.row_texts(row) if text]
    if filled > max(1, len(working.columns) // 4) or not texts:
        return False
    return is_word(texts[0]) and not is_total(texts[0])


def _is_note(working: Working, notes: list[int]) -> bool:
    """Whether the uppermost of these rows, and so all of them, are parted from the table or speak as notes do."""
    row = notes[-1]
    text = next(text for text in working.row_texts(row) if text).strip()
    parted = int(working.grid_rows[row]) > int(working.grid_rows[row - 1]) + 1
    first_cell = bool(working.text(row, working.columns[0]))
    return parted or NOTE.match(text) is not None or (first_cell and len(text.split()) >= SENTENCE)


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet without these lines."""
    if step.flag("keep"):
        return working
    return set_aside_rows(working, np.isin(np.arange(working.row_count), _rows(working)), ACT)
