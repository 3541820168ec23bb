"""Where columns with one value only belong, which it does not say: by their headers, or by where they stand."""

from __future__ import annotations

from itertools import takewhile
from typing import TYPE_CHECKING

from hemplit.core.draft.head import document_of
from hemplit.core.draft.sorts import could_decide, is_moment
from hemplit.core.draft.verdict import Verdict
from hemplit.core.model.acts import Act
from hemplit.core.texts.words import is_identifier, is_of_matter, stem_of, words

if TYPE_CHECKING:
    from collections.abc import Collection, Iterator, Sequence

    from hemplit.core.draft.weighing import Candidates, Left
    from hemplit.core.model.findings import ColumnFacts

#: So many rows show that one of them is odd.
FEWEST_ALIKE = 10


def constants(candidates: Candidates, key: Collection[str], believed: Sequence[Verdict]) -> list[Verdict]:
    """Verdicts for the columns that never vary: each is of the thing whose name it has, or among whose columns it
    stands; what is in the ``key`` of the rows is none, but for a document of which they are the lines."""
    found = list(_headed(candidates, key))
    named = list(_named(candidates, key, {one.left: one.groups for one in (*believed, *found)}))
    found += [one for one in named if one.right not in {other.right for other in found}]
    for further in (_parts, _between):
        found += further(candidates, candidates.constant.difference(one.right for one in found), believed)
    return found


def _headed(candidates: Candidates, key: Collection[str]) -> Iterator[Verdict]:
    """All that stands above the lines of a document is said of it."""
    document = document_of(candidates.findings)
    if document in key:
        heads = {document} | candidates.constant
        labels = [name for step in candidates.findings.steps if step.act == Act.LABELS for name in step.texts("names")]
        above = labels if document in labels else takewhile(heads.__contains__, candidates.findings.by_name)
        bits = (("heads all lines", 1.0),)
        yield from (Verdict((document,), name, 1, bits, bits) for name in above if name in heads - {document})


def _named(candidates: Candidates, key: Collection[str], believed: dict[Left, int]) -> Iterator[Verdict]:
    """By their headers."""
    facts = candidates.findings.by_name
    groups = believed | {(name,): facts[name].distinct for name in _said_of_by_constants(candidates, key, believed)}
    bits = (("has its name", 1.0),)
    for right in sorted(candidates.constant):
        for left, of in groups.items():
            if right not in left and candidates.is_named(left, right):
                yield Verdict(left, right, of, bits, bits)


def _said_of_by_constants(candidates: Candidates, key: Collection[str], believed: Collection[Left]) -> Iterator[str]:
    """The columns that are things only by what headers say: all else that has their name is the same in all rows, or in
    all but one, in which it may be mistyped.

    Where a month's jobs had one insurer only, there is still an insurer with a name and a phone.
    """
    findings = candidates.findings
    filled = [facts for facts in findings.columns if not facts.blanks and could_decide(facts)]
    able = [facts.name for facts in filled if stem_of(facts.name)]
    taken = {stem_of(left[0]) for left in believed}
    for name in sorted(able, key=lambda name: (not is_identifier(words(name)), findings.by_name[name].position)):
        about = stem_of(name)
        others = [facts.name for facts in findings.columns if facts.name != name]
        named = {other for other in others if candidates.is_named((name,), other)}
        same, varied = named & candidates.constant, named - candidates.constant
        odd = all(_has_one_odd(findings.by_name[other]) for other in varied)
        if about not in taken and name not in key and same and odd:
            taken.add(about)
            yield name


def _has_one_odd(facts: ColumnFacts) -> bool:
    """Whether all rows say the same but for one, of many."""
    return facts.rows >= FEWEST_ALIKE and facts.agreement > 1 - 2 / facts.rows


def _parts(candidates: Candidates, rest: Collection[str], believed: Sequence[Verdict]) -> Iterator[Verdict]:
    """By what else stood in their cells: a unit is said of what is measured in it."""
    bits = (("stood in one cell with it", 1.0),)
    for step in candidates.findings.steps:
        names = step.texts("names") if step.act == Act.PARTS and not step.proposed else ()
        homes = [one for one in believed if one.right in names]
        if homes and not {*names}.isdisjoint(rest):
            home = min(homes, key=lambda one: one.groups)
            yield from (Verdict(home.left, name, home.groups, bits, bits) for name in names if name in rest)


def _between(candidates: Candidates, rest: Collection[str], believed: Sequence[Verdict]) -> Iterator[Verdict]:
    """By where they stand: among the columns of a thing, the finest of which they do.

    In a row that names no such thing they would say something of none.
    """
    facts = candidates.findings.by_name
    of = {one.left: one.groups for one in believed if len(one.left) == 1 and not facts[one.left[0]].blanks}
    said = {left: {*left, *(one.right for one in believed if one.left == left)} for left in of}
    varied = [name for name in facts if name not in candidates.constant]
    bits = (("stands among what is of it", 1.0),)
    for name in sorted(rest):
        before = [one for one in varied if facts[one].position < facts[name].position][-1:]
        behind = [one for one in varied if facts[one].position > facts[name].position][:1]
        around = [left for left in of if before and behind and {*before, *behind} <= said[left]]
        if around and not is_moment(facts[name]) and not is_of_matter(name):
            left = max(around, key=lambda left: of[left])
            yield Verdict(left, name, of[left], bits, bits)
