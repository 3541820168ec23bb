"""Sections that a person deleted from a design: what stood in them goes home, to what referred to them.

    jobs (job_no, status_id → statuses), and no table statuses any more      →  jobs (job_no, status)
    no step takes 'Crew' apart any more                                      →  jobs (…, crew), without job_crews

The names in the header that stand in no table tell which columns these are. Where none lacks a table, a name that is
not there is a slip, and left to be told as one.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.model.acts import Act
from hemplit.core.model.design import ColumnPlan, Grain, Purpose
from hemplit.core.model.findings import BAND
from hemplit.core.texts.nouns import singular
from hemplit.core.texts.words import snake, unused, words
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Collection, Sequence

    from hemplit.core.model.design import Design, SheetPlan, TablePlan


def with_homes(design: Design) -> Design:
    """The design without what hangs on steps and tables that are no longer there; what was done stands in ``told``."""
    design = _without_idle_steps(design)
    struck = [sheet for sheet in design.sheets if sheet.of is not None and not _is_taken(design, sheet)]
    told = [f"'{one.part}' is not taken out of '{one.of}' any more, and stands there as it is" for one in struck]
    design, classes = _without_ranges(design)
    design, named = _with_names(design)
    classes += named
    kept = _without_sheets(design, {one.name for one in struck})
    for sheet in kept.sheets:
        lost = _homeless(kept, sheet)
        missing = _missing(kept, sheet) if lost else {}
        for name, table in missing.items():
            headers = [header for header in lost if _stood_in(kept, header, [*missing]) == name]
            kept = _with_table(kept, _taken_home(kept, kept.by_name[table], name, headers))
            classes.append(f"{name}: no such table any more, and its columns are in '{table}'")
        if not missing and sheet.name in {one.of for one in struck}:
            kept = _with_table(kept, _taken_home(kept, kept.base_of(sheet.name), "", lost))
    return replace(kept, told=(*told, *classes)) if told or classes else design


def _without_sheets(design: Design, names: Collection[str]) -> Design:
    """The design without these sheets and what was made of them."""
    kept = {one.name: _without_feeds(one, names) for one in design.tables if not {*names}.issuperset(one.sheets)}
    return replace(
        design,
        sheets=tuple(one for one in design.sheets if one.name not in names),
        tables=tuple(kept.values()),
        trail=tuple(one for one in design.trail if one.table in kept),
    )


def _without_feeds(table: TablePlan, names: Collection[str]) -> TablePlan:
    """The table as its other sheets fill it, without the columns of which only these say something."""
    first, *further = (sheet for sheet in table.sheets if sheet not in names)
    columns = []
    for column in table.columns:
        said = {sheet: table.headers_in(sheet, column) for sheet in (first, *further)}
        rest = tuple((sheet, said[sheet]) for sheet in further if said[sheet])
        if any(said.values()) or not column.all_headers:
            columns.append(replace(column, headers=said[first], elsewhere=rest))
    return replace(table, sheet=first, columns=tuple(columns))


def _missing(design: Design, sheet: SheetPlan) -> dict[str, str]:
    """The tables that are not there any more, each with the first table of the sheet that refers to it."""
    found: dict[str, str] = {}
    for table in design.tables_of(sheet.name):
        for column in table.columns:
            if column.source is None and column.target and column.target[0] not in design.by_name:
                found.setdefault(column.target[0], table.name)
    return found


def _stood_in(design: Design, header: str, names: Sequence[str]) -> str:
    """Which of the tables that are gone a header stood in: by the trail, by its words, or else the first."""
    by_trail = (one.table for one in design.trail if one.table in names and header in one.headers)
    said = set(map(singular, words(header)))
    by_name = (name for name in names if said & set(map(singular, words(name))))
    return next(by_trail, None) or next(by_name, names[0])


def _with_names(design: Design) -> tuple[Design, list[str]]:
    """The design in which the names of a table that is gone stand where several sheets said them for a reference."""

    def is_lost(column: ColumnPlan) -> bool:
        return bool(column.elsewhere) and column.target is not None and column.target[0] not in design.by_name

    told = [
        f"{(column.target or ('',))[0]}: no such table any more, and its names are in '{table.name}'"
        for table in design.tables
        for column in table.columns
        if is_lost(column)
    ]
    tables = tuple(
        replace(table, columns=tuple(replace(one, to=None) if is_lost(one) else one for one in table.columns))
        for table in design.tables
    )
    return (replace(design, tables=tables), told) if told else (design, [])


def _without_ranges(design: Design) -> tuple[Design, list[str]]:
    """The design without classes and ranges of which the other part is not there any more.

    Classes without ranges are stored; ranges that no column names go, as they follow from what is stored.
    """
    named = {
        one.formula.detail
        for table in design.tables
        for one in table.columns
        if one.formula is not None and one.formula.operation == BAND
    }
    ranges = {table.name for table in design.tables if table.purpose is Purpose.RANGE}
    missing, alone = named - ranges, ranges - named
    if missing and alone:
        return design, []  # one of them is written wrongly

    def plain(column: ColumnPlan) -> ColumnPlan:
        lost = column.formula is not None and column.formula.detail in missing
        return replace(column, formula=None, store=True) if lost else column

    tables = tuple(
        replace(table, columns=tuple(map(plain, table.columns))) for table in design.tables if table.name not in alone
    )
    told = [f"{name}: no such table any more, and the classes are stored" for name in sorted(missing)]
    told += [f"{name}: no column is a class of these ranges, and they are left out" for name in sorted(alone)]
    return replace(design, tables=tables), told


def _without_idle_steps(design: Design) -> Design:
    """The design without steps that take something out of which no table has the rows any more."""
    idle = {(one.of, one.part) for one in design.sheets if one.of is not None and not _holds_rows(design, one)}
    sheets = tuple(
        replace(one, steps=tuple(step for step in one.steps if (one.name, step.text("into")) not in idle))
        for one in design.sheets
    )
    return replace(design, sheets=sheets) if idle else design


def _holds_rows(design: Design, child: SheetPlan) -> bool:
    """Whether a table has the rows of a sheet that was taken out of another, and says so or refers to that one's."""
    above = {table.name for table in design.tables_of(str(child.of))}
    return any(
        table.grain in (Grain.ROW, Grain.LIST) or any((column.target or ("",))[0] in above for column in table.columns)
        for table in design.tables_of(child.name)
    )


