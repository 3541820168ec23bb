"""Where several files are read as one sheet, what varies in their names becomes a column: the month, the place.

``2026-04 North Dock.csv`` and ``2026-05 West Dock.csv`` give ``Month`` 2026-04 and ``Dock`` North. Where neither a
month nor a common word names it, the column is called for what it is, a part of the file name.
"""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa

from hemplit.core.model.grid import GridColumn, base_name
from hemplit.core.model.relation import Step
from hemplit.core.shape.looks import MONTHS
from hemplit.core.shape.working import Working, WorkingColumn

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

ACT = "take from the file name"
SETTINGS = {"part": "number", "name": "text"}
#: A date with its month, words with blanks between them, or a number.
PARTS = re.compile(r"\d{4}[-_.]\d{1,2}(?:[-_.]\d{1,2})?(?!\d)|[^\W\d_]+(?:[ '][^\W\d_]+)*|\d+")


def find(working: Working) -> Iterator[Step]:
    """A step for each part of the file names that varies; the parts are counted from 1."""
    rows = _all_parts([path for path, _ in working.source.parts])
    if len(rows) < 2:
        return
    width = len(rows[0])
    whole = [_parts(path) for path, _ in working.source.parts]
    taken = {column.name for column in working.columns}
    if any(len(parts) != width for parts in rows):
        yield Step(ACT, (("part", 0), ("name", _free("File", taken))), "the file names have nothing in common")
        return
    for place in range(width):
        values = {parts[place] for parts in rows}
        if len(values) > 1:
            name = _free(_name(values, {parts[place] for parts in whole}), taken)
            taken.add(name)
            yield Step(ACT, (("part", place + 1), ("name", name)), ", ".join(sorted(values)[:4]))


def _parts(path: str) -> list[str]:
    return PARTS.findall(base_name(path).rsplit(".", 1)[0])


def _all_parts(paths: Sequence[str]) -> list[list[str]]:
    """The parts of each name, without the words that a part begins or ends with in all of them."""
    rows = [_parts(path) for path in paths]
    if any(len(parts) != len(rows[0]) for parts in rows):
        return rows
    for place in range(len(rows[0]) if rows else 0):
        split = [parts[place].split(" ") for parts in rows]
        for end in (0, -1):
            while all(len(one) > 1 for one in split) and len({one[end] for one in split}) == 1:
                for one in split:
                    one.pop(end)
        for parts, one in zip(rows, split, strict=True):
            parts[place] = " ".join(one)
    return rows


def _name(values: set[str], whole: set[str]) -> str:
    if all(re.fullmatch(r"(?:19|20)\d{2}", value) for value in values):
        return "Year"
    if all(re.fullmatch(r"\d{4}[-_.]\d{1,2}", value) or value.lower() in MONTHS for value in values):
        return "Month"
    if all(re.fullmatch(r"\d{4}[-_.]\d{1,2}[-_.]\d{1,2}", value) for value in values):
        return "Day"
    if all(re.fullmatch(r"(?:w|kw|week)\d{1,2}", value.lower()) for value in values):
        return "Week"
    last = Counter(words[-1] for words in (text.split(" ") for text in whole) if len(words) > 1)
    word, times = last.most_common(1)[0] if last else ("", 0)
    return word.capitalize() if 2 * times > len(whole) and times > 1 else "Part of File Name"


def _free(name: str, taken: set[str]) -> str:
    return name if name not in taken else f"{name} of File"


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet with a column that says, for each row, that part of the name of its file."""
    part = step.numbers("part")[0]
    paths = [path for path, _ in working.source.parts]
    starts = np.array([start for _, start in working.source.parts] or [0])
    rows = _all_parts(paths)
    values = [
        parts[part - 1] if 0 < part <= len(parts) else base_name(path).rsplit(".", 1)[0]
        for path, parts in zip(paths, rows, strict=True)
    ]
    return replace(working, columns=(*working.columns, _column(working, step.text("name"), starts, values or [""])))


def _column(working: Working, name: str, starts: np.ndarray, values: Sequence[str]) -> WorkingColumn:
    distinct = list(dict.fromkeys(values))
    codes = np.array([distinct.index(value) for value in values], dtype=np.int32)
    file = np.searchsorted(starts, working.grid_rows, side="right") - 1
    position = max((column.position for column in working.columns), default=-1) + 1
    return WorkingColumn(position, name, GridColumn(codes[file], pa.array(distinct, pa.string())), own=False)
