"""Sheets that tell of the same things → one table of these, and of each sheet which of them it lists.

trees (tree_no, species, planted, girth)    register (tree_no → trees)    survey (tree → trees, kind: where it differs)
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.draft.naming import unused
from hemplit.core.model.design import ColumnPlan, SheetPlan, TablePlan
from hemplit.core.model.grid import EMPTY
from hemplit.core.same import differing, headers_in, rows_of_things, united
from hemplit.core.study import study
from hemplit.core.study.same import Alike, same_things
from hemplit.core.words import snake, stem_of, words

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from hemplit.core.model.findings import Findings, Link
    from hemplit.core.model.relation import Relation

#: So many cells that contradict another sheet are shown with the design.
SHOWN = 3


@dataclass(frozen=True)
class United:
    """Sheets that tell of the same things: as one sheet, with its relation and findings, and the evidence in words."""

    plan: SheetPlan
    relation: Relation
    findings: Findings
    why: tuple[str, ...]

    @property
    def key(self) -> tuple[str, ...]:
        """The headers that name the things."""
        return tuple(group[0] for group in self.plan.same[: self.plan.by])


def unions(links: Sequence[Link], relations: Mapping[str, Relation], taken: Sequence[str]) -> tuple[United, ...]:
    """The sheets that tell of the same things, those that list more of them first."""
    groups: list[dict[str, tuple[str, ...]]] = []
    same: list[list[dict[str, str]]] = []
    why: list[list[str]] = []
    for link, alike in same_things(links, dict(relations)):
        sides = {link.child: link.headers, link.parent: link.key}
        known = next((group for group in groups if group.keys() & sides.keys()), None)
        if known is None:
            groups.append(dict(sides))
            same.append([])
            why.append([])
            known = groups[-1]
        if any(known.get(name, key) != key for name, key in sides.items()):
            continue
        known |= sides
        place = groups.index(known)
        for one in alike:
            _join(same[place], {link.child: one.header, link.parent: one.other})
        why[place].append(_why(link, alike, relations))
    made: list[United] = []
    for group, columns, reasons in zip(groups, same, why, strict=True):
        order = tuple(sorted(group, key=lambda name: _rank(relations[name], group[name], name)))
        by = tuple(zip(*(group[name] for name in order), strict=True))
        rest = tuple(tuple(one.get(name, "") for name in order) for one in columns)
        name = unused("_and_".join(order), {*taken, *(one.plan.name for one in made)}, "things")
        plan = SheetPlan(name, "", unites=order, same=(*by, *rest), by=len(by))
        relation = united(plan, relations)
        found = replace(study(relation, depth=2), computed=(), bands=())
        made.append(United(plan, relation, found, tuple(reasons)))
    return tuple(made)


def _rank(relation: Relation, key: Sequence[str], name: str) -> tuple[object, ...]:
    """The sheet that lists the most comes first, of two alike the one whose headers say what it lists."""
    return -relation.row_count, -len(relation.names), not any(stem_of(header) for header in key), name


def _join(columns: list[dict[str, str]], pair: dict[str, str]) -> None:
    """Puts two headers of one meaning with those that are known to have it; a sheet has each only once."""
    known = next((one for one in columns if one.items() & pair.items()), None)
    if known is None:
        columns.append(dict(pair))
    elif all(known.get(sheet, header) == header for sheet, header in pair.items()):
        known.update(pair)


def _why(link: Link, alike: Sequence[Alike], relations: Mapping[str, Relation]) -> str:
    titles = [relations[name].source.title for name in (link.child, link.parent)]
    said = " and ".join(
        f"'{one.header}' says what '{one.other}' says in {_of(one.agreed, one.rows)} rows" for one in alike
    )
    keys = [" + ".join(f"'{one}'" for one in names) for names in (link.headers, link.key)]
    shared = f"{_of(link.known, link.different)} {keys[0]} of {titles[0]} are {keys[1]} of {titles[1]}"
    return f"{shared}, and {said}"


def _of(some: int, of: int) -> str:
    return f"all {of:,}" if some == of else f"{some:,} of {of:,}"


def listing(one: United, sheet: str, base: TablePlan, relations: Mapping[str, Relation], taken: set[str]) -> TablePlan:
    """The table of the rows of one of the sheets: which things it lists, and what it says of them that differs."""
    relation = relations[sheet]
    name = unused(f"{sheet}_rows", taken, "rows")
    taken.add(name)
    place = one.plan.unites.index(sheet)
    columns = [
        _reference(group[place], header, base, relation, single=one.plan.by == 1)
        for group, header in zip(one.plan.same[: one.plan.by], one.key, strict=True)
    ]
    key = tuple(column.name for column in columns)
    names = {each: relations[each].names for each in one.plan.unites}
    given = headers_in(one.plan, names)
    rows = rows_of_things(one.plan, relations)[sheet]
    for header in relation.names:
        own, whole = relation.by_name[header], one.relation.by_name[given[sheet, header]]
        differs = np.flatnonzero(differing(own, whole, rows))
        if not len(differs):
            continue
        blank = bool((own.codes[differs] == EMPTY).any())
        shown = ", ".join(f"{relation.address(row, own)}" for row in differs[:SHOWN].tolist())
        more = ", …" if len(differs) > SHOWN else ""
        columns.append(
            ColumnPlan(
                unused(snake(words(header)), {column.name for column in columns}, "said"),
                own.kind,
                header,
                unlike=None if blank else columns[0].name,
                why=f"another sheet says something else: {shown}{more}",
            )
        )
    why = f"which of the {base.name} {relation.source.title} lists: one row per row of the sheet"
    return TablePlan(name, sheet, "record", key, tuple(columns), each_row=True, why=why)


def _reference(header: str, named: str, base: TablePlan, relation: Relation, *, single: bool) -> ColumnPlan:
    """The column that says which of the things a row tells of."""
    natural = next((column.name for column in base.columns if column.source == named), base.key[0])
    name = snake(words(header)) or natural
    if single and natural not in base.key:
        name = base.key[0]
    to = base.name if single else f"{base.name}.{natural}"
    kind = relation.by_name[header].kind
    return ColumnPlan(name, kind, header, to, required=True, why=f"one of the {base.name}")
