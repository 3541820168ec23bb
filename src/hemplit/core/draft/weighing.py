"""What speaks for and against a candidate, by name: that a column stands for a thing, and that another hangs on it.

A candidate is a dependency that holds. Its left side stands for a thing, or not: that is weighed by what the sheet
shows of it, in all that it decides. If it does, each right side hangs on that thing or only agrees with it by accident.
Both are sums of features times weights, a logistic regression on sheets whose tables are known; the weights stand in
``weights.py`` and come out of ``benchmarks/fit_judge.py``. A weight is in bits: one more doubles the odds.
"""

from __future__ import annotations

from collections import defaultdict
from functools import cached_property
from math import log2, log10
from typing import TYPE_CHECKING

from hemplit.core.texts.sides import is_level_below
from hemplit.core.texts.vocabulary import ADDRESS, CONTACT, FREE_TEXT, MOMENT, NAME, PLACE
from hemplit.core.texts.words import (
    is_identifier,
    is_measure,
    is_part_of_name,
    is_person,
    is_plural,
    named_in_short,
    stem_of,
    subject,
    with_names,
    words,
)

if TYPE_CHECKING:
    from collections.abc import Collection, Iterable, Mapping

    from hemplit.core.model.findings import ColumnFacts, Dependency, Findings

Left = tuple[str, ...]

#: Texts that are longer on average are sentences, not names.
LONGEST_NAME = 40.0
#: From this share of values that look like lists on, the cells hold several values each.
LISTS = 0.3
#: Evidence counts in full up to one in so many powers of ten; beyond, only its order does.
SURE = 3.0
MOST_SURE = 1_000.0
#: So many columns of a kind say all that more of them could say.
SEVERAL = 3
MANY = 5
FAR = 10
MOST_REPEATS = 5.0
MOST_COARSE = 6.0
#: A table that has nearly as many rows as the sheet saves nothing.
SAVES = 1.1
#: From so high a chance that two rows agree on, a column says mostly one thing.
MOSTLY_ONE = 0.8


