"""Design × findings × relations → reasons: why a table or a column is as it is, what else was considered, and the story
from the flat sheet to the last normal form, shown on the sheet's own rows.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import reduce
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core import kinds, resolve
from hemplit.core.codes import Grouping, combine
from hemplit.core.draft.judge import judge, weight
from hemplit.core.draft.keys import base_key
from hemplit.core.draft.lookups import why_no_lookup
from hemplit.core.draft.sorts import can_decide, is_code, is_homonym, why_never, why_not_deciding
from hemplit.core.model.design import FORMS
from hemplit.core.model.grid import EMPTY
from hemplit.core.refusals import all_of
from hemplit.core.resolve import identity
from hemplit.errors import DesignError, nearest

if TYPE_CHECKING:
    from collections.abc import Mapping

    from hemplit.core.draft.judge import Verdict
    from hemplit.core.model.design import ColumnPlan, Design, Passage, TablePlan
    from hemplit.core.model.findings import ColumnFacts, Findings, Formula
    from hemplit.core.model.relation import Relation

#: So many places, and so many dependencies that were not followed, are named.
PLACES = 4
LISTED = 6
TITLES = {
    "first": "First normal form: one value in a cell, no repeating groups",
    "second": "Second normal form: nothing hangs on a part of the key",
    "third": "Third normal form: nothing but the key decides anything (Boyce–Codd form where no dependency is lost)",
    "fourth": "Fourth normal form: no two independent lists under one key",
}
PURPOSES = {
    "record": "one row for each event or measure that the sheet records",
    "thing": "one row for each thing, with what is to be said of it once",
    "lookup": "a list of names to choose from, so that each is written in one place",
    "junction": "which things go together, with what belongs to the pair",
    "band": "classes by the lower limits of a number",
}


@dataclass(frozen=True)
class Anomaly:
    """A change that a person would make, and in how many cells of the sheet and of the tables."""

    header: str
    lead: str
    value: str
    cells: int
    places: tuple[str, ...]


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
class Story:
    """The way of a whole design."""

    flats: tuple[Flat, ...]
    chapters: tuple[Chapter, ...]
    independent: tuple[str, ...]
    computed: tuple[tuple[str, Formula], ...]
    not_followed: tuple[str, ...]
    more_not_followed: int


@dataclass(frozen=True)
class Reasons:
    """Of a table or a column: what it is, the evidence, what else was considered; ``place`` is where it is edited."""

    place: str
    title: str
    evidence: tuple[str, ...]
    considered: tuple[str, ...]
    anomaly: Anomaly | None = None


def story(design: Design, findings: Mapping[str, Findings], relations: Mapping[str, Relation]) -> Story:
    """The story of the design, whose sheets' findings and relations are given by their names."""
    flats = []
    findings = {name: found for name, found in findings.items() if design.united(name) is None}
    for sheet in design.sheets:
        if sheet.of is None and sheet.name in findings:
            found = findings[sheet.name]
            stored = _stored_cells(design, sheet.name, relations[sheet.name])
            cells = sum(facts.filled for facts in found.columns)
            flats.append(Flat(found.source.title, found.row_count, len(found.columns), max(cells - stored, 0)))
    tables = [table.name for table in design.tables if table.each_row and _sheet_is_whole(design, table)]
    tables += [sheet.name for sheet in design.sheets if design.lists_of(sheet.name)]
    chapters = []
    for form in FORMS:
        passages = [one for one in design.trail if one.form == form and one.table in design.by_name]
        passings = tuple(_passing(design, one, relations) for one in passages)
        chapters.append(Chapter(TITLES[form], tuple(tables), passings))
        tables += [one.table for one in passages]
    sharing = [name for name in findings if not design.lists_of(name)]
    free = tuple(line for name in sharing for line in _independent(findings[name]))
    rest = [line for name in findings for line in _not_followed(design, name, findings[name])]
    more = max(len(rest) - LISTED, 0)
    return Story(tuple(flats), tuple(chapters), free, _computed(design), tuple(rest[:LISTED]), more)


def _sheet_is_whole(design: Design, table: TablePlan) -> bool:
    return any(sheet.name == table.sheet and sheet.of is None for sheet in design.sheets)


def _stored_cells(design: Design, sheet: str, relation: Relation) -> int:
    """How many cells the tables of a sheet hold of it."""
    cells = 0
    for table in design.tables_of(sheet):
        headers = [header for column in table.stored if column.to is None for header in column.sources]
        if table.each_row:
            cells += sum(relation.by_name[header].filled for header in headers if header in relation.by_name)
        else:
            rows = _rows_of(design, table, relation)
            cells += rows * sum(bool(column.sources) and column.to is None for column in table.stored)
    return cells


