"""Columns of one sort of thing in several roles: from-berth and to-berth are both berths, and point to one table.

The first of the columns gives the table its place; the others, and what stands beside them in the same way, come to it
as further roles. A column of names that all stand in the table of the sheet's own rows refers to these rows.
"""

from __future__ import annotations

from itertools import combinations
from typing import TYPE_CHECKING

from hemplit.core.draft.lookups import is_lookup
from hemplit.core.draft.sorts import can_decide, is_code
from hemplit.core.texts.sides import WAY, of_sides
from hemplit.core.texts.vocabulary import IDENTIFIER, NAME
from hemplit.core.texts.words import has_codes_of, words
from hemplit.dataclasses import dataclass, replace

if TYPE_CHECKING:
    from collections.abc import Container, Mapping, Sequence

    from hemplit.core.draft.entities import Entity
    from hemplit.core.model.findings import ColumnFacts, Findings, SharedValues

#: Where the headers share no word, the pools must be the same to this share of the values of both sides.
SAME_POOL = 0.8
#: Words that say what a role is, not what the thing is.
ROLE_WORDS = frozenset("by from to at of in on for via old new first second before after previous next".split())
#: Words for a thing above others of its sort.
ABOVE = frozenset(
    "supervisor manager boss parent superior chief lead leader foreman head mentor reports belongs under"
    " vorgesetzter chef jefe responsable".split()
)
PERSON = ("person",)


@dataclass(frozen=True)
class Roles:
    """Which headers are roles of which.

    ``others`` gives the further headers of a column, one for each role; ``first`` the column that a further one goes
    with; ``lists`` the first columns that are nothing but a list of values; ``within`` those that stand beside a
    further role; ``stems`` what the thing is called, and ``names`` a column without the words for its role.
    ``inward`` names columns that refer to the sheet's own rows, with the column that identifies these. What is
    ``loose`` tells things apart in each role, and may not in all of them together.
    """

    others: Mapping[str, tuple[str, ...]]
    first: Mapping[str, str]
    lists: frozenset[str]
    stems: Mapping[str, tuple[str, ...]]
    within: Mapping[str, str]
    names: Mapping[str, str]
    inward: Mapping[str, str]
    loose: frozenset[str]

    def is_other(self, thing: Entity) -> bool:
        """Whether a thing is a further role of another."""
        return len(thing.lead) == 1 and thing.lead[0] in self.first

    def without_others(self, thing: Entity) -> Entity:
        """The thing without the columns that are a further role inside another.

        Nor is it what only one of the roles seems to decide, while the others have partners: which boat it was.
        """
        own = [name for name in thing.members if name not in self.within]
        in_roles = thing.lead[0] in self.others and any(name in self.others for name in own)
        about = _noun(thing.lead[0])
        kept = tuple(name for name in own if not in_roles or name in self.others or _noun(name) & about)
        return replace(thing, members=kept)