class Candidates:
    """The dependencies that are to be judged, by their left sides, with what features ask of them all."""

    def __init__(self, findings: Findings, some: Iterable[Dependency]) -> None:
        self.findings = findings
        self.by_left: dict[Left, dict[str, Dependency]] = defaultdict(dict)
        for one in some:
            self.by_left[one.left][one.right] = one
        self.groups = {
            left: max(one.evidence.groups if one.evidence else 0 for one in of.values())
            for left, of in self.by_left.items()
        }
        self.lefts_of: dict[str, set[str]] = defaultdict(set)
        for left, of in self.by_left.items():
            if len(left) == 1:
                for right in of:
                    self.lefts_of[right].add(left[0])
        self.constant = {one.right for one in findings.dependencies if not one.left}
        headers = [*findings.by_name]
        self.coded = with_names(headers)
        self._columns = {facts.name: _column(facts, self.coded) for facts in findings.columns}
        self._stems = {header: stem_of(header) for header in headers} | named_in_short(headers)
        self._naming = {facts.name for facts in findings.columns if _could_name(facts)}
        self._evidence: dict[tuple[Left, str], float] = {}

    @cached_property
    def _finer(self) -> dict[str, tuple[int, ...]]:
        """For each column, in how many groups others decide it that could name something, and not only by a slip."""
        return {
            right: tuple(
                self.groups[(left,)]
                for left in lefts
                if left in self._naming and (right, left) not in self.findings.mistyped
            )
            for right, lefts in self.lefts_of.items()
        }

    def decides(self, left: Left, right: str) -> bool:
        """Whether the left side, or a part of it, decides the right."""
        return right in self.by_left.get(left, ()) or any(part in self.lefts_of[right] for part in left)

    def is_named(self, left: Left, right: str) -> bool:
        """Whether the headers say that the right side belongs to the left: Yard Phone to Yard, or to Boat Yard; or that
        it is the level above."""
        about, said = self._stems[left[0]], words(right)
        if len(left) == 1 and is_level_below(left[0], right):
            return True
        if not about or (len(left) > 1 and not is_person(left)):
            return False
        noun = about[-1:] if len(about) > 1 and about[-1:] not in self._stems.values() else about
        return about == said[: len(about)] or (noun == said[:1] and len(said) > 1)

    def evidence(self, left: Left, right: str) -> float:
        """In powers of ten, how unlikely it is by chance that none of so many tried would hold as this one does.

        Rows that repeat a finer left side say the same thing again, so repeats are counted among its groups.
        """
        if (left, right) not in self._evidence:
            agreement = min(max(self.findings.by_name[right].agreement, 1e-12), 1.0)
            tried = max(len(self.findings.columns) * max(len(self._naming), 1) ** len(left), 1)
            self._evidence[left, right] = -self.repeats(left) * log10(agreement) - log10(tried)
        return self._evidence[left, right]

    def repeats(self, left: Left) -> int:
        """How often a left side comes again, those of a finer one counted once."""
        groups, rows = self.groups[left], self.findings.row_count
        if len(left) == 1:
            blanks = max(self.findings.by_name[left[0]].blanks - 1, 0)
            rows = min([rows - blanks, *(count for count in self._finer.get(left[0], ()) if count > groups)])
        return max(rows - groups, 0)

    def run(self, left: Left) -> tuple[str, ...]:
        """The columns that stand right behind the left side, as far as it decides them."""
        found: list[str] = []
        for facts in self.findings.behind(left[-1]):
            if not self.decides(left, facts.name) or facts.name in self.constant:
                break
            found.append(facts.name)
        return tuple(found)

    def of_thing(self, left: Left) -> dict[str, float]:
        """The features of a column that may stand for a thing, or of the columns of a name."""
        name = left[0]
        facts, groups = self.findings.by_name[name], self.groups[left]
        # Rows without it say nothing of it.
        rows, different = (facts.filled, facts.distinct) if len(left) == 1 else (facts.rows, groups)
        home = min([rows, *(count for count in self._finer.get(name, ()) if count > groups)])
        rights = [right for right in self.by_left[left] if right not in self.constant]
        proofs = sorted((self.evidence(left, right) for right in rights), reverse=True)
        about = self._stems[name]
        codes = [other for other in self.lefts_of[name] if self._stems[other] == about]
        best, second = (_proof(proofs[place] if len(proofs) > place else 0.0) for place in (0, 1))
        return self._columns[name] | {
            "any column": 1.0,
            "repeats": min(log2(max(rows / different, 1.0)), MOST_REPEATS),
            "repeats where it stands": min(log2(max(home / different, 1.0)), MOST_REPEATS),
            "saves nothing": float(home < SAVES * different),
            "determines what stands right behind": min(len(self.run(left)), SEVERAL) / SEVERAL,
            "others have its name": min(sum(self.is_named(left, right) for right in rights), SEVERAL) / SEVERAL,
            "best evidence": best[0],
            "best evidence, its order": best[1],
            "second evidence": second[0],
            "second evidence, its order": second[1],
            "determines one only": float(len(rights) == 1),
            "determines one only, order of evidence": best[1] * (len(rights) == 1),
            "determines none": float(not rights),
            "determines many": min(len(rights), MANY) / MANY,
            "share decided": len(rights) / max(len(self.findings.columns), 1),
            "a code beside is finer": float(
                bool(about) and any(is_identifier(words(one)) and self.groups[(one,)] > groups for one in codes)
            ),
            "said of another by its header": float(
                any(self.is_named((one,), name) and len(self._stems[one]) < len(about) for one in self.lefts_of[name])
            ),
            "first in the sheet": float(facts.position == 0),
        }

    def of_pair(self, left: Left, right: str) -> dict[str, float]:
        """The features of a column that may hang on a thing."""
        facts, groups = self.findings.by_name[right], self.groups[left]
        first, place = self.findings.by_name[left[-1]].position, facts.position
        named = self.is_named(left, right)
        finer = [one for one in self.lefts_of[right] & self.lefts_of[left[0]] if self.groups[(one,)] > groups]
        between = (self.findings.by_name[one].position for one in finer)
        proof = _proof(self.evidence(left, right))
        number = facts.kind.is_number
        return {f"it: {feature}": value for feature, value in self._columns[right].items()} | {
            "any pair": 1.0,
            "evidence": proof[0],
            "evidence, its order": proof[1],
            "has its name": float(named),
            "in the run behind": float(right in self.run(left)),
            "right behind": float(right in {one.name for one in self.findings.behind(left[-1])[:1]}),
            "before": float(place < first),
            "far": min(abs(place - first), FAR) / FAR,
            "coarser": min(log2(max(groups / max(facts.distinct, 1), 1)), MOST_COARSE) / MOST_COARSE,
            "few different": 1.0 / groups,
            "mostly one value": float(facts.agreement > MOSTLY_ONE),
            "determines it, too": float(left[0] in self.by_left.get((right,), ())),
            "has another's name": float(
                not named and any(self.is_named((one,), right) for one in self.lefts_of[right] if (one,) != left)
            ),
            "something finer determines it": float(bool(finer)),
            "something finer is nearer": float(any(first < one < place or place < one < first for one in between)),
            "a number of something coarse": float(number and groups < self.findings.row_count / 20 and not named),
        }


