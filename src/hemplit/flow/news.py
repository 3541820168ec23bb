"""What is new in sheets that are loaded over an earlier load: files, rows, and the names of things and kinds."""

from __future__ import annotations

from pathlib import PurePosixPath
from typing import TYPE_CHECKING

from hemplit.core.model.design import Grain
from hemplit.core.model.loads import News
from hemplit.core.model.relation import Doubt
from hemplit.core.model.tables import Tables
from hemplit.core.tables.held import empty_tables, held_table
from hemplit.core.tables.names import MOST_NAMES, like_held, name_of, new_names
from hemplit.dataclasses import replace
from hemplit.errors import TargetError

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from hemplit.core.model.design import Design, TablePlan
    from hemplit.core.model.loads import Load
    from hemplit.core.model.tables import Table
    from hemplit.targets.contract import Target


def news(design: Design, tables: Tables, loads: Sequence[Load], target: Target) -> News | None:
    """What is new in tables that are to replace those of a target; None if nothing was loaded into it before."""
    if not target.exists() or not (before := target.loads()):
        return None
    marks = {one.file: one.mark for one in before}
    said = [
        "is new" if one.file not in marks else "has changed" if marks[one.file] != one.mark else "" for one in loads
    ]
    files = [f"{PurePosixPath(one.file).name} {what}" for one, what in zip(loads, said, strict=True) if what]
    bases = [plan.name for plan in design.tables if plan.grain is Grain.ROW and plan.name in before[-1].counts]
    rows = {name: (before[-1].counts[name], tables.by_name[name].row_count) for name in bases}
    names, like = {}, []
    for plan in design.tables:
        held = _names(design, plan, target)
        table = tables.by_name[plan.name]
        if held is not None and table.row_count <= MOST_NAMES:
            known = {*held}
            new = [text for text in new_names(design, table, 0) if text and text not in known]
            names[plan.name] = new
            like += like_held(design, plan, new, held)
    return News(
        tuple(files),
        {name: both for name, both in rows.items() if both[0] != both[1]},
        {name: new for name, new in names.items() if new},
        tuple(like),
        tuple(_gone(before, loads)) if any(now < then for then, now in rows.values()) else (),
    )


def _gone(before: Sequence[Load], loads: Sequence[Load]) -> Iterator[Doubt]:
    """The files that had been added and are loaded no longer, each as it was the last time."""
    files, marks = {one.file for one in loads}, {one.mark for one in loads}
    added = {one.file: one for one in before if one.topup}
    for one in added.values():
        if one.file not in files and one.mark not in marks:
            what = f"{PurePosixPath(one.file).name}, added on {one.at[:10]}, is in none of the sheets that were loaded"
            yield Doubt(what, (), "its rows are there no longer; add it again with hemplit topup")


def _names(design: Design, plan: TablePlan, target: Target) -> list[str] | None:
    """What the things or kinds of a table are called in a target; None if it has no such table, or too many."""
    name = name_of(design, plan)
    if name is None:
        return None
    whole: Table = empty_tables(design)[plan.name]
    named = replace(whole, columns=(whole.by_name[name],), key=(), unique=(), references=())
    try:
        if target.counts(Tables((named,), ()))[plan.name] > MOST_NAMES:
            return None
        stored = target.held(Tables((named,), ()))[plan.name]
    except TargetError:  # the design was another then
        return None
    return list(new_names(design, held_table(named, stored), 0))
