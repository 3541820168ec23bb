"""The story of a design, normal form by normal form: what came out of what, and why the rest stayed."""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa

from hemplit.core.columns.codes import combine, first_rows, with_blank
from hemplit.core.design import resolve
from hemplit.core.explain.anomaly import LISTED, Anomaly, anomaly_of, through
from hemplit.core.explain.present import present_trail, sheet_of
from hemplit.core.explain.verdicts import said_of, verdicts_of
from hemplit.core.model.arrays import taken
from hemplit.core.model.design import FORMS, Grain
from hemplit.core.model.grid import EMPTY
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Mapping

    from hemplit.core.model.design import Design, Passage, TablePlan
    from hemplit.core.model.findings import Findings, Formula
    from hemplit.core.model.relation import Column, Relation
TITLES = {
    "first": "First normal form: one value in a cell, no repeating groups",
    "second": "Second normal form: every column depends on the whole key",
    "third": "Third normal form: on nothing but the key (Boyce–Codd form where no dependency is lost)",
    "fourth": "Fourth normal form: no two independent lists under one key",
}


@dataclass(frozen=True)
class Passing:
    """One passage of the trail with the anomaly that it removes."""

    passage: Passage
    anomaly: Anomaly | None


@dataclass(frozen=True)
class Chapter:
    """One normal form: the tables that there were before, and the passages that led to it."""

    title: str
    before: tuple[str, ...]
    passings: tuple[Passing, ...]


@dataclass(frozen=True)
class Flat:
    """A sheet before anything was done: its size, and how many of its cells say again what its tables say once."""

    title: str
    rows: int
    columns: int
    again: int


@dataclass(frozen=True)
class Taken:
    """Headers whose cells the view takes from what another sheet lists, by the header that names it there."""

    headers: tuple[str, ...]
    list_name: str
    by: str


@dataclass(frozen=True)
class Story:
    """The way of a whole design."""

    flats: tuple[Flat, ...]
    chapters: tuple[Chapter, ...]
    independent: tuple[str, ...]
    computed: tuple[tuple[str, Formula], ...]
    taken: tuple[Taken, ...]
    not_followed: tuple[str, ...]
    more_not_followed: int


def story(design: Design, findings: Mapping[str, Findings], relations: Mapping[str, Relation]) -> Story:
    """The story of the design, whose sheets' findings and relations are given by their names."""
    flats = []
    findings = {name: found for name, found in findings.items() if design.united(name) is None}
    for sheet in design.sheets:
        if sheet.of is None and sheet.name in findings:
            found = findings[sheet.name]
            stored = _stored_cells(design, sheet.name, relations[sheet.name])
            cells = sum(facts.filled for facts in found.columns)
            parts = [relations[one.name] for one in design.sheets if one.of == sheet.name]
            again = max(cells - stored, 0) + sum(len(rows) for part in parts for _, rows in part.said_again())
            flats.append(Flat(found.source.title, found.row_count, len(found.columns), again))
    tables = [table.name for table in design.tables if table.grain is Grain.ROW and _sheet_is_whole(design, table)]
    tables += [sheet.name for sheet in design.sheets if design.lists_of(sheet.name)]
    chapters = []
    trail = present_trail(design)
    for form in FORMS:
        passages = [one for one in trail if one.form == form]
        passings = tuple(_passing(design, one, relations) for one in passages)
        chapters.append(Chapter(TITLES[form], tuple(tables), passings))
        tables += [name for name in dict.fromkeys(one.table for one in passages) if name not in tables]
    sharing = [name for name in findings if not design.lists_of(name)]
    free = tuple(line for name in sharing for line in _independent(findings[name]))
    rest = [line for name in findings for line in _not_followed(design, name, findings[name])]
    more = max(len(rest) - LISTED, 0)
    return Story(tuple(flats), tuple(chapters), free, _computed(design), _taken(design), tuple(rest[:LISTED]), more)


