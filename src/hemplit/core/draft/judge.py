"""Which of the dependencies that hold are meant, and which hold by accident: a verdict for every candidate.

What speaks for and against a candidate is weighed in ``weighing.py``; here stands what is a candidate, what follows
from a verdict for the next, and what rules one out whatever the evidence.
"""

from __future__ import annotations

from types import MappingProxyType
from typing import TYPE_CHECKING

from hemplit.core.draft.chance import Chances
from hemplit.core.draft.constants import constants
from hemplit.core.draft.keys import moments_of_files
from hemplit.core.draft.lines import head_of_lines
from hemplit.core.draft.lookups import is_lookup
from hemplit.core.draft.namesakes import Names
from hemplit.core.draft.pairs import of_pairs
from hemplit.core.draft.sorts import (
    PLACE_REPEATS,
    can_decide,
    is_code,
    is_measured,
    is_moment,
    is_postal_code,
    is_unit,
    reaches,
    why_never,
)
from hemplit.core.draft.verdict import Verdict, weight
from hemplit.core.draft.weighing import Candidates, weigh
from hemplit.core.draft.weights import OF_PAIR, OF_THING
from hemplit.core.model.relation import TEXT, TIMES
from hemplit.core.texts.sides import other_side
from hemplit.core.texts.vocabulary import MODEL, MOMENT, PLACE
from hemplit.core.texts.words import (
    has_codes_of,
    is_document,
    is_identifier,
    is_price,
    numbers_document,
    parts_among,
    shown_together,
    stem_of,
    words,
)
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Collection, Iterable, Mapping, Sequence

    from hemplit.core.draft.weighing import Left
    from hemplit.core.model.findings import Dependency, Findings

#: Where a kind has a price of its own, there are more than half as many prices as kinds.
KINDS_OF_PRICE = 2
#: Of a price evidence may be so little: three of six lines of one part at one price have -0.4, two of seven -0.9.
LIKELY_PRICE = -1.0
#: What a sheet says of things that another lists is more than the list says only if chance gives it in so few sheets,
#: as a common logarithm.
MORE_OF_LISTED = -3.0
NOTHING_LISTED: Mapping[frozenset[str], Collection[str]] = MappingProxyType({})


def judge(
    findings: Findings,
    key: Sequence[str],
    aside: Iterable[str],
    listed: Mapping[frozenset[str], Collection[str]] = NOTHING_LISTED,
    owners: Collection[str] = (),
) -> tuple[Verdict, ...]:
    """A verdict for every candidate; ``key`` decides everything anyhow, columns ``aside`` are computed, what some name
    together is ``listed`` by another sheet under those headers, and ``owners`` name things that have something else."""
    return _Judge(findings, key, aside, listed, owners).verdicts()


def candidates(findings: Findings, key: Sequence[str], aside: Collection[str]) -> list[Dependency]:
    """The dependencies that hold, have been put to the test, and are not ruled out by the sort of their left side.

    Slips depend on nothing but the row in which they stand.
    """
    aside = {*aside, *(facts.name for facts in findings.columns if facts.beside)}
    never = {facts.name for facts in findings.columns if why_never(facts)}
    keys = [frozenset(one) for one in (*findings.keys, tuple(key)) if one]
    head = head_of_lines(findings)
    return [
        one
        for one in findings.held
        if one.left
        and one.evidence
        and one.evidence.repeats
        and one.right not in aside
        and not {*one.left} & {*aside}
        and (len(one.left) > 1 or findings.by_name[one.left[0]].repeats)
        and (never.isdisjoint(one.left) or one.left == head or _is_place_of_postal_code(one))
        and not any(part <= frozenset(one.left) for part in keys)
    ]


