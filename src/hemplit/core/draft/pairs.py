"""What two columns decide only together, as the name of a team in each year, or who made a revision of a quote.

Pairs are many more candidates than single columns, and rarely meant: so they need more evidence; unless lines count
anew under the two, which says that they are what the lines are of.
"""

from __future__ import annotations

from collections import Counter
from math import log2
from typing import TYPE_CHECKING

from hemplit.core.draft.keys import moments_of_files
from hemplit.core.draft.lines import above_lines, head_of_lines
from hemplit.core.draft.namesakes import groups_of
from hemplit.core.draft.sorts import can_decide, is_moment
from hemplit.core.draft.verdict import Verdict, weight
from hemplit.core.draft.weighing import Candidates
from hemplit.core.texts.words import is_person, parts_among
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Collection, Sequence

    from hemplit.core.draft.weighing import Left
    from hemplit.core.model.findings import Dependency, Findings

#: Two columns together are many more candidates and rarely meant: so many powers of ten of evidence are needed.
PAIR_NEEDS = 6.0
#: Where a pair of columns repeats in fewer rows than this share, a table of its own saves nothing.
PAIR_REPEATS = 0.3
#: The same where it would hold several columns, in which as many rows would contradict a table that is none.
FEW_REPEATS = 0.05
BITS = log2(10)


def of_pairs(
    findings: Findings, usable: Sequence[Dependency], believed: Sequence[Verdict], key: Collection[str]
) -> list[Verdict]:
    """A verdict for each of the ``usable`` dependencies on two columns, given what is ``believed`` of single ones.

    ``key`` tells the rows apart.
    """
    head, above = head_of_lines(findings), above_lines(findings)
    parts, of_file = parts_among(findings.by_name), moments_of_files(findings)
    decided = {one.right for one in believed}
    pairs_of = {(one.left[0], one.right) for one in believed}
    below = {right for left, right in pairs_of if (right, left) not in pairs_of}
    pairs = [one for one in usable if len(one.left) == 2 and not is_person(one.left)]
    pairs = [one for one in pairs if _could_be_a_pair(findings, one.left) or one.left == head]
    candidates = Candidates(findings, [*(one for one in usable if len(one.left) == 1), *pairs])
    several = Counter(one.left for one in pairs if one.right not in decided)
    found = []
    for one in pairs:
        evidence = candidates.evidence(one.left, one.right)
        heads_lines = one.left == head
        # A year of three that tell the rows apart tells apart other things as well: the team of each year.
        beside_head = bool(head) and len(key) > 2 and not {*one.left} <= {*key}
        rarely = 0.0 if heads_lines else -PAIR_NEEDS * BITS
        bits = (("evidence", evidence * BITS), ("two columns are rarely meant", rarely))
        repeats = 1 - groups_of(one) / findings.row_count
        reasons = {
            f"'{one.right}' depends on one column": one.right in decided or one.right in key,
            "a part of it depends on something": not below.isdisjoint(one.left),
            "a part of it is the key": bool({*one.left} & {*key}) and not heads_lines and not beside_head,
            "a part of a name names nobody": not parts.isdisjoint(one.left),
            f"'{one.right}' tells when the file was made": one.right in of_file,
            # What one of them decides but for a few slips belongs to that one, once they are corrected.
            "one of them determines it but for a few rows": any(
                (left, one.right) in findings.mistyped for left in one.left
            ),
            "too few rows repeat it": not heads_lines
            and repeats < (PAIR_REPEATS if several[one.left] < 2 else FEW_REPEATS),
        }
        against = next((reason for reason, holds in reasons.items() if holds), "")
        # What is said of all lines stands before their number.
        enough = not against and (weight(bits) >= 0 or (heads_lines and one.right in above))
        found.append(Verdict(one.left, one.right, groups_of(one), bits, (), enough, against))
    # What stands for a thing in one of its columns does so in those of which less can be shown, too.
    things = {one.left for one in found if one.believed}
    if head in things:
        pair = next(one for one in found if one.left == head)
        free = (name for name in _of_all_lines(findings) if name not in {*decided, *key})
        found += [replace(pair, right=name, believed=True, ruled_out="") for name in free]
    return [
        replace(one, believed=True, ruled_out="") if one.left in things and one.right not in decided | {*key} else one
        for one in found
    ]


def _could_be_a_pair(findings: Findings, left: Left) -> bool:
    """Whether both are of the sort that identifies something, or one is and the other tells when.

    A row in which one of them is blank would name nothing by the other.
    """
    facts = [findings.by_name[name] for name in left]
    if any(one.blanks for one in facts):
        return False
    moments = [one for one in facts if is_moment(one)]
    return len(moments) < len(facts) and all(can_decide(one) for one in facts if one not in moments)


def _of_all_lines(findings: Findings) -> list[str]:
    """What stands above the lines of two columns, and was the same so far for one of these, of which it is not: the
    days of two batches, on each of which all samples were taken."""
    head = head_of_lines(findings)
    held = {one.right for one in findings.held if len(one.left) == 1 and one.left[0] in head}
    return [name for name in above_lines(findings) if name in held]
