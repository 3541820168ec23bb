"""All that a page for a colleague tells of a design: its sheets, its story, its tables, and the proof of them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design.outline import outlines
from hemplit.core.diagram import lay_out
from hemplit.core.diagram.described import diagram_of
from hemplit.core.explain.anomaly import lead_of
from hemplit.core.explain.present import sheet_of
from hemplit.core.explain.story import story
from hemplit.core.explain.walk import Stage, Walk, as_read, excerpt, lost_without, marked, repeated
from hemplit.core.model.design import FORMS
from hemplit.core.model.progress import silent
from hemplit.core.tables.split import split
from hemplit.flow.drawing import title_of
from hemplit.flow.looking import changes_of
from hemplit.flow.proving import prove_tables
from hemplit.flow.studying import explain

if TYPE_CHECKING:
    from pathlib import Path

    from hemplit.core.model.progress import Progress


def walk(path: Path, progress: Progress = silent) -> Walk:
    """Reads a design with its sheets, and splits them as it says. Raises ``DesignError`` where they contradict it."""
    explained = explain(path, progress)
    design, sheets, relations = explained.design, explained.sheets, explained.sheets.relations
    progress("splitting into tables", 0, 1)
    tables = split(design, relations)
    proof = prove_tables(design, sheets, tables)
    told = story(design, explained.findings, relations)
    changes = {name: tuple(changes_of(sheets, name)) for name in sheets.grids}
    shown = []
    for name, grid in sheets.grids.items():
        family = sheets.family(name)
        shown.append(marked(design, name, grid, {one: relations[one] for one in family}, changes[name]))
    stages = {}
    for chapter in told.chapters:
        some = []
        for passing in chapter.passings:
            passage, plan = passing.passage, design.by_name[passing.passage.table]
            sheet = sheet_of(design, passage)
            relation = relations[sheet]
            after, lost = excerpt(tables.by_name[plan.name]), lost_without(design, passage, relation)
            if passage.form == FORMS[0]:
                grid = sheets.grids[sheets.parents.get(sheet, sheet)]
                some.append(Stage(passing, (), as_read(grid, relation), after, lost))
            else:
                some.append(
                    Stage(passing, lead_of(design, plan, sheet), repeated(design, passage, relation), after, lost)
                )
        stages[chapter.title] = tuple(some)
    title = title_of(path)
    picture = lay_out(diagram_of("", outlines(design)))
    named = tuple(excerpt(tables.by_name[plan.name]) for plan in design.tables)
    by_title = {sheets.grids[name].source.title: some for name, some in changes.items()}
    return Walk(title, tuple(shown), told, stages, picture, tables, named, by_title, proof)
