"""Sheets that tell of the same things → one table of these, and of each sheet which of them it lists.

trees (tree_no, species, planted, girth)    register (tree_no → trees)    survey (tree → trees, kind: where it differs)
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.design import resolve
from hemplit.core.draft.keys import base_key
from hemplit.core.draft.met import is_met
from hemplit.core.model.design import ColumnPlan, Grain, Purpose, SheetPlan, TablePlan
from hemplit.core.model.grid import EMPTY
from hemplit.core.study import study
from hemplit.core.study.same import Alike, same_things
from hemplit.core.tables.same import differing, headers_in, rows_of_things, united
from hemplit.core.texts.words import shown_together, snake, stem_of, unused, words
from hemplit.dataclasses import dataclass, replace

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from hemplit.core.model.findings import Findings, Link
    from hemplit.core.model.relation import Relation

#: So many cells that contradict another sheet are shown with the design.
SHOWN = 3
#: A year in the name of a sheet, and the month if that follows.
DATE = re.compile(r"(?<!\d)((?:19|20)\d\d)(?!\d)(?:[-_ .]?(0\d|1[012])(?!\d))?")


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

    @property
    def called(self) -> tuple[str, ...]:
        """The words for the things: from a header that names them, else what the sheets are called in common."""
        said = [stem_of(header) for header in self.plan.same[0]] if self.plan.by == 1 else []
        names = [words(name) for name in self.plan.unites]
        last = names[0][-1:] if all(name[-1:] == names[0][-1:] for name in names) else ()
        return next(filter(None, said), last)


def unions(
    links: Sequence[Link], relations: Mapping[str, Relation], findings: Mapping[str, Findings]
) -> tuple[United, ...]:
    """The sheets that tell of the same things, newer ones first, or else those that list more of them.

    A sheet that tells what happened lists none of the things that it speaks of, though each came once so far.
    """
    links = [one for one in links if not any(_is_met(findings[name], key) for name, key in _sides(one))]
    good = {name: base_key(found, ()) for name, found in findings.items()}
    links = sorted(links, key=lambda one: -sum((one.headers == good[one.child], one.key == good[one.parent])))
    groups: list[dict[str, tuple[str, ...]]] = []
    same: list[list[dict[str, str]]] = []
    why: list[list[str]] = []
    for link, alike in same_things(links, dict(relations)):
        sides = dict(_sides(link))
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
        dates = {name: _date(relations[name].source.title) for name in order}
        if all(dates.values()):
            order = tuple(sorted(order, key=lambda name: dates[name], reverse=True))  # the newer sheet is right
        by = tuple(zip(*(group[name] for name in order), strict=True))
        rest = tuple(tuple(one.get(name, "") for name in order) for one in columns)
        name = unused("_and_".join(order), {*findings, *(one.plan.name for one in made)}, "things")
        plan = SheetPlan(name, "", unites=order, same=(*by, *rest), by=len(by))
        relation = united(plan, relations)
        found = replace(study(relation, depth=2), computed=(), bands=())
        made.append(United(plan, relation, found, tuple(reasons)))
    return tuple(made)


def _sides(link: Link) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """The two sheets of a link, each with the headers by which it names the things."""
    return (link.child, link.headers), (link.parent, link.key)


def _is_met(findings: Findings, headers: Sequence[str]) -> bool:
    return len(headers) == 1 and is_met(findings.by_name[headers[0]], findings)


def _date(title: str) -> str:
    """The year in the title of a sheet, and the month behind it.

    >>> _date("boats-2025.csv"), _date("insured 2026_04.xlsx"), _date("yard.xlsx [Boats]")
    ('2025', '2026-04', '')
    """
    found = DATE.search(title)
    return "-".join(filter(None, found.groups())) if found else ""


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
    keys = [shown_together(names) for names in (link.headers, link.key)]
    shared = f"{_of(link.known, link.different)} {keys[0]} of {titles[0]} are {keys[1]} of {titles[1]}"
    return f"{shared}, and {said}"


def _of(some: int, of: int) -> str:
    return f"all {of:,}" if some == of else f"{some:,} of {of:,}"


def listing(one: United, sheet: str, base: TablePlan, relations: Mapping[str, Relation], taken: set[str]) -> TablePlan:
    """The table of the rows of one of the sheets: which things it lists, and what it says of them that differs."""
    relation = relations[sheet]
    name = unused(f"{sheet}_rows", taken, "rows")
    taken.add(name)
    columns = _references(one, sheet, base, relation)
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
                (header,),
                unlike=None if blank else columns[0].name,
                why=f"another sheet says something else: {shown}{more}",
            )
        )
    why = f"which of the {base.name} {relation.source.title} lists: one row per sheet row"
    return TablePlan(name, sheet, Purpose.MAIN, key, tuple(columns), grain=Grain.ROW, why=why)


def _references(one: United, sheet: str, base: TablePlan, relation: Relation) -> list[ColumnPlan]:
    """The columns that say which of the things a row tells of."""
    place = one.plan.unites.index(sheet)
    headers = [group[place] for group in one.plan.same[: one.plan.by]]
    named = _columns_of(base, one.key)
    why = f"one of the {base.name}"
    if named == base.key and len(named) > 1:
        return [
            ColumnPlan(
                snake(words(header)) or name,
                relation.by_name[header].kind,
                (header,),
                f"{base.name}.{name}",
                required=True,
                why=why,
            )
            for header, name in zip(headers, named, strict=True)
        ]
    by_key = named == base.key
    name = snake(words(headers[0])) if by_key else base.key[0]
    usual = by_key or named == resolve.identity(base)
    made = ColumnPlan(
        name or base.key[0], relation.by_name[headers[0]].kind, tuple(headers), base.name, required=True, why=why
    )
    return [replace(made, named_by=() if usual else named)]


def _columns_of(base: TablePlan, headers: Sequence[str]) -> tuple[str, ...]:
    """The columns of a table in which headers stand, or that refer to what they name."""
    own = {column.source: column.name for column in base.columns if column.source is not None}
    referring = next((name for name in base.key if base.by_name[name].source is None), base.key[0])
    return tuple(own.get(header, referring) for header in headers)


def known_by(one: United, base: TablePlan) -> TablePlan:
    """The table of the things, in which what names them in the sheets is unique."""
    named = _columns_of(base, one.key)
    if named == base.key or named in base.unique:
        return base
    return replace(base, unique=(*base.unique, named))