def weigh(features: Mapping[str, float], weights: Mapping[str, float]) -> tuple[tuple[str, float], ...]:
    """The bits by name, the heaviest first; features without a weight say nothing.

    >>> weigh({"far": 0.5, "named": 1.0, "new": 1.0}, {"far": -1.0, "named": 2.0})
    (('named', 2.0), ('far', -0.5))
    """
    bits = [(name, value * weights[name]) for name, value in features.items() if value and name in weights]
    return tuple(sorted(bits, key=lambda one: (-abs(one[1]), one[0])))


def _could_name(facts: ColumnFacts) -> bool:
    kind = facts.kind.word in ("text", "whole number")
    return kind and facts.mean_length <= LONGEST_NAME and facts.list_like < LISTS


def _proof(evidence: float) -> tuple[float, float]:
    return max(min(evidence, SURE), -SURE) / SURE, log10(1 + min(max(evidence, 0.0), MOST_SURE))


def _column(facts: ColumnFacts, coded: Collection[tuple[str, ...]]) -> dict[str, float]:
    """What a column is, by its values and by its header.

    Whole numbers of what another column has the name, such as cost centres, are codes.
    """
    parts = words(facts.name)
    said = {*parts}
    what = {*subject(parts)}
    text, whole, decimal = (facts.kind.word == word for word in ("text", "whole number", "decimal"))
    code = is_identifier(parts) or (whole and parts in coded)
    plural = whole and is_plural(facts.name) and not is_identifier(parts[-1:])
    return {
        "a code by its header": float(code),
        "a whole number, no code by its header": float(whole and not code),
        "a decimal": float(decimal),
        "a moment by its kind": float(not (text or whole or decimal)),
        "a measure by its header": float(is_measure(parts) or plural),
        "how to reach somebody": float(bool(what & CONTACT)),
        "a line of an address": float(bool(what & ADDRESS)),
        "a place by its header": float(bool(said & PLACE) and not code),
        "a part of a name": float(is_part_of_name(parts)),
        "sentences": float(text and (facts.mean_length > LONGEST_NAME or bool(what & FREE_TEXT))),
        "lists": float(facts.list_like >= LISTS),
        "looks like codes": facts.code_like if text else 0.0,
        "a moment by its header": float(bool(said & MOMENT)),
        "a name by its header": float(bool(said & NAME)),
    }
