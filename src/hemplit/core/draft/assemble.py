"""The design from the decisions: one table for the sheet's rows, one for each thing, one for each lookup."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from hemplit.core.draft.bands import band_table, usable_bands
from hemplit.core.draft.entities import Entity, entities, stem_of_thing
from hemplit.core.draft.independent import Parted, list_tables, parted
from hemplit.core.draft.judge import judge
from hemplit.core.draft.keys import base_key, key_of_part, record_key
from hemplit.core.draft.lookups import is_lookup
from hemplit.core.draft.naming import Named, column_name, plural, singular, stem, table_name, unused, without
from hemplit.core.draft.roles import roles
from hemplit.core.draft.some_rows import parted_rows
from hemplit.core.draft.sorts import can_decide, is_code, is_homonym, is_mailbox, why_never
from hemplit.core.draft.weighing import is_person
from hemplit.core.draft.wishes import Wishes, with_wishes
from hemplit.core.formulas import in_views
from hemplit.core.ids import NUMBER
from hemplit.core.model.design import ColumnPlan, Passage, TablePlan
from hemplit.core.model.findings import BAND, DATE_PART, JOINED, Formula
from hemplit.core.model.grid import column_letters
from hemplit.core.model.relation import TEXT, Kind
from hemplit.core.shape.children import ROW_NUMBER
from hemplit.core.words import NAME, is_identifier, snake, stem_of, words

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping, Sequence

    from hemplit.core.model.findings import Band, ColumnFacts, Computed, Findings

ID = Kind("whole number")


@dataclass(frozen=True)
class Around:
    """What stands around a sheet: ``key`` is its key if relations that were taken out of it refer to it, ``upward``
    what the columns refer to that this relation shares with the one it was taken from; ``referred`` are the columns to
    which other sheets refer, ``inward`` those that refer to the rows of the sheet itself, and ``linked`` all that take
    part in links and so get no list of their own."""

    key: tuple[str, ...] = ()
    upward: Mapping[str, str] = field(default_factory=dict)
    referred: frozenset[tuple[str, ...]] = frozenset()
    inward: frozenset[str] = frozenset()
    linked: frozenset[str] = frozenset()


class Drafting:
    """The work on one sheet; ``taken`` are the table names of the sheets before."""

    def __init__(self, sheet: str, findings: Findings, taken: set[str], around: Around, wishes: Wishes) -> None:
        key, upward, referred = around.key, around.upward, around.referred
        self.wishes = wishes
        self.linked = around.linked
        self.referred = referred
        self.sheet = sheet
        self.upward = upward
        self.findings = findings
        self.taken = taken
        deciding = {facts.name for facts in findings.columns if can_decide(facts)}
        deciding |= {key[0] for key in referred if len(key) == 1}
        self.computed = {
            one.name: one
            for one in findings.computed
            if (one.name not in deciding or self._only_repeats(one)) and not one.breaking and in_views(one.formula)
        }
        self.key = key or (key_of_part(findings) if findings.of else self._base_key())
        for name in self._parts_of_keys():
            del self.computed[name]
        # What hangs on the row that this relation was taken out of stands with that row.
        judged = judge(findings, self.key, self.computed)
        # So does what names another row of the sheet.
        apart = upward.keys() | around.inward
        own = [one for one in judged if one.believed and not apart & {*one.left} and one.right not in around.inward]
        judged = with_wishes(own, wishes, findings)
        found = entities(findings, judged, self.key)
        self.roles = roles(findings, found, self.key, {*self.computed, *upward, *self.linked})
        self.things = tuple(self.roles.without_others(thing) for thing in found if not self.roles.is_other(thing))
        self.parted = None if key or findings.of else self._parted()
        if self.parted is not None:
            # What identifies a thing together with the owner of the lists is an entry of one of them.
            self.things = tuple(thing for thing in self.things if len(thing.lead) == 1)
        self.home = self._homes(self.things)
        if not self.key and self.parted is None:
            self.key = record_key(findings, self._speaks_of(), self.computed)
        self.by_column = {thing.lead: thing for thing in self.things}
        self.pools: dict[str, Named] = {}
        named = {name for thing in self.things for name in (*thing.lead, *thing.alike)} | {*self.key, *self.computed}
        self.bands = usable_bands(findings, self.home, named | {*self.roles.first, *self.roles.others, *wishes.keep})
        self.lists: list[TablePlan] = []
        self.base_name = ""
        self.named: dict[tuple[str, ...], Named] = {}
        self.lookups: list[TablePlan] = []

    def _parts_of_keys(self) -> set[str]:
        """The years and months that identify something together with another column, and so are stored."""
        parts = {name for name, one in self.computed.items() if one.formula.operation == DATE_PART}
        judged = judge(self.findings, self.key, self.computed.keys() - parts) if parts else ()
        return parts.intersection(name for one in judged if one.believed and len(one.left) > 1 for name in one.left)

    def _speaks_of(self) -> set[str]:
        """The columns by which the sheet's rows name things and kinds of things."""
        leads = {thing.lead[0] for thing in self.things if len(thing.lead) == 1 and self._home_of(thing) is None}
        rows = self.findings.row_count
        kinds = {one.name for one in self.findings.columns if is_lookup(one, rows, self.wishes.lookups)}
        codes = {one.name for one in self.findings.columns if one.repeats and one.kind == TEXT and is_code(one)}
        return leads | set(self.roles.first) | ((kinds | codes) - self.home.keys())

    def _only_repeats(self, one: Computed) -> bool:
        """Whether a text that could identify something is but the parts of a name put together, or part of a date."""
        operation = one.formula.operation
        return operation == DATE_PART or (operation == JOINED and not is_code(self._facts(one.name)))

    def tables(self) -> list[TablePlan]:
        stems = {
            thing.lead: self.roles.stems.get(thing.lead[0]) or singular(stem_of_thing(thing)) for thing in self.things
        }
        base_stem = self._base_stem([*stems.values()])
        base = Named(self._plural_name(base_stem), singular(base_stem)) if not self.parted else Named(self.sheet, ())
        for lead, parts in stems.items():
            self.named[lead] = Named(self._plural_name(parts), parts)
        for thing in self.things:
            self._choose_key(thing)
        things = [self._thing(thing) for thing in self.things]
        self.base_name = base.name
        plan, headers = self._base(base)
        if self.parted is None:
            rows = parted_rows(plan, headers, self.findings, self._plural_name)
            return [*rows, *things, *self.lookups]
        self.lists = list_tables(plan, headers, self.parted, self.findings, self._made_up, self._plural_name)
        return [*self.lists, *things, *self.lookups]

    def trail(self, parent: str | None) -> list[Passage]:
        """How the tables came out of one another; ``parent`` is the table from which this relation was taken."""
        passages = []
        if parent is not None:
            taken = tuple(facts.name for facts in self.findings.columns if facts.name not in self.findings.of)
            why = f"'{self.findings.source.part}' held several values in a row"
            passages.append(Passage("first", self.base_name, parent, taken, why))
        for thing in self.things:
            home = self._home_of(thing)
            out_of = self.base_name if home is None else self.named[home.lead].name
            form = "second" if set(thing.lead) < set(self.key) else "third"
            lead = " + ".join(f"'{name}'" for name in thing.lead)
            why = f"{lead} decides them" + (", and is a part of the key" if form == "second" else "")
            table = self.named[thing.lead].name
            passages.append(Passage(form, table, out_of, (*thing.alike, *thing.members), why))
        if self.parted is not None:
            listed = [table for table in self.lists if table.list_of is not None]
            for one, headers in zip(listed, self.parted.lists, strict=True):
                passages.append(Passage("fourth", one.name, self.base_name, headers, self.parted.why))
        return passages

    def _parted(self) -> Parted | None:
        """The independent lists, unless something else hangs on the sheet's rows."""
        home = self._homes([thing for thing in self.things if len(thing.lead) == 1])
        own = [
            facts.name
            for facts in self.findings.columns
            for thing in [home.get(facts.name)]
            if thing is None or (facts.name in thing.lead and self._home_of(thing) is None)
        ]
        if self.roles.inward or self.computed.keys() & {*own}:
            return None
        found = parted(self.findings, own, self.wishes.together)
        composite = [thing.lead for thing in self.things if len(thing.lead) > 1]
        return found if found is not None and all(found.header in lead for lead in composite) else None

    def _homes(self, things: Iterable[Entity]) -> dict[str, Entity]:
        """The thing to which each column belongs, or which it identifies."""
        home = {name: thing for thing in things for name in (*thing.members, *thing.lead, *thing.alike)}
        return home | {name: home[one] for name, one in self.roles.within.items() if one in home}

    def _plural_name(self, parts: Sequence[str]) -> str:
        return self._table_name(plural(parts))

    def _table_name(self, parts: Sequence[str]) -> str:
        name = table_name(parts, self.sheet, self.taken)
        self.taken.add(name)
        return name

    def _base_key(self) -> tuple[str, ...]:
        """The key of the sheet's rows: the one that is wished for, if it is one, or the best."""
        filled = {facts.name for facts in self.findings.columns if not facts.blanks}
        wished = [(header,) for _, header in self.wishes.keys if header in filled and (header,) in self.findings.keys]
        return wished[0] if wished else base_key(self.findings, self.computed, self.referred)

    def _base_stem(self, things: Sequence[tuple[str, ...]]) -> tuple[str, ...]:
        """The word for the sheet's rows: from its key if that is one column, else from the sheet's name.

        A thing that is called so has the plain name, and the rows say with what else they are about.
        """
        if len(self.key) == 1 and self.key != (ROW_NUMBER,) and stem_of(self.key[0]):
            return stem(self.key)
        own = words(self.sheet) or ("row",)
        if self.parted is not None or singular(own) not in things:
            return own
        others = [singular(stem([header])) for header in self.key]
        return (*singular(own), *next((one for one in others if one != singular(own)), ("row",)))

    def _facts(self, name: str) -> ColumnFacts:
        return self.findings.by_name[name]

    def _letters(self, name: str) -> str:
        return f"column_{column_letters(self._facts(name).position).lower()}"

    # Keys -----------------------------------------------------------------------------------------------------------

    def _natural_key(self, thing: Entity) -> tuple[str, ...]:
        """The code that identifies a thing, if there is a good one: filled wherever the thing has content."""
        name = self.named[thing.lead].name
        for table, header in self.wishes.keys:
            if table == name and header in (*thing.lead, *thing.alike) and not self._blank_decides(thing, (header,)):
                return (header,)
        if len(thing.lead) > 1:
            made_up = is_person(thing.lead) or is_homonym(thing.lead) or self._blank_decides(thing, thing.lead)
            return () if made_up else thing.lead
        about = {stem_of(thing.lead[0])}
        codes = (
            (name,)
            for name in (*thing.lead, *thing.alike)
            if is_code(self._facts(name)) and (is_identifier(words(name)) or stem_of(name) in about)
        )
        return next((code for code in codes if not self._blank_decides(thing, code)), ())

    def _blank_decides(self, thing: Entity, key: tuple[str, ...]) -> bool:
        """Whether the thing has content in rows where that key is blank."""
        content = self._content(thing)
        return any(one.left == key and one.blank_decides and one.right in content for one in self.findings.held)

    def _content(self, thing: Entity) -> set[str]:
        """What is said of a thing, by itself and by the things that it refers to."""
        further = [one for one in self.things if one is not thing and {*one.lead} <= {*thing.members}]
        return {*thing.lead, *thing.alike, *thing.members}.union(*map(self._content, further))

    def _choose_key(self, thing: Entity) -> None:
        named = self.named[thing.lead]
        natural = self._natural_key(thing)
        if natural:
            for header in natural:
                name = unused(snake(words(self._plain(header))), named.taken, self._letters(header))
                inner = self._referred(header, thing)
                why = "identifies it" if inner is None else f"identifies it, and is a row of {inner.name}"
                named.columns.append(self._referring(header, name, inner, required=True, why=why))
            named.key = tuple(column.name for column in named.columns)
        else:
            name = f"{snake(named.stem)}_id"
            named.columns.append(self._made_up(name, self._why_made_up(thing)))
            named.key = (name,)

    def _made_up(self, name: str, why: str) -> ColumnPlan:
        kind = ID if self.wishes.ids == NUMBER else TEXT
        return ColumnPlan(name, kind, ids=self.wishes.ids, required=True, why=why)

    def _why_made_up(self, thing: Entity) -> str:
        shown = " + ".join(f"'{name}'" for name in thing.lead)
        if is_homonym(thing.lead):
            name, contact = thing.lead
            return f"made up: several have the same '{name}', and '{contact}' tells them apart"
        if is_person(thing.lead):
            return f"made up: two people may have the same {shown}"
        if self._blank_decides(thing, thing.lead):
            return f"made up: {shown} is blank in rows that have content here"
        return f"made up: {shown} is a name and no code"

    def _referred(self, header: str, inside: Entity | None) -> Named | None:
        """The thing that a header identifies, unless that is the one the header stands in."""
        thing = self.by_column.get((self.roles.first.get(header, header),))
        if thing is inside and header in self.roles.first:
            return None if thing is None else self.named[thing.lead]
        return None if thing is None or thing is inside else self.named[thing.lead]

    def _own_source(self, header: str, inside: Entity | None) -> str | None:
        """The header of a reference to one of several roles, unless the table has the same roles itself."""
        if header not in self.roles.first and header not in self.roles.others:
            return None
        if inside is None or inside.lead[0] not in self.roles.others:
            return header
        # Of each further role of the thing this says the same again.
        beside = all(other in self.roles.within for other in self.roles.others.get(header, (header,)))
        return None if header in (*inside.members, *inside.alike) and beside else header

    # Columns --------------------------------------------------------------------------------------------------------

    def _referring(self, header: str, name: str, to: Named | None, *, required: bool, why: str) -> ColumnPlan:
        if to is None:
            further = self.roles.others.get(header, ())
            return ColumnPlan(name, self._facts(header).kind, source=header, required=required, why=why, roles=further)
        return ColumnPlan(name, to=to.name, required=required, why=why)

    def _add(self, named: Named, header: str, inside: Entity | None, rows: int) -> None:
        """One column of the sheet inside a table: as it is, as a reference to a thing, or as a lookup."""
        composite = self._composite(header, inside)
        if composite is not None:
            self._refer_to_composite(named, composite, header)
            return
        facts = self._facts(header)
        required = facts.blanks == (0 if inside is None else self._blank_rows(inside))
        to = self._referred(header, inside)
        if to is not None:
            own = self._own_source(header, inside)
            name = unused(to.key[0] if own is None else self._role_name(header, to), named.taken, "id")
            why = f"{facts.distinct} {to.name} in {rows} rows"
            named.columns.append(ColumnPlan(name, to=to.name, source=own, required=required, why=why))
        elif inside is None and header in self.roles.inward:
            name = snake(words(header)) if self.key else self._role_name(header, named)
            why = f"every one is a '{self.roles.inward[header]}' of these rows"
            name = unused(name, named.taken, "id")
            named.columns.append(ColumnPlan(name, to=named.name, source=header, required=required, why=why))
        elif header in self.bands:
            named.columns.append(self._band(named, self.bands[header]))
        elif header in self.computed:
            named.columns.append(self._computed_column(named, self.computed[header]))
        elif self._is_kind(facts, rows) and not self._names_part_of(header, inside):
            named.columns.append(self._lookup(named, facts, rows, required, inside))
        else:
            name = column_name(self._plain(header), named.stem, named.taken, self._letters(header))
            further = self.roles.others.get(header, ())
            named.columns.append(ColumnPlan(name, facts.kind, source=header, required=required, roles=further))

    def _is_kind(self, facts: ColumnFacts, rows: int) -> bool:
        """Whether a column of a table with so many rows gets a list of its values."""
        if facts.name in self.linked:
            return False
        first = self.roles.first.get(facts.name, facts.name)
        return first in self.roles.lists or is_lookup(facts, rows, self.wishes.lookups)

    def _names_part_of(self, header: str, inside: Entity | None) -> bool:
        """Whether a header is the name of what identifies a thing with something else: the team of each year."""
        if inside is None or len(inside.lead) < 2 or is_person(inside.lead):
            return False
        return bool(NAME.intersection(words(header))) and stem_of(header) in map(stem_of, inside.lead)

    def _plain(self, header: str) -> str:
        """A header without the words for its role."""
        return self.roles.names.get(header, header)

    def _role_name(self, header: str, to: Named) -> str:
        """The name of a reference to one of several roles: as the header says, and an id where the key is one."""
        parts = [word for word in words(header) if word not in NAME]
        made_up = any(column.name == to.key[0] and column.ids for column in to.columns)
        return snake((*parts, "id") if made_up else parts)

    def _composite(self, header: str, inside: Entity | None) -> Entity | None:
        """The thing that the header identifies together with others which also belong to the thing ``inside``."""
        if inside is None:
            return None
        wholes = (
            thing for thing in self.things if len(thing.lead) > 1 and header in thing.lead and thing is not inside
        )
        return next((thing for thing in wholes if set(thing.lead) <= set(inside.members)), None)

    def _blank_rows(self, thing: Entity) -> int:
        """How many rows of the sheet speak of no such thing."""
        if self._blank_decides(thing, thing.lead) or len(thing.lead) > 1:
            return 0
        return self._facts(thing.lead[0]).blanks

    def _computed_column(self, named: Named, computed: Computed) -> ColumnPlan:
        name = column_name(computed.name, named.stem, named.taken, self._letters(computed.name))
        stored = computed.name in self.wishes.keep
        why = f"the view computes it: holds in all {computed.rows} filled rows; store = true keeps it"
        why = f"computed in all {computed.rows} filled rows, and kept as wished" if stored else why
        kind = self._facts(computed.name).kind
        return ColumnPlan(name, kind, source=computed.name, formula=computed.formula, store=stored, why=why)

    def _band(self, named: Named, band: Band) -> ColumnPlan:
        """A class, which the view finds by the number, and the table of the lower limits."""
        name = column_name(band.name, named.stem, named.taken, self._letters(band.name))
        table = band_table(band, self._plural_name(words(band.name)), self.sheet, named.stem, self.findings)
        self.lookups.append(table)
        formula = Formula(BAND, (band.by,), detail=table.name)
        why = "the view finds it by its limits"
        return ColumnPlan(name, TEXT, source=band.name, formula=formula, store=False, why=why)

    def _lookup(self, named: Named, facts: ColumnFacts, rows: int, required: bool, inside: Entity | None) -> ColumnPlan:
        own = self._own_source(facts.name, inside)
        first = self.roles.first.get(facts.name, facts.name)
        if first in self.pools:
            to = self.pools[first]
            name = unused(self._role_name(facts.name, to), named.taken, "id")
            why = f"the same values as '{first}'"
            return ColumnPlan(name, to=to.name, source=own, required=required, why=why)
        further = self.roles.others.get(facts.name, ())
        parts = singular(without(words(facts.name), named.stem))
        parts = parts if parts != ("name",) else singular(words(facts.name))
        parts = parts[:-1] if len(parts) > 1 and parts[-1] in NAME else parts
        parts = self.roles.stems.get(facts.name, parts) or (self._letters(facts.name),)
        table = self._table_name(plural(parts))
        key = f"{snake(singular(parts))}_id"
        columns = (
            self._made_up(key, ""),
            ColumnPlan("name", TEXT, source=facts.name, required=True, roles=further),
        )
        why = f"'{facts.name}' has {facts.distinct} different texts in {rows} rows of {named.name}"
        self.lookups.append(TablePlan(table, self.sheet, "lookup", (key,), columns, unique=(("name",),), why=why))
        if further:
            self.pools[facts.name] = Named(table, parts, (key,), list(columns))
        name = key if own is None else self._role_name(facts.name, self.pools[facts.name])
        return ColumnPlan(unused(name, named.taken, "id"), to=table, source=own, required=required, why=why)

    # Tables ---------------------------------------------------------------------------------------------------------

    def _thing(self, thing: Entity) -> TablePlan:
        named = self.named[thing.lead]
        key_headers = self._natural_key(thing)
        identifying = [name for name in (*thing.lead, *thing.alike) if name not in key_headers]
        unique: list[tuple[str, ...]] = []
        for header in identifying:
            inner = self._referred(header, thing)
            name = (
                inner.key[0]
                if inner
                else column_name(self._plain(header), named.stem, named.taken, self._letters(header))
            )
            required = self._facts(header).blanks == self._blank_rows(thing)
            column = self._referring(header, unused(name, named.taken, "id"), inner, required=required, why="")
            named.columns.append(column)
            code = is_code(self._facts(header)) and not why_never(self._facts(header))
            if len(thing.lead) == 1 and (header == thing.lead[0] or code):
                unique.append((column.name,))
        if len(thing.lead) > 1 and identifying:
            unique.append(tuple(column.name for column in named.columns[1:]))
        for header in thing.members:
            self._add(named, header, thing, thing.rows)
            if is_mailbox(header) and self._tells_apart(header, thing):
                unique.append((named.columns[-1].name,))
        refers = [column for column in named.columns if column.to and column.name in named.key]
        purpose = "junction" if len(refers) > 1 else "thing"
        return TablePlan(
            named.name,
            self.sheet,
            purpose,
            named.key,
            tuple(named.columns),
            unique=tuple(unique),
            why=thing.why(self.findings.row_count),
        )

    def _tells_apart(self, header: str, thing: Entity) -> bool:
        """Whether a column that belongs to a person decides who that is, too."""
        decided = {one.right for one in self.findings.dependencies if one.left == (header,)}
        return is_person(thing.lead) and {*thing.lead} <= decided and not self._facts(header).blanks

    def _base(self, base: Named) -> tuple[TablePlan, dict[str, str]]:
        """The table of the sheet's rows, and the header for which each of its columns stands."""
        headers: dict[str, str] = {}
        if not self.key:
            name = f"{snake(base.stem) or 'row'}_id"
            base.columns.append(self._made_up(name, "made up: no column is a good key"))
            base.key = (name,)
        for facts in self.findings.columns:
            thing = self.home.get(facts.name)
            wholes = [one for one in self.things if len(one.lead) > 1 and facts.name in one.lead]
            referred = [
                one for one in wholes if self._home_of(one) is None and self.named[one.lead].columns[0].ids is None
            ]
            if facts.name in self.key and referred:
                self._refer_to_composite(base, referred[0], facts.name)
                base.key = (*base.key, base.columns[-1].name)
            elif facts.name in self.key:
                self._add_key_column(base, facts)
            elif wholes:
                # A column can be a part of what identifies several things, and each is referred to.
                for one in wholes:
                    if self._home_of(one) is None:
                        self._refer_to_composite(base, one, facts.name)
            elif thing is None or (facts.name in thing.lead and self._home_of(thing) is None):
                self._add(base, facts.name, None, self.findings.row_count)
            headers |= {column.name: facts.name for column in base.columns if column.name not in headers}
        why = "one row per row of the sheet"
        if self.findings.of:
            why = f"one row per entry under '{self.findings.source.part}', with its place"
        plan = TablePlan(
            base.name,
            self.sheet,
            "record",
            base.key,
            tuple(base.columns),
            each_row=True,
            unique=self._other_codes(base),
            why=why,
        )
        return plan, headers

    def _other_codes(self, base: Named) -> tuple[tuple[str, ...], ...]:
        """Further columns that identify the rows: every code, and beside a made-up key the first name."""
        alone = {key[0] for key in self.findings.keys if len(key) == 1} - set(self.key)
        columns = [column for column in base.columns if column.source in alone and column.store]
        columns = [column for column in columns if can_decide(self._facts(str(column.source)))]
        named = set(self.roles.inward.values())
        names = sorted(columns, key=lambda column: column.source not in named)
        codes = [column for column in names if is_code(self._facts(str(column.source))) or column.source in named]
        return tuple((column.name,) for column in codes or (names[:1] if not self.key else []))

    def _add_key_column(self, base: Named, facts: ColumnFacts) -> None:
        name = unused(snake(words(facts.name)), base.taken, self._letters(facts.name))
        if facts.name in self.upward:
            why = "the row that it was taken out of"
            base.columns.append(ColumnPlan(name, to=self.upward[facts.name], required=True, why=why))
            base.key = (*base.key, name)
            return
        to = self._referred(facts.name, None)
        made_up = to is not None and any(column.ids for column in to.columns)
        if (
            made_up
            or self._own_source(facts.name, None) is not None
            or (to is None and len(self.key) > 1 and self._is_kind(facts, self.findings.row_count))
        ):
            self._add(base, facts.name, None, self.findings.row_count)
        else:
            base.columns.append(self._referring(facts.name, name, to, required=True, why="tells the rows apart"))
        base.key = (*base.key, base.columns[-1].name)

    def _home_of(self, thing: Entity) -> Entity | None:
        """The thing that refers to this one; None if the sheet's own rows do."""
        return next((other for other in self.things if thing.lead[0] in other.members), None)

    def _refer_to_composite(self, base: Named, thing: Entity, header: str) -> None:
        named = self.named[thing.lead]
        required = not any(self._facts(name).blanks for name in thing.lead)
        if named.columns[0].ids is None:
            column = named.columns[thing.lead.index(header)]
            name = unused(column.name, base.taken, "id")
            base.columns.append(ColumnPlan(name, to=f"{named.name}.{column.name}", required=required))
        elif header == thing.lead[0]:
            name = unused(named.key[0], base.taken, "id")
            base.columns.append(ColumnPlan(name, to=named.name))
