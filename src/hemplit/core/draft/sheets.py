"""Findings of all sheets → one design: each sheet is drafted by itself, then once more with what the others tell.

What was taken out of a sheet refers to it, what another sheet lists is referred to, and sheets that tell of the same
things are drafted as one.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.design.ids import NUMBER, style_of
from hemplit.core.draft.assemble import Drafting
from hemplit.core.draft.dates import with_dates
from hemplit.core.draft.decided import Around, Decided
from hemplit.core.draft.entities import Entity, stem_of_thing
from hemplit.core.draft.freed import with_freed_names
from hemplit.core.draft.links import NO_THINGS, Things, happens, meant, only_speaks
from hemplit.core.draft.naming import singular
from hemplit.core.draft.rules import with_rules
from hemplit.core.draft.same import known_by, listing, unions
from hemplit.core.draft.unite import united
from hemplit.core.draft.wishes import NO_WISHES, Wishes, check_headers
from hemplit.core.model.design import FORMS, ColumnPlan, Design, Grain, Passage, Purpose, SheetPlan, TablePlan
from hemplit.core.study.links import UNIQUE, links
from hemplit.core.texts.words import shown_together, words
from hemplit.dataclasses import dataclass, replace
from hemplit.errors import InputError, nearest

if TYPE_CHECKING:
    from collections.abc import Collection, Mapping, Sequence

    from hemplit.core.draft.same import United
    from hemplit.core.model.findings import Findings, Link
    from hemplit.core.model.relation import Relation


@dataclass(frozen=True)
class Together:
    """How sheets hang together: the links that are meant, the columns that name things which no sheet lists, and the
    sheets that tell of the same things."""

    links: tuple[Link, ...] = ()
    things: Things = NO_THINGS
    unions: tuple[United, ...] = ()
    found: tuple[Link, ...] = ()
    """Those that could be meant."""

    def of(self, sheet: str) -> United | None:
        """What a sheet tells of with others."""
        return next((one for one in self.unions if sheet in one.plan.unites), None)

    @property
    def findings(self) -> dict[str, Findings]:
        """The findings of the sheets that unite others, by name."""
        return {one.plan.name: one.findings for one in self.unions}


APART = Together()


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
    sheets = _Sheets(findings, parents or {}, relations or {}, wishes)
    each = sheets.drafted(APART)
    known = sheets.together(each)
    if known != APART:
        relations = sheets.with_unions(known)
        # Without a link or a union the tables of each sheet are those that it has by itself.
        each = sheets.drafted(known) if known.links or known.unions else each
        apart = each
        each, left = united(apart, known.links, known.things, relations)
        if left:
            known = sheets.without(known, left)
            apart = sheets.drafted(known)
            each, _ = united(apart, known.links, known.things, relations)
        each = with_freed_names(apart, each)
    return with_dates(each) if wishes.dates else each


def together(
    findings: Mapping[str, Findings], parents: Mapping[str, str], relations: Mapping[str, Relation]
) -> Together:
    """How the sheets hang together, which a draft follows as far as their tables allow it."""
    sheets = _Sheets(findings, parents, relations, NO_WISHES)
    return sheets.together(sheets.drafted(APART))


@dataclass(frozen=True)
class _Sheets:
    """All sheets, with what a person wishes."""

    findings: Mapping[str, Findings]
    parents: Mapping[str, str]
    relations: Mapping[str, Relation]
    wishes: Wishes

    def together(self, each: Design) -> Together:
        """How the sheets hang together, given the tables of each by itself."""
        things = _things(each, self.findings)
        found = links(self.relations, self.findings, things.named)
        made = unions(found, self.relations, self.findings)
        if not made:
            return Together(meant(found, self.findings, things), things, (), found)
        drafted = self.drafted(Together(unions=made))
        known = Together(unions=tuple(one for one in made if _names_rows(drafted, one)))
        if not known.unions:
            return Together(meant(found, self.findings, things), things, (), found)
        drafted = drafted if len(known.unions) == len(made) else self.drafted(known)
        things = _things(drafted, {**self.findings, **known.findings})
        relations = {name: one for name, one in self.with_unions(known).items() if known.of(name) is None}
        findings = {name: one for name, one in {**self.findings, **known.findings}.items() if name in relations}
        found = links(relations, findings, {one for one in things.named if one[0] in relations})
        return Together(meant(found, findings, things), things, known.unions, found)

    def without(self, known: Together, left: Collection[Link]) -> Together:
        """How the sheets hang together if some links cannot be followed, nor the other way round: each of their columns
        may refer by itself."""
        back = {(one.parent, frozenset(one.key), one.child) for one in left}
        found = tuple(
            one
            for one in known.found
            if one not in left and (one.child, frozenset(one.headers), one.parent) not in back
        )
        return replace(known, links=meant(found, {**self.findings, **known.findings}, known.things), found=found)

    def with_unions(self, known: Together) -> dict[str, Relation]:
        """The relations with those that unite several of them."""
        return {**self.relations, **{one.plan.name: one.relation for one in known.unions}}

    def drafted(self, known: Together) -> Design:
        """The tables of each sheet, with what is known of the others; the references across are still lacking."""
        taken: set[str] = set()
        tables: list[TablePlan] = []
        plans: list[SheetPlan] = []
        trail: list[Passage] = []
        stems: dict[str, tuple[str, ...]] = {}

        def add(sheet: str, found: Findings, around: Around, called: tuple[str, ...] = ()) -> None:
            parent = self.parents.get(sheet)
            owner = _owner(tables, parent, found.of)
            once = parent is not None and _owners(self.findings[parent]).issuperset(found.of)
            above = singular(stem_of_thing(Entity(found.of, (), (), 0))) if once else stems.get(parent or "", ())
            if owner is not None and owner.grain is not Grain.ROW:
                above = singular(words(owner.name))
            drafting = Drafting(Decided(sheet, found, around, self.wishes), taken, above, called)
            out_of = next((table.name for table in tables if table.sheet == parent and table.grain is Grain.ROW), None)
            made = with_rules(drafting.tables(), found)
            tables.extend(made)
            trail.extend(drafting.trail(out_of, once=once))
            stems[sheet] = drafting.stem

        for sheet, found in self.findings.items():
            parent = self.parents.get(sheet)
            of_file = (found.source.path, found.source.sheet, found.steps) if parent is None else ("", None, ())
            plans.append(SheetPlan(sheet, *of_file, of=parent, part=found.source.part if parent else ""))
            union = known.of(sheet)
            if union is None:
                add(sheet, found, self._around(sheet, tables, known))
                continue
            name = union.plan.name
            if name not in {table.sheet for table in tables}:
                around = _around_links(name, {**self.findings, **known.findings}, known)
                around = replace(around, referred=around.referred | {union.key})
                add(name, union.findings, around, union.called)
                told = replace(known_by(union, _base(tables, name)), why="; ".join(union.why))
                tables[:] = [told if table.name == told.name else table for table in tables]
            base = _base(tables, name)
            tables.append(listing(union, sheet, base, self.relations, taken))
        plans += [union.plan for union in known.unions]
        _check_keys(self.wishes, tables)
        trail.sort(key=lambda passage: FORMS.index(passage.form))
        return Design(tuple(plans), tuple(tables), tuple(trail))

    def _around(self, sheet: str, tables: Sequence[TablePlan], known: Together) -> Around:
        """What stands around a sheet that is drafted by itself."""
        found = self.findings[sheet]
        shared = [self.findings[child].of for child, of in self.parents.items() if of == sheet]
        owners = _owners(found)
        of_rows = [of for of in shared if not owners.issuperset(of)]
        around = _around_links(sheet, {**self.findings, **known.findings}, known)
        # What another sheet lists needs no table here.
        around = replace(around, owners=owners - around.linked)
        upward = _upward(tables, self.parents.get(sheet), found.of)
        return replace(around, key=of_rows[0] if of_rows else (), upward=upward)


def _base(tables: Sequence[TablePlan], sheet: str) -> TablePlan:
    """The table of the rows of a sheet."""
    return next(table for table in tables if table.sheet == sheet and table.grain is Grain.ROW)


def _names_rows(design: Design, union: United) -> bool:
    """Whether the table of what several sheets tell of holds what names it in these, one column perhaps by a code."""
    base = design.base_of(union.plan.name)
    plain = {column.source for column in base.columns}
    held = {resolve.source(design, base, base.by_name[name]) for name in base.key}
    further = [header for header in union.key if header not in plain]
    return len(further) <= 1 and held.issuperset(further)


def _around_links(sheet: str, findings: Mapping[str, Findings], known: Together) -> Around:
    """What the links say of a sheet."""
    listed = [one for one in known.links if not known.things.holds(one)]
    referred = frozenset(one.key for one in listed if one.parent == sheet)
    inward = frozenset(one.headers[0] for one in listed if one.child == one.parent == sheet)
    linked = {name for one in listed if one.child == sheet for name in one.headers}
    linked |= {name for key in referred for name in key}
    spoken = (one.headers[0] for one in known.links if one.child == sheet and known.things.holds(one))
    again = {header for header in spoken if only_speaks(sheet, header, findings[sheet])}
    of_lists = [one for one in listed if one.child == sheet != one.parent and len(one.headers) == 1]
    on_a_day = (one for one in of_lists if happens(sheet, one, findings[sheet]))
    again |= {one.headers[0] for one in on_a_day if one.headers not in referred}
    lists = {one.headers[0]: one.parent for one in listed if one.child == sheet != one.parent}
    return Around(
        referred=referred,
        inward=inward,
        linked=frozenset(linked),
        met_again=frozenset(again),
        lists=lists,
        all_listed=frozenset(one.headers[0] for one in of_lists if one.known == one.different and not one.alike),
        listed={
            frozenset(one.headers): tuple(findings[one.parent].by_name)
            for one in listed
            if one.child == sheet != one.parent
        },
    )


def _things(each: Design, findings: Mapping[str, Findings]) -> Things:
    """The columns that name the rows of a table of things or of a lookup, where most rows do not name another one."""
    found = [
        (table.purpose, (table.sheet, str(column.source)))
        for table in each.tables
        for column in table.columns
        if table.purpose in (Purpose.ENTITY, Purpose.LOOKUP) and resolve.identity(table) == (column.name,)
        if column.source and not column.to
        if findings[table.sheet].by_name[column.source].distinct < UNIQUE * findings[table.sheet].row_count
    ]
    told = (
        (table.sheet, header)
        for table in each.tables
        if table.purpose is Purpose.ENTITY
        for column in table.columns
        for header in column.headers
    )
    named = frozenset(one for _, one in found)
    return Things(named, frozenset(one for purpose, one in found if purpose is Purpose.LOOKUP), frozenset(told))


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


def _owners(found: Findings) -> frozenset[str]:
    """The columns of a sheet that name the things of which something was taken out once for each."""
    return frozenset(header for step in found.steps if step.flag("once") for header in step.texts("key"))


def _owner(tables: Sequence[TablePlan], parent: str | None, of: Sequence[str]) -> TablePlan | None:
    """The table of a relation's parent whose rows are known by what the two share; else that of the parent's rows."""
    own = [table for table in tables if table.sheet == parent]
    base = next((table for table in own if table.grain is Grain.ROW), None)
    known = (table for table in own if table is not base and _known_by(tables, table, resolve.identity(table), of))
    return None if base is None else next(known, base)


def _known_by(tables: Sequence[TablePlan], table: TablePlan, names: Sequence[str], of: Sequence[str]) -> bool:
    """Whether the rows of a table are known by what stands under the headers ``of``."""
    whole = Design((), tuple(tables))
    return {resolve.header(whole, table, table.by_name[name]) for name in names} == {*of}


def _upward(tables: Sequence[TablePlan], parent: str | None, of: Sequence[str]) -> dict[str, ColumnPlan]:
    """How the columns refer upward by which a relation's parent knows its rows, or the things of which they speak."""
    owner = _owner(tables, parent, of)
    if owner is None:
        return {}
    if owner.grain is not Grain.ROW:
        named = shown_together(of)
        why = f"each {named} has it once"
        made = ColumnPlan(owner.key[0], headers=(*of,), to=owner.name, required=True, why=why)
        return dict.fromkeys(of, made)
    if not _known_by(tables, owner, owner.key, of):
        return {}
    whole, why = Design((), tuple(tables)), "the row that it was taken out of"
    return {
        resolve.header(whole, owner, owner.by_name[name]): ColumnPlan(
            name, to=owner.name if len(owner.key) == 1 else f"{owner.name}.{name}", required=True, why=why
        )
        for name in owner.key
    }
