"""Which links between sheets are meant: a column refers to the list that its header or its values speak for.

Numbers that count from one stand in every list of so many rows, so that only the headers tell which is meant; texts
speak for themselves. Each column refers to one list, the one that has its name and nearly all of its values.
"""

from __future__ import annotations

import re
from math import log2, prod
from typing import TYPE_CHECKING

from hemplit.core.draft.keys import base_key, is_where
from hemplit.core.draft.naming import thing_words
from hemplit.core.draft.roles import ABOVE
from hemplit.core.draft.sorts import is_code, is_moment, reaches
from hemplit.core.model.relation import TEXT
from hemplit.core.study.links import KNOWN, UNIQUE
from hemplit.core.texts.moments import is_moment_header, is_of_rows
from hemplit.core.texts.sides import of_sides
from hemplit.core.texts.vocabulary import MOMENT
from hemplit.core.texts.words import is_identifier, is_measure, words
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Collection, Mapping, Sequence

    from hemplit.core.model.findings import ColumnFacts, Findings, Link

    #: Columns that name something together, by their sheet.
    Place = tuple[str, tuple[str, ...]]


@dataclass(frozen=True)
class Things:
    """Columns, by sheet and header, that name a sort of thing that their sheet only speaks of, and does not list.

    Of those that are ``kinds`` nothing is known but a list of values. ``told`` are all columns that say something of a
    thing, its names too.
    """

    named: frozenset[tuple[str, str]] = frozenset()
    kinds: frozenset[tuple[str, str]] = frozenset()
    told: frozenset[tuple[str, str]] = frozenset()

    def holds(self, link: Link) -> bool:
        """Whether a link leads to such a column."""
        return len(link.key) == 1 and (link.parent, link.key[0]) in self.named


NO_THINGS = Things()
#: So many bits tell that columns do not take their values from a list together by accident: of five first and five
#: last names that make five persons, four persons have nine, and of ten pairs of sixteen, seven of nine have one.
NO_ACCIDENT = 6.0
#: Where no word says that two columns speak of one thing, so large a share of the values has to be known.
UNNAMED_KNOWN = 0.9
#: Names of first and last name are hardly shorter.
NAME_LENGTH = 6.0
LETTER = re.compile(r"[^\W\d_]")
SPACE = " "
#: Shorter texts are the same in lists of all sorts.
SHORTEST = 2.0
#: So many different values, or all that there are, make texts speak for themselves.
TELLING = 3
#: Numbers speak for themselves where so few of those between are used, or where they begin far from one.
SPARSE = 0.2
FAR = 100.0


def meant(found: Sequence[Link], findings: Mapping[str, Findings], things: Things = NO_THINGS) -> tuple[Link, ...]:
    """The links that are meant, each column in one of them, without circles of sheets.

    What names a thing that no sheet lists is linked with the sheet that names the most of these.
    """
    found = [one for one in found if not _leads_from_list(one, findings)]
    chosen: list[Link] = []
    used: set[tuple[str, str]] = set()
    of_parts = _of_parts(found)
    order = sorted(
        found, key=lambda one: (things.holds(one), -one.of if things.holds(one) else 0, _rank(one, findings, of_parts))
    )
    for one in order:
        headers = {(one.child, header) for header in one.headers}
        if headers & used or not _is_meant(one, findings):
            continue
        if things.holds(one):
            of_kind = (one.parent, one.key[0]) in things.kinds
            if (one.parent, one.key[0]) in used or (of_kind and not _has_header_of(one)):
                continue
        elif _lists_none(one, findings, things) or _closes_a_circle(
            one, [other for other in chosen if not things.holds(other)]
        ):
            continue
        used |= headers
        chosen.append(one)
    chosen = [one for one in chosen if not (_reaches_named(one, chosen) or _is_said_of_named(one, chosen, findings))]
    return tuple(sorted(chosen, key=lambda one: (one.child, [_place(one, header, findings) for header in one.headers])))


def _reaches_named(one: Link, chosen: Sequence[Link]) -> bool:
    """Whether a column only says where to find or how to reach those whom another column names in the same list."""
    others = (other for other in chosen if (other.child, other.parent) == (one.child, one.parent) and other is not one)
    return reaches(one.headers[0]) and any(not reaches(other.headers[0]) for other in others)


