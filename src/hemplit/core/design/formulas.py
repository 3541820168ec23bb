"""What a view can compute again, so that it need not be stored, and from what."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design.calendar import NUMBERS, PARTS
from hemplit.core.kinds import BY_WORD
from hemplit.core.model import findings

if TYPE_CHECKING:
    from hemplit.core.model.findings import Formula

#: Weeks and weekdays are counted otherwise from database to database.
IN_VIEWS = tuple(part for part in PARTS if "week" not in part)


def in_views(formula: Formula) -> bool:
    """Whether any database can compute the column again.

    >>> from hemplit.core.model.findings import Formula
    >>> [in_views(Formula(findings.DATE_PART, ("Opened",), detail=part)) for part in ("year", "week")]
    [True, False]
    """
    return formula.operation not in (findings.DATE_PART, findings.DAYS_LATER) or formula.detail in IN_VIEWS


def computable(formula: Formula) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The kinds of columns from which a formula can compute, and those of what comes out."""
    match formula.operation:
        case findings.DATE_PART:
            return ("date", "date and time"), ("whole number", "text") if formula.detail in NUMBERS else ("text",)
        case findings.JOINED:
            return tuple(BY_WORD), ("text",)
        case findings.BAND:
            return ("whole number", "decimal"), tuple(BY_WORD)
        case _:
            return ("whole number", "decimal"), ("whole number", "decimal")
