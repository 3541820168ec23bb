"""The header row gives the columns their names; what stands above it is a title and set aside.

    A                     B               Job     Boat
    Jobs of the yard                      17      Kittiwake
    Job                   Boat       →
    17                    Kittiwake

The header is the first row that names about as many columns as the rows below it fill, all with words. Two rows are one
header where the upper spans the lower (``Owner`` over ``Name`` and ``Phone``, ``2025`` and ``2026`` over ``Fee`` and
``Days`` each): the names are joined. A name must be there once and not be empty, so an empty one becomes its letters
(``Column D``) and the second ``Boat`` becomes ``Boat (2)``. Columns with neither header nor content are set aside.
"""

from __future__ import annotations

import re
from collections import Counter
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.model.account import Fate
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import column_letters
from hemplit.core.model.relation import Doubt, Step
from hemplit.core.shape.looks import is_date, is_number, is_word
from hemplit.core.shape.series import like
from hemplit.core.shape.tops import DEEPEST, are_labels, header_row, tidy
from hemplit.core.shape.working import ABOVE, SHOWN, Working, keep_columns, keep_rows
from hemplit.core.texts.words import words
from hemplit.dataclasses import replace
from hemplit.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Callable, Hashable, Iterator, Sequence

    from hemplit.core.shape.working import WorkingColumn

ACT = Act.HEADER
SETTINGS = {"names": "texts", "lines": "lines?"}
#: At least this share of the names that a step knows must stand in the header of another sheet.
KNOWN = 0.5
#: A unit in a row of its own below the names.
UNIT = re.compile(r"[(\[][^()\[\]]{1,12}[)\]]")
NO_COLUMN = "columns with neither header nor content"


def find(working: Working) -> Iterator[Step | Doubt]:
    """The step, with the names that the one or two rows of the header give; nothing for a sheet without rows."""
    working = _nameless(working)
    top = working.first_texts(DEEPEST)
    if not top or not working.columns:
        return
    row = header_row(top) or 0
    rows = _with_its_partner(working, top, row)
    names = _joined(working, rows, top)
    place = working.rows_said(working.grid_rows[list(rows)])
    columns = _named(working, names, _last_filled(working), rows[-1])
    filled = [name for name, column in zip(names, working.columns, strict=True) if name or column.filled.any()]
    doubts = [
        f"{count} {what}"
        for count, what in (
            (filled.count(""), "without a name"),
            (len(filled) - len(set(filled)) - max(filled.count("") - 1, 0), "named like another column"),
        )
        if count
    ]
    above = f"; {rows[0]} above it skipped" if rows[0] else ""
    why = place + above + (f"; {', '.join(doubts)}" if doubts else "")
    lines = (("lines", len(rows)),) if len(rows) > 1 else ()
    data = [text.strip() for text in top[rows[-1]] if is_number(text) or is_date(text)]
    if data and not are_labels(data):
        yield Doubt(
            f"{place} is taken for the header, and may be a row of data",
            tuple(f"'{text.strip()}'" for text in top[rows[-1]] if text.strip())[:SHOWN],
            "if it is, write a row with the names of the columns above it",
        )
    yield Step(ACT, (("names", tuple(column.name for column in columns)), *lines), why)


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
    together = int(working.grid_rows[lower]) == int(working.grid_rows[upper]) + 1
    if not together or not any(below) or not all(is_word(text) for text in below if text):
        return False
    return _are_units(above, below) or bool(_width(above, below)) or _names_groups(working, top, upper, lower)


def _are_units(above: Sequence[str], below: Sequence[str]) -> bool:
    """Whether the lower row says in brackets in which units some of the columns are.

    >>> _are_units(["Boat", "Length"], ["", "(m)"]), _are_units(["Boat", "Length"], ["Teal", "(m)"])
    (True, False)
    """
    said = [(one, two) for one, two in zip(above, below, strict=True) if two]
    return bool(said) and all(one and UNIT.fullmatch(two) for one, two in said)


def _names_groups(working: Working, top: Sequence[Sequence[str]], upper: int, lower: int) -> bool:
    """Whether the upper row has words over several columns each, by merged cells or by what stands below."""
    above, below = ([text.strip() for text in top[row]] for row in (upper, lower))
    if not all(is_word(text) for text in above if text):
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


def _width(above: Sequence[str], below: Sequence[str]) -> int:
    """How many columns each name of the upper row spans, where the same names stand under all of them; else 0.

    >>> _width(["", "Spring", "", "Autumn", "", ""], ["Boat", "Date", "Fee", "Date", "Fee", "Notes"])
    2
    >>> _width(["Job", "Owner", "", "Boat", ""], ["", "Name", "Phone", "Name", "Length"])
    0
    """
    starts = [index for index, text in enumerate(above) if text]
    if len(starts) < 2 or not all(below):
        return 0
    width = starts[1] - starts[0]
    groups = [below[start : start + width] for start in starts]
    apart = len({*groups[0]}) == width and {*groups[0]}.isdisjoint(below[: starts[0]])
    close = all(two - one == width for one, two in pairwise(starts))
    return width if apart and close and all(group == groups[0] for group in groups) else 0


def _joined(working: Working, rows: Sequence[int], top: Sequence[Sequence[str]]) -> list[str]:
    """What the rows of the header say over each column."""
    if len(rows) == 1:
        return _with_further(working, [tidy(text) for text in top[rows[0]]])
    above, below = ([tidy(text) for text in top[row]] for row in rows)
    upper_row = int(working.grid_rows[rows[0]])
    reach = {}
    for one in working.merged:
        if one.top == upper_row:
            reach.update(dict.fromkeys(range(one.left, one.right + 1), one.left))
    names, last = [], ""
    width = 0 if working.merged else _width(above, below)
    start = 0
    for index, column in enumerate(working.columns):
        start = index if above[index] else start
        within = column.position in reach or not working.merged
        spread = above[index] or (last if within and (not width or index - start < width) else "")
        last = above[index] or spread
        names.append(" ".join(part for part in (spread if below[index] else above[index], below[index]) if part))
    return names