def roles(findings: Findings, things: Sequence[Entity], key: Sequence[str], aside: Container[str]) -> Roles:
    """The roles that the shared values show; columns in ``key`` or ``aside`` have none."""
    found = _Found(things, findings.shared)
    identifying = {name for thing in things for name in (*thing.lead, *thing.alike)}
    # What identifies a thing only together with another column is one of no pool.
    joint = {name for thing in things if len(thing.lead) > 1 for name in thing.lead}
    for shared in findings.shared:
        pair = shared.one, shared.other
        if any(name in aside or name in joint or name in found.first or name in found.inward for name in pair):
            continue
        whole, part = sorted(pair, key=lambda name: (name not in key, (name,) not in findings.keys))
        if (whole,) in findings.keys and not of_sides(pair) and part not in identifying and part not in key:
            # The rows are referred to by their key, or by the one column that names them where the key is made up.
            known = {*key} or {*found.inward.values()} or {whole}
            elsewhere = whole not in key and (whole in identifying or whole in found.home)
            named = _says_so(whole, part) or _is_head(whole, findings)
            if known == {whole} and not elsewhere and named and _is_within(shared, whole, part, findings):
                found.inward[part] = whole
        elif set(pair) & {*key}:
            continue
        elif len(found.by_lead.keys() & {*pair}) == 2:
            if _same_sort(shared, findings) and not found.add_thing(shared):
                found.add_thing(shared.turned)
        elif not identifying.intersection(pair):
            facts = [findings.by_name[name] for name in pair]
            beside = found.home.get(shared.one) == found.home.get(shared.other)
            together = _together(shared, facts[0], facts[1])
            listed = any(is_lookup(one, one.rows) for one in (*facts, together))
            coded = any(has_codes_of(code, name) for name in pair for code in found.home.get(name, (*key,))[:1])
            listed = listed and all(map(can_decide, facts)) and not coded
            if beside and listed and _same_sort(shared, findings) and found.add(*pair):
                found.lists.add(pair[0])
        else:
            whole, part = sorted(pair, key=lambda name: name not in found.by_lead)
            sides = bool(of_sides(pair))
            one_sort = sides or _is_within(shared, whole, part, findings) or _is_of(shared, whole, part, findings)
            able = whole in found.by_lead and part not in identifying and one_sort
            if able and not found.leads_to(whole, part):
                alike = (shared if whole == shared.one else shared.turned).alike if sides else ()
                if not found.add(whole, part, found.said_of(whole, alike)):
                    found.add(whole, part)
    return found.roles()