def _is_taken(design: Design, child: SheetPlan) -> bool:
    """Whether a step takes that sheet out of the one that it is a part of."""
    parents = (sheet for sheet in design.sheets if sheet.name == child.of)
    return any(step.text("into") == child.part for parent in parents for step in parent.steps if not step.proposed)


def _homeless(design: Design, sheet: SheetPlan) -> list[str]:
    """The headers of a sheet that stand in no table."""
    family = [sheet.name, *(one.name for one in design.sheets if one.of == sheet.name)]
    known = {*sheet.leave_out, *(name for one in family for _, _, name in design.headers_of(one))}
    return [name for name in _names(design, sheet) if name not in known]


def _names(design: Design, sheet: SheetPlan) -> tuple[str, ...]:
    """The names of the columns of a sheet, as its steps, or those of the sheet that it is a part of, say them."""
    if sheet.of is None:
        return resolve.headers(sheet)
    steps = (step for one in design.sheets if one.name == sheet.of for step in one.steps)
    taken = next((step for step in steps if step.text("into") == sheet.part), None)
    if taken is None:
        return ()
    return taken.texts("names") if taken.act == Act.SIDEWAYS else (taken.text("into"),)


def _taken_home(design: Design, table: TablePlan, name: str, headers: Sequence[str]) -> TablePlan:
    """The table with columns for the headers, in the place of its references to a table that is not there."""
    missing = [one for one in table.columns if one.source is None and one.target and one.target[0] == name]
    gone = {one.name for one in missing}
    if gone & {*table.key} and not len(gone) == len(headers) == 1:
        return table  # no one column could take its place in the key
    columns = [one for one in table.columns if one.name not in gone]
    at = table.columns.index(missing[0]) if missing else len(columns)
    made: list[ColumnPlan] = []
    for header in headers:
        taken = {one.name for one in (*columns, *made)}
        made.append(ColumnPlan(unused(snake(words(header)), taken, "column"), headers=(header,)))
    for other in _alone(design, table) if missing else ():
        taken = {one.name for one in (*columns, *made)}
        made.append(ColumnPlan(unused(other.key[0], taken, "column"), to=other.name))
    return replace(
        table,
        key=tuple(made[0].name if name in gone else name for name in table.key),
        columns=(*columns[:at], *made, *columns[at:]),
        unique=tuple(names for names in table.unique if not gone & {*names}),
        rules=tuple(rule for rule in table.rules if not gone & {*rule.columns}),
    )


def _alone(design: Design, table: TablePlan) -> list[TablePlan]:
    """The tables of the same sheet to which nothing refers any more, as what did is not there."""
    referred = {one.target[0] for other in design.tables for one in other.columns if one.target}
    of_rows = (one for one in design.tables_of(table.sheet) if one.grain is Grain.VALUE)
    return [
        one
        for one in of_rows
        if one.name not in referred and one is not table and not any(c.lowest for c in one.columns)
    ]


def _with_table(design: Design, table: TablePlan) -> Design:
    return replace(design, tables=tuple(table if one.name == table.name else one for one in design.tables))
