"""Rows that head those below them, up to the next such row, become a column: the dock of the berths that follow.

    Berth        Boat   Length          Berth   Boat   Length   Dock
    North Dock                          A1      Teal   8.2      North Dock
    A1           Teal   8.2        →    A2      Smew   9.1      North Dock
    A2           Smew   9.1             B1      Knot   7.4      South Dock
    South Dock
    B1           Knot   7.4

They hold one cell, in the first column, where the other rows hold several. Where that column is blank in all others, it
is filled; else the headings must be words where the others are codes or numbers. A name among names may be a row of
which the rest is not known yet, so that they are headings is only proposed.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.columns.codes import distinct, first_rows
from hemplit.core.model.account import Fate
from hemplit.core.model.acts import Act
from hemplit.core.model.arrays import of
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import Step
from hemplit.core.shape.looks import is_word
from hemplit.core.shape.names import name_of_headings
from hemplit.core.shape.working import (
    Working,
    WorkingColumn,
    compact,
    files_of,
    keep_rows,
    last_above,
    mark,
    occupied,
    with_column,
    with_further,
)
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.shape.working import Flags

ACT = Act.SECTIONS
SETTINGS = {"column": "text", "name": "text"}
#: One heading heads all rows, as a title does, and on two columns a row with one cell may lack the other.
FEWEST, FEWEST_COLUMNS = 2, 3
DIGIT = r"\d"


def find(working: Working) -> Iterator[Step]:
    """The step, if all rows that hold but one cell are headings."""
    top = working.first_texts(1)
    if len(working.in_cells.columns) < FEWEST_COLUMNS or not top or not top[0][0] or any(top[0][1:]):
        return
    first = working.columns[0]
    headings = _headings(working, first)
    rows = np.flatnonzero(headings)
    files = files_of(working)
    if len(rows) < FEWEST or not headings[first_rows(files)].all() or headings[-1] or (np.diff(rows) == 1).any():
        return
    if (occupied(working.in_cells)[~headings] < FEWEST).any() or 2 * len(rows) > working.row_count:
        return
    texts = first.cells.texts.take(of(first.cells.codes[rows])).to_pylist()
    others = first.filled & ~headings
    each = {*zip(files.codes[rows].tolist(), texts, strict=True)}
    if len(each) < len(texts) or not all(map(is_word, texts)):
        return
    alone = not others.any()
    listed = first.cells.texts.take(of(distinct(first.cells.codes[others])))
    coded = pc.all(pc.match_substring_regex(listed, DIGIT)).as_py()
    unlike = alone or (coded and not pc.any(pc.match_substring_regex(pa.array(texts), DIGIT)).as_py())
    name = first.name if alone else name_of_headings(texts, [column.name for column in working.columns])
    yield Step(
        ACT,
        (("column", first.name), ("name", name)),
        f"{len(rows):,} rows head those below them: {', '.join(texts[:FEWEST])}",
        proposed=not unlike,
    )


def _headings(working: Working, first: WorkingColumn) -> Flags:
    """The rows that hold a cell in this column and no other, shape (rows,)."""
    return first.filled & (occupied(working.in_cells) == 1)


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet without the headings, and what they say in each row below them."""
    first = working.named(step.text("column"))
    if first is None:
        return working
    headings = _headings(working, first)
    above = last_above(headings, files_of(working).codes)[~headings]
    cells = compact(np.where(above < 0, np.int32(EMPTY), first.cells.codes[above]), first.cells.texts)
    below = keep_rows(working, ~headings, Fate.STORED, f"headings, in '{step.text('name')}'")
    own = below.named(step.text("name"))
    if own is None:
        return with_further(below, step.text("name"), cells)
    return with_column(below, own, replace(own, cells=cells, changed=mark(own, cells.filled, number)))