class _Found:
    """What has been found so far."""

    def __init__(self, things: Sequence[Entity], shared: Sequence[SharedValues]) -> None:
        self.alike = {(one.one, one.other): {*one.alike} for both in shared for one in (both, both.turned)}
        self.by_lead = {thing.lead[0]: thing for thing in things if len(thing.lead) == 1}
        self.home = {name: thing.lead for thing in things for name in thing.members}
        # The further roles of each column, and what says of each, beside it, what is said of the first.
        self.pools: dict[str, dict[str, dict[str, str]]] = {}
        self.first: dict[str, str] = {}
        self.inward: dict[str, str] = {}
        self.lists: set[str] = set()

    def add(self, one: str, other: str, beside: Sequence[tuple[str, str]] = ()) -> bool:
        """Makes the second a further role of the first, unless a column has another part already.

        The columns of a table have headers role by role, so that of two roles one must say all that the other says.
        """
        partners = dict(beside)
        inner = {ours for ours, two in partners.items() if self.pools.get(ours, {}).keys() == {two}}
        apart = {name: further for name, further in self.pools.items() if name not in inner}
        pool = apart.pop(one, {})
        in_turn = all({*partners} <= {*others} or {*others} <= {*partners} for others in pool.values())
        first, new = _firsts({one: pool}), {other, *partners.values()}
        if not in_turn or new & {one, *first, *first.values()} or {one, *partners} & {*first}:
            return False
        if (new | {one, *partners}) & {name for pair in _firsts(apart).items() for name in pair}:
            return False
        if not self._agree_on_all(one, [*pool.items(), (other, partners)]):
            return False
        self.pools = {**apart, one: {**pool, other: partners}}
        self.first = _firsts(self.pools)
        return True

    def _agree_on_all(self, one: str, pool: Sequence[tuple[str, Mapping[str, str]]]) -> bool:
        """Whether all roles say the same of each thing, and of each that it refers to."""
        things = [self.by_lead[name] for name in (one, *self._inner(self.by_lead[one]))] if one in self.by_lead else []
        roles = [{name: name for thing in things for name in (*thing.lead, *self._said(thing))}]
        roles += [{**beside, one: other} for other, beside in pool]
        return all(
            self._agree([(said[thing.lead[0]], said[name]) for said in roles if name in said and thing.lead[0] in said])
            for thing in things
            for name in (*thing.members, *thing.alike)
        )

    def _agree(self, roles: Sequence[tuple[str, str]]) -> bool:
        """Whether what stands beside a column, each the second, is the same of the same thing in whatever roles."""
        return all(
            (said, other) in self.alike.get((lead, further), ())
            for (lead, said), (further, other) in combinations(roles, 2)
        )

    def leads_to(self, whole: str, part: str) -> bool:
        """Whether a thing refers to the one that a column belongs to, so that it cannot be referred to from there."""
        owner = self.home.get(part, ())
        todo, seen = [whole], {whole}
        while todo:
            ours = self.by_lead[todo.pop()].members
            further = {self.first.get(name, name) for name in ours} & self.by_lead.keys() - seen
            seen |= further
            todo += further
        return len(owner) == 1 and self.first.get(owner[0], owner[0]) in seen - {whole}

    def add_thing(self, shared: SharedValues) -> bool:
        """The things of two roles, if the second says nothing of its own that the first does not say as well."""
        pairs = {two: one for one, two in shared.alike}
        one, other = self.by_lead[shared.one], self.by_lead[shared.other]
        beside = [(pairs.get(two, ""), two) for two in self._said(other)]
        told = {ours for ours, _ in beside}
        # Of what it refers to, a role that says anything says what it is.
        named = all(inner in told or told.isdisjoint(self._said(self.by_lead[inner])) for inner in self._inner(one))
        if self.leads_to(shared.one, shared.other) or not named or not told <= {*self._said(one)}:
            return False
        return self.add(shared.one, shared.other, beside)

    def _inner(self, thing: Entity) -> list[str]:
        """The things to which a thing refers, and those to which they do."""
        own = [name for name in thing.members if name in self.by_lead]
        return [*own, *(name for one in own for name in self._inner(self.by_lead[one]))]

    def _said(self, thing: Entity) -> tuple[str, ...]:
        """All that follows from a thing: what is said of it, and of what it refers to."""
        all_of_it = (thing, *(self.by_lead[name] for name in self._inner(thing)))
        return tuple(name for one in all_of_it for name in (*one.members, *one.alike))

    def said_of(self, whole: str, alike: Sequence[tuple[str, str]]) -> list[tuple[str, str]]:
        """What says of one side, each the first, what is said of a thing on the other."""
        thing = self.by_lead[whole]
        return [(one, two) for one, two in alike if one in (*thing.members, *thing.alike)]

    def roles(self) -> Roles:
        """All of it, with names; the roles that say most of a thing come first."""
        others: dict[str, tuple[str, ...]] = {}
        for lead, further in self.pools.items():
            ordered = sorted(further, key=lambda name: -len(further[name]))
            others[lead] = tuple(ordered)
            for name in further[ordered[0]]:
                others[name] = tuple(further[role][name] for role in ordered if name in further[role])
        within = {two: one for pool in self.pools.values() for said in pool.values() for one, two in said.items()}
        # What only says from where is called as what it is.
        names = {
            name: " ".join(_common((name, *further)) or of_sides((name, *further))) or (name if _noun(name) else WAY[0])
            for name, further in others.items()
        }
        stems = {name: _stem((name, *further)) for name, further in others.items()}
        for name in self.by_lead.keys() & others.keys() - self.lists:
            other = others[name][0]
            if stems[name] == PERSON:
                names[name] = " ".join(PERSON)
            elif _noun(name) and not _share_noun(name, other) and not of_sides((name, other)):
                stems.pop(name)  # one is within the other, which has the name
                names.pop(name)
        codes = [(one.lead[0], name) for one in self.by_lead.values() if one.lead[0] in others for name in one.alike]
        loose = frozenset(
            name
            for lead, name in codes
            if not self._agree([*zip((name, *others.get(name, ())), (lead, *others[lead]), strict=False)])
        )
        return Roles(others, self.first, frozenset(self.lists), stems, within, names, self.inward, loose)


