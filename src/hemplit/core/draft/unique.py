"""What else, beside the key, no two rows of a sheet say: codes, and where the key is made up, the first name.

What came once so far by chance is not unique: the next row that says it again would be refused.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.draft.sorts import can_decide, could_decide, is_code, is_moment
from hemplit.core.texts.vocabulary import MOMENT, NAME
from hemplit.core.texts.words import is_identifier, is_part, words

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.draft.decided import Decided
    from hemplit.core.model.design import ColumnPlan
    from hemplit.core.model.findings import ColumnFacts, Findings

#: Where so many rows each speak of one of a hundred things, nearly nine sheets in ten speak of some thing twice.
MANY = 20


def unique_beside(decided: Decided, columns: Sequence[ColumnPlan]) -> tuple[tuple[str, ...], ...]:
    """Further columns of a table that identify the sheet's rows: every code, and beside a made-up key the first name.

    In a few rows a code that others speak of does not repeat by accident either.
    """
    findings = decided.findings
    held = [(column, decided.facts(column.source)) for column in columns if column.source and column.store]
    alone = {key[0] for key in findings.keys if len(key) == 1} - {*decided.key} - decided.met_again
    named = set(decided.roles.inward.values())
    names = [(column, facts) for column, facts in held if facts.name in alone and _could_be_unique(facts)]
    names.sort(key=lambda pair: pair[1].name not in named)
    many = findings.row_count >= MANY or not decided.key
    codes = [column for column, facts in names if (many and is_code(facts)) or facts.name in named]
    if codes or decided.key:
        return tuple((column.name,) for column in codes)
    first = [
        (column, facts)
        for column, facts in names[:1]
        if not (_is_said_of_another(facts, findings) or _comes_on_a_day(facts, findings))
    ]
    return tuple((*_above(held, facts), column.name) for column, facts in first)


def _could_be_unique(facts: ColumnFacts) -> bool:
    """Whether a column has codes, or whole names, and not what was measured, such as 140/90."""
    lettered = any(map(str.isalpha, "".join(facts.examples)))
    return can_decide(facts) and not is_part(facts.name) and (lettered or is_identifier(words(facts.name)))


def _is_said_of_another(named: ColumnFacts, findings: Findings) -> bool:
    """Whether a bare name stands behind a thing that comes again: another who has that berth may be called so."""
    again = any(facts.repeats and facts.distinct > 1 and can_decide(facts) for facts in findings.before(named.name))
    return again and NAME.issuperset(words(named.name))


def _comes_on_a_day(named: ColumnFacts, findings: Findings) -> bool:
    """Whether rows tell what happened, as a day stands before the name or a column is called no more than that.

    Who came on one may come on another.
    """
    others = [facts for facts in findings.columns if facts is not named]
    before = any(map(is_moment, findings.before(named.name)))
    return before or any(MOMENT.issuperset(words(facts.name)) for facts in others)


def _above(held: Sequence[tuple[ColumnPlan, ColumnFacts]], named: ColumnFacts) -> tuple[str, ...]:
    """What every row says again before it says what it tells of: of another boat may come the same tasks."""
    return tuple(
        column.name
        for column, facts in held
        if facts.distinct == 1 and facts.position < named.position and could_decide(facts)
    )
