"""Several tables on one sheet, side by side or one under the other, are taken apart.

    A      B         C    D       E            A      B          D       E
    Job    Boat           Berth   Dock    →    Job    Boat   |   Berth   Dock
    17     Kittiwake      W1      West         17     Kittiwake   W1      West

Side by side, an empty column lies between them, and they end in different rows, bear the same names, or have a title
each; else the empty column is taken for a gap in one table, and that is said. On a sheet that is called after its lists
another one begins wherever the columns end in another row. One under the other, a blank row lies between them, and the
lower begins with a header that is not that of the upper: words over numbers or dates, or another number of columns.
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.model.account import Fate
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import Range, address, column_letters, column_number
from hemplit.core.model.relation import Doubt, Step
from hemplit.core.shape.looks import is_word
from hemplit.core.shape.tops import DEEPEST, TITLE_LINES, header_row, labelled, pairs
from hemplit.core.shape.working import Working, keep_columns, keep_rows
from hemplit.core.texts.words import words
from hemplit.dataclasses import dataclass
from hemplit.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Collection, Iterable, Sequence

    import numpy.typing as npt

    from hemplit.core.model.grid import Source
    from hemplit.core.shape.working import Flags

ACT = Act.AREA
SETTINGS = {"names": "texts?", "place": "number?", "area": "area?"}
#: Another table has the same header if at least this share of its names is the same.
KNOWN = 0.5
#: The columns of two tables side by side bear the same names if at least this share of them does.
SAME_NAMES = 0.5
#: A sheet is called so that has lists for others side by side, and what else such a name may say.
LISTS = frozenset("lists lookups dropdown dropdowns picklists validation validations".split())
OF_LISTS = frozenset("data values drop down pick look up reference ref".split())
#: What is said of the other cells of the sheet; other tables may hold them.
OUTSIDE = "outside of the table"


def steps(working: Working) -> list[Step]:
    """A step for each table of the sheet; none if there is only one. It knows its table by the names in the header."""
    found = tables(working)
    if len(found) < 2:
        return []
    made = []
    for place, one in enumerate(found, 1):
        alike = [other for other in found if other.names == one.names]
        which = (("place", alike.index(one) + 1),) if len(alike) > 1 else ()
        why = f"{said(one.area)}, table {place} of {len(found)} on this sheet"
        made.append(Step(ACT, (("names", one.names), *which), why))
    return made


@dataclass(frozen=True)
class Part:
    """One table on a sheet: its cells, and the names in its header."""

    area: Range
    names: tuple[str, ...]


def tables(working: Working) -> list[Part]:
    """The tables on a sheet, by what stands there."""
    found = [block for columns in _side_by_side(working) for block in _one_under_the_other(working, columns)]
    return [Part(one, _names(working, one)) for one in found]


def _names(working: Working, area: Range) -> tuple[str, ...]:
    """The header of a table, or its first row if none of its rows is one."""
    rows = np.flatnonzero((working.grid_rows >= area.top) & (working.grid_rows <= area.bottom))
    columns = [index for index, one in enumerate(working.columns) if area.left <= one.position <= area.right]
    top = [[working.text(int(row), working.columns[index]) for index in columns] for row in rows[:DEEPEST]]
    filled = [texts for texts in top if any(texts)]
    header = header_row(filled) if len(filled) > 1 else None
    return tuple(text.strip() for text in filled[header or 0] if text.strip()) if filled else ()


def is_of_lists(source: Source) -> bool:
    """Whether a sheet is called after the lists that stand on it, from which other sheets choose: no price list."""
    said = words(source.sheet or source.title.rpartition("/")[2].partition(".")[0])
    return not LISTS.isdisjoint(said) and (LISTS | OF_LISTS).issuperset(said)


def table_of(working: Working, step: Step) -> Range:
    """The cells of the table that a step means. Raises ``InputError`` if there is none of that header."""
    given = step.text("area")
    if given:
        return _area(given)
    found = tables(working)
    wanted = set(step.texts("names"))
    known = [len(wanted.intersection(one.names)) for one in found]
    best = max(known, default=0)
    if best < max(KNOWN * len(wanted), 1):
        names = ", ".join(f"'{name}'" for name in step.texts("names")[:4])
        there = "; ".join(f"{said(one.area)} with {', '.join(one.names[:3])}" for one in found[:4])
        raise InputError(
            working.source.title,
            f"no table on it has the header {names}; it holds {there or 'nothing'}",
            "put the header back, or draft the design again",
        )
    alike = [one for one, count in zip(found, known, strict=True) if count == best]
    fewest = min(len({*one.names} - wanted) for one in alike)
    alike = [one for one in alike if len({*one.names} - wanted) == fewest]
    place = max(step.number("place", 1), 1)
    if place > len(alike):
        what = f"it has {len(alike)} tables of the header {', '.join(step.texts('names')[:4])}, not {place}"
        raise InputError(working.source.title, what, "draft the design again")
    return alike[place - 1].area


def doubts(working: Working) -> list[Doubt]:
    """The empty columns that could part two tables."""
    groups = _groups(working)
    if len(groups) < 2 or len(_side_by_side(working)) > 1 or min(map(len, groups)) < 2:
        return []
    if any(_headers(working, group) is None for group in groups):
        return []
    places = [column_letters(working.columns[group[-1]].position + 1) for group in groups[:-1]]
    hint = 'if so, write a sheet for each, with a step such as { do = "read these cells", area = "A1:C20" }'
    what = f"column {', '.join(places)} is empty: there may be {len(groups)} tables side by side"
    return [Doubt(what, (), hint)]


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet within the table."""
    area = table_of(working, step)
    rows = (working.grid_rows >= area.top) & (working.grid_rows <= area.bottom)
    inside = [column for column in working.columns if area.left <= column.position <= area.right]
    return keep_rows(keep_columns(working, inside, Fate.LEFT_OUT, OUTSIDE), rows, Fate.LEFT_OUT, OUTSIDE)