def _with_further(working: Working, names: list[str]) -> list[str]:
    """The names, with those that only the header of a further file has, as that has a column more."""
    for _, start in working.source.parts[1:] if "" in names else ():
        first = int(np.searchsorted(working.grid_rows, start))
        for row in range(first, min(first + DEEPEST, working.row_count)):
            texts = [tidy(text) for text in working.row_texts(row)]
            named = [(name, text) for name, text in zip(names, texts, strict=True) if name]
            if len(named) > 1 and sum(name == text for name, text in named) > len(named) / 2:
                names = [name or (text if is_word(text) else "") for name, text in zip(names, texts, strict=True)]
                break
    return names


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet below the header, its columns named. Raises ``InputError`` if no row has these names."""
    rows, headers = _place(_nameless(working), step)
    headers = _as_known(headers, step.texts("names"))
    titles = np.arange(working.row_count) < rows[0]
    last = int(working.grid_rows[rows[-1]])
    below = keep_rows(working, ~titles, Fate.LEFT_OUT, ABOVE, named=True)
    below = keep_rows(below, below.grid_rows > last, Fate.STORED, "the header, as names of columns")
    own = _nameless(below)
    columns = _named(own, headers, _last_filled(own), -1)
    places = {column.position for column in columns}
    further = [column for column in below.columns if column.name]
    kept = [column for column in own.columns if column.position in places]
    left = keep_columns(below, [*kept, *further], Fate.LEFT_OUT, NO_COLUMN)
    return replace(left, columns=(*columns, *further))


def _nameless(working: Working) -> Working:
    """The sheet without the columns that have names already, as labels above the header give them."""
    return replace(working, columns=tuple(column for column in working.columns if not column.name))


def _place(working: Working, step: Step) -> tuple[Sequence[int], list[str]]:
    """The rows that have the most of the names of the step, and what they give each column; the first of equals.

    Where hardly one is there, they are known by their words, in whatever writing, or by what they say whatever the
    place or period: Apr Plan after Jan Plan.
    """
    found = _best(working, step, str) or _best(working, step, words) or _best(working, step, like)
    if found is not None:
        return found
    wanted, count = step.texts("names"), len(working.first_texts(DEEPEST))
    names = ", ".join(f"'{name}'" for name in wanted[:4])
    more = ", …" if len(wanted) > 4 else ""
    raise InputError(
        working.source.title,
        f"none of its first {count} rows names the columns {names}{more}",
        "put the header back, or draft the design again",
    )


def _as_known(headers: Sequence[str], names: Sequence[str]) -> list[str]:
    """The headers as the names that a design has for them, where they say the same in another writing.

    >>> _as_known(["Boat reg.", "Berth", "BOAT"], ["Boat Reg", "Boat", "Berth"])
    ['Boat Reg', 'Berth', 'Boat']
    """
    gone = {words(name): name for name in names if name not in headers and words(name)}
    often = Counter(map(words, {*headers, *names}))
    return [gone.get(words(one), one) if one not in names and often[words(one)] == 2 else one for one in headers]


def _best(working: Working, step: Step, of: Callable[[str], Hashable]) -> tuple[Sequence[int], list[str]] | None:
    """The rows with the most of what ``of`` makes of the names; None if none has enough of them."""
    wanted = set(map(of, step.texts("names")))
    lines = max(step.number("lines", 1), 1)
    top = working.first_texts(DEEPEST + lines)
    last = _last_filled(working)
    nameless = all(name.startswith("Column ") for name in step.texts("names"))
    best: tuple[int, Sequence[int], list[str]] = (0, (), [])
    for row in range(len(top) - lines + 1):
        rows = tuple(range(row, row + lines))
        if lines == 1 and wanted.isdisjoint(of(tidy(text)) for text in top[row]) and not nameless:
            continue
        headers = _joined(working, rows, top)
        if wanted.isdisjoint(map(of, headers)) and not nameless:
            continue
        known = len(wanted.intersection(of(column.name) for column in _named(working, headers, last, rows[-1])))
        if known > best[0]:
            best = (known, rows, headers)
    return best[1:] if best[0] >= max(KNOWN * len(wanted), 1) else None


def _last_filled(working: Working) -> list[int]:
    """The last row with content of each column."""
    return [
        working.row_count - 1 - int(column.filled[::-1].argmax()) if column.filled.any() else -1
        for column in working.columns
    ]


def _named(working: Working, headers: Sequence[str], last: Sequence[int], row: int) -> tuple[WorkingColumn, ...]:
    """The columns with a header, or content below its last row, under names of their own."""
    pairs = zip(headers, working.columns, last, strict=True)
    kept = [(header, column) for header, column, filled in pairs if header or filled > row]
    names = unique([header or f"Column {column_letters(column.position)}" for header, column in kept])
    return tuple(replace(column, name=name) for name, (_, column) in zip(names, kept, strict=True))


def unique(names: Sequence[str]) -> list[str]:
    """The names, a number behind those that are there already.

    >>> unique(["Boat", "Berth", "Boat"])
    ['Boat', 'Berth', 'Boat (2)']
    """
    known, taken = set(names), set()
    counts: dict[str, int] = {}
    given = []
    for name in names:
        candidate, count = name, counts.get(name, 1)
        while candidate in taken or (count > 1 and candidate in known):
            count += 1
            candidate = f"{name} ({count})"
        counts[name] = count
        taken.add(candidate)
        given.append(candidate)
    return given
