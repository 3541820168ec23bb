"""Several files or worksheets of the same columns → one grid, in their order, each row knowing where it was.

A folder or a pattern is asked for as one sheet; files that are named one by one, as a shell does that puts the names in
the place of a pattern, are so if their names make a series.

The columns may stand in another order in each file, and some may have one more; they are put into the order of the
first. Each file's rows come whole, headers and titles too, so that every cell keeps its place and shaping finds what to
do with it.
"""

from __future__ import annotations

import re
from fnmatch import fnmatchcase
from itertools import pairwise, takewhile
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import stack
from hemplit.core.model.grid import EMPTY, Grid, Range, Source
from hemplit.core.shape.looks import MONTHS
from hemplit.core.shape.tops import DEEPEST, are_of_sorts, header_row, labelled, pairs
from hemplit.core.shape.working import stacked, start
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from hemplit.core.model.grid import Codes, GridColumn


#: Stands for all worksheets of one layout; no worksheet can be called so.
ALL = "*"
#: So large a share of the columns may be in some of the files only.
MORE = 0.25
#: So large a share of what a list names, another list names, too, if both list the same things.
SHARED = 0.5
#: So many files are named in a note.
SHOWN = 3
#: A year, as file names have it.
YEAR = re.compile(r"(?<!\d)(19|20)\d\d(?!\d)")


def is_pattern(path: str) -> bool:
    """Whether a name on the command line stands for several files."""
    return "://" not in path and any(sign in path for sign in "*?[") and not Path(path).exists()


def matching(pattern: str) -> list[str]:
    """The files that a pattern stands for, in the order of their names; locks of open files are none."""
    given = Path(pattern)
    found = Path(given.anchor or ".").glob(str(given.relative_to(given.anchor)))
    return sorted(str(path) for path in found if path.is_file() and not path.name.startswith(("~$", ".")))


def as_one_of(pattern: str, grid: Grid) -> Grid:
    """A file as one of those that a pattern stands for, so that its name tells what theirs tell."""
    return replace(grid, source=replace(grid.source, path=pattern, parts=((grid.source.path, 0),)))


def together(pattern: str, grids: Sequence[Grid]) -> tuple[Grid, ...]:
    """The grids, those of the same columns in one; ``pattern`` is the name under which they were asked for.

    Where not all are of the same columns, the most have the pattern's name, and the odd ones their own, with a note.
    """
    groups = _of_same_columns(grids, lambda grid: Path(grid.source.path).stem)
    most = max(groups, key=len)
    made: list[Grid] = []
    for group in groups:
        paths = [grid.source.path for grid, _ in group]
        one_each = len(set(paths)) == len(paths)
        whole = len(groups) == 1 or (group is most and len(group) > len(grids) - len(group))
        # Next year's files may begin otherwise than all that are there, so that most files have the whole pattern.
        name = pattern if whole else _pattern_of(paths, [grid.source.path for grid in grids])
        if len(group) > 1 and one_each and name:
            made.append(_stacked(name, group))
        elif len(most) > len(grids) - len(most):
            odd = f"it has other columns than the {len(most)} files beside it, and is a sheet of its own"
            made += [replace(grid, notes=(*grid.notes, odd)) if one_each else grid for grid, _ in group]
        else:
            made += [grid for grid, _ in group]
    return tuple(made)


def _of_same_columns(grids: Sequence[Grid], name_of: Callable[[Grid], str]) -> list[list[tuple[Grid, list[str]]]]:
    """The grids with their headers, those together that have the same; or nearly, if their names make a series."""
    groups: dict[frozenset[str], list[tuple[Grid, list[str]]]] = {}
    forms = _without_lines(grids)
    for grid in grids:
        header = [] if id(grid) in forms else _header(grid)
        names = forms.get(id(grid)) or frozenset(header or {grid.source.title})
        groups.setdefault(names, []).append((grid, header))
    order = {id(grid): place for place, grid in enumerate(grids)}
    made: dict[frozenset[str], list[tuple[Grid, list[str]]]] = {}
    for names, group in sorted(groups.items(), key=lambda one: (-len(one[1]), order[id(one[1][0][0])])):
        main = next((known for known in made if _nearly_same(known, names)), None)
        if main is not None and _is_series([name_of(grid) for grid, _ in (*made[main], *group)]):
            made[main] = sorted((*made[main], *group), key=lambda part: order[id(part[0])])
        else:
            made[names] = group
    return sorted(made.values(), key=lambda group: order[id(group[0][0])])


