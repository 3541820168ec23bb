"""What a date tells: the parts of it that a table of dates holds, and those that stand in columns beside it."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.model.relation import TEXT, Kind

if TYPE_CHECKING:
    from collections.abc import Callable

    Told = Callable[[pa.Array], pa.Array]

#: The parts that are whole numbers.
NUMBERS: dict[str, Told] = {
    "year": pc.year,
    "month": pc.month,
    "day": pc.day,
    "quarter": pc.quarter,
    "week": pc.iso_week,
}
MONTHS = "January February March April May June July August September October November December".split()
WHOLE = Kind("whole number")


def _written(form: str, dates: pa.Array) -> pa.Array:
    return pc.strftime(dates, format=form, locale="C")


def _as_text(part: str, dates: pa.Array) -> pa.Array:
    return pc.cast(NUMBERS[part](dates), pa.string())


#: The parts of a date, each as texts.
PARTS: dict[str, Told] = {part: partial(_as_text, part) for part in NUMBERS} | {
    "quarter with Q": lambda dates: pc.replace_substring_regex(_as_text("quarter", dates), "^", "Q"),
    "year and month": partial(_written, "%Y-%m"),
    "name of the month": partial(_written, "%B"),
    "short name of the month": partial(_written, "%b"),
    "name of the weekday": partial(_written, "%A"),
    "short name of the weekday": partial(_written, "%a"),
}
#: What a table of dates holds of each.
CALENDAR: dict[str, tuple[Kind, Told]] = {
    **{part: (WHOLE, NUMBERS[part]) for part in ("year", "quarter", "month", "week")},
    "weekday": (TEXT, PARTS["name of the weekday"]),
}