def _sheet_is_whole(design: Design, table: TablePlan) -> bool:
    return any(sheet.name == table.sheet and sheet.of is None for sheet in design.sheets)


def _stored_cells(design: Design, sheet: str, relation: Relation) -> int:
    """How many cells the tables of a sheet hold of it."""
    cells = 0
    for table in design.tables_of(sheet):
        said = [table.headers_in(sheet, column) for column in table.stored if column.to is None]
        if table.grain is Grain.ROW:
            cells += sum(relation.by_name[one].filled for headers in said for one in headers if one in relation.by_name)
        else:
            rows = rows_of(design, table, {sheet: relation})
            cells += rows * sum(map(bool, said))
    return cells


def rows_of(design: Design, table: TablePlan, relations: Mapping[str, Relation]) -> int:
    """How many rows these sheets give a table that has not one for each of their rows."""
    if table.grain is Grain.SUBSET:
        relation = relations[table.sheet]
        own = [column for column in table.stored if column.name not in table.key]
        headers = [column.source or through(design, column) for column in own]
        return max((relation.by_name[name].filled for name in headers if name in relation.by_name), default=0)
    found = []
    for feed in (one for one in table.feeds if one.sheet in relations):
        relation = relations[feed.sheet]
        headers = [resolve.source(design, table, table.by_name[name], feed) for name in resolve.identity(table)]
        columns = {name: relation.by_name[header] for name, header in enumerate(headers) if header in relation.by_name}
        if columns:
            found.append(_said_together(columns))
    width = max((len(said.column_names) for said in found), default=0)
    whole = [said for said in found if len(said.column_names) == width]
    return pa.concat_tables(whole).group_by(whole[0].column_names).aggregate([]).num_rows if whole else 0


def _said_together(columns: Mapping[int, Column]) -> pa.Table:
    """What columns say together in the rows in which one of them is filled, each once."""
    groups = reduce(combine, (with_blank(column.codes, len(column.values)) for column in columns.values()))
    first = first_rows(groups)
    first = first[first >= 0]
    filled = np.logical_or.reduce([column.codes[first] != EMPTY for column in columns.values()])
    rows = first[filled]
    return pa.table({str(name): taken(column.values, column.codes[rows]) for name, column in columns.items()})


def _passing(design: Design, passage: Passage, relations: Mapping[str, Relation]) -> Passing:
    table = design.by_name[passage.table]
    sheet = sheet_of(design, passage)
    return Passing(passage, anomaly_of(design, table, passage.headers, relations[sheet], sheet))


def _computed(design: Design) -> tuple[tuple[str, Formula], ...]:
    return tuple(
        (str(column.source), column.formula)
        for table in design.tables
        for column in table.columns
        if column.formula and not column.store
    )


def _taken(design: Design) -> tuple[Taken, ...]:
    found: dict[tuple[str, str], list[str]] = {}
    for table in design.tables:
        for column in table.columns:
            if column.along is not None:
                reference = table.by_name[column.along[0]]
                by = " + ".join(reference.headers) or reference.name
                found.setdefault(((reference.target or ("",))[0], by), []).append(str(column.source))
    return tuple(Taken(tuple(headers), name, by) for (name, by), headers in found.items())


def _independent(found: Findings) -> list[str]:
    """The lists that combine freely under one column, and share a table all the same."""
    return [
        f"under each '{one.left[0]}' {' and '.join(' + '.join(part) for part in one.parts)} combine freely"
        f" ({found.source.title}); they still share a table"
        for one in found.multivalued
    ]


def _not_followed(design: Design, sheet: str, found: Findings) -> list[str]:
    """The dependencies of single columns that hold and were not followed, those that look best first."""
    dropped = [one for one in verdicts_of(design, sheet, found) if len(one.left) == 1 and not one.believed]
    return [f"'{one.left[0]}' determines '{one.right}': {said_of(one.left, one.right, one, found)}" for one in dropped]