def _is_said_of_named(one: Link, chosen: Sequence[Link], findings: Mapping[str, Findings]) -> bool:
    """Whether a column says of a row that another names by its key whose it is there, or was: the tenant of a plot, of
    which one at least is another."""
    key = base_key(findings[one.parent], ())
    others = (other for other in chosen if (other.child, other.parent) == (one.child, one.parent) and other is not one)
    by_key = any(other.key == key and other.known == other.different for other in others)
    return one.child != one.parent and one.known < one.different and one.key != key and by_key


def only_speaks(sheet: str, header: str, findings: Findings) -> bool:
    """Whether the rows of a sheet are something else than what a column names, even where each is named once so far.

    They have a day, or a number of their own, and the name of the sheet is not that of the things: an inspection of
    each boat. Where another sheet says more of these, it says what they are. A day that is told of a thing for good, as
    that on which somebody started, is none of such rows.
    """
    called, about = thing_words(sheet), thing_words(header)
    if not about or about & called:
        return False
    others = [facts for facts in findings.columns if facts.name != header and not facts.blanks]
    own = (facts for facts in others if facts.distinct == findings.row_count and thing_words(facts.name) & called)
    numbered = any(is_code(facts) for facts in own)
    return numbered or any(is_moment_header(facts.name) and is_of_rows(facts.name) for facts in others)


def happens(sheet: str, one: Link, findings: Findings) -> bool:
    """Whether the rows of a sheet are what happened on a day to things that another lists, even if once to each so far.

    A date of birth, or a year of building, is no such day: it says more than when.
    """
    about = thing_words(one.headers[0]) | thing_words(one.parent)
    return not about & thing_words(sheet) and _tells_when(findings)


def _lists_none(one: Link, findings: Mapping[str, Findings], things: Things) -> bool:
    """Whether the parent only speaks of things of which the child says more; whose superiors stand there lists them."""
    if one.child == one.parent and _is_named(one):
        return False
    told = (one.child, one.headers[0]) in things.told
    return len(one.key) == 1 and told and only_speaks(one.parent, one.key[0], findings[one.parent])


def _closes_a_circle(one: Link, chosen: Sequence[Link]) -> bool:
    """Whether the list refers to the sheet already, by itself or through others; a sheet may refer to itself."""
    if one.child == one.parent:
        return False
    reached, todo = set(), [one.parent]
    while todo:
        sheet = todo.pop()
        reached.add(sheet)
        todo += [other.parent for other in chosen if other.child == sheet and other.parent not in reached]
    return one.child in reached


def _place(link: Link, header: str, findings: Mapping[str, Findings]) -> int:
    return findings[link.child].by_name[header].position


def _of_parts(found: Sequence[Link]) -> frozenset[Link]:
    """The links to what has only some of the things that another lists, to which the columns could refer as well.

    Calibrations of three gauges are no list of gauges, where there is one of all four; nor are they if they are of all,
    but only their header says of what.
    """
    listed: dict[Place, dict[Place, Link]] = {}
    for one in found:
        listed.setdefault((one.child, one.headers), {})[one.parent, one.key] = one
    return frozenset(
        one
        for one in found
        for place, whole in listed.get((one.parent, one.key), {}).items()
        if whole.known == whole.different and place in listed[one.child, one.headers]
        if whole.of > one.of or (_is_named(whole) and not _is_told_back(whole, listed))
    )


def _is_told_back(one: Link, listed: Mapping[Place, Mapping[Place, Link]]) -> bool:
    """Whether a link leads the other way, too, and headers say so."""
    back = listed.get((one.parent, one.key), {}).get((one.child, one.headers))
    return back is not None and _is_named(back)


def _rank(one: Link, findings: Mapping[str, Findings], of_parts: Collection[Link]) -> tuple[object, ...]:
    """The best first; what is left to choose goes by what stands in the sheets and not by their order."""
    named = _is_named(one)
    # Where both sides name their rows by it, the list is the one of which the other is a part.
    both = _is_unique(one, findings)
    return (
        -len(one.headers) if named else 0,
        not named,
        one in of_parts,
        not _lists(one, findings),
        one.alike,
        both,
        -one.known / one.different,
        -one.known / one.of,
        _tells_when(findings[one.parent]),
        -len(findings[one.parent].columns),
        one.parent,
        one.child,
        one.headers,
        one.key,
    )


