"""What is decided of a sheet before its tables are written: its key, its things, and where each column belongs."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design.formulas import in_views
from hemplit.core.draft.bands import usable_bands
from hemplit.core.draft.entities import Entity, entities
from hemplit.core.draft.independent import Parted, parted
from hemplit.core.draft.judge import judge
from hemplit.core.draft.keys import base_key, counts_up, key_of_part, moments_of_files, record_key
from hemplit.core.draft.lookups import is_lookup
from hemplit.core.draft.met import met
from hemplit.core.draft.roles import roles
from hemplit.core.draft.sorts import can_decide, is_code, is_moment, is_number_of_spot
from hemplit.core.draft.verdict import Verdict
from hemplit.core.draft.wishes import Wishes, with_wishes
from hemplit.core.model.findings import DATE_PART, JOINED, TOTAL
from hemplit.core.model.grid import column_letters
from hemplit.core.model.relation import TEXT
from hemplit.core.texts.vocabulary import NAME
from hemplit.core.texts.words import has_codes_of, is_person, stem_of, words
from hemplit.dataclasses import dataclass, field

if TYPE_CHECKING:
    from collections.abc import Collection, Iterable, Mapping

    from hemplit.core.model.design import ColumnPlan
    from hemplit.core.model.findings import ColumnFacts, Computed, Findings


@dataclass(frozen=True)
class Around:
    """What stands around a sheet: ``key`` is its key if relations that were taken out of its rows refer to it,
    ``owners`` the columns that name things of which relations were taken out, ``upward`` how the columns refer to
    them or to it that this relation shares with the one it was taken from; ``referred`` are the columns to
    which other sheets refer, ``inward`` those that refer to the rows of the sheet itself, ``linked`` all that take part
    in links and so get no list of their own, ``met_again`` those that name what another sheet says more of, of which
    the rows only speak, even if once each so far, ``lists`` the sheets that list what columns name, ``all_listed`` the
    columns of which all values stand there as they are written, and ``listed`` the headers of the lists, also by what
    columns name together."""

    key: tuple[str, ...] = ()
    owners: frozenset[str] = frozenset()
    upward: Mapping[str, ColumnPlan] = field(default_factory=dict)
    referred: frozenset[tuple[str, ...]] = frozenset()
    inward: frozenset[str] = frozenset()
    linked: frozenset[str] = frozenset()
    met_again: frozenset[str] = frozenset()
    lists: Mapping[str, str] = field(default_factory=dict)
    all_listed: frozenset[str] = frozenset()
    listed: Mapping[frozenset[str], Collection[str]] = field(default_factory=dict)


class Decided:
    """What is decided of one sheet, given what stands around it and what a person wishes."""

    def __init__(self, sheet: str, findings: Findings, around: Around, wishes: Wishes) -> None:
        key, upward, referred = around.key, around.upward, around.referred
        self.wishes = wishes
        self.linked, self.lists = around.linked, around.lists
        self.met_again, self.all_listed = around.met_again, around.all_listed
        self.referred = referred
        self.sheet = sheet
        self.upward = upward
        self.owners = around.owners
        self.findings = findings
        deciding = {facts.name for facts in findings.columns if can_decide(facts)}
        deciding |= {key[0] for key in referred if len(key) == 1} | around.owners
        given_out = {facts.name for facts in findings.columns if counts_up(facts, findings)}
        self.computed = {
            one.name: one
            for one in findings.computed
            if (one.name not in deciding or self._only_repeats(one)) and one.name not in given_out
            if not one.breaking and in_views(one.formula)
        }
        self.key = key or (key_of_part(findings) if findings.of else self._base_key())
        for name in self._parts_of_keys():
            del self.computed[name]
        # What hangs on the row that this relation was taken out of stands with that row.
        judged = judge(findings, self.key, self.computed, around.listed, self.owners)
        # So does what names another row of the sheet.
        apart = upward.keys() | around.inward
        own = [one for one in judged if one.believed and not apart & {*one.left} and one.right not in around.inward]
        if not findings.of:
            own += self._met_once()
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
            elsewhere = {facts.name for facts in findings.columns}.difference(self._own(self.things))
            self.key = record_key(findings, self._speaks_of(), self._could_pair(), self.computed.keys() | elsewhere)
            self.key = self.key or self._all_that_rows_say()
        self.by_column = {thing.lead: thing for thing in self.things}
        self.paired = {*self.key} if len(self.key) > 1 else set()
        """The columns that the rows pair."""
        named = {name for thing in self.things for name in (*thing.lead, *thing.alike)} | {*self.key, *self.computed}
        named |= {*self.roles.first, *self.roles.others, *moments_of_files(findings)}
        self.bands = usable_bands(findings, self.home, named | {*wishes.keep})

    def _met_once(self) -> list[Verdict]:
        """What is said of things that the rows speak of, though each came once so far."""
        codes = {code: said for code, said in met(self.findings, self.key).items() if (code,) != self.key}
        return [
            Verdict((code,), right, self.facts(code).distinct)
            for code, said in codes.items()
            for right in said
            if right not in self.computed and right not in self.key
        ]

    def _parts_of_keys(self) -> set[str]:
        """The years and months that identify something together with another column, and so are stored."""
        parts = {name for name, one in self.computed.items() if one.formula.operation == DATE_PART}
        judged = judge(self.findings, self.key, self.computed.keys() - parts) if parts else ()
        return parts.intersection(name for one in judged if one.believed and len(one.left) > 1 for name in one.left)

    def _speaks_of(self) -> set[str]:
        """The columns by which the sheet's rows name things and kinds of things."""
        leads = {thing.lead[0] for thing in self.things if len(thing.lead) == 1 and self.home_of(thing) is None}
        rows = self.findings.row_count
        kinds = {one.name for one in self.findings.columns if is_lookup(one, rows, self.wishes.lookups)}
        codes = {one.name for one in self.findings.columns if one.repeats and one.kind == TEXT and is_code(one)}
        codes |= {one.name for one in self.findings.columns if one.repeats and is_number_of_spot(one)}
        further = self.roles.first.keys() - self.roles.within.keys()
        return leads | further | ((kinds | codes | {*self.all_listed}) - self.home.keys())

    def _could_pair(self) -> set[str]:
        """The columns of the sheet's own rows that would be things if the rows paired them with others."""
        rows, wanted = self.findings.row_count, self.wishes.lookups
        able = (one for one in self.findings.columns if can_decide(one) and one.name not in self.home)
        able = (one for one in able if not NAME.issuperset(stem_of(one.name)))
        return {one.name for one in able if is_lookup(one, rows, wanted, paired=True)}

    def _own(self, things: Iterable[Entity]) -> list[str]:
        """What the sheet's own rows say: their own columns, and those that name a thing."""
        home = self._homes(things)
        return [
            facts.name
            for facts in self.findings.columns
            for thing in [home.get(facts.name)]
            if thing is None or (facts.name in thing.lead and self.home_of(thing) is None)
        ]

    def _all_that_rows_say(self) -> tuple[str, ...]:
        """The columns of the sheet's own rows, if these only pair things and moments, and so are their own key."""
        own = [self.facts(name) for name in self._own(self.things)]
        pair = len(own) > 1 and all((one.kind == TEXT and can_decide(one)) or is_moment(one) for one in own)
        filled = not any(one.blanks or one.name in self.computed for one in own)
        whole = tuple(one.name for one in own)
        return whole if pair and filled and {*whole} in map(set, self.findings.keys) else ()

    def _only_repeats(self, one: Computed) -> bool:
        """Whether a text that could identify something is but the parts of a name put together, or part of a date."""
        operation = one.formula.operation
        return operation == DATE_PART or (operation == JOINED and not is_code(self.facts(one.name)))

    def _parted(self) -> Parted | None:
        """The independent lists, unless something else hangs on the sheet's rows."""
        own = self._own([thing for thing in self.things if len(thing.lead) == 1])
        if self.roles.inward or self.computed.keys() & {*own}:
            return None
        found = parted(self.findings, own, self.wishes.together)
        composite = [thing.lead for thing in self.things if len(thing.lead) > 1]
        return found if found is not None and all(found.header in lead for lead in composite) else None

    def _homes(self, things: Iterable[Entity]) -> dict[str, Entity]:
        """The thing to which each column belongs, or which it identifies."""
        home = {name: thing for thing in things for name in (*thing.members, *thing.lead, *thing.alike)}
        return home | {name: home[one] for name, one in self.roles.within.items() if one in home}

    def _base_key(self) -> tuple[str, ...]:
        """The key of the sheet's rows: the one that is wished for, if it is one, or the best."""
        filled = {facts.name for facts in self.findings.columns if not facts.blanks}
        wished = [(header,) for _, header in self.wishes.keys if header in filled and (header,) in self.findings.keys]
        if wished:
            return wished[0]
        return base_key(self.findings, self.computed.keys() | self.met_again, self.referred, self.lists)

    def facts(self, name: str) -> ColumnFacts:
        return self.findings.by_name[name]

    def letters(self, name: str) -> str:
        return f"column_{column_letters(self.facts(name).position).lower()}"

    def blank_decides(self, thing: Entity, key: tuple[str, ...]) -> bool:
        """Whether the thing has content in rows where that key is blank, in any of its roles."""
        content = self._content(thing)
        said = [(key, content)]
        for role in self._further(thing):
            own = tuple(self._in_role(role, name, thing) for name in key)
            if not all(own):
                return True
            said.append((own, self._all_in_role(role, content, thing)))
        # What is the same in all rows follows from nothing, and stands beside each blank, too.
        blank = [left for left, _ in said if any(self.facts(name).blanks for name in left)]
        return any(
            one.right in there and (left in blank if not one.left else one.left == left and one.blank_decides)
            for one in self.findings.held
            for left, there in said
        )

    def _further(self, thing: Entity) -> range:
        """The further roles of a thing, by their number."""
        return range(len(self.roles.others.get(thing.lead[0], ())) if len(thing.lead) == 1 else 0)

    def _in_role(self, role: int, header: str, thing: Entity) -> str:
        """The header that a column has in a further role of a thing; empty if that says nothing of the kind."""
        further = self.roles.others.get(header, ())
        own = further[role] if role < len(further) else ""
        return own if header == thing.lead[0] or own in self.roles.within else ""

    def _all_in_role(self, role: int, headers: Iterable[str], thing: Entity) -> set[str]:
        return {self._in_role(role, header, thing) for header in headers} - {""}

    def _content(self, thing: Entity, seen: tuple[Entity, ...] = ()) -> set[str]:
        """What is said of a thing, by itself and by the things that it refers to, in whatever role."""
        own, seen = {*thing.lead, *thing.alike, *thing.members}, (*seen, thing)
        for one in (one for one in self.things if one not in seen):
            if {*one.lead} <= {*thing.members}:
                own |= self._content(one, seen)
            elif len(one.lead) == 1:
                roles = self.roles.others.get(one.lead[0], ())
                for role in (role for role, lead in enumerate(roles) if lead in thing.members):
                    own |= self._all_in_role(role, self._content(one, seen), one)
        return own

    def is_filled(self, header: str, thing: Entity) -> bool:
        """Whether a column is filled for each thing that some row speaks of, in each of its roles."""
        lead = thing.lead[0]
        roles = [
            (lead, header),
            *((self._in_role(role, lead, thing), self._in_role(role, header, thing)) for role in self._further(thing)),
        ]
        whole = len(thing.lead) > 1 or self.blank_decides(thing, thing.lead)
        return all(own != "" and self.facts(own).blanks == (0 if whole else self.facts(of).blanks) for of, own in roles)

    def may_be_blank(self, header: str) -> bool:
        """Whether a column is one of those that add to a total, of which some rows leave others blank."""
        totals = (one.formula for one in self.computed.values() if one.formula.operation == TOTAL)
        return any(header in one.operands for one in totals)

    def home_of(self, thing: Entity) -> Entity | None:
        """The thing that refers to this one; None if the sheet's own rows do."""
        return next((other for other in self.things if thing.lead[0] in other.members), None)

    def composite(self, header: str, inside: Entity | None) -> Entity | None:
        """The thing that the header identifies together with others which also belong to the thing ``inside``."""
        if inside is None:
            return None
        wholes = (
            thing for thing in self.things if len(thing.lead) > 1 and header in thing.lead and thing is not inside
        )
        return next((thing for thing in wholes if set(thing.lead) <= set(inside.members)), None)

    def is_kind(self, facts: ColumnFacts, rows: int) -> bool:
        """Whether a column of a table with so many rows gets a list of its values."""
        if facts.name in self.owners:
            return True
        if facts.name in self.linked or self._is_name_beside_its_code(facts.name):
            return False
        first = self.roles.first.get(facts.name, facts.name)
        paired = facts.name in self.paired and can_decide(facts)
        return first in self.roles.lists or is_lookup(facts, rows, self.wishes.lookups, paired=paired)

    def _is_name_beside_its_code(self, header: str) -> bool:
        """Whether a header says that it has the names of what another has the codes of: of teams, year by year."""
        others = (facts.name for facts in self.findings.columns if facts.name != header)
        return not NAME.isdisjoint(words(header)[-1:]) and any(has_codes_of(other, header) for other in others)

    def names_part_of(self, header: str, inside: Entity | None) -> bool:
        """Whether a header is the name of what is known by a code, which several may have: two boats; or of what
        identifies a thing with something else: the team of each year."""
        lead = self.key if inside is None else inside.lead
        if len(lead) == 1:
            return has_codes_of(lead[0], header)
        if inside is None or is_person(inside.lead):
            return False
        return bool(NAME.intersection(words(header))) and stem_of(header) in map(stem_of, inside.lead)

    def plain(self, header: str) -> str:
        """A header without the words for its role."""
        return self.roles.names.get(header, header)

    def tells_apart(self, header: str, thing: Entity) -> bool:
        """Whether a column that belongs to a person decides who that is, too."""
        decided = {one.right for one in self.findings.dependencies if one.left == (header,)}
        return is_person(thing.lead) and {*thing.lead} <= decided and not self.facts(header).blanks