class _Judge:
    def __init__(
        self,
        findings: Findings,
        key: Sequence[str],
        aside: Iterable[str],
        listed: Mapping[frozenset[str], Collection[str]],
        owners: Collection[str],
    ) -> None:
        self.findings, self.listed, self.owners = findings, listed, owners
        self.key = {*key}
        self.usable = candidates(findings, key, {*aside})
        self.of_file = moments_of_files(findings)
        self.addresses = any(reaches(facts.name) or is_postal_code(facts.name) for facts in findings.columns)
        self.single = [one for one in self.usable if len(one.left) == 1]
        self.names = Names(findings, self.usable, listed)
        self.parts = parts_among(findings.by_name)
        self.head = head_of_lines(findings)

    def verdicts(self) -> tuple[Verdict, ...]:
        """First what one column decides, then what only two do."""
        persons = self.names.persons()
        plain = [one for one in self.single if one.left[0] not in self.parts]
        self._consider([*self.single, *persons])
        found = [self._of_one(one) for one in (*plain, *persons)]
        for pair, own in self.names.homonyms({one.right for one in found if one.believed}).items():
            found = [one for one in found if one.left != pair[:1]]
            self._consider([*self.single, *persons, *own])
            found += [self._of_one(one) for one in own if one.right not in one.left]
        found += constants(self.candidates, self.key, [one for one in found if one.believed])
        found = self._without_gaps(self._at_the_priced(found))
        believed = [one for one in found if one.believed]
        return (*found, *of_pairs(self.findings, self.usable, believed, self.key))

    def _consider(self, some: Iterable[Dependency]) -> None:
        """Takes these as the candidates among which each is judged."""
        self.candidates = Candidates(self.findings, some)
        self.chances = Chances(self.findings, self.candidates)

    def _of_one(self, one: Dependency) -> Verdict:
        groups = self.candidates.groups[one.left]
        against = self._why_not(one)
        thing = weigh(self.candidates.of_thing(one.left), OF_THING)
        pair = weigh(self.candidates.of_pair(one.left, one.right), OF_PAIR)
        is_thing = weight(thing) > 0 or self._is_of_kind(one) or {*one.left} <= {*self.owners}
        believed = not against and weight(pair) > 0 and is_thing
        return Verdict(one.left, one.right, groups, thing, pair, believed, against)

    def _is_of_kind(self, one: Dependency) -> bool:
        """Whether the left side gets a table anyhow, or has a price, and chance hardly gave what it decides."""
        facts = self.findings.by_name[one.left[0]]
        priced = is_price(words(one.right))
        kind = len(one.left) == 1 and is_lookup(facts, facts.rows, paired=priced)
        return kind and self.candidates.evidence(one.left, one.right) > (LIKELY_PRICE if priced else 0.0)

    def _why_not(self, one: Dependency) -> str:
        """What rules a candidate out, whatever the evidence."""
        reasons = {
            f"a code tells '{one.left[0]}' apart more finely": self._is_name_of_coded(one),
            f"'{one.left[0]}' is said of what tells it apart more finely": self._is_said_of_finer(one),
            f"'{one.right}' is its code, under which some have another name": self._is_code_of_renamed(one),
            f"a few rows of the same thing say another '{one.left[0]}'": self._is_misspelt(one),
            f"'{one.left[0]}' is blank where something that tells the same is not": self._has_fuller_twin(one),
            "as a part of an address it stays there": self._is_in_an_address(one),
            f"'{one.left[0]}' is said of what tells the same": self._is_said_of_its_equal(one),
            f"another sheet lists '{one.left[0]}' without '{one.right}', and it may be a coincidence": self._is_unsaid(
                one
            ),
            f"'{one.right}' is of another side than '{one.left[0]}'": any(
                other_side(name, one.right) for name in one.left
            ),
            f"'{one.right}' numbers what is written about it, and more may be": self._is_document_of_thing(one),
            f"'{one.right}' is a date of something that tells '{one.left[0]}', too": self._is_date_of_another(one),
            f"'{one.left[0]}' is a unit, and determines only what it is called": self._is_unit(one),
            f"'{one.right}' tells when the file was made, and the next may speak of the same": one.right
            in self.of_file,
            f"'{one.right}' is what lines count under, together with another": self._is_part_of_head(one),
            f"'{one.left[0]}' is a number that is said of {shown_together(self.head)}": self._is_number_of_head(one),
            f"each row tells of one '{one.right}' on a day, whichever '{one.left[0]}' it had": self._is_seen_again(one),
        }
        return next((reason for reason, holds in reasons.items() if holds), "") or self.chances.why_not(one)

    def _is_part_of_head(self, one: Dependency) -> bool:
        """Whether the right side is one of two under which lines count anew, and the left side is said of the two."""
        own = any({*one.left} & self.candidates.by_left.get((part,), {}).keys() for part in self.head)
        return one.right in self.head and not own

    def _is_number_of_head(self, one: Dependency) -> bool:
        """Whether the left side is a number, as of seats, that two columns decide under which the rows stand: a room
        and its building."""
        said = self.head and one.left[0] in {other.right for other in self.usable if other.left == self.head}
        return bool(said) and self.findings.by_name[one.left[0]].kind.is_number

    def _is_seen_again(self, one: Dependency) -> bool:
        """Whether the right side stands first, or behind a day, and tells the rows apart with one: a berth at each of
        its checks, a hive whatever queen it had."""
        columns = self.findings.columns
        first = next((facts for facts in columns if facts.kind.word not in TIMES), columns[0])
        pairs = ({first.name, other.name} for other in columns if other != first and is_moment(other))
        own = has_codes_of(one.left[0], one.right) or self.candidates.is_named((one.right,), one.left[0])
        finer = self.candidates.groups[one.left] > first.distinct and not own
        return one.right == first.name and finer and any(pair in map(set, self.findings.keys) for pair in pairs)

    def _is_unit(self, one: Dependency) -> bool:
        """Whether the left side is a unit, of which the right side is not said by its header."""
        unit = len(one.left) == 1 and is_unit(self.findings.by_name[one.left[0]])
        return unit and not self.candidates.is_named(one.left, one.right)

    def _is_document_of_thing(self, one: Dependency) -> bool:
        """Whether the right side numbers the documents of something that has had one each so far: a depot's orders."""
        numbered = is_document(one.right) and (one.right,) in self.candidates.by_left
        return numbered and not any(map(numbers_document, one.left))

    def _is_date_of_another(self, one: Dependency) -> bool:
        """Whether the right side says when, by its header of what decides the left side: a date of a depot's order.

        A date of which the header says nothing is of the document that happened then: the job, not its boat.
        """
        if not is_moment(self.findings.by_name[one.right]) or self.candidates.is_named(one.left, one.right):
            return False
        of_document = MOMENT.issuperset(words(one.right)) and not any(map(numbers_document, one.left))
        others = ((other,) for other in self.candidates.lefts_of[one.right] if other not in one.left)
        named = (
            other
            for other in others
            if self.candidates.is_named(other, one.right) or (of_document and numbers_document(other[0]))
        )
        return any({*one.left} <= self.candidates.by_left[other].keys() for other in named)

    def _is_unsaid(self, one: Dependency) -> bool:
        """Whether another sheet lists such things, and that one says more of them here could well be a coincidence.

        Where each supplier's orders were all open or all done so far, that is none of the list of suppliers; nor is
        what was measured or paid each time, though it was the same so far.
        """
        headers = self.listed.get(frozenset(one.left))
        if headers is None or self.candidates.is_named(one.left, one.right):
            return False
        if words(one.right) in map(words, headers):
            return False
        by_chance = one.evidence is None or one.evidence.chance > MORE_OF_LISTED
        return by_chance or is_measured(self.findings.by_name[one.right])

    def _is_name_of_coded(self, one: Dependency) -> bool:
        """Whether the left side is the name of something that a code tells apart more finely: two boats of one name."""
        return len(one.left) == 1 and any(
            has_codes_of(other, one.left[0]) and self.candidates.groups[(other,)] > self.candidates.groups[one.left]
            for other in self.candidates.lefts_of[one.left[0]]
        )

    def _is_said_of_finer(self, one: Dependency) -> bool:
        """Whether the left side is said of something that it decides itself but for a slip or two: the day of an order,
        or the name of an owner and what tells the same, where one number or code was typed wrong."""
        facts, name = self.findings.by_name, one.left[0]
        finer = [
            facts[other]
            for other in self.candidates.lefts_of[name]
            if (name, other) in self.findings.mistyped
            and (can_decide(facts[other]) or (facts[name].kind.word in TIMES and facts[other].kind.word not in TIMES))
        ]
        same = self.candidates.by_left[one.left].keys() & self.candidates.lefts_of[name]
        named = {words(each)[:1] for each in (name, *same) if not is_code(facts[each])}
        coded = any(is_code(other) and words(other.name)[:1] in named for other in finer)
        return len(one.left) == 1 and bool(finer) and (coded or not can_decide(facts[name]))

    def _is_code_of_renamed(self, one: Dependency) -> bool:
        """Whether the right side is the code of what the left names, and not each code has one name: a crew of two."""
        coded = len(one.left) == 1 and has_codes_of(one.right, one.left[0])
        return coded and one.right not in self.candidates.lefts_of[one.left[0]]

    def _is_said_of_its_equal(self, one: Dependency) -> bool:
        """Whether the left side is said, by its header, of what it tells apart: where two boats have a hull each.

        An asset tag is no part of an asset, but a code for it.
        """
        about = stem_of(one.left[0])
        facts = self.findings.by_name
        if facts[one.left[0]].kind == TEXT and is_code(facts[one.left[0]]) and can_decide(facts[one.left[0]]):
            return False
        equal = self.candidates.by_left[one.left].keys() & self.candidates.lefts_of[one.left[0]]
        stems = (stem_of(other) for other in equal if facts[other].blanks <= facts[one.left[0]].blanks)
        return len(one.left) == 1 and any(other and other == about[: len(other)] != about for other in stems)

    def _is_misspelt(self, one: Dependency) -> bool:
        """Whether the left side names something that has a code, or is only said of something, with a slip or two or
        blank somewhere, so that it seems finer."""
        facts = self.findings.by_name
        left = facts[one.left[0]]
        named = left.kind == TEXT and not is_code(left)
        said = not can_decide(left) or reaches(left.name)
        mistyped = self.findings.mistyped
        return any(
            (other, left.name) in self.findings.nearly
            and other not in self.candidates.lefts_of[left.name]
            and (
                (named and is_code(facts[other]) and facts[other].distinct < left.distinct + bool(left.blanks))
                or (
                    (said or (named and self.candidates.is_named((other,), left.name)))
                    and can_decide(facts[other])
                    and not reaches(other)
                    and (other, left.name) in mistyped
                )
            )
            for other in self.candidates.by_left[one.left]
        )

    def _has_fuller_twin(self, one: Dependency) -> bool:
        """Whether something decides the left side that it decides itself, but where it is blank."""
        blanks = self.findings.by_name[one.left[0]].blanks
        return len(one.left) == 1 and any(
            other in self.candidates.by_left[one.left] and self.findings.by_name[other].blanks < blanks
            for other in self.candidates.lefts_of[one.left[0]]
        )

    def _is_in_an_address(self, one: Dependency) -> bool:
        """Whether a town tells its country, as a part of addresses: unless it comes again and again, it stays there."""
        said, groups = words(one.left[0]), self.candidates.groups[one.left]
        finer = [self.candidates.groups[(left,)] for left in self.candidates.lefts_of[one.left[0]]]
        rows = min([self.findings.row_count, *(count for count in finer if count > groups)])
        place = self.addresses and (not PLACE.isdisjoint(said) or is_postal_code(one.left[0]))
        address = place and not is_identifier(said) and not self.candidates.is_named(one.left, one.right)
        return len(one.left) == 1 and address and rows < PLACE_REPEATS * groups

    def _at_the_priced(self, found: Sequence[Verdict]) -> list[Verdict]:
        """The few prices of kinds at the finest thing that has the price as well and of which is what stands before it;
        or in the rows, if these are things themselves.

        Where two prices were asked for the parts of five makes, each is of its part; of three fares each is of a class.
        """
        things = {one.left for one in found if one.believed}
        able = [one for one in found if is_price(words(one.right)) and one.left in things and not one.ruled_out]
        finest = {one.right: one for one in sorted(able, key=lambda one: one.groups) if self._stands_in(one)}
        of_kinds = [
            one
            for one in found
            if one.believed and is_price(words(one.right))
            if KINDS_OF_PRICE * self.findings.by_name[one.right].distinct <= one.groups
            if one.groups < finest.get(one.right, one).groups or self._lists_things_but(one.left)
        ]
        priced = [finest[one.right] for one in of_kinds if one.right in finest and finest[one.right] not in of_kinds]
        why_not = "so few prices are of something finer"
        return [
            replace(one, believed=one in priced, ruled_out="" if one in priced else why_not)
            if one in (*of_kinds, *priced)
            else one
            for one in found
        ]

    def _lists_things_but(self, kinds: Left) -> bool:
        """Whether the rows are things themselves, by their key, and no documents or lines in which things are named;
        and these are kinds of them, and no models, which have prices."""
        model = not MODEL.isdisjoint(words(kinds[-1])[-1:])
        return len(self.key) == 1 and not model and not any(map(numbers_document, self.key))

    def _stands_in(self, one: Dependency | Verdict) -> bool:
        """Whether the column before the right side is of the left side, too, or is that itself."""
        before = [facts.name for facts in self.findings.before(one.right)][-1:]
        return all(name in one.left or name in self.candidates.by_left[one.left] for name in before)

    def _without_gaps(self, found: Sequence[Verdict]) -> list[Verdict]:
        """Not what a column decides only where it is filled, while something that decides that column does not.

        Where the town of two owners is blank, its country can still be another for each, and then hangs on the owner.
        """
        filled = {(one.left, one.right) for one in self.findings.where_filled}
        held = {(one.left, one.right) for one in self.findings.held}
        held |= {(key, facts.name) for key in self.findings.keys for facts in self.findings.columns}
        above: dict[str, list[Left]] = {}
        for one in found:
            if one.believed:
                above.setdefault(one.right, []).append(one.left)

        def follows(left: Left, right: str) -> bool:
            return right in left or any(((name,), right) in held for name in left) or (left, right) in held

        def stays(one: Verdict) -> bool:
            whole = (one.left, one.right) not in filled
            return whole or all(follows(left, one.right) for left in above.get(one.left[0], ()))

        why_not = "it holds only where that is filled"
        return [one if stays(one) else replace(one, believed=False, ruled_out=why_not) for one in found]


def _is_place_of_postal_code(one: Dependency) -> bool:
    """Whether a postal code tells a town or a region, which is all that it decides."""
    return len(one.left) == 1 and is_postal_code(one.left[0]) and bool(PLACE.intersection(words(one.right)))
