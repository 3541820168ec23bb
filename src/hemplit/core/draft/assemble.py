"""The design from the decisions: one table for the sheet's rows, one for each thing, one for each lookup."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design.ids import NUMBER
from hemplit.core.draft.bands import band_table
from hemplit.core.draft.called import called_rows, called_thing
from hemplit.core.draft.decided import Decided
from hemplit.core.draft.entities import Entity
from hemplit.core.draft.independent import list_tables
from hemplit.core.draft.naming import Named, column_name, listed, one_of_list, plural, singular, table_name, without
from hemplit.core.draft.some_rows import parted_rows
from hemplit.core.draft.sorts import (
    can_decide,
    is_code,
    is_homonym,
    is_mailbox,
    is_number_of_thing,
    is_unbroken,
    why_never,
)
from hemplit.core.draft.unique import MANY, unique_beside
from hemplit.core.model.design import ColumnPlan, Grain, Passage, Purpose, TablePlan
from hemplit.core.model.findings import BAND, Formula
from hemplit.core.model.relation import TEXT, Kind
from hemplit.core.texts.vocabulary import NAME, SPOT
from hemplit.core.texts.words import is_identifier, is_person, shown_together, snake, stem_of, unused, words

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.model.findings import Band, ColumnFacts, Computed

ID = Kind("whole number")
#: What rows say again more often than this, as a grade, is no name of theirs; where two boats have one, it is.
AGAIN = 0.5


class Drafting:
    """The work on one sheet; ``taken`` are the table names of the sheets before.

    ``stem`` are the words for its rows, ``above`` those for the rows of the relation that it was taken out of, and
    ``called`` what the rows are called besides.
    """

    def __init__(
        self, decided: Decided, taken: set[str], above: tuple[str, ...] = (), called: tuple[str, ...] = ()
    ) -> None:
        self.decided = decided
        self.taken = taken
        self.above = above
        self.called = called
        self.stem: tuple[str, ...] = ()
        self.pools: dict[str, Named] = {}
        self.lists: list[TablePlan] = []
        self.base_name = ""
        self.named: dict[tuple[str, ...], Named] = {}
        self.lookups: list[TablePlan] = []

    def tables(self) -> list[TablePlan]:
        stems = {
            thing.lead: self.decided.roles.stems.get(thing.lead[0]) or called_thing(self.decided, thing)
            for thing in self.decided.things
        }
        base_stem = called_rows(self.decided, self.above, self.called, stems)
        self.stem = singular(base_stem)
        base = (
            Named(self._plural_name(base_stem), singular(base_stem))
            if not self.decided.parted
            else Named(self.decided.sheet, ())
        )
        for lead, parts in stems.items():
            self.named[lead] = Named(self._plural_name(parts), parts)
        for thing in self.decided.things:
            self._choose_key(thing)
        things = [self._thing(thing) for thing in self.decided.things]
        self.base_name = base.name
        plan, headers = self._base(base)
        if self.decided.parted is None:
            rows = parted_rows(plan, headers, self.decided.findings, self._plural_name)
            return [*rows, *things, *self.lookups]
        self.lists = list_tables(
            plan, headers, self.decided.parted, self.decided.findings, self._made_up, self._plural_name
        )
        return [*self.lists, *things, *self.lookups]

    def trail(self, parent: str | None, *, once: bool) -> list[Passage]:
        """How the tables came out of one another; ``parent`` is the table from which this relation was taken, ``once``
        for each thing that its rows speak of."""
        passages = []
        if parent is not None:
            taken = tuple(
                facts.name for facts in self.decided.findings.columns if facts.name not in self.decided.findings.of
            )
            why = f"'{self.decided.findings.source.part}' held several values in a row"
            each = shown_together(self.decided.findings.of)
            why += f", the same for each {each}" if once else ""
            passages.append(Passage("first", self.base_name, parent, taken, why))
        for thing in self.decided.things:
            home = self.decided.home_of(thing)
            out_of = self.base_name if home is None else self.named[home.lead].name
            form = "second" if set(thing.lead) < set(self.decided.key) else "third"
            lead = shown_together(thing.lead)
            why = f"{lead} determines them" + (", and is a part of the key" if form == "second" else "")
            table = self.named[thing.lead].name
            passages.append(Passage(form, table, out_of, (*thing.alike, *thing.members), why))
        if self.decided.parted is not None:
            listed = [table for table in self.lists if table.grain is Grain.LIST]
            for one, headers in zip(listed, self.decided.parted.lists, strict=True):
                passages.append(Passage("fourth", one.name, self.base_name, headers, self.decided.parted.why))
        return passages

    def _plural_name(self, parts: Sequence[str]) -> str:
        return self._table_name(plural(parts))

    def _table_name(self, parts: Sequence[str]) -> str:
        name = table_name(parts, self.decided.sheet, self.taken)
        self.taken.add(name)
        return name

    # Keys -----------------------------------------------------------------------------------------------------------

    def _natural_key(self, thing: Entity) -> tuple[str, ...]:
        """The code that identifies a thing, if there is a good one: filled wherever the thing has content."""
        name = self.named[thing.lead].name
        for table, header in self.decided.wishes.keys:
            if (
                table == name
                and header in {*thing.lead, *thing.alike} - self.decided.roles.loose
                and not self.decided.blank_decides(thing, (header,))
            ):
                return (header,)
        if len(thing.lead) > 1:
            made_up = is_person(thing.lead) or is_homonym(thing.lead) or self.decided.blank_decides(thing, thing.lead)
            return () if made_up else thing.lead
        about = stem_of(thing.lead[0])
        codes = (
            (name,)
            for name in (*thing.lead, *thing.alike)
            if (is_code(self.decided.facts(name)) and (is_identifier(words(name)) or self._is_of(name, about)))
            or (
                is_number_of_thing(self.decided.facts(name))
                and (name in thing.lead or is_unbroken(self.decided.facts(name)))
            )
        )
        able = (code for code in codes if self.decided.roles.loose.isdisjoint(code))
        return next((code for code in able if not self.decided.blank_decides(thing, code)), ())

    def _is_of(self, header: str, about: tuple[str, ...]) -> bool:
        """Whether a header says that its codes are of a thing: its own name, or the asset tag of an asset.

        The room of a club says where it meets, and so may another.
        """
        said = stem_of(header)
        begins = bool(about) and said[: len(about)] == about and SPOT.isdisjoint(said[len(about) :])
        return said == about or (begins and can_decide(self.decided.facts(header)))

    def _choose_key(self, thing: Entity) -> None:
        named = self.named[thing.lead]
        natural = self._natural_key(thing)
        if natural:
            for header in natural:
                name = unused(snake(words(self._of_one(header))), named.taken, self.decided.letters(header))
                inner = self._referred(header, thing)
                why = "unique: part of the key" if inner is None else f"identifies it, and is a row of {inner.name}"
                named.columns.append(self._referring(header, name, inner, required=True, why=why))
            named.key = tuple(column.name for column in named.columns)
        else:
            name = f"{snake(named.stem)}_id"
            named.columns.append(self._made_up(name, self._why_made_up(thing)))
            named.key = (name,)

    def _made_up(self, name: str, why: str) -> ColumnPlan:
        kind = ID if self.decided.wishes.ids == NUMBER else TEXT
        return ColumnPlan(name, kind, ids=self.decided.wishes.ids, required=True, why=why)

    def _why_made_up(self, thing: Entity) -> str:
        shown = shown_together(thing.lead)
        if is_homonym(thing.lead):
            name, contact = thing.lead
            return f"generated id, because several have the same '{name}', and '{contact}' distinguishes them"
        if is_person(thing.lead):
            return f"generated id, because two people may have the same {shown}"
        if self.decided.blank_decides(thing, thing.lead):
            return f"generated id, because {shown} is blank in rows that have content here"
        return f"generated id, because {shown} is a name"

    def _referred(self, header: str, inside: Entity | None) -> Named | None:
        """The thing that a header identifies, unless that is the one the header stands in."""
        thing = self.decided.by_column.get((self.decided.roles.first.get(header, header),))
        if thing is inside and header in self.decided.roles.first:
            return None if thing is None else self.named[thing.lead]
        return None if thing is None or thing is inside else self.named[thing.lead]

    def _own_source(self, header: str, inside: Entity | None) -> str | None:
        """The header of a reference to one of several roles, unless the table has the same roles itself."""
        if header not in self.decided.roles.first and header not in self.decided.roles.others:
            return None
        if inside is None or inside.lead[0] not in self.decided.roles.others:
            return header
        # Of each further role of the thing this says the same again.
        beside = all(other in self.decided.roles.within for other in self.decided.roles.others.get(header, (header,)))
        return None if header in (*inside.members, *inside.alike) and beside else header

    def _in_key(self, header: str, to: Named) -> str:
        """What stands in the key of a table, in the role of a header that names the thing: the code beside the name."""
        key = next(column.headers for column in to.columns if column.name == to.key[0])
        lead = self.decided.roles.first.get(header, header)
        role = (lead, *self.decided.roles.others.get(lead, ())).index(header)
        return key[role] if role < len(key) else header

    # Columns --------------------------------------------------------------------------------------------------------

    def _referring(self, header: str, name: str, to: Named | None, *, required: bool, why: str) -> ColumnPlan:
        if to is None:
            further = self.decided.roles.others.get(header, ())
            return ColumnPlan(name, self.decided.facts(header).kind, (header, *further), required=required, why=why)
        return ColumnPlan(name, to=to.name, required=required, why=why)

    def _add(self, named: Named, header: str, inside: Entity | None, rows: int) -> None:
        """One column of the sheet inside a table: as it is, as a reference to a thing, or as a lookup."""
        composite = self.decided.composite(header, inside)
        if composite is not None:
            self._refer_to_composite(named, composite, header)
            return
        facts = self.decided.facts(header)
        required = not facts.blanks if inside is None else self.decided.is_filled(header, inside)
        to = self._referred(header, inside)
        if to is not None:
            own = self._own_source(header, inside)
            own = None if own is None else self._in_key(own, to)
            name = unused(to.key[0] if own is None else self._role_name(own, to), named.taken, "id")
            why = f"{facts.distinct} {to.name} in {rows} rows"
            named.columns.append(ColumnPlan(name, headers=_said(own), to=to.name, required=required, why=why))
        elif inside is None and header in self.decided.roles.inward:
            name = snake(words(header)) if self.decided.key else self._role_name(header, named)
            why = f"every one is a '{self.decided.roles.inward[header]}' of these rows"
            name = unused(name, named.taken, "id")
            named.columns.append(ColumnPlan(name, headers=(header,), to=named.name, required=required, why=why))
        elif header in self.decided.bands:
            named.columns.append(self._band(named, self.decided.bands[header]))
        elif header in self.decided.computed:
            named.columns.append(self._computed_column(named, self.decided.computed[header]))
        elif self.decided.is_kind(facts, rows) and not self.decided.names_part_of(header, inside):
            named.columns.append(self._lookup(named, facts, rows, required, inside))
        else:
            is_name = inside is not None or facts.distinct > AGAIN * rows
            name = self._column_name(named, header, is_name=is_name)
            further = self.decided.roles.others.get(header, ())
            required = required and not self.decided.may_be_blank(header)
            named.columns.append(ColumnPlan(name, facts.kind, (header, *further), required=required))

    def _column_name(self, named: Named, header: str, *, is_name: bool = True) -> str:
        """The name of a column; what most rows say again, as a grade, is no name of them."""
        plain, letters = self._of_one(header), self.decided.letters(header)
        is_name = is_name and self.decided.facts(header).kind == TEXT
        # What was taken out of a row is called after that, and so are its columns.
        about = self.above if self.above and named.stem == self.stem else named.stem
        return column_name(plain, about, named.taken, letters, is_name=is_name)

    def _of_one(self, header: str) -> str:
        """What a header is said of, where the rows are the entries of lists: of one of them."""
        of, plain = self.decided.findings.of, self.decided.plain(header)
        return one_of_list(plain) if of and header not in of else plain

    def _role_name(self, header: str, to: Named) -> str:
        """The name of a reference to one of several roles: as the header says, and an id where the key is one."""
        parts = [word for word in words(header) if word not in NAME]
        made_up = any(column.name == to.key[0] and column.ids for column in to.columns)
        return snake((*parts, "id") if made_up else parts)

    def _computed_column(self, named: Named, computed: Computed) -> ColumnPlan:
        name = column_name(computed.name, named.stem, named.taken, self.decided.letters(computed.name))
        stored = computed.name in self.decided.wishes.keep
        why = f"the view computes it: holds in all {computed.rows} filled rows; store = true keeps it"
        why = f"computed in all {computed.rows} filled rows, and kept as wished" if stored else why
        kind = self.decided.facts(computed.name).kind
        return ColumnPlan(name, kind, (computed.name,), formula=computed.formula, store=stored, why=why)

    def _band(self, named: Named, band: Band) -> ColumnPlan:
        """A class, which the view finds by the number, and the table of the lower limits."""
        name = column_name(band.name, named.stem, named.taken, self.decided.letters(band.name))
        table = band_table(
            band, self._plural_name(words(band.name)), self.decided.sheet, named.stem, self.decided.findings
        )
        self.lookups.append(table)
        formula = Formula(BAND, (band.by,), detail=table.name)
        why = "the view finds it by its limits"
        return ColumnPlan(name, TEXT, (band.name,), formula=formula, store=False, why=why)

    def _lookup(self, named: Named, facts: ColumnFacts, rows: int, required: bool, inside: Entity | None) -> ColumnPlan:
        own = self._own_source(facts.name, inside)
        first = self.decided.roles.first.get(facts.name, facts.name)
        if first in self.pools:
            to = self.pools[first]
            name = unused(self._role_name(facts.name, to), named.taken, "id")
            why = f"the same values as '{first}'"
            return ColumnPlan(name, headers=_said(own), to=to.name, required=required, why=why)
        further = self.decided.roles.others.get(facts.name, ())
        parts = singular(listed(without(words(facts.name), named.stem)))
        parts = parts if parts != ("name",) else singular(words(facts.name))
        parts = parts[:-1] if len(parts) > 1 and parts[-1] in NAME else parts
        parts = self.decided.roles.stems.get(facts.name, parts) or (self.decided.letters(facts.name),)
        table = self._table_name(plural(parts))
        key = f"{snake(singular(parts))}_id"
        columns = (
            self._made_up(key, ""),
            ColumnPlan("name", TEXT, (facts.name, *further), required=True),
        )
        why = f"'{facts.name}' has {facts.distinct} distinct texts in {rows} rows of {named.name}"
        self.lookups.append(
            TablePlan(table, self.decided.sheet, Purpose.LOOKUP, (key,), columns, unique=(("name",),), why=why)
        )
        if further:
            self.pools[facts.name] = Named(table, parts, (key,), list(columns))
        name = key if own is None else self._role_name(facts.name, self.pools[facts.name])
        return ColumnPlan(unused(name, named.taken, "id"), headers=_said(own), to=table, required=required, why=why)

    # Tables ---------------------------------------------------------------------------------------------------------

    def _thing(self, thing: Entity) -> TablePlan:
        named = self.named[thing.lead]
        key_headers = self._natural_key(thing)
        # What two things determine and are determined by, as in a few rows, stands with one of them.
        alike = [name for name in thing.alike if self.decided.home.get(name, thing).lead == thing.lead]
        identifying = [name for name in (*thing.lead, *alike) if name not in key_headers]
        unique: list[tuple[str, ...]] = []
        for header in identifying:
            inner = self._referred(header, thing)
            name = inner.key[0] if inner else self._column_name(named, header)
            required = self.decided.is_filled(header, thing)
            column = self._referring(header, unused(name, named.taken, "id"), inner, required=required, why="")
            named.columns.append(column)
            code = is_code(self.decided.facts(header)) and not why_never(self.decided.facts(header))
            code = code and header not in self.decided.roles.loose
            code = code and (is_identifier(words(header)) or thing.rows >= MANY)
            if len(thing.lead) == 1 and (header == thing.lead[0] or code):
                unique.append((column.name,))
        if len(thing.lead) > 1 and identifying:
            unique.append(tuple(column.name for column in named.columns[1:]))
        for header in thing.members:
            self._add(named, header, thing, thing.rows)
            if is_mailbox(header) and self.decided.tells_apart(header, thing):
                unique.append((named.columns[-1].name,))
        refers = [column for column in named.columns if column.to and column.name in named.key]
        purpose = Purpose.JUNCTION if len(refers) > 1 else Purpose.ENTITY
        return TablePlan(
            named.name,
            self.decided.sheet,
            purpose,
            named.key,
            tuple(named.columns),
            unique=tuple(unique),
            why=thing.why(self.decided.findings.row_count),
        )

    def _base(self, base: Named) -> tuple[TablePlan, dict[str, str]]:
        """The table of the sheet's rows, and the header for which each of its columns stands."""
        headers: dict[str, str] = {}
        if not self.decided.key:
            name = f"{snake(base.stem) or 'row'}_id"
            base.columns.append(self._made_up(name, "generated id, because no column is a good key"))
            base.key = (name,)
        for facts in self.decided.findings.columns:
            thing = self.decided.home.get(facts.name)
            wholes = [one for one in self.decided.things if len(one.lead) > 1 and facts.name in one.lead]
            outer = [one for one in wholes if self.decided.home_of(one) is None]
            # Of several parts of what has a made-up id, the first refers for all of them.
            later = [
                one for one in outer if self.named[one.lead].columns[0].ids is not None and facts.name != one.lead[0]
            ]
            referred = [one for one in outer if one not in later]
            if facts.name in self.decided.key and any(one.lead[0] in self.decided.key for one in later):
                continue
            if facts.name in self.decided.key and referred:
                self._refer_to_composite(base, referred[0], facts.name)
                base.key = (*base.key, base.columns[-1].name)
            elif facts.name in self.decided.key:
                self._add_key_column(base, facts)
            elif wholes:
                # A column can be a part of what identifies several things, and each is referred to.
                for one in outer:
                    self._refer_to_composite(base, one, facts.name)
            elif thing is None or (facts.name in thing.lead and self.decided.home_of(thing) is None):
                self._add(base, facts.name, None, self.decided.findings.row_count)
            headers |= {column.name: facts.name for column in base.columns if column.name not in headers}
        why = "one row per sheet row"
        if self.decided.findings.of:
            why = f"one row per entry in '{self.decided.findings.source.part}', numbered by position"
        plan = TablePlan(
            base.name,
            self.decided.sheet,
            Purpose.DETAIL if self.decided.findings.of else Purpose.MAIN,
            base.key,
            tuple(base.columns),
            grain=Grain.ROW,
            unique=unique_beside(self.decided, base.columns),
            why=why,
        )
        return plan, headers

    def _add_key_column(self, base: Named, facts: ColumnFacts) -> None:
        name = unused(snake(words(self._of_one(facts.name))), base.taken, self.decided.letters(facts.name))
        if facts.name in self.decided.upward:
            made = self.decided.upward[facts.name]
            if made not in base.columns:  # two parts of a name refer to one person
                base.columns.append(made)
                base.key = (*base.key, made.name)
            return
        pointed = self._referred(facts.name, None)
        if pointed is not None and len(pointed.key) == 1:
            name = unused(pointed.key[0], base.taken, "id")
        made_up = pointed is not None and any(column.ids for column in pointed.columns)
        if (
            made_up
            or self._own_source(facts.name, None) is not None
            or (
                pointed is None
                and len(self.decided.key) > 1
                and self.decided.is_kind(facts, self.decided.findings.row_count)
            )
        ):
            self._add(base, facts.name, None, self.decided.findings.row_count)
        else:
            base.columns.append(
                self._referring(facts.name, name, pointed, required=True, why="unique: part of the key")
            )
        base.key = (*base.key, base.columns[-1].name)

    def _refer_to_composite(self, base: Named, thing: Entity, header: str) -> None:
        named = self.named[thing.lead]
        required = not any(self.decided.facts(name).blanks for name in thing.lead)
        if named.columns[0].ids is None:
            column = named.columns[thing.lead.index(header)]
            name = unused(column.name, base.taken, "id")
            base.columns.append(ColumnPlan(name, to=f"{named.name}.{column.name}", required=required))
        elif header == thing.lead[0]:
            name = unused(named.key[0], base.taken, "id")
            base.columns.append(ColumnPlan(name, to=named.name, required=required))


def _said(header: str | None) -> tuple[str, ...]:
    """The headers of a reference, which has one where it says in which role."""
    return () if header is None else (header,)
