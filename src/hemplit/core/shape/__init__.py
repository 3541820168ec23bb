"""Grid → relation. ``DETECTORS`` run in this order; each finds its step and does it, or does one that was recorded.

A detector is a module with ``ACT``, its words in the design; ``find``, which looks and proposes; ``act``, which does.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.model.relation import TEXT, Relation
from hemplit.core.shape import blank_rows, header
from hemplit.core.shape.values import read_values
from hemplit.core.shape.working import Working, start
from hemplit.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping

    from hemplit.core.model.grid import Grid
    from hemplit.core.model.relation import Kind, Step

#: New shapes are added here, in the order in which they act.
DETECTORS = (blank_rows, header)
BY_ACT = {detector.ACT: detector for detector in DETECTORS}


def shape(grid: Grid) -> Relation:
    """The relation that the grid holds, with the steps that were found.

    Raises ``InputError`` if there is no header or no row below it.
    """
    working = start(grid)
    steps: list[Step] = []
    for detector in DETECTORS:
        step = detector.find(working)
        if step is not None:
            working = detector.act(working, step)
            steps.append(step)
    return _relation(working, steps, {})


def replay(grid: Grid, steps: Iterable[Step], kinds: Mapping[str, Kind]) -> Relation:
    """The relation by recorded steps; ``kinds`` names the kind of columns for which it was decided.

    Raises ``InputError`` naming the cell if a step or a decided kind does not fit the sheet.
    """
    working = start(grid)
    steps = list(steps)
    for step in steps:
        working = BY_ACT[step.act].act(working, step)
    return _relation(working, steps, kinds)


def take_as_it_is(grid: Grid) -> Relation:
    """The relation with every text unchanged: the first row holds the names, nothing else is done."""
    if not grid.row_count:
        return _relation(start(grid), [], {})
    working = start(grid)
    step = header.find(working)
    named = header.act(working, step) if step else working
    return _relation(named, [step] if step else [], {column.name: TEXT for column in named.columns})


def _relation(working: Working, steps: list[Step], kinds: Mapping[str, Kind]) -> Relation:
    where = working.source.title
    if not working.columns or not any(column.name for column in working.columns):
        raise InputError(where, "the sheet is empty", "nothing can be read from it")
    if not len(working.grid_rows):
        raise InputError(where, "there is a header and no row below it", "add the rows, or name another sheet")
    columns = tuple(read_values(column, kinds.get(column.name), working) for column in working.columns)
    return Relation(working.source, columns, working.grid_rows, tuple(steps))
