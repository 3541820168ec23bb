"""Grid → relations. ``DETECTORS`` run in this order; each finds its steps and does them, or does one that was recorded.

A detector is a module with ``ACT``, its words in the design; ``SETTINGS``, the sort of each setting (one with a ``?``
may be left out); ``find``, which looks, proposes, and says what it leaves in doubt; ``act``, which does. A step is a
rule: ``act`` finds anew what it is about, on whatever sheet it is given. One that could meet cells for which it was not
made has ``misfits``, which names them, and one of whose doings a person should know has ``told``. First the table is
found on the sheet, then its cells are cleaned, then what repeats is taken into relations of its own.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.model.account import Fate
from hemplit.core.model.grid import column_letters
from hemplit.core.model.relation import TEXT, Doubt, Relation, Step
from hemplit.core.shape import (
    area,
    atoms,
    beside,
    blank_rows,
    blank_words,
    blanks,
    dates,
    ditto,
    duplicates,
    file_name,
    gaps,
    header,
    heads,
    labels,
    lists,
    long_rows,
    merged_cells,
    notes,
    numbers,
    one_row,
    repeated_header,
    sections,
    siblings,
    sideways,
    spelling,
    totals,
    turned,
)
from hemplit.core.shape.compare import by_file, check_columns, check_names, found_otherwise, not_asked_for, told_misfits
from hemplit.core.shape.values import read_values
from hemplit.core.shape.working import Working, keep_rows, start
from hemplit.dataclasses import dataclass, replace
from hemplit.errors import InputError, NoRowsError, Problems

if TYPE_CHECKING:
    from collections.abc import Container, Iterable, Mapping
    from types import ModuleType

    from hemplit.core.model.grid import Grid
    from hemplit.core.model.relation import Column, Kind

#: New shapes are added here, in the order in which they act.
DETECTORS = (
    blank_rows,
    labels,
    header,
    blanks,
    repeated_header,
    long_rows,
    notes,
    totals,
    one_row,
    sections,
    merged_cells,
    heads,
    ditto,
    blank_words,
    numbers,
    dates,
    spelling,
    siblings,
    gaps,
    beside,
    duplicates,
    file_name,
    sideways,
    lists,
    atoms,
)
BY_ACT = {detector.ACT: detector for detector in (turned, area, *DETECTORS)}
#: The rows that these set aside hold something; that there are such rows is told even if no step looks for them.
OF_ROWS = (repeated_header, long_rows, notes, totals)
#: The acts that put right what somebody mistyped or forgot; a person reads no more proposals of them than so many.
CORRECTIONS = (spelling.ACT, siblings.ACT, gaps.ACT, beside.ACT)
MOST_PROPOSED = 20


@dataclass(frozen=True)
class Shaped:
    """A relation and those that were taken out of it, each with its own name."""

    relation: Relation
    children: tuple[tuple[str, Relation], ...] = ()


def shape(grid: Grid, without: Container[str] = (), asked: str = "") -> tuple[Shaped, ...]:
    """The relations that the grid holds, one for each table on it, with the steps that were found.

    The acts that ``without`` names are not looked for; ``asked`` is the range of cells that a person says is the
    table. Raises ``InputError`` if there is no header or no row below it.
    """
    whole = start(grid)
    first = [turned.STEP] if grid.source.turned else []
    steps = [Step(area.ACT, (("area", asked),), "as asked")] if asked else area.steps(whole)
    if asked and not any(one.filled.any() for one in area.act(whole, steps[0], area.ACT.number).columns):
        raise InputError(
            grid.source.title, f"nothing stands in {asked}", "name the cells from the header to the last row"
        )
    if not steps:
        return (_shaped(whole, first, without, area.doubts(whole)),)
    return tuple(_shaped(area.act(whole, step, area.ACT.number), [*first, step], without, []) for step in steps)


def _shaped(working: Working, steps: list[Step], without: Container[str], doubts: list[Doubt]) -> Shaped:
    told: list[Doubt] = []
    for detector in DETECTORS:
        if detector.ACT in without:
            continue
        for found in list(detector.find(working)):
            if isinstance(found, Doubt):
                doubts.append(found)
                continue
            before = working
            if not found.proposed:
                told += _told(detector, working, found)
                working = detector.act(working, found, detector.ACT.number)
            steps.append(by_file(before, working, found))
    return _relations(working, _few_proposals(steps, doubts), {}, tuple(doubts), tuple(told))


def _told(detector: ModuleType, working: Working, step: Step) -> list[Doubt]:
    told = getattr(detector, "told", None)
    return list(told(working, step)) if told else []


def _few_proposals(steps: list[Step], doubts: list[Doubt]) -> list[Step]:
    """The steps with no more proposed corrections than a person reads; how many more there are is said."""
    corrections = [step for step in steps if step.proposed and step.act in CORRECTIONS]
    corrections.sort(key=lambda step: -step.strength)
    if len(corrections) > MOST_PROPOSED:
        more = len(corrections) - MOST_PROPOSED
        doubts.append(Doubt(f"{more:,} more texts are alike and may be typos of each other", (), "", more))
    dropped = {id(step) for step in corrections[MOST_PROPOSED:]}
    return [step for step in steps if id(step) not in dropped]


def replay(
    grid: Grid,
    steps: Iterable[Step],
    kinds: Mapping[tuple[str, str], Kind],
    without: Iterable[tuple[int, str]] = (),
) -> Shaped:
    """The relations by recorded steps; ``kinds`` names the kind of columns for which it was decided.

    The keys of ``kinds`` are the name of a child, blank for the sheet itself, and of a column. The rows ``without``
    are left out, each for a reason. What the steps find otherwise than they did when they were drafted is told. Raises
    ``CellError`` naming the cells if a step or a decided kind does not fit the sheet.
    """
    working = start(grid)
    for row, why in without:
        working = keep_rows(working, working.grid_rows != row, Fate.LEFT_OUT, why, named=True)
    steps = list(steps)
    told: list[Doubt] = []
    known = {step.act for step in steps}
    # A row in which nothing stands is none, though the first month had no such row.
    cleared = blank_rows.ACT in known
    unasked = [detector for detector in OF_ROWS if detector.ACT not in known]
    for place, step in enumerate(steps, 1):
        if step.proposed:
            continue
        if not cleared and step.act not in (turned.ACT, area.ACT):
            working, cleared = _without_blank_rows(working), True
        detector = BY_ACT[step.act]
        while unasked and unasked[0].ACT.number < detector.ACT.number:
            told += not_asked_for(working, unasked.pop(0))
        check_columns(working, step, place, detector.SETTINGS)
        misfits = getattr(detector, "misfits", None)
        told += told_misfits(working, step, place, list(misfits(working, step)) if misfits else [])
        told += _told(detector, working, step)
        before = working
        working = detector.act(working, step, detector.ACT.number)
        check_names(working, step, place)
        told += found_otherwise(before, working, step)
    for one in unasked:
        told += not_asked_for(working, one)
    working = numbers.read_grouped(working, steps, kinds)
    return _relations(working, steps, kinds, (), tuple(told))


def _without_blank_rows(working: Working) -> Working:
    for step in blank_rows.find(working):
        working = blank_rows.act(working, step, blank_rows.ACT.number)
    return working


def take_as_it_is(grid: Grid) -> Relation:
    """The relation with every text unchanged: the first row holds the names, nothing else is done."""
    working = start(grid)
    if working.row_count:
        names = [text or f"Column {column_letters(place)}" for place, text in enumerate(working.row_texts(0))]
        working = keep_rows(working, working.grid_rows > 0, Fate.STORED, "the header, as names of columns")
        columns = zip(header.unique(names), working.columns, strict=True)
        working = replace(working, columns=tuple(replace(column, name=name) for name, column in columns))
    return _relations(working, [], {("", column.name): TEXT for column in working.columns}, (), ()).relation


def _relations(
    working: Working,
    steps: list[Step],
    kinds: Mapping[tuple[str, str], Kind],
    doubts: tuple[Doubt, ...],
    told: tuple[Doubt, ...],
) -> Shaped:
    where = working.source.title
    if not working.columns or not any(column.name for column in working.columns):
        raise InputError(where, "the sheet is empty", "nothing can be read from it")
    if not working.row_count:
        raise NoRowsError(where, "there is a header and no row below it", "add the rows, or name another sheet")
    whole = replace(_relation(working, tuple(steps), kinds, doubts), told=told)
    children = []
    for child in working.children:
        shared = {(child.name, name): whole.by_name[name].kind for name in child.of if name in whole.by_name}
        children.append((child.name, _relation(child, (), {**kinds, **shared}, ())))
    return Shaped(whole, tuple(children))


def _relation(
    working: Working, steps: tuple[Step, ...], kinds: Mapping[tuple[str, str], Kind], doubts: tuple[Doubt, ...]
) -> Relation:
    columns: list[Column] = []
    problems = Problems()
    for column in working.columns:
        with problems.of_part():
            columns.append(read_values(column, kinds.get((working.name, column.name)), working))
    problems.check()
    source = replace(working.source, part=working.name) if working.name else working.source
    return Relation(
        source,
        tuple(columns),
        working.grid_rows,
        steps,
        working.block,
        working.of,
        working.account,
        doubts,
        again=working.again,
    )
