"""Things that the rows speak of, though each came once so far: no row repeats what is said of them, but the headers do.

    Date    Boat Reg   Boat   Owner   Work      boats   Boat Reg   Boat   Owner
    2 May   MQ-114     Teal   Frost   lift              MQ-114     Teal   Frost
    3 May   MQ-290     Knot   Crane   wash              MQ-290     Knot   Crane

Rows that begin with a day or with the number of a document are no list of boats. Next month a boat comes again, so its
code is no key of them, and what its headers say of it stands in a table of its own.
"""

from __future__ import annotations

from itertools import takewhile
from typing import TYPE_CHECKING

from hemplit.core.draft.head import is_when, period_of, said_of, under_head
from hemplit.core.draft.sorts import can_decide, is_code, is_contact_of
from hemplit.core.model.relation import TEXT
from hemplit.core.texts.vocabulary import ADDRESS, CONTACT, LABEL, MODEL, MOMENT, PLACE
from hemplit.core.texts.words import (
    is_document,
    is_identifier,
    is_part,
    numbers_document,
    numbers_lines,
    stem_of,
    words,
)

if TYPE_CHECKING:
    from collections.abc import Collection, Iterator

    from hemplit.core.model.findings import ColumnFacts, Findings

#: What is said of a thing itself, and of none of what happens to it.
OWN = (
    PLACE
    | CONTACT
    | ADDRESS
    | MODEL
    | frozenset("owner keeper breed species colour color sex gender birth dob flag nationality".split())
)
#: What is known by such a number is there for longer than what happens to it.
LASTING = LABEL | frozenset("reg registration vin chassis hull serial imei sku isbn".split())
#: Rows say in one of so many columns, the first, what happened or when.
BEGINNING = 2
#: Of what came once in each of more rows it is no accident.
MOST_ROWS = 60


def is_met(facts: ColumnFacts, findings: Findings) -> bool:
    """Whether a column is of what the rows speak of and no name of theirs, though each came once so far.

    Their own are those of a document or a line, and what was given out in their order and names nothing else.
    """
    if not _may_come_again(facts, findings):
        return False
    said = words(facts.name)
    lasting = bool(_named(facts, findings)) or not LASTING.isdisjoint(said)
    return lasting or not (facts.in_order or numbers_lines(said))


def met(findings: Findings, key: Collection[str] = ()) -> dict[str, tuple[str, ...]]:
    """The codes of such things, or the names of people with how to reach them, each with what is said of them; and
    what has one row in the period of the sheet, which with it is the ``key`` of the rows."""
    period = period_of(findings)
    beside = [name for name in key if name not in period] if period else []
    coded = {name: said_of(name, findings) for name in beside} if len(beside) == 1 < len(key) else {}
    able = [facts for facts in findings.columns if (facts.name,) in findings.keys and not facts.blanks]
    able = [facts for facts in able if can_decide(facts) and _may_come_again(facts, findings)]
    if findings.row_count > MOST_ROWS:
        return coded
    for facts in able:
        if _is_coded(facts) and _named(facts, findings):
            coded[facts.name] = tuple(dict.fromkeys((*coded.get(facts.name, ()), *_said(facts, findings))))
    told = {name for said in coded.values() for name in said}
    reached = (facts for facts in able if facts.name not in told and _is_reached(facts, findings))
    return {facts.name: (*_said(facts, findings),) for facts in reached} | coded


def _may_come_again(facts: ColumnFacts, findings: Findings) -> bool:
    """Whether rows that tell what happened, or how it was in some period, may speak of the same once more."""
    if under_head((facts.name,), findings) != (facts.name,):
        return True
    first = facts.position == findings.columns[0].position
    return not first and not is_document(facts.name) and _tell_what_happened(findings)


def _tell_what_happened(findings: Findings) -> bool:
    """Whether the rows begin with a moment, with their number and a moment, or with the number of a document."""
    first, *others = findings.columns[:BEGINNING]
    if is_when(first) or any(numbers_document(one.name) for one in (first, *others)):
        return True
    return is_identifier(words(first.name)) and any(
        MOMENT.issuperset(words(one.name)) and is_when(one) for one in others
    )


def _is_coded(facts: ColumnFacts) -> bool:
    """Whether a column holds the codes of things, by its header."""
    said = words(facts.name)
    return is_code(facts) and (is_identifier(said) or not LABEL.isdisjoint(said))


def _is_reached(facts: ColumnFacts, findings: Findings) -> bool:
    """Whether a column holds names, and the next how to reach whom they name."""
    reach = findings.behind(facts.name)[:1]
    named = facts.kind == TEXT and not _is_coded(facts) and not is_part(facts.name)
    return named and any(is_contact_of(one.name, facts.name) for one in reach)


def _about(facts: ColumnFacts) -> tuple[str, ...]:
    """What a column speaks of, by its header."""
    return tuple(word for word in stem_of(facts.name) if word not in LABEL)


def _named(facts: ColumnFacts, findings: Findings) -> list[str]:
    """The columns with the name of what a column has the codes of."""
    about = _about(facts)
    others = (one for one in findings.columns if about and one is not facts and not _is_coded(one))
    return [one.name for one in others if stem_of(one.name) == about]


def _said(facts: ColumnFacts, findings: Findings) -> Iterator[str]:
    """What is said of a thing: what is called after it, and what stands behind and is no matter of the row."""
    about = _about(facts)
    called = [one for one in findings.columns if about and one is not facts and words(one.name)[: len(about)] == about]
    yield from (one.name for one in called)
    last = max([facts, *called], key=lambda one: one.position)
    behind = (one.name for one in findings.behind(last.name))
    yield from takewhile(lambda name: not OWN.isdisjoint(words(name)), behind)
