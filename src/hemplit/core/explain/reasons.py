"""Why a table or a column is as it is, with the evidence in the sheet, and what else was considered."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.design import resolve
from hemplit.core.draft.lookups import why_no_lookup
from hemplit.core.draft.sorts import can_decide, is_code, is_homonym, why_not_deciding
from hemplit.core.explain.across import why_across
from hemplit.core.explain.anomaly import LISTED, PLACES, Anomaly, anomaly_of, lead_of, through
from hemplit.core.explain.exceptions import exceptions
from hemplit.core.explain.present import present_trail
from hemplit.core.explain.verdicts import said_of, verdicts_of
from hemplit.core.model.design import Feed, Grain, Purpose
from hemplit.core.model.findings import Strength, strength_of
from hemplit.core.model.grid import EMPTY
from hemplit.core.texts.words import shown_together
from hemplit.dataclasses import dataclass
from hemplit.errors import DesignError, nearest

if TYPE_CHECKING:
    from collections.abc import Mapping

    from hemplit.core.model.design import ColumnPlan, Design, TablePlan
    from hemplit.core.model.findings import ColumnFacts, Findings
    from hemplit.core.model.relation import Relation
PURPOSES = {
    Purpose.MAIN: "one row for each row of the sheet",
    Purpose.ENTITY: "one row for each thing that the rows speak of, with all that depends on it",
    Purpose.DETAIL: "one row for each entry of a list or a group",
    Purpose.LOOKUP: "a list of names to choose from, so that each is written in one place",
    Purpose.JUNCTION: "which things go together, with what belongs to the pair",
    Purpose.RANGE: "classes by ranges of a number",
}


@dataclass(frozen=True)
class Reasons:
    """Of a table or a column: what it is, the evidence, what else was considered; ``place`` is where it is edited."""

    place: str
    title: str
    evidence: tuple[str, ...]
    considered: tuple[str, ...]
    anomaly: Anomaly | None = None


def _table(design: Design, name: str) -> TablePlan:
    if name not in design.by_name:
        raise DesignError(f"tables.{name}", f"there is no table '{name}'", nearest(name, design.by_name))
    return design.by_name[name]


def of_table(design: Design, name: str, findings: Mapping[str, Findings], relations: Mapping[str, Relation]) -> Reasons:
    """Why a table is there, and why its key is its key. Raises ``DesignError`` if there is none of that name."""
    table = _table(design, name)
    found, relation = findings[table.sheet], relations[table.sheet]
    lead = lead_of(design, table)
    evidence = [*([table.why] if table.why else []), *_told_together(design, table, relations)]
    own = [one for one in found.dependencies if len(one.left) == 1 and one.left[0] in lead and one.evidence]
    headers = tuple(header for column in table.columns for header in column.headers)
    for one in own:
        if one.right in headers and one.evidence and one.evidence.pairs:
            evidence.append(
                f"'{one.left[0]}' determines '{one.right}': it holds in all"
                f" {one.evidence.groups + one.evidence.repeats:,} rows; {_coincidence(one.evidence.chance)}"
            )
    if table.grain is Grain.SUBSET:
        evidence += _condition(table, found)
    if table.grain is Grain.ROW and len(lead) == 1 and lead in found.keys:
        evidence.append(f"no two of the {found.row_count:,} rows have the same '{lead[0]}'")
    evidence += [
        f"'{band.name}' follows from '{band.by}': " + ", ".join(f"{name} from {limit}" for limit, name in band.limits)
        for band in found.bands
        if table.purpose is Purpose.RANGE and band.name in headers
    ]
    evidence += [f"it came out of {one.out_of}: {one.why}" for one in present_trail(design) if one.table == name]
    evidence += [
        f"{other.name} refers to it by {' + '.join(reference.columns)}"
        for other in design.tables
        for reference in resolve.references(design, other)
        if reference.table == name
    ]
    anomaly = anomaly_of(design, table, headers, relation)
    article = "an" if table.purpose is Purpose.ENTITY else "a"
    title = f"{name} is {article} {table.purpose} table: {PURPOSES[table.purpose]}"
    considered = () if design.united(table.sheet) else tuple(_keys(design, table, found, relation))
    considered += tuple(_nearly(design, name, "", relations))
    return Reasons(f"tables.{name}", title, tuple(evidence), considered, anomaly)


def _told_together(design: Design, table: TablePlan, relations: Mapping[str, Relation]) -> list[str]:
    """What several sheets have to do with a table."""
    plan = design.sheet(table.sheet)
    titles = {name: relations[name].source.title for name in plan.unites}
    if plan.unites and table.grain is Grain.ROW:
        lines = [f"{' and '.join(titles.values())} tell of these, and it has what all of them say"]
        for place, group in enumerate(plan.same):
            said = ", ".join(
                f"'{header}' of {titles[name]}" for name, header in zip(plan.unites, group, strict=True) if header
            )
            lines.append(f"{said}: " + ("names them" if place < plan.by else "says the same"))
        return lines
    united = design.united(table.sheet)
    if len(table.sheets) > 1:
        lines = [f"{' and '.join(relations[name].source.title for name in table.sheets)} fill it"]
        for column in table.columns:
            told = [(name, header) for name in table.sheets for header in table.headers_in(name, column)]
            said = ", ".join(f"'{header}' of {relations[name].source.title}" for name, header in told)
            if column.elsewhere:
                names = column.name in resolve.identity(table)
                lines.append(
                    f"{said}: " + ("names them" if names else "says the same" if len(told) > 1 else "says more")
                )
        return lines
    if united is None:
        return []
    base = design.base_of(united.name).name
    return [
        f"it says which of the {base} {relations[table.sheet].source.title} lists; what is said of them stands there"
    ]


def _coincidence(chance: float) -> str:
    """Whether something may be a coincidence, of which the chance is given as its common logarithm."""
    if strength_of(chance) is Strength.CERTAIN:
        return "no coincidence"
    return f"a coincidence would be 1 in {10**-chance:,.0f}"


def _condition(table: TablePlan, found: Findings) -> list[str]:
    """Where the columns are filled that stand in a table of their own."""
    own = [one for one in found.filled_where if any(one.name in column.headers for column in table.columns)]
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
        lines.append("its key is generated, and counts the rows in the order in which the sheet names them")
        lead = lead_of(design, table)
        if is_homonym(lead):
            lines.append(f"several have the same '{lead[0]}', and '{lead[1]}' distinguishes them")
    if table.grain is Grain.ROW:
        candidates = [key for key in found.keys if set(key) != chosen]
        for key in candidates[:LISTED]:
            shown = shown_together(key)
            lines.append(f"{shown} would identify the rows, too: {_key_verdict(key, found, relation)}")
        return lines
    for columns in table.unique if table.purpose is not Purpose.RANGE else ():
        headers = [table.by_name[name].source for name in columns]
        if not chosen.intersection(headers) and all(headers):
            shown = shown_together(headers)
            # A row of the sheet that leaves it blank speaks of no such thing.
            lines.append(f"{shown} is unique as well: {_key_verdict(tuple(map(str, headers)), found)}")
    return lines


def _key_verdict(key: tuple[str, ...], found: Findings, rows: Relation | None = None) -> str:
    """Why something is not the key, of the ``rows`` of a sheet or else of things."""
    facts = [found.by_name[name] for name in key if name in found.by_name]
    blank = next((one for one in facts if one.blanks), None)
    if blank is not None and rows is not None:
        column = rows.by_name[blank.name]
        blanks = np.flatnonzero(column.codes == EMPTY)
        places = ", ".join(rows.address(int(row), column) for row in blanks[:PLACES])
        more = ", …" if len(blanks) > PLACES else ""
        return f"'{blank.name}' is blank in {blank.blanks:,} rows ({places}{more})"
    unable = next((one for one in facts if not can_decide(one)), None)
    if unable is not None:
        return why_not_deciding(unable)
    if not all(map(is_code, facts)):
        return "it is a name, and may change"
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
    sheet = next((one for one in table.sheets if table.headers_in(one, column)), table.sheet)
    found = findings[sheet]
    said = resolve.source(design, table, column, Feed(sheet))
    header = next(iter(table.headers_in(sheet, column)), None) or said or through(design, column)
    place = f"tables.{name}.columns.{column_name}"
    if header is None or header not in found.by_name:
        return Reasons(place, f"{name}.{column_name} holds made-up ids", (column.why,) if column.why else (), ())
    facts = found.by_name[header]
    listed = design.united(table.sheet) is not None
    elsewhere = listed or column.along is not None
    considered = () if elsewhere else _column_considered(design, table, column, facts, found)
    considered = considered if sheet == table.sheet else ()
    known, others = why_across(design, table, column, findings, relations) if not listed else ([], [])
    evidence = (*known, *_column_evidence(column, facts))
    nearly = _nearly(design, name, column_name, relations)
    return Reasons(place, _column_title(table, column, header), evidence, (*others, *considered, *nearly))


def _nearly(design: Design, table: str, column: str, relations: Mapping[str, Relation]) -> list[str]:
    """What would take a column, or the list that a table is if it is blank, out of the table, but for a few rows."""
    found = [one.near for one in exceptions(design, relations) if (one.table, one.column) == (table, column)]
    return [
        shown_together(near.left) + f" would determine it, but {near.told(breach)}"
        for near in found
        for breach in near.breaches[:PLACES]
    ]


def _column_title(table: TablePlan, column: ColumnPlan, header: str) -> str:
    if column.to is not None:
        return f"{table.name}.{column.name} refers to {column.to}, by '{header}'"
    if column.along is not None:
        reference = table.by_name[column.along[0]]
        given = f"{(reference.target or ('',))[0]}.{column.along[1]}"
        return f"{table.name}.{column.name} is '{header}', which the view takes from {given} along {reference.name}"
    if not column.store:
        return f"{table.name}.{column.name} is '{header}', which the view computes"
    if column.unlike is not None:
        return f"{table.name}.{column.name} keeps the cells of '{header}' that differ from what another sheet says"
    return f"{table.name}.{column.name} is '{header}'"


def _column_evidence(column: ColumnPlan, facts: ColumnFacts) -> tuple[str, ...]:
    lines = [column.why] if column.why else []
    such = ", ".join(facts.examples)
    lines.append(
        f"{facts.kind.word}, {facts.distinct:,} distinct values in {facts.filled:,} filled cells, such as {such}"
    )
    if column.required:
        lines.append("required: no cell is blank where there is such a row")
    elif facts.blanks:
        lines.append(f"may be blank: {facts.blanks:,} cells are")
    return tuple(lines)


def _column_considered(
    design: Design, table: TablePlan, column: ColumnPlan, facts: ColumnFacts, found: Findings
) -> tuple[str, ...]:
    lead = set(lead_of(design, table))
    pairs = {(one.left[0], one.right) for one in found.dependencies if len(one.left) == 1}
    alike = {left for left, right in pairs if right in lead and (right, left) in pairs} - lead
    verdicts = {(one.left, one.right): one for one in verdicts_of(design, table.sheet, found)}
    lines = []
    for one in found.dependencies:
        if one.right == facts.name and len(one.left) == 1:
            left = one.left[0]
            if left in alike:
                lines.append(f"'{left}' determines it as well, and identifies the same thing")
            elif {left} == lead:
                lines.append(f"'{left}' determines it, which is why it stands here")
            else:
                decided = verdicts.get((one.left, one.right))
                lines.append(f"'{left}' determines it as well: {said_of(one.left, one.right, decided, found)}")
    if not any(one.right == facts.name and one.left for one in found.dependencies) and table.grain is not Grain.ROW:
        lines.append("no other single column determines it")
    if column.to is None and column.store:
        reason = why_no_lookup(facts, facts.rows)
        if reason:
            lines.append(f"no lookup table: {reason}")
    return tuple(lines)