def _tells_when(findings: Findings) -> bool:
    """Whether the rows of a sheet are of a day or another time, and so rather what happened than a list of things."""
    return any(not facts.blanks and MOMENT.issuperset(words(facts.name)) for facts in findings.columns)


def _is_meant(one: Link, findings: Mapping[str, Findings]) -> bool:
    children = [findings[one.child].by_name[name] for name in one.headers]
    keys = [findings[one.parent].by_name[name] for name in one.key]
    # What is kept as it was written names nothing, and what stands in a room is not named by it.
    if any(facts.beside for facts in children) or (len(keys) == 1 and is_where(keys[0], findings[one.parent])):
        return False
    if any(_is_measure(facts) and (len(keys) == 1 or not is_moment(facts)) for facts in (*children, *keys)):
        return False
    if _is_accident(one, findings) or _are_sides(one) or (_is_of_part(one, findings) and not _is_named(one)):
        return False
    share = max(one.known / one.different, one.matched / one.rows)
    is_name = _is_unique(one, findings) and not _has_own_key(one, findings[one.child])
    if _is_named(one):
        share = max(share, (one.known + one.near) / one.different)
        return share >= KNOWN and (not is_name or _is_the_same_thing(one))
    if is_name and not (
        one.known == one.different and _are_telling(children) and (_has_header_of(one) or _are_some(one, children))
    ):
        return False
    are_codes = _are_codes(one, findings)
    # Where all codes of a list are under the days, what else stands there is a day off.
    least = KNOWN if _are_full_names(one, children) or (are_codes and one.known == one.of) else UNNAMED_KNOWN
    return share >= least and (are_codes or any(_speaks_for_itself(facts, one) for facts in children))


def _are_codes(one: Link, findings: Mapping[str, Findings]) -> bool:
    """Whether what stands under headers that became rows, and is called no more than a value, are codes with which a
    list begins: E, L and O under the days of a rota."""
    child, parent = findings[one.child], findings[one.parent]
    bare = child.in_blocks and words(one.headers[0]) == ("value",) and child.by_name[one.headers[0]].kind == TEXT
    first = one.key == (parent.columns[0].name,) and is_identifier(words(one.key[0]))
    return bare and first


def _leads_from_list(one: Link, findings: Mapping[str, Findings]) -> bool:
    """Whether a sheet that lists what its column names, and is called after that, would refer to one that is not, but
    has a column under that header, too. Skippers may well be some of the members."""
    if len(one.headers) > 1 or findings[one.child].of or not _is_unique(one, findings):
        return False
    about = thing_words(one.headers[0])
    speaks = about == thing_words(one.key[0]) and not about & thing_words(one.parent)
    return bool(about) and about <= thing_words(one.child) and speaks


def _is_of_part(one: Link, findings: Mapping[str, Findings]) -> bool:
    """Whether entries that stood in the rows of a sheet would refer to these: a bidder to the tender that was won."""
    child, parent = findings[one.child], findings[one.parent]
    of_one = (child.source.path, child.source.sheet) == (parent.source.path, parent.source.sheet)
    return bool(child.of) and of_one


def _are_sides(one: Link) -> bool:
    """Whether two columns of a sheet are roles of what it does not list: its rows go from one to the other."""
    return one.child == one.parent and bool(of_sides((one.headers[0], one.key[0])))


def _is_accident(one: Link, findings: Mapping[str, Findings]) -> bool:
    """Whether columns together could take their values from a list because it has nearly all pairs of such values.

    A list whose rows have a number or a code says its pairs besides. Of pairs that are made by chance it has the share
    of all that there could be. That as many of these as are known are there by chance is less likely than two to the
    minus that many bits (the bound of Chernoff, 1952).
    """
    parent = findings[one.parent]
    if len(one.key) < 2 or one.alike or len(base_key(parent, ())) != 1:
        return False  # what has no other key is known by these
    by_chance = min(one.of / prod(parent.by_name[name].distinct for name in one.key), 1.0)
    known = one.known / one.different
    parts = ((known, by_chance), (1 - known, 1 - by_chance))
    bits = one.different * sum(said * log2(said / chance) for said, chance in parts if said > 0 and chance > 0)
    return known <= by_chance or bits < NO_ACCIDENT