def _nearly_same(one: frozenset[str], other: frozenset[str]) -> bool:
    """Whether one has all the columns of the other, and few more."""
    more = len(one ^ other)
    return (one < other or other < one) and len(one & other) > 1 and more <= max(MORE * len(one | other), 1)


def of_one_layout(grids: Sequence[Grid]) -> tuple[Grid, ...]:
    """The worksheets of a workbook, those of the same columns in one if their names differ in a month or the like.

    Two lists under the same headers are two lists, as long as their names say so: Units, Departments.
    """
    groups = _of_same_columns(grids, lambda grid: str(grid.source.sheet))
    series = [group for group in groups if _is_one_sheet(group, lambda grid: str(grid.source.sheet))]
    if len(series) != 1:
        return tuple(grids)
    inside = {id(grid) for grid, _ in series[0]}
    parts = [(str(grid.source.sheet), grid) for grid, _ in series[0]]
    whole = _stacked(series[0][0][0].source.path, series[0])
    starts = np.cumsum([0, *(grid.row_count for _, grid in parts)]).tolist()
    named = tuple((name, start) for (name, _), start in zip(parts, starts, strict=False))
    source = replace(whole.source, sheet=ALL, taken_as=f"{len(parts)} worksheets", parts=named)
    first = next(place for place, grid in enumerate(grids) if id(grid) in inside)
    rest = [grid for grid in grids if id(grid) not in inside]
    return (*rest[:first], replace(whole, source=source), *rest[first:])


def in_series(paths: Sequence[str], found: Sequence[tuple[Grid, ...]]) -> list[tuple[Grid, ...]]:
    """The sheets of files that were named one by one, those of a folder that make a series in one, where the first was.

    ``found`` are the sheets of each of the paths. A design reads again what its pattern stands for, so there has to be
    one of just these files of their folder.
    """
    whole = [len(grids) == 1 and Path(path).is_file() for path, grids in zip(paths, found, strict=True)]
    alone = [grids[0] for grids, is_whole in zip(found, whole, strict=True) if is_whole]
    folders: dict[tuple[Path, str], list[Grid]] = {}
    for grid in sorted(alone, key=lambda grid: grid.source.path):
        path = Path(grid.source.path)
        folders.setdefault((path.parent, path.suffix), []).append(grid)
    order = {id(grid): place for place, grid in enumerate(alone)}
    instead: dict[int, tuple[Grid, ...]] = {}
    for (folder, ending), grids in folders.items():
        beside = [str(path) for path in folder.iterdir() if path.suffix == ending]
        for group in _of_same_columns(grids, _file_name) if len(grids) > 1 else ():
            if not _is_one_sheet(group, _file_name):
                continue
            first, *rest = sorted((grid for grid, _ in group), key=lambda grid: order[id(grid)])
            pattern = _pattern_of([str(Path(grid.source.path)) for grid, _ in group], beside)
            if pattern:
                instead |= {id(first): (_stacked(pattern, group),)} | dict.fromkeys(map(id, rest), ())
            else:
                others = ", ".join(Path(grid.source.path).name for grid in rest[:SHOWN])
                more = f" and {len(rest) - SHOWN} more" if len(rest) > SHOWN else ""
                note = f"the same columns are in {others}{more}; to have one sheet of them, put them into a folder"
                instead[id(first)] = (replace(first, notes=(*first.notes, note)),)
    return [instead.get(id(grids[0]), grids) if grids else grids for grids in found]


def _file_name(grid: Grid) -> str:
    return Path(grid.source.path).stem


def _is_one_sheet(group: Sequence[tuple[Grid, list[str]]], name_of: Callable[[Grid], str]) -> bool:
    """Whether sheets of the same columns are parts of one, such as months or places of it, and no two lists."""
    names = [name_of(grid) for grid, _ in group]
    if len(group) > 1 and not any(header for _, header in group):
        return True  # forms without lines
    if all(map(_are_usable, ([name for name in header if name] for _, header in group))) and _are_forms(group):
        return True
    usable = all(_are_usable(header) for _, header in group)
    return usable and _is_series(names) and (_is_dated(names) or not _list_the_same(group))


