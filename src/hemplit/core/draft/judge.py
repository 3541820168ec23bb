"""Which of the dependencies that hold are meant, and which hold by accident.

A column that identifies something can decide others; amounts, dates, contact details and free text cannot. Among the
rest the evidence counts: had the right side been dealt out at random, how likely would it still have agreed wherever
the left side repeats? With ``q`` the chance that two rows agree in the right side, and ``n`` independent repeats of the
left, that is about ``q**n``; it must be small even after dividing by how many dependencies were tried.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import log10
from typing import TYPE_CHECKING

from hemplit.core.words import CONTACT, IDENTIFIER, MEASURE, words

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from hemplit.core.model.findings import ColumnFacts, Dependency, Findings

#: A dependency is believed if chance would give it in less than one of 10^3 such searches.
MARGIN = 3.0
#: Two columns together are many more candidates and rarely meant: they need this much more evidence, in powers of ten.
COMPOSITE_MARGIN = 3.0
#: Where a pair of columns repeats in fewer rows than this share, a table of its own saves nothing.
COMPOSITE_REPEATS = 0.3
#: Texts that are longer on average are sentences, not names.
LONGEST_NAME = 40.0
#: From this share of values that look like lists on, the cells hold several values each.
LISTS = 0.3
#: A pair is a natural key if chance would have made so many rows collide in it, and none do.
COLLISIONS = 10.0


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
    said = set(words(facts.name))
    if facts.distinct < 2 or said & CONTACT:
        return False
    if facts.kind.word == "text":
        return facts.mean_length <= LONGEST_NAME and facts.list_like < LISTS
    return facts.kind.word == "whole number" and bool(said & IDENTIFIER) and not said & MEASURE


def judge(findings: Findings, key: Sequence[str], aside: Iterable[str]) -> tuple[Judged, ...]:
    """The dependencies that are meant; ``key`` decides everything anyhow, and columns ``aside`` are computed."""
    skip = {*aside}
    able = {facts.name for facts in findings.columns if can_decide(facts)} - skip
    usable = [
        one
        for one in findings.dependencies
        if one.left and one.evidence and one.right not in skip and able.issuperset(one.left) and one.evidence.repeats
    ]
    keys = [frozenset(one) for one in (*findings.keys, tuple(key)) if one]
    usable = [one for one in usable if not any(part <= frozenset(one.left) for part in keys)]
    singles = _believed([one for one in usable if len(one.left) == 1], findings, MARGIN)
    decided = {one.right for one in singles}
    pairs_of = {(one.left[0], one.right) for one in singles}
    below = {right for left, right in pairs_of if (right, left) not in pairs_of}
    pairs = [
        one
        for one in usable
        if len(one.left) == 2
        and one.right not in decided
        and below.isdisjoint(one.left)
        and one.right not in key
        and _groups(one) <= (1 - COMPOSITE_REPEATS) * findings.row_count
    ]
    return (*singles, *_believed(pairs, findings, MARGIN + COMPOSITE_MARGIN))


def _believed(candidates: Sequence[Dependency], findings: Findings, margin: float) -> list[Judged]:
    columns = len(findings.columns)
    size = max((len(one.left) for one in candidates), default=1)
    needed = margin + log10(columns ** (size + 1))
    return [one for one in (_weigh(one, candidates, findings) for one in candidates) if one.strength >= needed]


def _groups(one: Dependency) -> int:
    return one.evidence.groups if one.evidence else 0


def _weigh(one: Dependency, candidates: Sequence[Dependency], findings: Findings) -> Judged:
    """Rows that repeat a finer left side say the same thing again, so repeats are counted among its groups."""
    groups = _groups(one)
    finer = [_groups(other) for other in candidates if (other.right,) == one.left and _groups(other) > groups]
    repeats = min(finer, default=findings.row_count) - groups
    agreement = min(max(findings.by_name[one.right].agreement, 1e-12), 1.0)
    return Judged(one.left, one.right, groups, repeats, -repeats * log10(agreement))


def base_key(findings: Findings, aside: Iterable[str]) -> tuple[str, ...]:
    """The natural key of the sheet's rows: codes and numbers before pairs of them; empty if there is no good one."""
    skip = {*aside}
    good: list[tuple[str, ...]] = []
    for key in findings.keys:
        facts = [findings.by_name[name] for name in key]
        if not key or skip.intersection(key) or any(one.blanks or not can_decide(one) for one in facts):
            continue
        if len(key) == 1:
            if is_code(facts[0]):
                good.append(key)
        elif all(is_code(one) for one in facts) and _unlikely_unique(facts, findings.row_count):
            good.append(key)
    position = {facts.name: facts.position for facts in findings.columns}
    return min(good, key=lambda key: (len(key), sum(position[name] for name in key)), default=())


def _unlikely_unique(facts: Sequence[ColumnFacts], rows: int) -> bool:
    chance = 1.0
    for one in facts:
        chance *= one.agreement
    return rows * rows / 2 * chance >= COLLISIONS


def is_code(facts: ColumnFacts) -> bool:
    """Whether the values look like codes or numbers that were given out: short and without spaces."""
    if facts.kind.word == "whole number":
        return bool(set(words(facts.name)) & IDENTIFIER)
    return facts.kind.word == "text" and facts.code_like >= 0.95 and facts.longest <= 20
