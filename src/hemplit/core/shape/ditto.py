"""Marks that say "as above" become what stands above.

    Berth   Owner             Berth   Owner
    A1      Elske Visser      A1      Elske Visser
    A2      "            →    A2      Elske Visser
    A3      do.               A3      Elske Visser

A mark below a blank cell, or in the first row, says nothing and stays. So does a word that hardly stands in a long
column: a boat can be called Ditto.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import Doubt, Step
from hemplit.core.shape.working import Working, compact, first_places, mark, with_column
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.model.grid import Codes
    from hemplit.core.shape.working import WorkingColumn

ACT = Act.DITTO
SETTINGS = {"column": "column", "texts": "texts"}
#: Nothing else is written so.
MARKS = ('"', "''", '""', "″", "〃", "„", "“", "”", '-"-', '- " -', "-''-", "do.", "ditto", "dto.", "as above")
#: Whoever writes the word writes it often: one word in so many cells can be a value (a film has this title).
CELLS_FOR_A_WORD = 100


def find(working: Working) -> Iterator[Step | Doubt]:
    """A step for each column with such marks."""
    for column in working.columns:
        texts, counts = column.cells.texts, column.cells.counts
        hits = pc.is_in(pc.utf8_lower(texts), pa.array(MARKS, pa.string()))
        marks = tuple(str(text) for text in texts.filter(hits).to_pylist())
        if not marks or len(marks) == len(texts):
            continue
        hit = np.flatnonzero(hits)
        times = int(counts[hit].sum())
        if times * CELLS_FOR_A_WORD < counts.sum() and all(any(map(str.isalpha, text)) for text in marks):
            what = f"'{column.name}' says '{marks[0]}', which may be a value or mean what stands above"
            yield Doubt(what, working.places(column, first_places(column)[hit]), "left as it is", times)
            continue
        meant = np.flatnonzero(_as_above(column, marks) != column.cells.codes)
        if len(meant):
            places = ", ".join(working.address(int(row), column) for row in meant[:2])
            yield Step(ACT, (("column", column.name), ("texts", marks)), f"{len(meant):,} cells, {places}")


def _as_above(column: WorkingColumn, marks: tuple[str, ...]) -> Codes:
    """The codes of a column with those above in the place of marks; a mark below a blank stays."""
    codes = column.cells.codes
    is_mark = np.append(
        pc.is_in(column.cells.texts, pa.array(marks, pa.string())).to_numpy(zero_copy_only=False), False
    )[codes]
    source = np.maximum.accumulate(np.where(is_mark, 0, np.arange(len(codes))))
    above = codes[source]
    return np.where(is_mark & (above != EMPTY), above, codes).astype(np.int32)


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet with what stands above in the place of the marks."""
    column = working.named(step.text("column"))
    if column is None:
        return working
    codes = _as_above(column, step.texts("texts"))
    changed = mark(column, codes != column.cells.codes, number)
    return with_column(working, column, replace(column, cells=compact(codes, column.cells.texts), changed=changed))
