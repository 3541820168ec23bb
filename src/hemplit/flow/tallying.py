"""Totals out of a target, and the same out of the flat sheets."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from hemplit.core.model.loads import Ability
from hemplit.core.model.progress import silent
from hemplit.core.tables.split import split
from hemplit.core.tally.questions import questions as suggested
from hemplit.core.tally.resolve import tally_of
from hemplit.dataclasses import dataclass, replace
from hemplit.design_file.read import at_line
from hemplit.errors import DesignError, TargetError
from hemplit.flow.again import replayed
from hemplit.flow.loading import read_first_load, target_of
from hemplit.flow.opening import open_design
from hemplit.flow.totals import compared, contradicted, with_added

if TYPE_CHECKING:
    from hemplit.core.model.design import Design
    from hemplit.core.model.progress import Progress
    from hemplit.core.model.tables import Tables
    from hemplit.core.model.tally import Ask, Saved
    from hemplit.core.tally.answer import Tallied
    from hemplit.core.tally.flat import Relations
    from hemplit.flow.loading import Loaded
    from hemplit.targets.contract import Target


@dataclass(frozen=True)
class _Held:
    """What a target holds, done again from the files: tables, and the relations that were loaded and added."""

    place: Target
    design: Design
    tables: Tables
    relations: Relations
    gone: str
    """Why the sheets do not come to what is held: some cannot be done again, or contradict others."""


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
    gone = f"{told[0][0]} {told[0][1].what}" if told else contradicted(steps)
    return _Held(place, design, tables, with_added(sheets.relations, steps), gone)


def questions(path: Path, target: str, progress: Progress = silent) -> tuple[tuple[Saved, ...], tuple[Ask, ...]]:
    """What can be asked of a target: the questions that the design keeps, and others."""
    held = _held(path, target, progress)
    return held.design.tallies, suggested(held.design, held.tables)


def questions_of(loaded: Loaded, target: str) -> tuple[Ask, ...]:
    """What can be asked of what was just loaded; nothing of what joins no tables."""
    can = Ability.VIEWS not in target_of(target).lacks
    return suggested(loaded.design, loaded.tables) if can else ()


def tally(path: Path, target: str, ask: Ask, progress: Progress = silent) -> Tallied:
    """Answers a question from what a target holds, and compares it with the flat sheets.

    Raises ``InputError`` for a question that has no honest answer.
    """
    held = _held(path, target, progress)
    asked = tally_of(ask, held.design, held.tables)
    progress("adding up", 0, 1)
    return compared(asked, held.place, held.tables, held.relations, held.gone)
