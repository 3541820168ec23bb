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

from hemplit.core.draft.sorts import can_decide, is_code
from hemplit.core.texts.words import (
    ADDRESS,
    CONTACT,
    DOCUMENT,
    LINE,
    MODEL,
    MOMENT,
    PLACE,
    is_document,
    is_identifier,
    stem_of,
    words,
)

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.model.findings import ColumnFacts, Findings

#: What is said of a thing itself, and of none of what happens to it.
OWN = PLACE | CONTACT | ADDRESS | MODEL | frozenset("owner breed species colour color sex gender birth dob".split())
#: What is known by such a number is there for longer than what happens to it.
LASTING = frozenset("reg registration plate tail vin chassis hull serial imei sku barcode isbn badge".split())
#: Rows say in one of so many columns, the first, what happened or when.
BEGINNING = 2
#: Of what came once in each of more rows it is no accident.
MOST_ROWS = 60


def is_met(facts: ColumnFacts, findings: Findings) -> bool:
    """Whether a code is of what the rows speak of and no name of theirs, though each came once so far.

    Their own are those of a document or a line, and what was given out in their order and names nothing else.
    """
    if not _tell_what_happened(findings) or facts.position == findings.columns[0].position:
        return False
    if is_document(facts.name):
        return False
    said = {*words(facts.name)}
    if _named(facts, findings) or said & LASTING:
        return True
    return not facts.in_order and said.isdisjoint(LINE)


def met(findings: Findings) -> dict[str, tuple[str, ...]]:
    """The codes of such things, each with the columns that are said of them."""
    if findings.row_count > MOST_ROWS:
        return {}
    able = (facts for facts in findings.columns if (facts.name,) in findings.keys and not facts.blanks)
    coded = (facts for facts in able if is_identifier(words(facts.name)) and is_code(facts) and can_decide(facts))
    return {
        facts.name: (*_said(facts, findings),) for facts in coded if _named(facts, findings) and is_met(facts, findings)
    }


def _tell_what_happened(findings: Findings) -> bool:
    """Whether the rows begin with a moment, or with the number of a document or of a line in one."""
    return any(map(_tells_when, findings.columns[:1])) or any(
        is_document(facts.name) for facts in findings.columns[:BEGINNING]
    )


def _tells_when(facts: ColumnFacts) -> bool:
    """Whether a column says when, and by its header of nothing that lasts: no day of birth."""
    stem = {*stem_of(facts.name)}
    return (
        bool(stem & MOMENT)
        and stem <= MOMENT | DOCUMENT
        and facts.kind.word in ("whole number", "date", "date and time")
    )


def _named(facts: ColumnFacts, findings: Findings) -> list[str]:
    """The columns with the name of what a column has the codes of."""
    about = stem_of(facts.name)
    others = (one.name for one in findings.columns if about and one is not facts and stem_of(one.name) == about)
    return [name for name in others if not is_identifier(words(name))]


def _said(facts: ColumnFacts, findings: Findings) -> Iterator[str]:
    """What is said of a thing: what is called after it, and what stands behind and is no matter of the row."""
    about = stem_of(facts.name)
    called = [one for one in findings.columns if one is not facts and words(one.name)[: len(about)] == about]
    yield from (one.name for one in called)
    last = max([facts, *called], key=lambda one: one.position)
    behind = (one.name for one in findings.behind(last.name))
    yield from takewhile(lambda name: not OWN.isdisjoint(words(name)), behind)
