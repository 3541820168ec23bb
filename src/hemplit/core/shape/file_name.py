"""Where several files are read as one sheet, what varies in their names becomes a column: the month, the place.

``2026-04 North Dock.csv`` and ``2026-05 West Dock.csv`` give ``Month`` 2026-04 and ``Dock`` North. Where neither a
month nor a common word names it, the column is called for what it is, a part of the file name.

The month in the name of a single file is only proposed as a column: it may be the month of which all rows tell, or that
in which the list was saved.
"""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa

from hemplit.core.model.acts import Act
from hemplit.core.model.grid import GridColumn
from hemplit.core.model.relation import Step
from hemplit.core.shape.deciding import tells_when
from hemplit.core.shape.names import name_parts, stem_of_file, stretch_of
from hemplit.core.shape.working import Working, files_of, with_further
from hemplit.core.texts.moments import is_called_period
from hemplit.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from hemplit.core.model.relation import Setting

ACT = Act.FILE_NAME
SETTINGS = {"part": "number", "name": "text", "parts": "number?", "without": "texts?"}


def find(working: Working) -> Iterator[Step]:
    """A step for each part of the file names that varies; the parts are counted from 1."""
    whole = [name_parts(path) for path, _ in working.source.parts]
    if len(whole) < 2:
        yield from _of_one(working)
        return
    width = len(whole[0])
    taken = {column.name for column in working.columns}
    if any(len(parts) != width for parts in whole):
        if _is_told(working, [stem_of_file(path) for path, _ in working.source.parts]):
            return
        yield Step(ACT, (("part", 0), ("name", _free("File", taken))), "the file names have nothing in common")
        return
    for place in range(width):
        texts = [parts[place] for parts in whole]
        without = _common_words(texts)
        values = [_without(text, without) for text in texts]
        if len(set(values)) > 1 and (stretch_of(values) or not _is_told(working, values)):
            name = _free(_name(set(values), set(texts)), taken)
            taken.add(name)
            settings: tuple[tuple[str, Setting], ...] = (("part", place + 1), ("name", name), ("parts", width))
            more = (("without", without),) if without else ()
            yield Step(ACT, (*settings, *more), ", ".join(sorted(set(values))[:4]))


def _is_told(working: Working, values: Sequence[str]) -> bool:
    """Whether labels above the rows of each file tell the files apart as these values do."""
    file = files_of(working).codes
    for column in working.columns:
        if not column.own and column.filled.all():
            pairs = {*zip(file.tolist(), column.cells.codes.tolist(), strict=True)}
            told = {(code, values[of]) for of, code in pairs}
            if len({of for of, _ in pairs}) == len(pairs) and len(told) == len({*values}) == len(column.cells.texts):
                return True
    return False


def _of_one(working: Working) -> Iterator[Step]:
    """The period in the name of the only file, where no column says when anything was."""
    if any(map(tells_when, working.columns)):
        return
    parts = name_parts(working.source.path)
    for place, text in enumerate(parts, 1):
        name = stretch_of([text])
        if is_called_period(name):
            settings = (("part", place), ("name", name), ("parts", len(parts)))
            why = f"'{text}': rows of the next file would be of another {name.lower()}"
            yield Step(ACT, settings, why, proposed=True)


def _common_words(texts: Sequence[str]) -> tuple[str, ...]:
    """The words with which all texts begin or end, beside others.

    >>> _common_words(["North Dock", "West Dock"])
    ('Dock',)
    """
    split = [text.split(" ") for text in texts]
    words = []
    for end in (0, -1):
        while all(len(one) > 1 for one in split) and len({one[end] for one in split}) == 1:
            words.append(split[0][end])
            split = [one[1:] if end == 0 else one[:-1] for one in split]
    return tuple(words)


def _without(text: str, words: Sequence[str]) -> str:
    """The text without words with which it begins or ends, if it has others.

    >>> _without("North Dock", ["Dock"]), _without("Dock", ["Dock"])
    ('North', 'Dock')
    """
    left = text.split(" ")
    for end in (0, -1):
        while len(left) > 1 and left[end] in words:
            left.pop(end)
    return " ".join(left)


def _name(values: set[str], whole: set[str]) -> str:
    period = stretch_of(values)
    if period:
        return period
    last = Counter(words[-1] for words in (text.split(" ") for text in whole) if len(words) > 1)
    word, times = last.most_common(1)[0] if last else ("", 0)
    return word.capitalize() if 2 * times > len(whole) and times > 1 else "Part of File Name"


def _free(name: str, taken: set[str]) -> str:
    return name if name not in taken else f"{name} of File"


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet with a column that says, for each row, that part of the name of its file.

    Raises ``InputError`` for a file whose name is made otherwise than those for which the step was written.
    """
    parts = working.source.parts or ((_name_of_one(working, step), 0),)
    values = [_value(path, step) for path, _ in parts]
    distinct = list(dict.fromkeys(values))
    codes = np.array([distinct.index(value) for value in values], dtype=np.int32)[files_of(working).codes]
    return with_further(working, step.text("name"), GridColumn(codes, pa.array(distinct, pa.string())))


def _name_of_one(working: Working, step: Step) -> str:
    """The name of the only worksheet, if that is named for such a period as the step adds, or else of its file."""
    sheet = working.source.sheet or ""
    named = sheet and step.text("name") == stretch_of(name_parts(sheet)[step.number("part") - 1 :][:1])
    return sheet if named and len(name_parts(sheet)) == step.number("parts", 1) else working.source.path


def _value(path: str, step: Step) -> str:
    place, width = step.number("part"), step.number("parts")
    parts = name_parts(path)
    if not place:
        return stem_of_file(path)
    if place > len(parts) or (width and len(parts) != width):
        raise InputError(
            path,
            f"'{step.text('name')}' is part {place} of {width} of a name; this has {len(parts)}: {', '.join(parts)}",
            "name it like the other files, or draft the design again",
        )
    return _without(parts[place - 1], step.texts("without"))