def said(area: Range) -> str:
    """A range as a spreadsheet calls it."""
    return f"{address(area.top, area.left)}:{address(area.bottom, area.right)}"


#: A range of cells as a spreadsheet calls it.
AREA = re.compile(r"([A-Z]{1,3})([1-9][0-9]{0,6}):([A-Z]{1,3})([1-9][0-9]{0,6})")


def is_area(text: str) -> bool:
    """Whether a text is such a range, its first corner above and before the second."""
    if not AREA.fullmatch(text):
        return False
    area = _area(text)
    return area.top <= area.bottom and area.left <= area.right


def _area(text: str) -> Range:
    """The range that a spreadsheet calls by this text.

    >>> _area("B3:D20")
    Range(top=2, left=1, bottom=19, right=3)
    """
    found = AREA.fullmatch(text)
    assert found is not None, "the design was read by is_area"
    left, top, right, bottom = found.groups()
    return Range(int(top) - 1, column_number(left), int(bottom) - 1, column_number(right))


def _filled(working: Working, columns: Sequence[int]) -> Flags:
    rows = np.zeros(working.row_count, dtype=bool)
    for index in columns:
        if working.columns[index].cells.full:
            return working.columns[index].filled
        rows |= working.columns[index].filled
    return rows


def _groups(working: Working) -> list[list[int]]:
    """The columns with content, those together between which no empty one lies."""
    groups: list[list[int]] = []
    gap = True
    for index, column in enumerate(working.columns):
        if not column.filled.any():
            gap = True
            continue
        if gap:
            groups.append([])
        groups[-1].append(index)
        gap = False
    return groups


def _side_by_side(working: Working) -> list[list[int]]:
    """Groups of columns that are tables of their own."""
    groups = _groups(working)
    if is_of_lists(working.source) and len(lists := _lists(working, groups)) > 1:
        return lists
    tables = groups[:1]
    for group in groups[1:]:
        if _apart(working, tables[-1], group):
            tables.append(group)
        else:
            tables[-1] = [*tables[-1], *group]
    return tables


def _lists(working: Working, groups: Sequence[list[int]]) -> list[list[int]]:
    """The lists on such a sheet: columns that begin in one row and end in one; none if one of them has a gap, or its
    first column says something twice."""
    lists: list[list[int]] = []
    ends: list[int] = []
    for group in groups:
        for index in group:
            rows = np.flatnonzero(working.columns[index].filled)
            if rows[0] or len(rows) != rows[-1] + 1 or not is_word(working.text(0, working.columns[index])):
                return []
            if index == group[0] or rows[-1] != ends[-1]:
                lists.append([])
                ends.append(int(rows[-1]))
            lists[-1].append(index)
    first = [working.columns[some[0]].cells for some in lists]
    return lists if all(len(cells.texts) == end + 1 for cells, end in zip(first, ends, strict=True)) else []


def _apart(working: Working, one: list[int], two: list[int]) -> bool:
    if min(len(one), len(two)) < 2:
        return False
    headers = [_headers(working, group) for group in (one, two)]
    if headers[0] is None or headers[1] is None:
        return False
    same = len(set(headers[0]).intersection(headers[1]))
    if same >= SAME_NAMES * min(len(headers[0]), len(headers[1])):
        return True
    if _titled(working, one) and _titled(working, two):
        return True
    extents = []
    for group in (one, two):
        rows = np.flatnonzero(_filled(working, group))
        dense = len(rows) >= 0.9 * (rows[-1] - rows[0] + 1)
        extents.append((int(rows[-1]), dense))
    return extents[0][0] != extents[1][0] and all(dense for _, dense in extents)


