"""Lines that count anew under two columns together: which two are meant, and what is said of all lines under them.

    Quote   Rev   Rev Date     Line   Part         quote_revs   Quote   Rev   Rev Date
    Q-1     A     2026-03-02   1      Rope                      Q-1     A     2026-03-02
    Q-1     A     2026-03-02   2      Cleat                     Q-1     B     2026-03-09
    Q-1     B     2026-03-09   1      Rope

Where a code alone tells the lines apart together with their number, they are of what has it.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.draft.sorts import TIMES, can_decide, is_code, is_measured
from hemplit.core.texts.vocabulary import MOMENT
from hemplit.core.texts.words import is_of_matter, words

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.model.findings import Findings

#: Places at the finish, which two may share.
RANK = frozenset("rank ranking place placing finish finished position pos score seed rang platz".split())


def lines_of_pair(findings: Findings) -> tuple[str, ...]:
    """Two columns and the one that counts lines anew under both, as under a quote and its revision; empty if none."""
    able = (some for some in findings.counted if _heads_lines(findings, some[:2]) and _numbers(findings, some[2]))
    return next((some for some in able if not _has_a_code(findings, some[2])), ())


def head_of_lines(findings: Findings) -> tuple[str, ...]:
    """The two columns under which lines count anew; empty if there are none."""
    return lines_of_pair(findings)[:2]


def above_lines(findings: Findings) -> tuple[str, ...]:
    """What stands before the number of such lines, as what is said of all lines does."""
    return tuple(facts.name for name in lines_of_pair(findings)[2:] for facts in findings.before(name))


def _heads_lines(findings: Findings, pair: Sequence[str]) -> bool:
    """Whether two columns could head lines: each says when, or what it is of, and not both say when."""
    facts = [findings.by_name[name] for name in pair]
    moments = [one for one in facts if one.kind.word in TIMES or one.dates or not MOMENT.isdisjoint(words(one.name))]
    others = [one for one in facts if one not in moments]
    return len(moments) < len(facts) and not any(
        one.amounts or one.kind.word == "decimal" or is_of_matter(one.name) or is_measured(one) for one in others
    )


def _has_a_code(findings: Findings, line: str) -> bool:
    """Whether a code tells the lines apart together with their number, so that they are of what has it."""
    others = (findings.by_name[name] for key in findings.keys if len(key) == 2 and line in key for name in key)
    return any(one.name != line and can_decide(one) and is_code(one) for one in others)


def _numbers(findings: Findings, name: str) -> bool:
    """Whether a column that counts what stands under two others is no measure, and no place that two may have won."""
    return not is_measured(findings.by_name[name]) and RANK.isdisjoint(words(name))
