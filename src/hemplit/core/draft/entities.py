"""From dependencies to things: what identifies each thing, which columns belong to it, and where it is referred to.

Columns that decide each other identify the same thing. A column belongs to the thing nearest to it: with boat → berth
and berth → dock, the dock belongs to the berth and not to the boat. This is the synthesis of third normal form after
Bernstein, "Synthesizing third normal form relations from functional dependencies" (1976).
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.draft.naming import singular, stem
from hemplit.core.draft.sorts import can_decide, is_code, is_homonym, is_number_of_thing
from hemplit.core.texts.sides import of_sides
from hemplit.core.texts.vocabulary import ADDRESS, CONTACT, MOMENT, PLACE
from hemplit.core.texts.words import is_document, is_identifier, is_person, shown_together, stem_of, with_names, words
from hemplit.core.theory.closure import Rules
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Collection, Sequence

    from hemplit.core.draft.verdict import Verdict
    from hemplit.core.model.findings import ColumnFacts, Findings


#: What names a thing without saying what it is.
TITLES = (("title",), ("name",), ("titel",), ("titre",), ("titulo",))
#: Two numbers follow each other by accident.
FEWEST = 3
#: A column that stands before what it is of is as far from it as one so many columns further behind.
BEFORE = 2


@dataclass(frozen=True)
class Entity:
    """A thing: ``lead`` identifies it, ``alike`` are columns that identify it as well, ``members`` belong to it."""

    lead: tuple[str, ...]
    alike: tuple[str, ...]
    members: tuple[str, ...]
    rows: int

    def why(self, rows: int) -> str:
        """Why it is a thing, on a sheet of so many rows."""
        shown = shown_together(self.lead)
        equal = "".join(f" (or '{name}')" for name in self.alike)
        decided = ", ".join(self.members) or ", ".join(self.alike)
        return (
            f"one row per {' + '.join(self.lead)} ({self.rows:,} in {rows:,} rows); {shown}{equal} determines {decided}"
        )


def stem_of_thing(thing: Entity) -> tuple[str, ...]:
    """The words for a thing, from the headers that identify it.

    >>> stem_of_thing(Entity(("Owner", "Owner Phone"), (), (), 9))
    ('owner',)
    >>> stem_of_thing(Entity(("Year", "Team Code"), (), (), 9))
    ('team', 'year')
    """
    if len(thing.lead) == 1:
        return stem([*thing.lead, *thing.alike])
    if is_homonym(thing.lead):
        return stem(thing.lead[:1])
    if is_person(thing.lead):
        return stem_of(thing.lead[0]) or ("person",)
    parts = sorted(thing.lead, key=lambda name: not MOMENT.isdisjoint(words(name)))
    return tuple(part for name in parts for part in singular(stem([name])))


def entities(findings: Findings, judged: Sequence[Verdict], key: Sequence[str]) -> tuple[Entity, ...]:
    """The things that the dependencies show, if there is anything to say of them; ``key`` stays with the sheet."""
    rules = Rules([(one.left, one.right) for one in judged])
    reach = {left: rules.closure(left) for left in dict.fromkeys(one.left for one in judged)}
    leads = _leads(findings, reach, key)
    while True:
        homes = _homes(findings, leads, reach, key)
        said = {lead: alike for lead, alike in leads.items() if alike or lead in homes.values()}
        # What identifies a thing together is referred to from one place.
        whole = {lead: alike for lead, alike in said.items() if len({homes.get(name) for name in lead}) == 1}
        kept = _without_clashes(whole)
        if len(kept) == len(leads):
            break
        leads = kept
    rows = {one.left: findings.by_name[one.left[0]].distinct if len(one.left) == 1 else one.groups for one in judged}
    found = []
    for lead, alike in leads.items():
        members = tuple(name for name, home in homes.items() if home == lead)
        found.append(Entity(lead, alike, members, rows[lead]))
    return tuple(found)


def _without_clashes(
    leads: dict[tuple[str, ...], tuple[str, ...]],
) -> dict[tuple[str, ...], tuple[str, ...]]:
    """Of two things that share an identifying column, only the first, unless that column is a thing by itself.

    A column can live in one table only; where it is a thing, both of the others refer to it.
    """
    kept: dict[tuple[str, ...], tuple[str, ...]] = {}
    used: set[str] = set()
    for lead, alike in leads.items():
        own = {name for name in lead if len(lead) > 1 and (name,) not in leads}
        if not own & used:
            kept[lead] = alike
            used |= own
    return kept


def _leads(
    findings: Findings, reach: dict[tuple[str, ...], frozenset[str]], key: Sequence[str]
) -> dict[tuple[str, ...], tuple[str, ...]]:
    """Each left side that stands for a thing, with the columns that are equal to it.

    Of equal ones what the rows are known by comes first, then what names things by its sort, a code before a name, what
    stands on two sides, what others are called after, and what stands first; whom to ask for comes behind.
    """
    position = {facts.name: facts.position for facts in findings.columns}
    leads: dict[tuple[str, ...], tuple[str, ...]] = {}
    taken: set[str] = set()
    named = with_names([*findings.by_name])
    able = {facts.name for facts in findings.columns if can_decide(facts) or _counts(facts, findings, named)}
    codes = {facts.name for facts in findings.columns if is_code(facts) and is_identifier(words(facts.name))}
    # Beside somebody to ask a title is a job.
    asks = any(words(facts.name)[-1:] == ("contact",) for facts in findings.columns)
    order = sorted(
        reach,
        key=lambda left: (
            len(left),
            left[0] not in key,
            left[0] not in able,
            left[0] not in codes,
            not _has_other_side(left[0], findings),
            asks and words(left[0]) == ("title",),
            words(left[0])[-1:] == ("contact",),
            not _lends_its_name(left[0], findings),
            [position[name] for name in left],
        ),
    )
    for left in order:
        if len(left) == 1 and left[0] not in taken:
            alike = tuple(
                other[0]
                for other in order
                if len(other) == 1
                and other != left
                and _equal(reach, left, other)
                and not _is_another_thing(left[0], other[0], findings)
            )
            taken.update(alike)
            leads[left] = alike
        elif len(left) > 1 and not taken.intersection(left) and not any(_equal(reach, left, one) for one in leads):
            leads[left] = ()
    return leads


def _counts(facts: ColumnFacts, findings: Findings, named: Collection[tuple[str, ...]]) -> bool:
    """Whether a column numbers what another names, without saying that it does: Stage, Stage Name; Vote, Title.

    Where that is but a title right behind, they are the numbers from one to the last.
    """
    behind = next((words(one.name) for one in findings.behind(facts.name)), ())
    counted = behind in TITLES and facts.lowest == 1 and facts.highest == facts.distinct >= FEWEST
    return is_number_of_thing(facts) and (words(facts.name) in named or counted)


def _lends_its_name(name: str, findings: Findings) -> bool:
    """Whether another column is called after this one, as "Cost Centre Name" after "Cost Centre"."""
    about = words(name)
    return any(words(facts.name)[: len(about)] == about for facts in findings.columns if facts.name != name)


def _is_another_thing(one: str, other: str, findings: Findings) -> bool:
    """Whether two columns that decide each other speak of two things, of which each has columns of its own.

    On a sheet of four boats with an engine each, the engines are still no boats; who gave each of three orders has an
    address that is none of the order's; and a team that plays at home on a ground of its own is a guest on others.
    """
    stems = stem_of(one), stem_of(other)
    if any(is_document(own) and _is_somebody(theirs, findings) for own, theirs in ((one, other), (other, one))):
        return True
    if _has_other_side(one, findings) != _has_other_side(other, findings):
        return True
    if not all(stems) or stems[0][: len(stems[1])] == stems[1] or stems[1][: len(stems[0])] == stems[0]:
        return False
    names = [words(facts.name) for facts in findings.columns]
    return all(sum(name[: len(about)] == about for name in names) > 1 for about in stems)


def _has_other_side(name: str, findings: Findings) -> bool:
    """Whether another column says what stands on the other side, out of the same values."""
    pairs = ((one.one, one.other) for one in findings.shared)
    return any(name in pair and of_sides(pair) for pair in pairs)


def _is_somebody(name: str, findings: Findings) -> bool:
    """Whether behind a name stands how to reach it."""
    behind = next((words(facts.name) for facts in findings.behind(name)), ())
    return not (CONTACT | ADDRESS | PLACE).isdisjoint(behind)


def _equal(reach: dict[tuple[str, ...], frozenset[str]], one: tuple[str, ...], other: tuple[str, ...]) -> bool:
    return reach[one].issuperset(other) and reach[other].issuperset(one)


def _homes(
    findings: Findings,
    leads: dict[tuple[str, ...], tuple[str, ...]],
    reach: dict[tuple[str, ...], frozenset[str]],
    key: Sequence[str],
) -> dict[str, tuple[str, ...]]:
    """For each column the thing to which it belongs; columns of the sheet's own rows are not listed.

    Of an order and its customer, who stands in one row for another, the town is still the customer's.
    """
    position = {facts.name: facts.position for facts in findings.columns}
    homes = {}

    def refers(lead: tuple[str, ...], other: tuple[str, ...]) -> bool:
        ways = [both in findings.mistyped for both in ((*lead, *other), (*other, *lead))]
        slipped = ways == [True, False] and can_decide(findings.by_name[other[0]])
        return (slipped or reach[lead].issuperset(other)) and not reach[other].issuperset(lead)

    for facts in findings.columns:
        name = facts.name
        if name in key or any(name in alike for alike in leads.values()):
            continue
        candidates = [
            lead
            for lead in leads
            if name in reach[lead] and name not in lead and not _stands_before((name,), lead, leads, reach)
        ]
        nearest = [lead for lead in candidates if not any(refers(lead, other) for other in candidates if other != lead)]
        if nearest:
            homes[name] = min(nearest, key=lambda lead: _distance(lead, leads[lead], name, position, key))
    return homes


def _stands_before(
    one: tuple[str, ...],
    other: tuple[str, ...],
    leads: dict[tuple[str, ...], tuple[str, ...]],
    reach: dict[tuple[str, ...], frozenset[str]],
) -> bool:
    """Of two things that decide each other, the first refers to the second and not the other way round."""
    if one not in leads or len(other) > 1 or not _equal(reach, one, other):
        return False
    order = list(leads)
    return order.index(one) < order.index(other)


def _distance(
    lead: tuple[str, ...], alike: tuple[str, ...], name: str, position: dict[str, int], key: Sequence[str]
) -> tuple[int, bool, bool, int, int]:
    """Fewer columns first, of two together those under which the lines of the key count, then a shared word in the
    header, then the place in the sheet.

    What is called after a thing stands for it there, and a column is of what stands before it rather than of what
    follows: in Venue, Venue Address, Capacity, Organiser it is the venue's.
    """
    shared = bool({word for one in (*lead, *alike) for word in words(one)} & set(words(name)))
    about = stem_of(lead[-1])
    after = [other for other in position if about and other != name and words(other)[: len(about)] == about]
    ways = (position[name] - position[one] for one in (lead[-1], *after))
    beside = len(lead) > 1 and not {*lead} < {*key}
    return (len(lead), beside, not shared, min(way if way > 0 else BEFORE - way for way in ways), position[lead[0]])