def why_not(one: Link, chosen: Link, findings: Mapping[str, Findings]) -> str:
    """Why a column does not refer to what a link says, but to what was chosen for it."""
    facts = [findings[one.child].by_name[name] for name in one.headers]
    facts += [findings[one.parent].by_name[name] for name in one.key]
    measured = next((each for each in facts if _is_measure(each)), None)
    if measured is not None:
        return f"'{measured.name}' measures something"
    if _is_meant(one, findings):
        if _is_named(chosen) and not _is_named(one):
            return "no header speaks of it"
        if _lists(chosen, findings) and not _lists(one, findings):
            return "its rows speak of such things, and list none"
        return "it has fewer of the values, or lists more that is not spoken of"
    if not _is_named(one) and not any(_speaks_for_itself(each, one) for each in facts[: len(one.headers)]):
        return "no header speaks of it, and values such as these stand in every list"
    return "both name their own rows by it" if _is_unique(one, findings) else "too few of the values stand there"


def _is_measure(facts: ColumnFacts) -> bool:
    return facts.kind.word != "text" and is_measure(words(facts.name))


def _speaks_for_itself(child: ColumnFacts, one: Link) -> bool:
    """Whether the values could hardly be the same by accident."""
    if child.kind.word == "text":
        return child.mean_length >= SHORTEST and one.known >= min(TELLING, one.different)
    if child.kind.word != "whole number":
        return False
    lowest, highest = child.lowest or 0.0, child.highest or 0.0
    far = lowest > max(highest - lowest, FAR)
    return one.known >= TELLING and (far or one.dense < SPARSE)


def _is_unique(one: Link, findings: Mapping[str, Findings]) -> bool:
    """Whether the referring columns tell the rows of their own sheet apart, too, if these are no entries of lists."""
    return not findings[one.child].of and any(set(key) <= set(one.headers) for key in findings[one.child].keys)


def _has_own_key(one: Link, child: Findings) -> bool:
    """Whether the rows of a sheet begin with a code or a number of their own, and so name others behind it: a fault of
    each machine so far."""
    first = child.columns[0].name
    return base_key(child, ()) == (first,) and first not in one.headers


def _lists(one: Link, findings: Mapping[str, Findings]) -> bool:
    """Whether the parent has a row for each, but for a few: it lists what others only speak of."""
    return one.of >= UNIQUE * findings[one.parent].row_count


def _are_telling(columns: Sequence[ColumnFacts]) -> bool:
    """Whether columns hold texts that stand in another list by no accident: names as persons have them, or codes with a
    letter, as numbers stand in many lists."""
    return all(
        facts.kind.word == "text"
        and (
            all(map(LETTER.search, facts.examples))
            if is_identifier(words(facts.name))
            else facts.mean_length >= NAME_LENGTH
        )
        for facts in columns
    )


def _are_some(one: Link, columns: Sequence[ColumnFacts]) -> bool:
    """Whether columns hold some of the names that a list has, each of several words: who leads each of three jobs."""
    several = all(SPACE in text for facts in columns for text in facts.examples)
    return not one.alike and several and TELLING <= one.different < one.of


def _are_full_names(one: Link, columns: Sequence[ColumnFacts]) -> bool:
    """Whether more than a few names of several words stand in a list, where hardly any other has the same."""
    several = all(SPACE in text for facts in columns for text in facts.examples)
    return several and one.known > TELLING


def _has_header_of(one: Link) -> bool:
    return not one.alike and [words(name) for name in one.headers] == [words(name) for name in one.key]


def _is_the_same_thing(one: Link) -> bool:
    """Whether a sheet that names its own rows by it lists some of the same things: all, or under the same headers."""
    return [words(name) for name in one.headers] == [words(name) for name in one.key] or one.known == one.different


def _is_named(one: Link) -> bool:
    """Whether each header has a word in common with that of the key, or with the name of its sheet."""
    if one.child == one.parent:
        return bool(ABOVE.intersection(words(one.headers[0])))
    sheet = thing_words(one.parent)
    pairs = zip(one.headers, one.key, strict=False)
    said = [(thing_words(header), thing_words(name) | sheet) for header, name in pairs]
    # Beside a column that has the name, one that says "No" says what it numbers.
    return all(own & theirs or not own for own, theirs in said) and any(own & theirs for own, theirs in said)
