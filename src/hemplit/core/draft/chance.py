"""What small sheets say by chance: dependencies that hold in all rows, but for which nothing else speaks.

In six rows two trips go from one place, both on one day; so the day would be the place's. A table of order lines shows
in a thousand rows what it means; where chance could give a dependency, the headers, the sorts of the columns and the
places where they stand must speak for it.
"""

from __future__ import annotations

from functools import cached_property
from itertools import pairwise, takewhile
from typing import TYPE_CHECKING

from hemplit.core.draft.head import is_line
from hemplit.core.draft.sorts import can_decide, is_code, is_measured, is_moment, is_unit
from hemplit.core.draft.weighing import SURE
from hemplit.core.model.relation import TEXT, TIMES
from hemplit.core.texts.moments import is_of_rows
from hemplit.core.texts.nouns import is_participle
from hemplit.core.texts.vocabulary import (
    ADDRESS,
    CODE_OF_THING,
    CONTACT,
    COUNT,
    DOCUMENT,
    IDENTIFIER,
    MAKER,
    MODEL,
    MOMENT,
    MONEY,
    NAME,
    NOTE,
    PLACE,
    RANK,
    SPOT,
    STATE,
)
from hemplit.core.texts.words import (
    is_document,
    is_doer,
    is_identifier,
    is_of_kind,
    is_of_matter,
    is_price,
    stem_of,
    words,
)
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.draft.weighing import Candidates, Left
    from hemplit.core.model.findings import ColumnFacts, Dependency, Findings

#: What so few rows say again may be a coincidence: that two donors paid each time in one way.
FEW_AGAIN = 3
#: What such a column tells can be said of what stands there.
WHERE = frozenset("location area zone".split())
#: Over numbers such words say no more than that they are of what was written.
WRITTEN = DOCUMENT | (IDENTIFIER - CODE_OF_THING)
#: What is measured of places themselves.
OF_PLACES = frozenset("population inhabitants area altitude elevation latitude longitude".split())
#: What was found is told of the row, as a remark is.
FOUND = frozenset("defect fault finding damage issue problem symptom".split())
#: Such a day is of what was done with a thing, or for somebody, and not of either.
DONE = frozenset("completed attended taken passed expires expired renewed returned paid received issued booked".split())
#: What is said of people may have its price, and else decides nothing.
SAID_OF_PEOPLE = frozenset("age sex gender".split())
#: What was got somewhere or by somebody may be another next time.
GOODS = frozenset("product article commodity fuel cargo crop".split())
#: A building has several, of which a sheet of few rooms may name one.
BUILDING, FLOOR = frozenset("building block tower site".split()), frozenset("floor storey".split())
#: Who hears or decides what parties bring before them.
HEARS = frozenset("judge magistrate referee umpire arbitrator assessor".split())
#: Who does the work of a row.
WORKER = frozenset("driver operator courier technician engineer mechanic fitter fixer repairer inspector".split())
#: How much of it is kept is said of what a register lists, and of none of what that comes from or belongs to.
KEPT = frozenset("stock stocked reorder restock".split())
#: Decimals of which there are more than so many for each row do not come again.
SELDOM = 0.5


