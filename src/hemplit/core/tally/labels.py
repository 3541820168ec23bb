"""What a group is called, out of the sheet and out of a database alike, and the order of groups."""

from __future__ import annotations

from datetime import date, timedelta
from typing import TYPE_CHECKING, Any

from hemplit.core import kinds
from hemplit.core.model.relation import Kind
from hemplit.core.model.tally import DatePart

if TYPE_CHECKING:
    from collections.abc import Sequence

WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
DAY = Kind("date", "YYYY-MM-DD")


def label(value: Any, kind: Kind, part: DatePart | None) -> str | None:
    """What a value of a sheet is called in a group.

    >>> from datetime import date
    >>> label(date(2026, 3, 31), DAY, DatePart.WEEK), label(date(2026, 3, 31), DAY, DatePart.QUARTER)
    ('2026-W14', '2026-Q1')
    """
    if value is None:
        return None
    if part is None:
        return kinds.show(value, DAY if kind.word == "date" else kind)
    return _part(value, part)


def _part(day: date, part: DatePart) -> str:
    match part:
        case DatePart.YEAR:
            return f"{day.year:04}"
        case DatePart.QUARTER:
            return f"{day.year:04}-Q{(day.month + 2) // 3}"
        case DatePart.MONTH:
            return f"{day.year:04}-{day.month:02}"
        case DatePart.WEEK:
            week = day.isocalendar()
            return f"{week.year:04}-W{week.week:02}"
        case DatePart.WEEKDAY:
            return WEEKDAYS[day.weekday()]


def periods(names: Sequence[str], part: DatePart) -> list[str]:
    """Periods in their order, with those between them that have no rows.

    >>> periods(["2026-11", "2027-02"], DatePart.MONTH)
    ['2026-11', '2026-12', '2027-01', '2027-02']
    """
    days = [_first_day(name, part) for name in names]
    first, last = min(days), max(days)
    between = (first + timedelta(days=number) for number in range((last - first).days + 1))
    return list(dict.fromkeys(_part(day, part) for day in between))


def _first_day(name: str, part: DatePart) -> date:
    year, _, rest = name.partition("-")
    match part:
        case DatePart.QUARTER:
            return date(int(year), 3 * int(rest[1:]) - 2, 1)
        case DatePart.MONTH:
            return date(int(year), int(rest), 1)
        case DatePart.WEEK:
            return date.fromisocalendar(int(year), int(rest[1:]), 1)
        case _:
            return date(int(year), 1, 1)


def label_of_answer(given: Any, kind: Kind, part: DatePart | None) -> str | None:
    """What the answer of a database is called in a group.

    >>> label_of_answer(2, DAY, DatePart.WEEKDAY), label_of_answer(12, Kind("decimal", "0.00"), None)
    ('Tuesday', '12.00')
    """
    if given is None:
        return None
    if part is DatePart.WEEKDAY:
        return WEEKDAYS[int(given) - 1]
    if part is DatePart.YEAR:
        return f"{int(given):04}"
    if part is None and kind.is_number:
        return kinds.show(int(given) if kind.word == "whole number" else float(given), kind)
    return str(given)


def place(name: str | None, kind: Kind, part: DatePart | None) -> tuple[int, float, str]:
    """Where a group stands among others: numbers by size, days of the week from Monday, blanks last."""
    if name is None:
        return 2, 0.0, ""
    if part is DatePart.WEEKDAY:
        return 0, float(WEEKDAYS.index(name)), ""
    if part is None and kind.is_number:
        return 0, float(name.replace(",", ".")), ""
    return 1, 0.0, name