def _rows_of(design: Design, table: TablePlan, relation: Relation) -> int:
    if table.some_of is not None:
        own = [column for column in table.stored if column.name not in table.key]
        headers = [column.source or _through(design, column) for column in own]
        return max((relation.by_name[name].filled for name in headers if name in relation.by_name), default=0)
    lead = _lead(design, table)
    return max((len(relation.by_name[header].values) for header in lead if header in relation.by_name), default=0)


def _lead(design: Design, table: TablePlan) -> tuple[str, ...]:
    """The headers that tell one row of a table from another."""
    headers = (resolve.source(design, table, table.by_name[name]) for name in identity(table))
    return tuple(header for header in headers if header is not None)


def _passing(design: Design, passage: Passage, relations: Mapping[str, Relation]) -> Passing:
    table = design.by_name[passage.table]
    return Passing(passage, _anomaly(design, table, passage.headers, relations[table.sheet]))


def _anomaly(design: Design, table: TablePlan, headers: tuple[str, ...], relation: Relation) -> Anomaly | None:
    """The change of the first header in the row of the sheet's commonest such thing."""
    lead = _lead(design, table)
    known = tuple(name for name in headers if name in relation.by_name)
    if table.list_of is not None and known:
        # An entry of a list stands in the sheet with every entry of the others.
        owner = _lead(design, design.by_name[table.list_of])
        return _commonest(relation, (*owner, known[0]), known[0])
    changed = next((name for name in known if name not in lead), None)
    if changed is None or len(lead) != 1 or table.each_row or table.some_of is not None:
        return None
    return _commonest(relation, lead, changed)


def _commonest(relation: Relation, lead: tuple[str, ...], changed: str) -> Anomaly | None:
    """The change of a column where the most rows agree in ``lead``."""
    if not set(lead) <= set(relation.by_name):
        return None
    columns = [relation.by_name[name] for name in lead]
    filled = np.flatnonzero(all_of([column.codes != EMPTY for column in columns], relation.row_count))
    if not len(filled):
        return None
    groups = reduce(combine, (Grouping(column.codes[filled], len(column.values)) for column in columns))
    rows = filled[groups.codes == np.bincount(groups.codes).argmax()]
    values = (kinds.show(column.values[int(column.codes[rows[0]])].as_py(), column.kind) for column in columns)
    places = tuple(relation.address(int(row), relation.by_name[changed]) for row in rows[:PLACES])
    return Anomaly(changed, " + ".join(lead), " + ".join(values), len(rows), places)


def _computed(design: Design) -> tuple[tuple[str, Formula], ...]:
    return tuple(
        (str(column.source), column.formula)
        for table in design.tables
        for column in table.columns
        if column.formula and not column.store
    )


def _independent(found: Findings) -> list[str]:
    """The lists that combine freely under one column, and share a table all the same."""
    return [
        f"under each '{one.left[0]}' {' and '.join(' + '.join(part) for part in one.parts)} combine freely"
        f" ({found.source.title}); they still share a table"
        for one in found.multivalued
    ]


def _verdicts(design: Design, sheet: str, found: Findings) -> tuple[Verdict, ...]:
    """What was decided of each candidate of a sheet, the best first."""
    computed = {
        column.source or ""
        for table in design.tables_of(sheet)
        for column in table.columns
        if column.formula is not None
    }
    verdicts = judge(found, base_key(found, computed), computed)
    return tuple(sorted(verdicts, key=lambda one: (-weight((*one.of_thing, *one.of_pair)), one.left, one.right)))


def _not_followed(design: Design, sheet: str, found: Findings) -> list[str]:
    """The dependencies of single columns that hold and were not followed, those that look best first."""
    dropped = [one for one in _verdicts(design, sheet, found) if len(one.left) == 1 and not one.believed]
    return [f"'{one.left[0]}' decides '{one.right}': {_verdict(one.left, one.right, one, found)}" for one in dropped]


def _verdict(left: tuple[str, ...], right: str, decided: Verdict | None, found: Findings) -> str:
    """Why a dependency that holds was not followed."""
    if left in found.keys:
        return "it tells all rows apart, and so decides everything"
    if any((band.by, band.name) == (left[0], right) for band in found.bands):
        return "as a class follows from ranges of a number"
    if any(other.left == (right,) and other.right == left[0] for other in found.dependencies):
        return "the two identify the same thing"
    if decided is not None:
        return decided.why_not or "something nearer decides both"
    return why_never(found.by_name[left[0]]) or f"no row repeats a '{left[0]}', so that none could say otherwise"


