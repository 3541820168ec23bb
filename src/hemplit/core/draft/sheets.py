"""Findings of all sheets → one design: each sheet is drafted by itself, and what was taken out of one refers to it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core import resolve
from hemplit.core.draft.assemble import Around, Drafting
from hemplit.core.draft.dates import with_dates
from hemplit.core.draft.links import meant
from hemplit.core.draft.rules import with_rules
from hemplit.core.draft.unite import united
from hemplit.core.draft.wishes import NO_WISHES, Wishes, check_headers
from hemplit.core.ids import NUMBER, style_of
from hemplit.core.model.design import FORMS, Design, Passage, SheetPlan, TablePlan
from hemplit.core.study.links import links
from hemplit.errors import InputError, nearest

if TYPE_CHECKING:
    from collections.abc import Collection, Mapping, Sequence

    from hemplit.core.model.findings import Findings, Link
    from hemplit.core.model.relation import Relation


def draft(
    findings: Mapping[str, Findings],
    parents: Mapping[str, str] | None = None,
    wishes: Wishes = NO_WISHES,
    relations: Mapping[str, Relation] | None = None,
) -> Design:
    """The design for the sheets, whose findings are given by the name under which the design speaks of each.

    ``parents`` names, for each relation that was taken out of another, that other, which comes first. With the
    ``relations`` the sheets are linked with each other. Raises ``InputError`` for a wish that the sheets contradict.
    """
    check_headers(wishes, findings.values())
    if wishes.ids != NUMBER:
        style_of(wishes.ids)
    each = _drafted(findings, parents or {}, wishes, ())
    meant_links, kinds = _linked(each, findings, relations or {})
    if not meant_links:
        return each
    return united(_drafted(findings, parents or {}, wishes, meant_links, kinds), meant_links, relations or {})


def linked(
    findings: Mapping[str, Findings], parents: Mapping[str, str], relations: Mapping[str, Relation]
) -> tuple[Link, ...]:
    """The links between sheets that a draft follows, as far as their tables allow it."""
    return _linked(_drafted(findings, parents, NO_WISHES, ()), findings, relations)[0]


def _linked(
    each: Design, findings: Mapping[str, Findings], relations: Mapping[str, Relation]
) -> tuple[tuple[Link, ...], frozenset[tuple[str, str]]]:
    """The links that are meant, given the tables of each sheet by itself; and the columns that are lists of values."""
    named = [
        (table.purpose, (table.sheet, str(column.source)))
        for table in each.tables
        for column in table.columns
        if table.purpose in ("thing", "lookup") and resolve.identity(table) == (column.name,)
        if column.source and not column.to
    ]
    kinds = frozenset(one for purpose, one in named if purpose == "lookup")
    return meant(links(relations, findings, {one for _, one in named}), findings, kinds), kinds


def _drafted(
    findings: Mapping[str, Findings],
    parents: Mapping[str, str],
    wishes: Wishes,
    meant_links: Sequence[Link],
    kinds: Collection[tuple[str, str]] = (),
) -> Design:
    """Each sheet by itself, with what the links say of its columns; ``kinds`` are those that are lists of values."""
    taken: set[str] = set()
    tables: list[TablePlan] = []
    sheets = []
    trail: list[Passage] = []
    for sheet, found in findings.items():
        parent = parents.get(sheet)
        children = [child for child, of in parents.items() if of == sheet]
        key = findings[children[0]].of if children else ()
        referred = frozenset(
            one.key
            for one in meant_links
            if one.parent == sheet and (len(one.key) > 1 or (sheet, *one.key) not in kinds)
        )
        inward = frozenset(one.headers[0] for one in meant_links if one.child == one.parent == sheet)
        linked = {name for one in meant_links if one.child == sheet for name in one.headers}
        linked |= {name for key_of_link in referred for name in key_of_link}
        around = Around(key, _upward(tables, parent, found.of), referred, inward, frozenset(linked))
        drafting = Drafting(sheet, found, taken, around, wishes)
        above = next((table.name for table in tables if table.sheet == parent and table.each_row), None)
        made = with_rules(drafting.tables(), found)
        tables += with_dates(made, sheet, taken) if wishes.dates else made
        trail += drafting.trail(above)
        of_file = (found.source.path, found.source.sheet, found.steps) if parent is None else ("", None, ())
        sheets.append(SheetPlan(sheet, *of_file, of=parent, part=found.source.part if parent else ""))
    _check_keys(wishes, tables)
    trail.sort(key=lambda passage: FORMS.index(passage.form))
    return Design(tuple(sheets), tuple(tables), tuple(trail))


def _check_keys(wishes: Wishes, tables: Sequence[TablePlan]) -> None:
    """Whether each wished-for key became one."""
    by_name = {table.name: table for table in tables}
    for name, header in wishes.keys:
        where = f"key {name}={header}"
        if name not in by_name:
            raise InputError(where, f"there is no table '{name}'", nearest(name, by_name))
        table = by_name[name]
        if {table.by_name[column].source for column in table.key} != {header}:
            what = f"'{header}' does not tell the rows of '{name}' apart, or is blank in some"
            raise InputError(where, what, "choose another")


def _upward(tables: Sequence[TablePlan], parent: str | None, of: Sequence[str]) -> dict[str, str]:
    """What the columns that a relation shares with its parent refer to, if they are the key of the parent's rows."""
    base = next((table for table in tables if table.sheet == parent and table.each_row), None)
    if base is None or {base.by_name[name].source for name in base.key} != set(of):
        return {}
    single = len(base.key) == 1
    return {str(base.by_name[name].source): base.name if single else f"{base.name}.{name}" for name in base.key}