def _without_lines(grids: Sequence[Grid]) -> dict[int, frozenset[str]]:
    """The grids that are forms without lines, by their identities, with the labels that several of them have."""
    said: dict[frozenset[str], dict[int, str]] = {}
    for grid in grids:
        told = (
            [pair for texts in _top(grid) for pair in pairs(texts) or [("", "")]] if grid.row_count <= DEEPEST else []
        )
        labels = frozenset(label for label, _ in told)
        if "" not in labels and len(labels) == len(told) and are_of_sorts([value for _, value in told[1:]]):
            said.setdefault(labels, {})[id(grid)] = told[0][1]
    # Sheets that begin alike have a header, and no labels.
    return {one: labels for labels, first in said.items() if len({*first.values()}) > 1 for one in first}


def _are_usable(names: Sequence[str]) -> bool:
    """Whether the columns of several sheets can be put together by their names."""
    return len(names) > 1 and len({*names}) == len(names)


def _are_forms(group: Sequence[tuple[Grid, list[str]]]) -> bool:
    """Whether the same labels stand above the rows of each, and something else beside them."""
    tops = [_top(grid) for grid, _ in group]
    said = [dict(pair for row in labelled(top) for pair in pairs(top[row])) for top in tops]
    same = {frozenset(one) for one in said}
    return len(said) > 1 and len(same) == 1 and bool(said[0]) and any(one != said[0] for one in said)


def _list_the_same(group: Sequence[tuple[Grid, list[str]]]) -> bool:
    """Whether two of the sheets name the same things in a first column, each once, and say the same of them in another.

    Sheets that count their rows from 1 name the same numbers, and say something else of them.
    """
    names = [name for name in group[0][1] if name and all(name in header for _, header in group)]
    sheets = [[grid.columns[header.index(name)] for name in names] for grid, header in group]
    return any(_say_the_same(one, other) for one, other in pairwise(sheets))


def _say_the_same(one: Sequence[GridColumn], other: Sequence[GridColumn]) -> bool:
    if not all(first.counts.max(initial=0) == 1 for first in (one[0], other[0])):
        return False
    own, theirs = _stacked_codes(one[0], other[0])
    row_of = np.full(max(own.max(initial=0), theirs.max(initial=0)) + 2, EMPTY)
    row_of[theirs] = np.arange(len(theirs))
    row_of[EMPTY] = EMPTY
    here = np.flatnonzero(row_of[own] != EMPTY)
    there = row_of[own[here]]
    most = min(int(first.filled.sum()) for first in (one[0], other[0]))
    if len(here) - 1 <= SHARED * (most - 1):  # the headers are the same
        return False
    sides = (_stacked_codes(mine, its) for mine, its in zip(one[1:], other[1:], strict=True))
    return any(int((mine[here] == its[there]).sum()) - 1 > SHARED * (len(here) - 1) for mine, its in sides)


def _stacked_codes(one: GridColumn, other: GridColumn) -> tuple[Codes, Codes]:
    """The codes of two columns, the same for the same texts."""
    codes, _ = stack([(one.codes, one.texts), (other.codes, other.texts)])
    return codes[: len(one.codes)], codes[len(one.codes) :]


def _is_dated(names: Sequence[str]) -> bool:
    """Whether each of the names has a year or a month.

    >>> _is_dated(["2026-04 North Dock", "2026-05 Harbour Wall"]), _is_dated(["Dock 2", "Dock 3"])
    (True, False)
    """
    return all(YEAR.search(name) or not MONTHS.keys().isdisjoint(_letters(name)) for name in names)


def _letters(name: str) -> list[str]:
    return re.findall(r"[^\W\d_]+", name.lower())


def _is_series(names: Sequence[str]) -> bool:
    """Whether names differ in a month, a number, or what stands before or behind a word that all have.

    >>> _is_series(["January", "February"]), _is_series(["Dock 2", "Dock 3"]), _is_series(["Units", "Departments"])
    (True, True, False)
    """
    split = [_letters(name) for name in names]
    numbered = all(re.search(r"\d", name) for name in names) and len({re.sub(r"\d+", "0", name) for name in names}) == 1
    common = all(len(one) > 1 for one in split) and (
        len({one[0] for one in split}) == 1 or len({one[-1] for one in split}) == 1
    )
    return len(names) > 1 and (_is_dated(names) or numbered or common)