def _table(design: Design, name: str) -> TablePlan:
    if name not in design.by_name:
        raise DesignError(f"tables.{name}", f"there is no table '{name}'", nearest(name, design.by_name))
    return design.by_name[name]


def of_table(design: Design, name: str, findings: Mapping[str, Findings], relations: Mapping[str, Relation]) -> Reasons:
    """Why a table is there, and why its key is its key. Raises ``DesignError`` if there is none of that name."""
    table = _table(design, name)
    found, relation = findings[table.sheet], relations[table.sheet]
    lead = _lead(design, table)
    evidence = [*([table.why] if table.why else []), *_told_together(design, table, relations)]
    own = [one for one in found.dependencies if len(one.left) == 1 and one.left[0] in lead and one.evidence]
    headers = tuple(header for column in table.columns for header in column.sources)
    for one in own:
        if one.right in headers and one.evidence and one.evidence.pairs:
            evidence.append(
                f"'{one.left[0]}' decides '{one.right}' in all {one.evidence.groups + one.evidence.repeats:,} rows:"
                f" {one.evidence.pairs:,} pairs of rows could have contradicted it and none does"
                f" (by chance: 1 in 10^{max(round(-one.evidence.chance), 0):,})"
            )
    if table.some_of is not None:
        evidence += _condition(table, found)
    if table.each_row and len(lead) == 1 and lead in found.keys:
        evidence.append(f"no two of the {found.row_count:,} rows have the same '{lead[0]}'")
    evidence += [
        f"'{band.name}' follows from '{band.by}': " + ", ".join(f"{name} from {limit}" for limit, name in band.limits)
        for band in found.bands
        if table.purpose == "band" and band.name in headers
    ]
    evidence += [f"it came out of {one.out_of}: {one.why}" for one in design.trail if one.table == name]
    evidence += [
        f"{other.name} refers to it by {' + '.join(reference.columns)}"
        for other in design.tables
        for reference in resolve.references(design, other)
        if reference.table == name
    ]
    anomaly = _anomaly(design, table, headers, relation)
    title = f"{name} is a {table.purpose}: {PURPOSES[table.purpose]}"
    considered = () if design.united(table.sheet) else tuple(_keys(design, table, found, relation))
    return Reasons(f"tables.{name}", title, tuple(evidence), considered, anomaly)


def _told_together(design: Design, table: TablePlan, relations: Mapping[str, Relation]) -> list[str]:
    """What several sheets have to do with a table."""
    plan = next(sheet for sheet in design.sheets if sheet.name == table.sheet)
    titles = {name: relations[name].source.title for name in plan.unites}
    if plan.unites and table.each_row:
        lines = [f"{' and '.join(titles.values())} tell of these, and it has what all of them say"]
        for place, group in enumerate(plan.same):
            said = ", ".join(
                f"'{header}' of {titles[name]}" for name, header in zip(plan.unites, group, strict=True) if header
            )
            lines.append(f"{said}: " + ("names them" if place < plan.by else "says the same"))
        return lines
    united = design.united(table.sheet)
    if united is None:
        return []
    base = design.base_of(united.name).name
    return [
        f"it says which of the {base} {relations[table.sheet].source.title} lists; what is said of them stands there"
    ]


def _condition(table: TablePlan, found: Findings) -> list[str]:
    """Where the columns are filled that stand in a table of their own."""
    own = [one for one in found.filled_where if any(one.name in column.sources for column in table.columns)]
    return [
        f"'{one.name}' is filled in {one.rows:,} of {found.row_count:,} rows, exactly where '{one.by}' is "
        + ", ".join(f"'{value}'" for value in one.values)
        for one in own
    ]


def _keys(design: Design, table: TablePlan, found: Findings, relation: Relation) -> list[str]:
    """What could have been the key."""
    chosen = {resolve.source(design, table, table.by_name[name]) for name in table.key}
    lines = [
        f"key {' + '.join(table.key)}: {why}"
        for why in dict.fromkeys(table.by_name[name].why for name in table.key)
        if why
    ]
    if any(table.by_name[name].ids for name in table.key):
        lines.append("its key is made up, and counts the rows in the order in which the sheet speaks of them")
        lead = _lead(design, table)
        if is_homonym(lead):
            lines.append(f"several have the same '{lead[0]}', and '{lead[1]}' tells them apart")
    if table.each_row:
        candidates = [key for key in found.keys if set(key) != chosen]
        for key in candidates[:LISTED]:
            shown = " + ".join(f"'{name}'" for name in key)
            lines.append(f"{shown} would tell the rows apart, too: {_key_verdict(key, found, relation)}")
        return lines
    for columns in table.unique if table.purpose != "band" else ():
        headers = [table.by_name[name].source for name in columns]
        if not chosen.intersection(headers) and all(headers):
            shown = " + ".join(f"'{name}'" for name in headers)
            lines.append(
                f"{shown} is unique as well: {_key_verdict(tuple(str(name) for name in headers), found, relation)}"
            )
    return lines


