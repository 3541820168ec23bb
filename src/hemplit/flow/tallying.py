"""Totals out of a target, and the same out of the flat sheets."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.model.loads import Ability
from hemplit.core.model.progress import silent
from hemplit.core.tables.split import split
from hemplit.core.tally.answer import Tallied, answer_of, differing
from hemplit.core.tally.flat import can_be_followed, groups_of, places_of
from hemplit.core.tally.questions import questions as suggested
from hemplit.core.tally.resolve import tally_of
from hemplit.design_file.read import at_line
from hemplit.errors import DesignError, TargetError
from hemplit.flow.again import replayed
from hemplit.flow.loading import read_first_load, target_of
from hemplit.flow.opening import open_design

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from hemplit.core.model.design import Design
    from hemplit.core.model.progress import Progress
    from hemplit.core.model.relation import Relation
    from hemplit.core.model.tables import Tables
    from hemplit.core.model.tally import Ask, Tally
    from hemplit.flow.further import Step
    from hemplit.flow.loading import Loaded
    from hemplit.targets.contract import Target


@dataclass(frozen=True)
class _Held:
    """What a target holds, done again from the files: tables, and the relations that were loaded and added."""

    place: Target
    design: Design
    tables: Tables
    relations: Mapping[str, Sequence[Relation]]
    gone: str
    """Why some of what was added cannot be done again."""


def _held(path: Path, target: str, progress: Progress) -> _Held:
    place = target_of(target)
    if Ability.VIEWS in place.lacks:
        raise TargetError(place.text, place.lacks[Ability.VIEWS], "ask a database into which it is loaded")
    text, design = open_design(path)
    try:
        sheets, loads, _ = read_first_load(design, path.parent, place, progress)
        progress("splitting into tables", 0, 1)
        tables = split(design, sheets.relations)
        steps, told = replayed(design, path.parent, tables, place, [one for one in loads if one.topup])
    except DesignError as error:
        raise at_line(error, text, str(path)) from error
    if steps:
        tables = replace(tables, tables=tuple(steps[-1].merged.tables.values()))
    gone = f"{told[0][0]} {told[0][1].what}" if told else ""
    return _Held(place, design, tables, _with_added(sheets.relations, steps), gone)


def questions(path: Path, target: str, progress: Progress = silent) -> tuple[Ask, ...]:
    """What can be asked of a target."""
    held = _held(path, target, progress)
    return suggested(held.design, held.tables)


def questions_of(loaded: Loaded, target: str) -> tuple[Ask, ...]:
    """What can be asked of what was just loaded; nothing of what joins no tables."""
    can = Ability.VIEWS not in target_of(target).lacks
    return suggested(loaded.design, loaded.tables) if can else ()


def tally(path: Path, target: str, ask: Ask, progress: Progress = silent) -> Tallied:
    """Answers a question from what a target holds, and compares it with the flat sheets.

    Raises ``InputError`` for a question that has no honest answer.
    """
    held = _held(path, target, progress)
    place, tables, relations = held.place, held.tables, held.relations
    asked = tally_of(ask, held.design, tables)
    progress("adding up", 0, 1)
    places = {measure.title: places_of(part, measure, relations) for part in asked.parts for measure in part.measures}
    answers = [place.tally(part, tables, places) for part in asked.parts]
    unchecked = held.gone
    if not unchecked and not all(map(can_be_followed, asked.parts)):
        unchecked = "the sheets themselves do not name what belongs together by the same words"
    flat = answers if unchecked else [groups_of(part, relations) for part in asked.parts]
    changed, left_out = _on_purpose(asked, relations)
    return Tallied(
        asked,
        answer_of(asked, answers, places),
        tuple(place.tally_text(part, tables) for part in asked.parts),
        tuple(differing(asked, flat, answers, places)),
        unchecked,
        changed,
        left_out,
    )


def _with_added(relations: Mapping[str, Relation], steps: Sequence[Step]) -> dict[str, list[Relation]]:
    """The relations of each sheet: the first, and of those that were added the rows that were new."""
    found = {name: [relation] for name, relation in relations.items()}
    for step in steps:
        own = step.sheets.relations[step.sheet]
        known = own.grid_rows[~np.asarray(step.is_new)]
        for name, relation in step.sheets.relations.items():
            found.setdefault(name, []).append(relation.without(known))
    return found


def _on_purpose(asked: Tally, relations: Mapping[str, Sequence[Relation]]) -> tuple[int, int]:
    """How many cells of the columns were changed, and how many rows left out, by the steps of the design."""
    flats = [flat for part in asked.parts for flat in part.flats if flat is not None]
    columns = {(flat.sheet, flat.header) for flat in flats}
    changed = sum(
        int(np.count_nonzero(column.changed))
        for sheet, header in columns
        for relation in relations.get(sheet, [])
        if (column := relation.by_name.get(header)) is not None and column.changed is not None
    )
    rows = {
        (sheet, int(row))
        for sheet in {sheet for sheet, _ in columns}
        for relation in relations.get(sheet, [])
        for cells in relation.account
        if cells.named
        for row in cells.rows
    }
    return changed, len(rows)
