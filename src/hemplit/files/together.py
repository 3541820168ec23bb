"""Several files or worksheets of the same columns → one grid, in their order, each row knowing where it was.

The columns may stand in another order in each file, and some may have one more; they are put into the order of the
first. Each file's rows come whole, headers and titles too, so that every cell keeps its place and shaping finds what to
do with it.
"""

from __future__ import annotations

import re
from dataclasses import replace
from fnmatch import fnmatch
from itertools import takewhile
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.model.grid import Grid, Range, Source
from hemplit.core.shape.looks import DEEPEST, MONTHS, header_row
from hemplit.core.shape.working import stacked, start

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from hemplit.core.model.grid import GridColumn


#: Stands for all worksheets of one layout; no worksheet can be called so.
ALL = "*"
#: So large a share of the columns may be in some of the files only.
MORE = 0.25


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
    for grid in grids:
        header = _header(grid)
        groups.setdefault(frozenset(header) if header else frozenset({grid.source.title}), []).append((grid, header))
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
    usable = [group for group in groups if all(len(names) > 1 and len({*names}) == len(names) for _, names in group)]
    series = [group for group in usable if _is_series([str(grid.source.sheet) for grid, _ in group])]
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


def _is_series(names: Sequence[str]) -> bool:
    """Whether names differ in a month, a number, or what stands before or behind a word that all have.

    >>> _is_series(["January", "February"]), _is_series(["Dock 2", "Dock 3"]), _is_series(["Units", "Departments"])
    (True, True, False)
    """
    split = [re.findall(r"[^\W\d_]+", name.lower()) for name in names]
    months = all(any(word in MONTHS for word in one) for one in split)
    numbered = all(re.search(r"\d", name) for name in names) and len({re.sub(r"\d+", "0", name) for name in names}) == 1
    common = all(len(one) > 1 for one in split) and (
        len({one[0] for one in split}) == 1 or len({one[-1] for one in split}) == 1
    )
    return len(names) > 1 and (months or numbered or common)


def _pattern_of(paths: Sequence[str], others: Sequence[str]) -> str:
    """The pattern of just these files among the others, if what they begin and end with makes one."""
    first = _common(paths)
    last = _common([path[::-1] for path in paths])[::-1]
    pattern = f"{first}*{last}"
    return pattern if {path for path in others if fnmatch(path, pattern)} == set(paths) else ""


def _common(texts: Sequence[str]) -> str:
    """What all texts begin with."""
    alike = takewhile(lambda letters: len(set(letters)) == 1, zip(*texts, strict=False))
    return "".join(letters[0] for letters in alike)


def _header(grid: Grid) -> list[str]:
    working = start(grid)
    top = [texts for texts in working.first_texts(DEEPEST) if any(texts)]
    row = header_row(top)
    return [] if row is None else [text.strip() for text in top[row]]


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