@dataclass(frozen=True)
class Chances:
    """What may be a coincidence among the candidates of a sheet."""

    findings: Findings
    candidates: Candidates

    def why_not(self, one: Dependency) -> str:
        """Why a candidate may be a coincidence; empty if it is none."""
        return next(self._reasons(one), "")

    def _reasons(self, one: Dependency) -> Iterator[str]:
        left, right = one.left[0], self.findings.by_name[one.right]
        if is_line(right) and not self.candidates.is_named((one.right,), left):
            yield f"'{one.right}' numbers lines"
        yield from self._of_when(one)
        if self._is_of_sort(one):
            yield f"'{one.right}' is filled by the sort of row, and that is not its own"
        if self._is_seen_of_one(one):
            yield f"it is seen of one '{left}' only, and both are measures"
        if len(one.left) == 1 and left in self._numbers:
            yield f"'{left}' is no code, and it may be a coincidence"
        evidence = self.candidates.evidence(one.left, one.right)
        if COUNT.issuperset(words(one.right)) and evidence < SURE:
            yield f"'{one.right}' tells how many, and it may be a coincidence"
        if self.candidates.is_named(one.left, one.right):
            return
        if evidence < SURE:
            if self._counts_under(left) or self._counts_under(right.name):
                number = left if self._counts_under(left) else right.name
                yield f"'{number}' numbers what stands under something else, and it may be a coincidence"
            yield from self._of_goods(one)
            yield from self._of_doings(one)
            yield from self._of_things_apart(one)
        if evidence < 0:
            yield from self._of_weak(one)

    def _counts_under(self, left: str) -> bool:
        """Whether a bare number tells the rows apart only together with what stands before it, as that of a shirt with
        the crew."""
        facts = self.findings.by_name[left]
        others = {one.name for one in self.findings.before(left)}
        pairs = (key for key in self.findings.keys if len(key) == 2 and left in key)
        return facts.kind.is_number and not stem_of(left) and any(others.intersection(key) for key in pairs)

    def _of_goods(self, one: Dependency) -> Iterator[str]:
        """Of a candidate that would tell what was got, or how much of it is kept."""
        left, right = one.left[0], self.findings.by_name[one.right]
        said = words(one.right)
        if right.kind.is_number and not KEPT.isdisjoint(said) and self._lists_things:
            yield f"'{one.right}' tells how much of it is kept, and it may be a coincidence"
        if right.kind == TEXT and not GOODS.isdisjoint(said) and not self._is_coded(left):
            yield f"all of one '{left}' were of one '{one.right}', which may be a coincidence"

    def _of_doings(self, one: Dependency) -> Iterator[str]:
        """Of a candidate that would tell who did something, or how a matter stands."""
        left, right = one.left[0], self.findings.by_name[one.right]
        doer = is_doer(one.right) or HEARS.intersection(words(one.right))
        if right.kind == TEXT and doer and not self._numbers_documents(left):
            yield f"all of one '{left}' were done by one '{one.right}', which may be a coincidence"
        workers = [name for name in (left, one.right) if WORKER.intersection(words(name))]
        if workers and one.right not in self._run(one.left) and left not in self._run((one.right,)):
            yield f"all of one '{left}' had one '{one.right}', which may be a coincidence"
        if is_doer(left) and one.right not in self._run(one.left):
            yield f"all that '{left}' did was of one '{one.right}', which may be a coincidence"
        again = one.right not in self._run(one.left) and not self._numbers_documents(left)
        if right.kind == TEXT and again and self._happens(one.right):
            yield f"all of one '{left}' were at one '{one.right}', and may be at another next time"
        before = right.position < self.findings.by_name[left].position
        if before and not STATE.isdisjoint(words(one.right)) and not is_identifier(words(left)):
            yield f"'{one.right}' tells how a matter stands, before '{left}' is named, and it may be a coincidence"
        if right.kind == TEXT and not STATE.isdisjoint(words(left)[-1:]):
            yield f"'{left}' tells how a matter stands, and that all are of one '{one.right}' may be a coincidence"

    def _of_things_apart(self, one: Dependency) -> Iterator[str]:
        """Of a candidate that would tell what is said of something else in the row, or of what it was bought from."""
        left, right = one.left[0], self.findings.by_name[one.right]
        for pair in self._apart:
            other = next((name for name in pair if name != left), "")
            if left in pair and (right.name == other or right.name in self._run((other,))):
                yield f"all of one '{left}' were of one '{other}' and the other way round, which may be a coincidence"
        groups = self.candidates.groups
        finer = {name for name in self.candidates.lefts_of[left] if groups[(name,)] > groups[one.left]}
        if is_unit(right) and right.name not in self._run(one.left) and finer & self.candidates.lefts_of[right.name]:
            yield f"'{right.name}' is the unit of something finer, and not of '{left}'"

    @cached_property
    def _apart(self) -> list[tuple[str, str]]:
        """Each kind with what says it and is said by it elsewhere in the row: the categories of all suppliers."""
        return [
            (kind, other)
            for (kind, *_), rights in self.candidates.by_left.items()
            if is_of_kind(kind)
            for other in rights
            if self.findings.by_name[kind].kind == self.findings.by_name[other].kind == TEXT and not is_of_kind(other)
            if self.candidates.decides((other,), kind)
            if other not in self._run((kind,)) and kind not in self._run((other,))
        ]

    def _happens(self, name: str) -> bool:
        """Whether a column names what begins or ends on a day that stands right behind it, as an exhibition."""
        behind = [facts for facts in self.findings.behind(name)[:1] if facts.kind.word in TIMES]
        return any(self.candidates.decides((name,), facts.name) for facts in behind)

    def _of_when(self, one: Dependency) -> Iterator[str]:
        """Of a candidate that would tell when, for which its header does not speak."""
        left, right = one.left[0], self.findings.by_name[one.right]
        if not is_moment(right) or self.candidates.is_named(one.left, one.right):
            return
        if right.kind.word in TIMES and (is_of_kind(left) or MODEL.intersection(words(left)[-1:])):
            yield f"'{left}' is a kind, and '{one.right}' tells when something was done with one of it"
        done = not DONE.isdisjoint(words(one.right)) and not self._numbers_documents(left)
        if done and self.candidates.evidence(one.left, one.right) < SURE:
            yield f"'{one.right}' tells when something was done, and may be another day next time"

    def _of_weak(self, one: Dependency) -> Iterator[str]:
        """Of a candidate that chance could give, and for which its header does not speak."""
        left, right = one.left[0], self.findings.by_name[one.right]
        if is_moment(right) and is_of_rows(right.name) and len(self._rights(one.left)) == 1:
            yield f"'{one.right}' tells when, and it may be a coincidence"
        if frozenset((left, one.right)) in self._of_one_sort:
            yield f"'{left}' and '{one.right}' say the same names, and who stands beside whom may be a coincidence"
        if self._is_document_before(one):
            yield f"'{one.right}' is written about what happened, and all with one '{left}' may be a coincidence"
        known = is_identifier(words(left)) and (self._numbers_documents(left) or one.right in self._run(one.left))
        if is_of_matter(one.right) and right.kind.word not in TIMES and not known:
            yield f"'{one.right}' tells how a matter stands, and it may be a coincidence"
        if right.kind == TEXT and is_of_kind(left) and not self._is_code_behind(one):
            yield f"'{left}' is a kind, and that all of it are of one '{one.right}' may be a coincidence"
        yield from self._of_several(one)
        yield from self._of_what_was_done(one)
        if not SAID_OF_PEOPLE.isdisjoint(words(left)) and not is_price(words(one.right)):
            yield f"'{left}' is said of people, and that all of them have one '{one.right}' may be a coincidence"
        yield from self._of_places(one)
        if self._is_elsewhere(one):
            yield "it stands elsewhere, and may be a coincidence"
        if one.blank_decides:
            yield f"'{one.right}' is said without '{left}', too, and it may be a coincidence"
        if one.left in self._told_before:
            yield f"'{left}' tells no more than what stands before it, and that may be a coincidence"

    def _of_what_was_done(self, one: Dependency) -> Iterator[str]:
        """Of a candidate that would tell what was found, noted or done, or who came in where."""
        left, right = one.left[0], self.findings.by_name[one.right]
        done = right.kind == TEXT and any(map(is_participle, words(one.right)[-1:]))
        if done and not self._is_coded(one.right) and not self._numbers_documents(left):
            yield f"'{one.right}' tells what was done, and all with one '{left}' may be a coincidence"
        if FOUND.intersection(words(left)[-1:]) and not self._is_coded(left):
            yield f"'{left}' is what was found, and that '{one.right}' was the same each time may be a coincidence"
        if RANK.intersection(words(one.right)[-1:]) and any(map(str.isdigit, right.examples)):
            yield f"'{one.right}' tells who came in where, and it may be a coincidence"
        if not (NOTE | FOUND).isdisjoint(words(one.right)) and not self._is_coded(left):
            yield f"'{one.right}' is noted of the row, and that all of one '{left}' say the same may be a coincidence"

    def _of_places(self, one: Dependency) -> Iterator[str]:
        """Of a candidate that would tell of a place, and may tell of what is there."""
        left, right = one.left[0], self.findings.by_name[one.right]
        if PLACE.intersection(words(left)[-1:]) and {*words(one.right)}.isdisjoint(PLACE | ADDRESS | OF_PLACES):
            yield f"'{left}' is a place, and that all there is of one '{one.right}' may be a coincidence"
        if WHERE.intersection(words(left)[-1:]) and (is_moment(right) or not self._is_where_or_behind(one)):
            yield f"'{left}' is where something stands, and '{one.right}' may be of what stands there"
        if SPOT.intersection(words(left)[-1:]) and is_of_kind(one.right):
            yield f"'{left}' is where something stands, and '{one.right}' is the kind of what stands there"

    def _of_several(self, one: Dependency) -> Iterator[str]:
        """Of a candidate that would tell of what one has several: the floors of a building, a make's engines."""
        left = one.left[0]
        if BUILDING.intersection(words(left)[-1:]) and FLOOR.intersection(words(one.right)[-1:]):
            yield f"a '{left}' may have several of '{one.right}'"
        if not MAKER.intersection(words(left)[-1:]):
            return
        if MODEL.intersection(words(one.right)[-1:]) or is_price(words(one.right)):
            yield f"a '{left}' may have several of '{one.right}'"
        others = (other for other in self.candidates.lefts_of[one.right] if MODEL.intersection(words(other)[-1:]))
        if any(left in self._rights((model,)) for model in others if model != left):
            yield f"'{one.right}' is of the model, of which a '{left}' may have several"

    def _is_where_or_behind(self, one: Dependency) -> bool:
        """Whether the right side says where or how to reach it, too, or stands right behind the left."""
        return not (PLACE | CONTACT | ADDRESS).isdisjoint(words(one.right)) or one.right in self._run(one.left)

    def _run(self, left: Left) -> set[str]:
        """The columns that stand behind the left side as far as it decides them, past those that never vary, and up to
        those that were taken out as a list or a group."""
        run = (self.findings.by_name[left[-1]], *self.findings.behind(left[-1]))
        beside = takewhile(lambda pair: pair[1].position - pair[0].position <= 1, pairwise(run))
        names = (facts.name for _, facts in beside if facts.name not in self.candidates.constant)
        return {*takewhile(lambda name: self.candidates.decides(left, name), names)}

    def _rights(self, left: Left) -> set[str]:
        """What varies and a left side decides."""
        return {*self.candidates.by_left.get(left, ())} - self.candidates.constant

    def _is_elsewhere(self, one: Dependency) -> bool:
        """Whether neither the header nor the place where the right side stands speaks for what chance could give.

        A service is none of the recipient's, where the header of the town names him; a score is none of the premises',
        where that beside it is not; a day is of a thing only where its header is that of an order's number; a unit is
        of what stands before it; and what kind it was and what was noted is of the row, unless it was done to an order.
        """
        right = self.findings.by_name[one.right]
        if self._is_where_or_behind(one) or self._is_name_by_code(one):
            return False
        if is_moment(right):
            return not is_identifier(words(one.left[0]))
        if self._is_of_row(one):
            return True
        codes = is_identifier(words(one.left[0])) and self._is_code_of_thing(one.right)
        if codes or one.evidence is None or one.evidence.repeats > FEW_AGAIN:
            return False
        if right.kind == TEXT:
            named = any(self.candidates.is_named(one.left, other) for other in self._rights(one.left))
            return named or self._is_behind_what_is_of_row(one)
        return self._is_measured_beside(right, one.left)

    def _is_of_row(self, one: Dependency) -> bool:
        """Whether the right side is said of the row, and not of what the left side names: but of an order are whose it
        is, and what was done to it."""
        aside = _is_aside(self.findings.by_name[one.right])
        if self._numbers_documents(one.left[0]) and (aside or self.findings.by_name[one.right].kind == TEXT):
            return aside and not any(map(is_participle, words(one.right)[-1:]))
        return aside or self._is_said_before(one) or self._is_of_row_before(one) or self._are_apart(one)

    def _is_name_by_code(self, one: Dependency) -> bool:
        """Whether the left side is a code that somebody or something has everywhere, and the right side the name."""
        return not CODE_OF_THING.isdisjoint(words(one.left[0])) and NAME.issuperset(words(one.right)[-1:])

    def _is_code_of_thing(self, name: str) -> bool:
        """Whether a header says that it holds codes, and others what is of those things."""
        return is_identifier(words(name)) and any(
            self.candidates.is_named((name,), other) for other in self._rights((name,))
        )

    def _is_code_behind(self, one: Dependency) -> bool:
        """Whether the right side has codes of the left, right behind it: the grade of each job title.

        A supplier's code behind a category is none of the category's where the supplier is named, too.
        """
        if self._is_code_of_thing(one.right):
            return False
        behind = self.findings.behind(one.left[-1])[:1]
        return one.left[0] in self._rights((one.right,)) and any(
            is_code(facts) for facts in behind if facts.name == one.right
        )

    def _are_apart(self, one: Dependency) -> bool:
        """Whether two columns that determine each other stand apart, and no more than one came again."""
        alike = one.left[0] in self._rights((one.right,)) and one.left[0] not in self._run((one.right,))
        return alike and self.findings.by_name[one.right].kind == TEXT and self.candidates.repeats(one.left) <= 1

    def _is_of_row_before(self, one: Dependency) -> bool:
        """Whether the right side stands before the left, and is the unit of what stands before it, or the kind of the
        row, as something else stands between."""
        right, place = self.findings.by_name[one.right], self.findings.by_name[one.left[0]].position
        if place < right.position:
            return False
        between = (facts.name for facts in self.findings.behind(one.right) if facts.position < place)
        bare = is_of_kind(one.right) and len(words(one.right)) == 1 and not self._lists_things
        of_row = is_of_kind(one.right) and not all(self.candidates.decides(one.left, name) for name in between)
        return of_row or bare or is_unit(right)

    def _is_coded(self, name: str) -> bool:
        """Whether a column holds codes, by its header or as they look."""
        return is_identifier(words(name)) or is_code(self.findings.by_name[name])

    def _is_behind_what_is_of_row(self, one: Dependency) -> bool:
        """Whether between the two stands what names the row, as a project whose theme is not its client's, or, behind
        all that is of the left side, when it happened, as at a pump that is not the card's."""
        place = self.findings.by_name[one.left[0]].position
        before = [facts for facts in self.findings.before(one.right)[-1:] if facts.position > place]
        named = (facts.kind == TEXT and facts.distinct == facts.rows and not is_code(facts) for facts in before)
        when = (is_moment(facts) and not self.candidates.decides(one.left, facts.name) for facts in before)
        has_own = bool(self._run(one.left) or self.candidates.lefts_of[one.left[0]])
        return any(named) or (has_own and any(when) and not self._numbers_documents(one.left[0]))

    def _is_document_before(self, one: Dependency) -> bool:
        """Whether the right side numbers what is written, and stands before what it is written about."""
        before = self.findings.by_name[one.right].position < self.findings.by_name[one.left[0]].position
        return before and self._numbers_documents(one.right) and not self._numbers_documents(one.left[0])

    def _numbers_documents(self, name: str) -> bool:
        """Whether a column holds the numbers of what is written, though its header may not say so: of an order."""
        said, facts = words(name), self.findings.by_name[name]
        numbers = is_code(facts) or facts.kind.word == "whole number"
        return is_document(name) or (numbers and bool(said) and WRITTEN.issuperset(said))

    def _is_said_before(self, one: Dependency) -> bool:
        """Whether the right side stands before the left, with what is of something finer.

        The credits that a course has, two of which one teacher gives, stand with the course.
        """
        left, right = (self.findings.by_name[name].position for name in (one.left[0], one.right))
        if right > left or (can_decide(self.findings.by_name[one.right]) and one.left[0] in self._rights((one.right,))):
            return False
        finer = (other for other in self.candidates.by_left if one.left[0] in self._rights(other))
        return any(one.right in self._run(other) for other in finer)

    @cached_property
    def _told_before(self) -> set[Left]:
        """What a few rows say again, and which decides another thing that stands before and what that decides, no more.

        Of two visits with one diagnosis both were the same doctor's.
        """
        found = set()
        for left, of in self.candidates.by_left.items():
            rights, facts = self._rights(left), self.findings.by_name[left[0]]
            few = max((one.evidence.repeats for one in of.values() if one.evidence), default=0) <= FEW_AGAIN
            if len(left) > 1 or is_identifier(words(facts.name)) or not few:
                continue
            for right in rights:
                own = self._rights((right,))
                before = self.findings.by_name[right].position < facts.position
                if own and before and facts.name not in own and rights <= {right, *own}:
                    found.add(left)
        return found

    def _is_measured_beside(self, facts: ColumnFacts, left: Left) -> bool:
        """Whether a number that is no price stands beside another that the left side does not decide."""
        if is_price(words(facts.name)):
            return False
        if is_measured(facts) and (self.candidates.repeats(left) <= 1 or MONEY.isdisjoint(words(facts.name)[-1:])):
            return True
        beside = (*self.findings.before(facts.name)[-1:], *self.findings.behind(facts.name)[:1])
        others = [one for one in beside if one.kind.is_number and one.name not in left]
        return facts.kind.is_number and any(not self.candidates.decides(left, one.name) for one in others)

    @cached_property
    def _of_one_sort(self) -> set[frozenset[str]]:
        """The pairs of columns of texts that have all values of either in common, as the first and the last port."""
        facts = self.findings.by_name
        pairs = (one for one in self.findings.shared if facts[one.one].kind == TEXT)
        return {frozenset((one.one, one.other)) for one in pairs if one.common >= facts[one.one].distinct}

    @cached_property
    def _lists_things(self) -> bool:
        """Whether each row has a code or a number of its own."""
        return any(len(key) == 1 and is_code(self.findings.by_name[key[0]]) for key in self.findings.keys)

    @cached_property
    def _numbers(self) -> set[str]:
        """The columns of numbers that nobody gave out, or of days, of which chance could give all that they decide.

        Of days and what a header calls a measure that is hardest to believe: so much wind and so much rain. Decimals
        that hardly come again are of the row, which comes again with all of them.
        """
        found = set()
        for left, of in self.candidates.by_left.items():
            facts = self.findings.by_name[left[0]]
            coded = can_decide(facts) or words(facts.name) in self.candidates.coded
            if len(left) == 1 and facts.kind != TEXT and not coded:
                days = not facts.kind.is_number
                measured = days or (is_measured(facts) and MOMENT.isdisjoint(words(facts.name)))
                told = (one.right for one in of.values() if not self._is_seen_of_one(one))
                best = max((self.candidates.evidence(left, right) for right in told), default=0.0)
                seldom = (
                    facts.kind.word == "decimal" and self.candidates.groups[left] > SELDOM * self.findings.row_count
                )
                if seldom or best < (SURE if measured else 0.0):
                    found.add(facts.name)
        return found

    def _is_seen_of_one(self, one: Dependency) -> bool:
        """Whether numbers decide numbers, but most rows that say it again say one thing: of no throws there is no hit.

        Of that many rows of one left side there are half of the pairs of rows, or more, that there could be.
        """
        left, right = (self.findings.by_name[name] for name in (one.left[0], one.right))
        numbers = all(facts.kind.is_number for facts in (left, right))
        again = one.evidence.repeats if one.evidence else 0
        mostly = one.evidence is not None and 4 * one.evidence.pairs > again * (again + 1)
        return len(one.left) == 1 and numbers and mostly and not can_decide(left)

    def _is_of_sort(self, one: Dependency) -> bool:
        """Whether the right side is filled for one sort of rows only, and of what the left side names are several.

        Who paid by card once, and in no other way so far, has no card for that.
        """
        return any(by not in one.left and (one.left, by) not in self._held for by in self._sorts.get(one.right, ()))

    @cached_property
    def _sorts(self) -> dict[str, list[str]]:
        """The columns that are filled for one sort of rows, each with those that say the sort."""
        found: dict[str, list[str]] = {}
        for name, by in sorted(self.findings.of_sorts):
            found.setdefault(name, []).append(by)
        return found

    @cached_property
    def _held(self) -> set[tuple[Left, str]]:
        return {(one.left, one.right) for one in self.findings.held}


def _is_aside(facts: ColumnFacts) -> bool:
    """Whether a column holds notes, or says yes or no, or one thing in some rows and nothing in the others."""
    marks = facts.distinct == 1 and facts.blanks > 0
    return marks or facts.kind.word == "yes/no" or not NOTE.isdisjoint(words(facts.name))
