"""Which of the dependencies that hold are meant, and which hold by accident.

A column that identifies something can decide others; amounts, dates, contact details and free text cannot. Among the
rest the evidence counts: had the right side been dealt out at random, how likely would it still have agreed wherever
the left side repeats? With ``q`` the chance that two rows agree in the right side, and ``n`` independent repeats of the
left, that is about ``q**n``; it must be small even after dividing by how many dependencies were tried.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, replace
from itertools import pairwise
from math import log10
from typing import TYPE_CHECKING

from hemplit.core.words import (
    ADDRESS,
    CONTACT,
    FREE_TEXT,
    IDENTIFIER,
    MEASURE,
    PART_OF_NAME,
    PLACE,
    POSTAL_CODE,
    is_identifier,
    stem_of,
    words,
)

if TYPE_CHECKING:
    from collections.abc import Collection, Iterable, Mapping, Sequence

    from hemplit.core.model.findings import ColumnFacts, Dependency, Findings

#: A dependency is believed if chance would give it in less than one of 10^2 such searches.
MARGIN = 2.0
#: Where the headers say that the one belongs to the other ("Boat Reg", "Boat Length"), next to nothing need be shown.
NAMED_MARGIN = 0.5
#: Where it stands behind a code and before the next one, little.
HEADED_MARGIN = 1.0
#: Where it stands right behind it, less, and half of the searches count.
ADJACENT_MARGIN = 0.5
#: A place has a table of its own if it stands in so many rows of the finer thing on average.
PLACE_REPEATS = 4
#: Two columns together are many more candidates and rarely meant: they need this much more evidence, in powers of ten.
COMPOSITE_MARGIN = 4.0
#: Where a pair of columns repeats in fewer rows than this share, a table of its own saves nothing.
COMPOSITE_REPEATS = 0.3
#: Texts that are longer on average are sentences, not names.
LONGEST_NAME = 40.0
#: From this share of values that look like lists on, the cells hold several values each.
LISTS = 0.3


@dataclass(frozen=True)
class Judged:
    """A dependency that is believed; ``strength`` is the evidence in powers of ten, from ``repeats`` repeats."""

    left: tuple[str, ...]
    right: str
    groups: int
    repeats: int
    strength: float


def can_decide(facts: ColumnFacts) -> bool:
    """Whether a column is of the sort that identifies something."""
    return not why_not_deciding(facts)


def why_not_deciding(facts: ColumnFacts) -> str:
    """Why a column is not of the sort that identifies something; empty if it is."""
    said = set(words(facts.name))
    named = is_identifier(said)
    measured = bool(said & MEASURE) and not is_identifier(words(facts.name)[-1:])
    reasons = {
        "it has one value only": facts.distinct < 2,
        f"'{facts.name}' tells how to reach somebody, and decides nothing": bool(said & CONTACT),
        f"'{facts.name}' is a line of an address, and decides nothing": bool(said & ADDRESS),
    }
    if facts.kind.word == "text":
        reasons |= {
            f"'{facts.name}' holds sentences, not names": facts.mean_length > LONGEST_NAME
            or (bool(said & FREE_TEXT) and not named),
            f"'{facts.name}' holds several values in a cell": facts.list_like >= LISTS,
        }
    else:
        number = facts.kind.word == "whole number"
        reasons |= {
            f"'{facts.name}' is a measure, and measures decide nothing": measured and number,
            f"'{facts.name}' holds {facts.kind.word}s, which identify nothing": not number,
            f"'{facts.name}' holds numbers, and its header does not say that they are given out": not named,
        }
    return next((reason for reason, holds in reasons.items() if holds), "")


def judge(findings: Findings, key: Sequence[str], aside: Iterable[str]) -> tuple[Judged, ...]:
    """The dependencies that are meant; ``key`` decides everything anyhow, and columns ``aside`` are computed."""
    skip = {*aside}
    able = {facts.name for facts in findings.columns if can_decide(facts)} - skip
    usable = [
        one
        for one in findings.held
        if one.left and one.evidence and one.right not in skip and one.evidence.repeats
        if able.issuperset(one.left) or _is_place_of_postal_code(one)
    ]
    keys = [frozenset(one) for one in (*findings.keys, tuple(key)) if one]
    usable = [one for one in usable if not any(part <= frozenset(one.left) for part in keys)]
    single = [one for one in usable if len(one.left) == 1 and not _is_part(one.left[0])]
    single = [one for one in single if not _is_name_of_coded(one, usable) and not _is_misspelt(one, single, findings)]
    finer = _group_counts(findings, able)
    # What identifies a thing for certain is more easily believed to decide the next column, too.
    known = frozenset(one.left[0] for one in _believed(single, findings, finer))
    singles = _believed(single, findings, finer, known)
    singles += _persons(usable, findings, finer)
    singles += _nearer(single, singles, findings, finer)
    for pair, own in _homonyms(singles, findings).items():
        singles = [one for one in singles if one.left != pair[:1]]
        singles += _believed(own, findings, finer)
    singles += _side_by_side(single, singles, findings, finer)
    singles += _constants(singles, findings)
    singles = _without_gaps(singles, findings)
    decided = {one.right for one in singles}
    pairs_of = {(one.left[0], one.right) for one in singles}
    below = {right for left, right in pairs_of if (right, left) not in pairs_of}
    pairs = [
        one
        for one in usable
        if len(one.left) == 2
        and one.right not in decided
        and below.isdisjoint(one.left)
        and not is_person(one.left)
        and not {*one.left} & {*key}
        # What one of them decides but for a few slips belongs to that one, once they are corrected.
        and not any((left, one.right) in findings.nearly for left in one.left)
        and one.right not in key
        and _groups(one) <= (1 - COMPOSITE_REPEATS) * findings.row_count
    ]
    return (*singles, *_believed(pairs, findings, finer))


def _is_place_of_postal_code(one: Dependency) -> bool:
    """Whether a postal code tells a town or a region, which is all that it decides."""
    return len(one.left) == 1 and is_postal_code(one.left[0]) and bool(PLACE.intersection(words(one.right)))


def is_postal_code(name: str) -> bool:
    """Whether a header says so."""
    return bool(POSTAL_CODE.intersection(words(name)))


def _group_counts(findings: Findings, able: Collection[str]) -> dict[str, list[int]]:
    """For each column in how many groups others decide it: codes and names, persons, and how to reach somebody.

    Rows that agree in one of these speak of one thing, and say what they say of it again.
    """
    counts: dict[str, list[int]] = {}
    for one in findings.dependencies:
        single = len(one.left) == 1 and (one.left[0] in able or bool(set(words(one.left[0])) & (CONTACT | POSTAL_CODE)))
        if one.evidence and one.evidence.repeats and (single or (len(one.left) == 2 and is_person(one.left))):
            counts.setdefault(one.right, []).append(one.evidence.groups)
    return counts


def _nearer(
    single: Sequence[Dependency], singles: Sequence[Judged], findings: Findings, finer: Mapping[str, list[int]]
) -> list[Judged]:
    """What a thing decides by way of a code that stands right before it hangs on that code, whatever the evidence."""
    believed = {(one.left, one.right) for one in singles}
    by_right: dict[str, set[str]] = {}
    for left, right in believed:
        by_right.setdefault(right, set()).update(left)
    codes = frozenset(facts.name for facts in findings.columns if is_code_by_name(facts))
    weighed = (_weigh(one, finer, findings) for one in single if (one.left, one.right) not in believed)
    return [
        one
        for one in weighed
        if _heads(one, findings, codes) and by_right.get(one.right, set()) & by_right.get(one.left[0], set())
    ]


def _side_by_side(
    single: Sequence[Dependency], singles: Sequence[Judged], findings: Findings, finer: Mapping[str, list[int]]
) -> list[Judged]:
    """What a thing decides among the columns that would share a table with it, of which there are few to try."""
    believed = {(one.left[0], one.right) for one in singles if len(one.left) == 1}
    things = {left for left, _ in believed}
    homes = {facts.name: _home(facts.name, believed) for facts in findings.columns}
    sizes = Counter(homes.values())
    able = Counter(homes[facts.name] for facts in findings.columns if can_decide(facts))
    weighed = (_weigh(one, finer, findings) for one in single if (one.left[0], one.right) not in believed)
    return [
        one
        for one in weighed
        if one.left[0] in things
        and homes[one.left[0]] == homes[one.right]
        and one.strength >= MARGIN + log10(sizes[homes[one.right]] * able[homes[one.right]])
        and not _is_in_an_address(one)
    ]


def _home(name: str, believed: Collection[tuple[str, str]]) -> frozenset[str]:
    """The nearest of what decides a column: what decides none of the others."""
    above = {left for left, right in believed if right == name and (name, left) not in believed}
    return frozenset(one for one in above if not any((one, other) in believed for other in above if other != one))


def _persons(usable: Sequence[Dependency], findings: Findings, finer: Mapping[str, list[int]]) -> list[Judged]:
    """What the two parts of a name decide together, even where one of them is enough on this sheet."""
    parts = [facts.name for facts in findings.columns if _is_part(facts.name)]
    made = []
    for pair in pairwise(parts):
        groups = {_groups(one) for one in usable if set(one.left) <= set(pair)}
        coded = {
            one.left for one in usable if one.right in pair and _groups(one) in groups and not set(one.left) & set(pair)
        }
        if is_person(pair) and not coded:
            of_pair = [one for one in usable if set(one.left) <= set(pair) and one.right not in pair]
            made += _believed([replace(one, left=pair) for one in of_pair], findings, finer)
    return made


def _homonyms(singles: Sequence[Judged], findings: Findings) -> dict[tuple[str, str], list[Dependency]]:
    """The names of which a few stand for several, each with what tells how to reach the one that is meant.

    With each such pair comes what it decides.
    """
    coded = {one.right for one in singles}
    able = {facts.name for facts in findings.columns if facts.kind.word == "text" and can_decide(facts)}
    names = {name for name in able if name not in coded and not _reaches(name) and not _is_part(name)}
    alone = {(one.left[0], one.right) for one in findings.dependencies if len(one.left) == 1}
    found: dict[str, tuple[tuple[str, str], list[Dependency]]] = {}
    for name, contact in sorted(findings.nearly):
        if name not in names or not _is_contact_of(contact, name) or (name, contact) in alone:
            continue
        lefts = [{contact}] if (contact, name) in alone else [{name, contact}]
        decided = [one for one in findings.dependencies if {*one.left} in lefts and one.right != name and one.evidence]
        own = [replace(one, left=(name, contact)) for one in decided]
        if own and (name not in found or max(map(_groups, own)) > max(map(_groups, found[name][1]))):
            found[name] = (name, contact), own
    return dict(found.values())


def _is_contact_of(contact: str, name: str) -> bool:
    """Whether a header says how to reach what another names, or does not say whom."""
    about, said = stem_of(name), words(contact)
    whose = [word for word in said if word not in CONTACT | ADDRESS | IDENTIFIER]
    return _reaches(contact) and (not whose or (bool(about) and said[: len(about)] == about))


def _reaches(name: str) -> bool:
    return bool({*words(name)} & (CONTACT | ADDRESS)) and not is_postal_code(name)


def is_homonym(left: Sequence[str]) -> bool:
    """Whether two columns are a name, and what tells those of one name apart."""
    return len(left) == 2 and _reaches(left[1]) and not _reaches(left[0])


def _without_gaps(singles: Sequence[Judged], findings: Findings) -> list[Judged]:
    """Without what a column decides only where it is filled, while something that decides that column does not.

    Where the town of two owners is blank, its country can still be another for each, and then hangs on the owner.
    """
    filled = {(one.left, one.right) for one in findings.where_filled}
    held = {(one.left, one.right) for one in findings.held}
    held |= {(key, facts.name) for key in findings.keys for facts in findings.columns}
    above: dict[str, list[tuple[str, ...]]] = {}
    for one in singles:
        above.setdefault(one.right, []).append(one.left)

    def follows(left: tuple[str, ...], right: str) -> bool:
        return (
            right in left or any((part, right) in held for part in ((name,) for name in left)) or (left, right) in held
        )

    return [
        one
        for one in singles
        if (one.left, one.right) not in filled or all(follows(left, one.right) for left in above.get(one.left[0], ()))
    ]


def _constants(singles: Sequence[Judged], findings: Findings) -> list[Judged]:
    """The columns with one value only, which says nothing of where they belong, by the things that they name."""
    constant = [one.right for one in findings.dependencies if not one.left]
    lefts = {one.left: one for one in singles}
    made = [replace(one, right=right) for right in constant for one in lefts.values() if right not in one.left]
    return [one for one in made if _is_named(one)]


def _is_part(name: str) -> bool:
    return bool(PART_OF_NAME.intersection(words(name)))


def _is_name_of_coded(one: Dependency, usable: Sequence[Dependency]) -> bool:
    """Whether the left side is the name of something that a code tells apart more finely: two boats of one name."""
    about = stem_of(one.left[0])
    return bool(about) and any(
        (other.right,) == one.left
        and len(other.left) == 1
        and stem_of(other.left[0]) == about
        and is_identifier(words(other.left[0]))
        and _groups(other) > _groups(one)
        for other in usable
    )


def _is_misspelt(one: Dependency, usable: Sequence[Dependency], findings: Findings) -> bool:
    """Whether the left side is the name of something that has a code, with a slip or two, so that it seems finer."""
    about = stem_of(one.left[0])
    return not is_identifier(words(one.left[0])) and any(
        other.left == one.left
        and is_identifier(words(other.right))
        and stem_of(other.right) == about
        and (other.right, one.left[0]) in findings.nearly
        and (other.right,) not in {back.left for back in usable if back.right == one.left[0]}
        for other in usable
    )


def is_person(left: Sequence[str]) -> bool:
    """Whether two columns are the parts of one name."""
    return all(map(_is_part, left)) and len({stem_of(name) for name in left}) == 1


def _believed(
    candidates: Sequence[Dependency],
    findings: Findings,
    finer: Mapping[str, list[int]],
    known: frozenset[str] = frozenset(),
) -> list[Judged]:
    able = sum(map(can_decide, findings.columns))
    tried = len(findings.columns) * max(able, 1) ** max((len(one.left) for one in candidates), default=1)
    weighed = (_weigh(one, finer, findings) for one in candidates)
    return [
        one for one in weighed if one.strength >= _needed(one, tried, findings, known) and not _is_in_an_address(one)
    ]


def _is_in_an_address(one: Judged) -> bool:
    """Whether a town tells its country, as a part of addresses: unless it comes again and again, it stays there."""
    said = set(words(one.left[0]))
    return (
        bool(said & (PLACE | POSTAL_CODE))
        and not is_identifier(said)
        and one.groups + one.repeats < PLACE_REPEATS * one.groups
    )


def _needed(one: Judged, tried: int, findings: Findings, known: frozenset[str]) -> float:
    """How strong the evidence must be; few are tried of those that the headers name, so that these need little."""
    if _is_named(one):
        return NAMED_MARGIN
    if len(one.left) > 1 and not is_person(one.left):
        return MARGIN + COMPOSITE_MARGIN + log10(tried)
    codes = known.union(facts.name for facts in findings.columns if is_code_by_name(facts))
    if _heads(one, findings, codes):
        return HEADED_MARGIN
    if one.left[0] in codes and one.right in codes:
        return NAMED_MARGIN + log10(len(codes))
    if _follows(one, findings):
        return ADJACENT_MARGIN + log10(tried) / 2
    return MARGIN + log10(tried)


def _is_named(one: Dependency | Judged) -> bool:
    """Whether the headers say that the right side belongs to the left."""
    about = stem_of(one.left[0])
    right = words(one.right)
    return (len(one.left) == 1 or is_person(one.left)) and bool(about) and about == right[: len(about)]


def _heads(one: Judged, findings: Findings, codes: frozenset[str]) -> bool:
    """Whether the left side is one of the codes, and the right stands behind it before the next one."""
    left, right = findings.by_name[one.left[0]], findings.by_name[one.right]
    between = findings.columns[left.position + 1 : right.position + 1]
    return left.name in codes and left.position < right.position and not any(facts.name in codes for facts in between)


def is_code_by_name(facts: ColumnFacts) -> bool:
    """Whether the header says so."""
    return is_identifier(words(facts.name))


def _follows(one: Judged, findings: Findings) -> bool:
    """Whether the right side stands behind the left, with nothing between that could have decided it."""
    left, right = findings.by_name[one.left[-1]], findings.by_name[one.right]
    between = findings.columns[left.position + 1 : right.position]
    return left.position < right.position and not any(can_decide(facts) for facts in between)


def _groups(one: Dependency) -> int:
    return one.evidence.groups if one.evidence else 0


def _weigh(one: Dependency, finer: Mapping[str, list[int]], findings: Findings) -> Judged:
    """Rows that repeat a finer left side say the same thing again, so repeats are counted among its groups."""
    groups = _groups(one)
    # What names a place as often as it names somebody is a line of their address.
    least = groups + (0 if {*words(one.left[0])} & (PLACE | POSTAL_CODE) else 1)
    above = [count for count in finer.get(one.left[0], ()) if len(one.left) == 1 and count >= least]
    # Unless the headers name what belongs together, and only say nothing of how many there are.
    blanks = findings.by_name[one.left[0]].blanks if len(one.left) == 1 else 0
    rows = findings.row_count - max(blanks - 1, 0)  # which say nothing of the thing
    repeats = max((rows if _is_named(one) else min([rows, *above])) - groups, 0)
    agreement = min(max(findings.by_name[one.right].agreement, 1e-12), 1.0)
    return Judged(one.left, one.right, groups, repeats, -repeats * log10(agreement))
