"""What a view can compute again, so that it need not be stored; and the parts of a date, as texts."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.kinds import BY_WORD
from hemplit.core.model import findings

if TYPE_CHECKING:
    from collections.abc import Callable

    from hemplit.core.model.findings import Formula

#: The parts of a date, each as texts.
PARTS: dict[str, Callable[[pa.Array], pa.Array]] = {
    "year": lambda dates: pc.cast(pc.year(dates), pa.string()),
    "month": lambda dates: pc.cast(pc.month(dates), pa.string()),
    "day": lambda dates: pc.cast(pc.day(dates), pa.string()),
    "quarter": lambda dates: pc.cast(pc.quarter(dates), pa.string()),
    "quarter with Q": lambda dates: pc.replace_substring_regex(pc.cast(pc.quarter(dates), pa.string()), "^", "Q"),
    "week": lambda dates: pc.cast(pc.iso_week(dates), pa.string()),
    "year and month": lambda dates: pc.strftime(dates, format="%Y-%m", locale="C"),
    "name of the month": lambda dates: pc.strftime(dates, format="%B", locale="C"),
    "short name of the month": lambda dates: pc.strftime(dates, format="%b", locale="C"),
    "name of the weekday": lambda dates: pc.strftime(dates, format="%A", locale="C"),
    "short name of the weekday": lambda dates: pc.strftime(dates, format="%a", locale="C"),
}
MONTHS = "January February March April May June July August September October November December".split()
#: Which of the parts are whole numbers.
NUMERIC = ("year", "month", "day", "quarter", "week")
#: Weeks and weekdays are counted otherwise from database to database.
IN_VIEWS = tuple(name for name in PARTS if "week" not in name)
OPERATIONS = ("sum", "difference", "product", "percentage", "constant", findings.JOINED)


def in_views(formula: Formula) -> bool:
    """Whether any database can compute the column again.

    >>> from hemplit.core.model.findings import Formula
    >>> [in_views(Formula(findings.DATE_PART, ("Opened",), detail=part)) for part in ("year", "week")]
    [True, False]
    """
    return formula.operation in OPERATIONS or (formula.operation == findings.DATE_PART and formula.detail in IN_VIEWS)


def computable(formula: Formula) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The kinds of columns from which a formula can compute, and those of what comes out."""
    match formula.operation:
        case findings.DATE_PART:
            return ("date", "date and time"), ("whole number", "text") if formula.detail in NUMERIC else ("text",)
        case findings.JOINED:
            return tuple(BY_WORD), ("text",)
        case findings.BAND:
            return ("whole number", "decimal"), tuple(BY_WORD)
        case _:
            return ("whole number", "decimal"), ("whole number", "decimal")