def _key_verdict(key: tuple[str, ...], found: Findings, relation: Relation) -> str:
    facts = [found.by_name[name] for name in key if name in found.by_name]
    blank = next((one for one in facts if one.blanks), None)
    if blank is not None:
        column = relation.by_name[blank.name]
        rows = np.flatnonzero(column.codes == EMPTY)
        places = ", ".join(relation.address(int(row), column) for row in rows[:PLACES])
        more = ", …" if len(rows) > PLACES else ""
        return f"'{blank.name}' is blank in {blank.blanks:,} rows ({places}{more})"
    unable = next((one for one in facts if not can_decide(one)), None)
    if unable is not None:
        return why_not_deciding(unable)
    if not all(map(is_code, facts)):
        return "it is a name and no code, and may change"
    return "another is shorter or stands before it" if len(key) == 1 else "one column alone does, or it is an accident"


def of_column(
    design: Design, name: str, column_name: str, findings: Mapping[str, Findings], relations: Mapping[str, Relation]
) -> Reasons:
    """Why a column is where it is. Raises ``DesignError`` if there is none of that name."""
    table = _table(design, name)
    if column_name not in table.by_name:
        place = f"tables.{name}.columns.{column_name}"
        raise DesignError(place, f"'{name}' has no column '{column_name}'", nearest(column_name, table.by_name))
    column = table.by_name[column_name]
    found = findings[table.sheet]
    header = column.source or resolve.source(design, table, column) or _through(design, column)
    place = f"tables.{name}.columns.{column_name}"
    if header is None or header not in found.by_name:
        return Reasons(place, f"{name}.{column_name} holds made-up ids", (column.why,) if column.why else (), ())
    facts = found.by_name[header]
    listed = design.united(table.sheet) is not None
    considered = () if listed else _column_considered(design, table, column, facts, found)
    return Reasons(place, _column_title(table, column, header), _column_evidence(column, facts), considered)


def _through(design: Design, column: ColumnPlan) -> str | None:
    """The header by which the table is known to which a column refers."""
    if column.target is None:
        return None
    lead = _lead(design, design.by_name[column.target[0]])
    return lead[0] if lead else None


def _column_title(table: TablePlan, column: ColumnPlan, header: str) -> str:
    if column.to is not None:
        return f"{table.name}.{column.name} refers to {column.to}, by '{header}'"
    if not column.store:
        return f"{table.name}.{column.name} is '{header}', which the view computes"
    if column.unlike is not None:
        return f"{table.name}.{column.name} keeps the cells of '{header}' that differ from what another sheet says"
    return f"{table.name}.{column.name} is '{header}'"


def _column_evidence(column: ColumnPlan, facts: ColumnFacts) -> tuple[str, ...]:
    lines = [column.why] if column.why else []
    such = ", ".join(facts.examples)
    lines.append(
        f"{facts.kind.word}, {facts.distinct:,} different values in {facts.filled:,} filled cells, such as {such}"
    )
    if column.required:
        lines.append("required: no cell is blank where there is such a row")
    elif facts.blanks:
        lines.append(f"may be blank: {facts.blanks:,} cells are")
    return tuple(lines)


def _column_considered(
    design: Design, table: TablePlan, column: ColumnPlan, facts: ColumnFacts, found: Findings
) -> tuple[str, ...]:
    lead = set(_lead(design, table))
    pairs = {(one.left[0], one.right) for one in found.dependencies if len(one.left) == 1}
    alike = {left for left, right in pairs if right in lead and (right, left) in pairs} - lead
    verdicts = {(one.left, one.right): one for one in _verdicts(design, table.sheet, found)}
    lines = []
    for one in found.dependencies:
        if one.right == facts.name and len(one.left) == 1:
            left = one.left[0]
            if left in alike:
                lines.append(f"'{left}' decides it as well, and identifies the same thing")
            elif left in lead:
                lines.append(f"'{left}' decides it, which is why it stands here")
            else:
                decided = verdicts.get((one.left, one.right))
                lines.append(f"'{left}' decides it as well: {_verdict(one.left, one.right, decided, found)}")
    if not any(one.right == facts.name and one.left for one in found.dependencies) and not table.each_row:
        lines.append("no other single column decides it")
    if column.to is None and column.store:
        reason = why_no_lookup(facts, facts.rows)
        if reason:
            lines.append(f"no lookup table: {reason}")
    return tuple(lines)