def _titled(working: Working, group: list[int]) -> bool:
    """Whether a line of one cell, the leftmost, stands above a header of several."""
    rows = np.flatnonzero(_filled(working, group))[:2]
    widths = [sum(bool(working.text(int(row), working.columns[index])) for index in group) for row in rows]
    return widths[0] == 1 < widths[-1] and bool(working.text(int(rows[0]), working.columns[group[0]]))


def _headers(working: Working, group: list[int], first: int = 0, last: int | None = None) -> list[str] | None:
    rows = np.flatnonzero(_filled(working, group))
    rows = rows[(rows >= first) & (rows <= (working.row_count if last is None else last))][:DEEPEST]
    top = _texts(working, group, rows.tolist())
    row = header_row(top) if len(top) > 1 else None
    return None if row is None else [text for text in top[row] if text]


def _one_under_the_other(working: Working, group: list[int]) -> list[Range]:
    filled = _filled(working, group)
    rows = np.flatnonzero(filled)
    if not len(rows):
        return []
    breaks = np.flatnonzero(np.diff(rows) > 1)
    starts, ends = rows[np.append(0, breaks + 1)].tolist(), rows[np.append(breaks, len(rows) - 1)].tolist()
    tables: list[tuple[int, int]] = []
    known: list[list[str]] = []
    pending: int | None = None
    labels = _labels(working, group, rows)
    for start, end in zip(starts, ends, strict=True):
        title = _is_title(working, group, start, end, labels)
        header = None if title else _new_table(working, group, start, end, known)
        if header is not None and tables and known:
            tables.append((start if pending is None else pending, end))
            known.append(header)
            pending = None
            continue
        if header is None and not known and not title:
            header = _headers(working, group, start, end)
        if header is not None and not known:
            known.append(header)
        if tables and title:
            # It is the title of what follows, if that turns out to be a table, else a note.
            pending = start if pending is None else pending
            continue
        if tables:
            tables[-1] = (tables[-1][0], end)
        else:
            tables.append((start, end))
        pending = None
    if pending is not None or tables[-1][1] < ends[-1]:
        tables[-1] = (tables[-1][0], ends[-1])
    places = [working.columns[index].position for index in group]
    offset = working.grid_rows
    return [Range(int(offset[top]), min(places), int(offset[bottom]), max(places)) for top, bottom in tables]


def _is_title(working: Working, group: list[int], start: int, end: int, labels: Collection[str]) -> bool:
    """Whether rows are a title, and what is said below it, or labels with what they say of the rows below."""
    if end - start >= DEEPEST or len(group) < 2:
        return False
    rows = _texts(working, group, range(start, end + 1))
    widths = [sum(map(bool, texts)) for texts in rows]
    if len(rows) <= TITLE_LINES and all(width == 1 for width in widths):
        return True
    return bool(labels) and all(width == 1 or pairs(texts, labels) for width, texts in zip(widths, rows, strict=True))


def _labels(working: Working, group: list[int], rows: npt.NDArray[np.int64]) -> frozenset[str]:
    """The labels that stand above the first table."""
    top = _texts(working, group, rows[:DEEPEST].tolist())
    return frozenset(label for row in labelled(top) for label, _ in pairs(top[row]))


def _texts(working: Working, group: list[int], rows: Iterable[int]) -> list[list[str]]:
    return [[working.text(row, working.columns[index]) for index in group] for row in rows]


def _new_table(working: Working, group: list[int], start: int, end: int, known: list[list[str]]) -> list[str] | None:
    """The header of a further table in these rows; None if they go on with the one above."""
    if not known or end == start:
        return None
    top = _texts(working, group, range(start, min(end, start + 12) + 1))
    if any([text for text in texts if text] in known for texts in top):
        return None
    row = header_row(top)
    if row is None or row > 2 or row + 1 >= len(top):
        return None
    names = [text for text in top[row] if text]
    if len(names) < 2 or any(name.endswith(":") for name in names):
        return None
    below = top[row + 1 :]
    numbers_below = any(
        name and any(one[index] and not is_word(one[index]) for one in below) for index, name in enumerate(top[row])
    )
    all_words = all(is_word(name) for name in names)
    return names if all_words and (numbers_below or len(names) != len(known[-1])) else None