def _pattern_of(paths: Sequence[str], others: Sequence[str]) -> str:
    """The widest pattern of just these files among the others: of whole words that all have, of letters, of numbers."""
    first = _common(paths)
    last = _common([path[::-1] for path in paths])[::-1]
    start, end = re.sub(r"[^\W_]+$", "", first), re.sub(r"^[^\W_]+", "", last)
    folder = re.sub(r"[^/\\]+$", "", first)
    patterns = [f"{start}*{end}", f"{first}*{last}"]
    if not _letters(start.removeprefix(folder)):
        # Next year's names begin with another number.
        patterns.insert(0, f"{folder}*{end}")
    numbers = sorted({path[len(first) : len(first) + 1] for path in paths})
    if all(map(str.isdecimal, numbers)):
        patterns.append(f"{first}[{''.join(numbers)}]*{last}")
    lengths = {len(path) - len(first) - len(last) for path in paths}
    if len(lengths) == 1 and min(lengths) > 1:
        # Of months named in short, and nothing else.
        patterns.append(f"{first}{'?' * min(lengths)}{last}")
    fitting = (one for one in patterns if {path for path in others if fnmatchcase(path, one)} == {*paths})
    return next(fitting, "")


def _common(texts: Sequence[str]) -> str:
    """What all texts begin with."""
    alike = takewhile(lambda letters: len(set(letters)) == 1, zip(*texts, strict=False))
    return "".join(letters[0] for letters in alike)


def _header(grid: Grid) -> list[str]:
    top = _top(grid)
    row = header_row(top)
    return [] if row is None else [text.strip() for text in top[row]]


def _top(grid: Grid) -> list[list[str]]:
    """The first rows, without those that are blank."""
    return [texts for texts in start(grid).first_texts(DEEPEST) if any(texts)]


def _stacked(name: str, group: Sequence[tuple[Grid, list[str]]]) -> Grid:
    first = list(dict.fromkeys(text for _, names in group for text in names if text))
    orders = [_order(names, first, len(grid.columns)) for grid, names in group]
    width = max(map(len, orders))
    orders = [order + [None] * (width - len(order)) for order in orders]
    counts = [grid.row_count for grid, _ in group]
    starts = np.concatenate([[0], np.cumsum(counts)[:-1]]).tolist()
    columns = tuple(
        stacked([_cells(grid, order[place]) for (grid, _), order in zip(group, orders, strict=True)])
        for place in range(width)
    )
    merged, too_long, notes = [], [], []
    for (grid, _), order, offset in zip(group, orders, starts, strict=True):
        place_of = {column: place for place, column in enumerate(order) if column is not None}
        for one in grid.merged:
            if one.left in place_of and one.right in place_of:
                merged.append(Range(one.top + offset, place_of[one.left], one.bottom + offset, place_of[one.right]))
        too_long += [row + offset for row in grid.too_long]
        notes += [f"{Path(grid.source.path).name}: {note}" for note in grid.notes]
    taken = ", ".join(dict.fromkeys(grid.source.taken_as for grid, _ in group if grid.source.taken_as))
    parts = tuple((grid.source.path, offset) for (grid, _), offset in zip(group, starts, strict=True))
    source = Source(name, taken_as=f"{len(group)} files" + (f", {taken}" if taken else ""), parts=parts)
    skipped = tuple(one for grid, _ in group for one in grid.skipped)
    return Grid(source, columns, sum(counts), tuple(merged), tuple(too_long), tuple(notes), skipped)


def _order(names: Sequence[str], first: Sequence[str], own: int) -> list[int | None]:
    """For each place of the result the column of this file that belongs there, None where it has none."""
    order: list[int | None] = [names.index(name) if name in names else None for name in first]
    return order + [column for column in range(own) if column not in order]


def _cells(grid: Grid, place: int | None) -> tuple[GridColumn | None, int]:
    return (None if place is None else grid.columns[place]), grid.row_count
