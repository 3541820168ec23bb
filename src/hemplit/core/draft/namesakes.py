"""People and their names: what two parts of a name decide together, and who else tells those of one name apart."""

from __future__ import annotations

from itertools import pairwise
from typing import TYPE_CHECKING

from hemplit.core.draft.sorts import can_decide, is_code, is_contact_of, is_mailbox, reaches
from hemplit.core.texts.vocabulary import PLACE
from hemplit.core.texts.words import is_document, is_part, is_person, words
from hemplit.dataclasses import dataclass, replace

if TYPE_CHECKING:
    from collections.abc import Collection, Mapping, Sequence

    from hemplit.core.draft.weighing import Left
    from hemplit.core.model.findings import Dependency, Findings

#: People who have a code are so many more than their names at most, as some have the same.
NAMESAKES = 1.1
#: So many addresses have people of one name at most, on average: a plan that four members have is no name of theirs.
MOST_ADDRESSES = 2.0


@dataclass(frozen=True)
class Names:
    """The names of a sheet, by which of its dependencies can be ``usable``, and what other sheets have ``listed``."""

    findings: Findings
    usable: Sequence[Dependency]
    listed: Mapping[frozenset[str], Collection[str]]

    def persons(self) -> list[Dependency]:
        """What the two parts of a name decide together, even where one of them is enough on this sheet."""
        parts = [facts.name for facts in self.findings.columns if is_part(facts.name)]
        made = []
        for pair in pairwise(parts):
            of_pair = [one for one in self.usable if set(one.left) <= set(pair)]
            if is_person(pair) and not self._is_coded(pair, max(map(groups_of, of_pair), default=0)):
                made += [replace(one, left=pair) for one in of_pair if one.right not in pair]
        return made

    def _is_coded(self, pair: Left, groups: int) -> bool:
        """Whether something else tells the people of that name apart, of whom hardly two have the same.

        That each lives in another town does not.
        """
        single = [one for one in self.usable if len(one.left) == 1]
        able = {one.left[0] for one in single if not PLACE.intersection(words(one.left[0]))} - {*pair}
        decided = [able & {one.left[0] for one in single if one.right == name} for name in pair]
        by_left = {one.left[0]: groups_of(one) for one in single}
        # A code in front that came once in each row says the same, but for the number of a document.
        for facts in self.findings.before(pair[0])[-1:]:
            if (facts.name,) in self.findings.keys and is_code(facts) and not is_document(facts.name):
                decided = [one | {facts.name} for one in decided]
                by_left[facts.name] = facts.rows
        return any(groups <= by_left[left] <= NAMESAKES * groups for left in set.intersection(*decided))

    def homonyms(self, coded: Collection[str]) -> dict[tuple[str, str], list[Dependency]]:
        """The names of which a few stand for several, each with what tells how to reach the one that is meant.

        With each such pair comes what it decides. What is ``coded`` hangs on something else; a number that was typed
        wrong is of nobody else.
        """
        able = {facts.name for facts in self.findings.columns if facts.kind.word == "text" and can_decide(facts)}
        # A list that others refer to by a name has each name once.
        names = {name for name in able if name not in coded and frozenset((name,)) not in self.listed}
        names = {name for name in names if not reaches(name) and not is_part(name)}
        alone = {(one.left[0], one.right) for one in self.findings.dependencies if len(one.left) == 1}
        found: dict[str, tuple[tuple[str, str], list[Dependency]]] = {}
        for name, contact in sorted(
            (self.findings.nearly - self.findings.slips) | self._told_apart_by_mail(names, alone)
        ):
            if name not in names or not is_contact_of(contact, name) or (name, contact) in alone:
                continue
            lefts = [{contact}] if (contact, name) in alone else [{name, contact}]
            # That an address decides the name speaks for it, too.
            decided = [one for one in self.findings.dependencies if {*one.left} in lefts and one.evidence]
            own = [replace(one, left=(name, contact)) for one in decided]
            if any(one.right != name for one in own) and (
                name not in found or max(map(groups_of, own)) > max(map(groups_of, found[name][1]))
            ):
                found[name] = (name, contact), own
        return dict(found.values())

    def _told_apart_by_mail(self, names: Collection[str], alone: Collection[tuple[str, str]]) -> set[tuple[str, str]]:
        """The names, each with the e-mail address that tells more of them apart, as it decides what the name does not.

        A person may have two addresses; two who live elsewhere are two. Where the address does not say whose it is, it
        is of whom stands nearest, first before it; what stands for several addresses on average, such as a plan, names
        no person.
        """
        facts = self.findings.by_name
        decided: dict[str, set[str]] = {}
        for left, right in alone:
            decided.setdefault(left, set()).add(right)
        found = set()
        for mail in filter(is_mailbox, decided):
            able = [
                name
                for name in decided[mail]
                if name in names
                and PLACE.isdisjoint(words(name))
                and facts[mail].distinct < MOST_ADDRESSES * facts[name].distinct
            ]
            place = facts[mail].position
            nearest = {name: (abs(facts[name].position - place), facts[name].position) for name in able}
            whose = min(able, key=nearest.__getitem__, default=None)
            if whose is not None and decided[mail] - decided.get(whose, set()) - {whose}:
                found.add((whose, mail))
        return found


def groups_of(one: Dependency) -> int:
    """How many different left sides there are."""
    return one.evidence.groups if one.evidence else 0
