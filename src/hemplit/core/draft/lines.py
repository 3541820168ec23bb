"""Rows that hang on two columns together: which two are meant, and what is said of all rows under them.

    Quote   Rev   Rev Date     Line   Part         quote_revs   Quote   Rev   Rev Date
    Q-1     A     2026-03-02   1      Rope                      Q-1     A     2026-03-02
    Q-1     A     2026-03-02   2      Cleat                     Q-1     B     2026-03-09
    Q-1     B     2026-03-09   1      Rope

Lines count anew under both, or a day tells them apart under both, as the soundings of each tank of a ship. Where a code
alone does so with that number or that day, they are of what has it.
"""

from __future__ import annotations

from itertools import takewhile
from typing import TYPE_CHECKING

from hemplit.core.draft.sorts import can_decide, is_code, is_measured, is_moment
from hemplit.core.texts.vocabulary import RANK
from hemplit.core.texts.words import is_of_matter, parts_among, words

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.model.findings import Findings


def lines_of_pair(findings: Findings) -> tuple[str, ...]:
    """Two columns and the one that counts or dates what stands under both, as under a quote and its revision; empty if
    there are none."""
    counted = (some for some in findings.counted if _heads_lines(findings, some[:2]) and _numbers(findings, some[2]))
    dated = (
        some for some in findings.crossed if _names_things(findings, some[:2]) and not _is_of_a_code(findings, some)
    )
    return next((some for some in (*counted, *dated) if not _has_a_code(findings, some[2])), ())


def head_of_lines(findings: Findings) -> tuple[str, ...]:
    """The two columns under which lines count anew; empty if there are none."""
    return lines_of_pair(findings)[:2]


def above_lines(findings: Findings) -> tuple[str, ...]:
    """What stands where what is said of all such lines does: before their number, or right behind the two columns where
    the days stand first."""
    lines = lines_of_pair(findings)
    if not lines:
        return ()
    before, after = findings.before(lines[2]), findings.behind(lines[1])
    if not {lines[0], lines[1]}.isdisjoint(facts.name for facts in before):
        return tuple(facts.name for facts in before)
    decided = {one.right for one in findings.held if {*one.left} <= {*lines[:2]}}
    return tuple(facts.name for facts in takewhile(lambda facts: facts.name in decided, after))


def _heads_lines(findings: Findings, pair: Sequence[str]) -> bool:
    """Whether two columns could head lines: each says when, or what it is of, and not both say when."""
    facts = [findings.by_name[name] for name in pair]
    others = [one for one in facts if not is_moment(one)]
    return bool(others) and not any(
        one.amounts or one.kind.word == "decimal" or is_of_matter(one.name) or is_measured(one) for one in others
    )


def _names_things(findings: Findings, pair: Sequence[str]) -> bool:
    """Whether two columns could name something together: neither says when, nor is it a part of a name."""
    parts = parts_among(findings.by_name)
    moments = (name for name in pair if is_moment(findings.by_name[name]))
    return _heads_lines(findings, pair) and parts.isdisjoint(pair) and not any(moments)


def _has_a_code(findings: Findings, line: str) -> bool:
    """Whether a code tells the lines apart together with their number, so that they are of what has it."""
    others = (findings.by_name[name] for key in findings.keys if len(key) == 2 and line in key for name in key)
    return any(one.name != line and can_decide(one) and is_code(one) for one in others)


def _is_of_a_code(findings: Findings, lines: Sequence[str]) -> bool:
    """Whether another code says the first of two columns and the day, as that of an order its clerk."""
    others = (one for one in findings.columns if one.name not in lines and can_decide(one) and is_code(one))
    decided = {(one.left, one.right) for one in findings.held}
    return any({((one.name,), lines[0]), ((one.name,), lines[2])} <= decided for one in others)


def _numbers(findings: Findings, name: str) -> bool:
    """Whether a column that counts what stands under two others is no measure, and no place that two may have won."""
    return not is_measured(findings.by_name[name]) and RANK.isdisjoint(words(name))
