"""What heads a sheet: the month or the document that every row says again, because all of them tell of it.

    Month     Boat Reg   Boat   Fee      boats   Boat Reg   Boat      fees   Month     Boat Reg   Fee
    2026-10   MQ-114     Teal   120              MQ-114     Teal             2026-10   MQ-114     120
    2026-10   MQ-290     Knot    95              MQ-290     Knot             2026-10   MQ-290      95

Next month the same boats come again. What tells the rows apart does so together with the head, and what is said of a
thing itself stands in a table of its own, as it would if the sheet had two months.
"""

from __future__ import annotations

from itertools import takewhile
from typing import TYPE_CHECKING

from hemplit.core.draft.sorts import can_decide
from hemplit.core.model.acts import Act
from hemplit.core.model.relation import TEXT, TIMES
from hemplit.core.texts.moments import is_called_period, is_of_period, is_of_rows
from hemplit.core.texts.vocabulary import MOMENT, NOTE
from hemplit.core.texts.words import is_identifier, is_of_matter, numbers_document, numbers_lines, stem_of, words

if TYPE_CHECKING:
    from collections.abc import Collection, Iterable, Iterator

    from hemplit.core.model.findings import ColumnFacts, Findings

#: What is measured of a thing once, and is no other next month; a weight or a depth may be.
SIZES = frozenset("length width beam draught tonnage capacity seats built hp laenge breite longueur".split())
#: One row alone says everything again, but for that of a form, which says what stands above it once.
FEWEST_ROWS = 3


def is_when(facts: ColumnFacts) -> bool:
    """Whether a column says when, and by its header of nothing that lasts: no day of birth."""
    stem = {*stem_of(facts.name)}
    if facts.kind.word == "whole number":
        return bool(stem) and stem <= MOMENT
    return facts.kind.word in TIMES and is_of_rows(facts.name)


def is_line(facts: ColumnFacts) -> bool:
    """Whether a column numbers the lines under something else: by its header, or by numbers that count anew under each,
    as places at the finish do, too, whose header speaks of no number."""
    said = words(facts.name)
    return facts.kind.word == "whole number" and (numbers_lines(said) or (facts.anew and is_identifier(said)))


def document_of(findings: Findings) -> str:
    """The column with the number of the document of which all rows are lines; empty if there is none."""
    return next((facts.name for facts in _same_throughout(findings) if numbers_document(facts.name)), "")


def period_of(findings: Findings, aside: Collection[str] = ()) -> tuple[str, ...]:
    """The columns that say together of which period all rows tell; empty if none does."""
    same = [facts for facts in _same_throughout(findings) if facts.name not in aside]
    if document_of(findings):
        return ()
    return tuple(facts.name for facts in same if _is_period(facts))


def under_head(key: tuple[str, ...], findings: Findings, aside: Iterable[str] = ()) -> tuple[str, ...]:
    """The key of the rows together with what heads them, within which alone it tells them apart.

    Lines are known by the document and their number; what has no key under a head by the names that stand beside it.
    """
    document = document_of(findings)
    if document:
        lines = [facts.name for facts in findings.columns if is_line(facts) and (facts.name,) in findings.keys]
        line = (*lines[:1],) or (() if key else _beside(findings))
        return (document, *line) if line else key
    period = period_of(findings, {*aside})
    key = key or (_beside(findings) if period else ())
    if not period or not key or not _is_of_period(key, period, findings):
        return key
    return tuple(facts.name for facts in findings.columns if facts.name in (*period, *key))


def said_of(name: str, findings: Findings) -> tuple[str, ...]:
    """What is said of a thing itself in the rows of a period: names and kinds that stand behind it, up to what is told
    of the period, as an amount, a day and how a matter stands."""
    behind = (facts for facts in findings.behind(name) if facts.distinct > 1)
    return tuple(facts.name for facts in takewhile(_is_of_thing, behind))


def _is_of_period(key: tuple[str, ...], period: tuple[str, ...], findings: Findings) -> bool:
    """Whether what the rows say of the things in their key holds in the period only.

    A document is numbered for good, and so are its lines, unless the rows begin with the period and say no day: the
    hours of a job in a week. Behind a thing of which all else is said for good stands its own year, when it was built.
    """
    varied = [facts for facts in findings.columns if facts.distinct > 1 and facts.name not in key]
    place = {facts.name: facts.position for facts in findings.columns}
    first = place[period[0]] < min(place[name] for name in key)
    if any(numbers_document(name) or is_line(findings.by_name[name]) for name in key):
        return first and not any(map(is_when, varied))
    return first or not {facts.name for facts in varied}.issubset(said_of(key[-1], findings))


def _beside(findings: Findings) -> tuple[str, ...]:
    """The first column that varies, if it names what each row tells of."""
    first = [facts for facts in findings.columns if facts.distinct > 1][:1]
    named = (one.name for one in first if one.kind == TEXT and can_decide(one) and not one.blanks)
    return tuple(name for name in named if (name,) in findings.keys)


def _same_throughout(findings: Findings) -> Iterator[ColumnFacts]:
    is_form = any(step.act == Act.LABELS and not step.proposed for step in findings.steps)
    if not findings.of and (is_form or findings.row_count >= FEWEST_ROWS):
        yield from (facts for facts in findings.columns if facts.distinct == 1 and not facts.blanks)


def _is_period(facts: ColumnFacts) -> bool:
    return is_called_period(facts.name) or (is_when(facts) and is_of_period(facts.name))


def _is_of_thing(facts: ColumnFacts) -> bool:
    if facts.kind != TEXT:
        return not SIZES.isdisjoint(words(facts.name))
    return not (facts.amounts or is_of_matter(facts.name)) and NOTE.isdisjoint(words(facts.name))