def _firsts(pools: Mapping[str, Mapping[str, Mapping[str, str]]]) -> dict[str, str]:
    """The column with which each goes that is a further role, or stands beside one."""
    further = [(one, other, beside) for one, pool in pools.items() for other, beside in pool.items()]
    return {two: ours for one, other, beside in further for ours, two in ((one, other), *beside.items())}


def _together(shared: SharedValues, one: ColumnFacts, other: ColumnFacts) -> ColumnFacts:
    """Two columns as if their cells stood in one, which repeats in few rows, too."""
    distinct = one.distinct + other.distinct - shared.common
    return replace(one, distinct=distinct, rows=shared.cells, filled=one.filled + other.filled)


def _same_sort(shared: SharedValues, findings: Findings) -> bool:
    """Whether the headers share a word for the thing, or else nearly all values, which numbers do by accident."""
    one, other = (findings.by_name[name] for name in (shared.one, shared.other))
    if is_code(one) != is_code(other):
        return False
    if _share_noun(shared.one, shared.other) or of_sides((shared.one, shared.other)):
        return True
    alike = shared.common >= SAME_POOL * max(one.distinct, other.distinct) and min(one.distinct, other.distinct) > 2
    return alike and one.kind.word == "text"


def _is_within(shared: SharedValues, whole: str, part: str, findings: Findings) -> bool:
    """Whether all values of one column are values of another that identifies rows or things, and not by accident."""
    facts = findings.by_name[part]
    if shared.common < facts.distinct or facts.distinct < 2 or not can_decide(facts):
        return False
    return _says_so(whole, part) or (facts.kind.word == "text" and facts.distinct > 2)


def _says_so(whole: str, part: str) -> bool:
    """Whether headers say that the one column refers to the other."""
    return _share_noun(whole, part) or not ABOVE.isdisjoint(words(part))


def _is_head(name: str, findings: Findings) -> bool:
    """Whether a column tells the rows apart, and each before it does so, too: a list begins with what it lists."""
    return all((one.name,) in findings.keys for one in findings.before(name))


def _is_of(shared: SharedValues, whole: str, part: str, findings: Findings) -> bool:
    """Whether two columns say with a word that they hold things of one sort, nearly all of the same ones."""
    facts = findings.by_name[part]
    few = shared.common < SAME_POOL * facts.distinct or facts.distinct < 2
    return not few and can_decide(facts) and _share_noun(whole, part)


def _share_noun(one: str, other: str) -> bool:
    """Whether two headers have a word for what they hold in common."""
    return not _noun(one).isdisjoint(_noun(other))


def _noun(header: str) -> set[str]:
    return set(words(header)) - ROLE_WORDS - NAME - IDENTIFIER


def _common(headers: Sequence[str]) -> tuple[str, ...]:
    split = [words(header) for header in headers]
    return tuple(word for word in split[0] if all(word in other for other in split[1:]) and word not in ROLE_WORDS)


def _stem(headers: Sequence[str]) -> tuple[str, ...]:
    """What the headers speak of together; people where each says what somebody did.

    >>> _stem(["From Berth", "To Berth"]), _stem(["Launched By", "Signed Off By"]), _stem(["Skipper", "Mate"])
    (('berth',), ('person',), ('skipper',))
    >>> _stem(["From", "To"]), _stem(["Home Code", "Away Code"])
    (('place',), ('team',))
    """
    split = [[word for word in words(header) if word not in NAME] for header in headers]
    common = tuple(word for word in _common(headers) if word not in NAME)
    said = tuple(word for word in common if word not in IDENTIFIER)
    if said:
        return said
    if all(parts and parts[-1] == "by" for parts in split):
        return PERSON
    return of_sides(headers) or common or tuple(word for word in split[0] if word not in ROLE_WORDS | IDENTIFIER) or WAY
