"""Dates that are written in several ways, or in a way that sorts badly, are written as 2026-04-30.

Whether the day or the month comes first is decided by evidence for the whole column: a number above twelve is a day.
Where a column shows nothing, the other dates of the sheet decide, if all that show it have the same order. If nothing
decides it, or the column contradicts itself, it stays text, and that is said.

A year of two digits is the one within a hundred years from the step's ``years_from`` on: of a column with years such as
63 in it, from 1930, as spreadsheets read them; but where that tears apart what belongs together (24, 25, and 31 for a
date that is to come), from 1970.
"""

from __future__ import annotations

import re
from datetime import date
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa

from hemplit.core import kinds
from hemplit.core.kinds.calendar import DATE, MOMENT
from hemplit.core.model.acts import Act
from hemplit.core.model.relation import Doubt, Step
from hemplit.core.shape.looks import MONTHS, all_but, is_number
from hemplit.core.shape.working import Working, first_places, rewritten, with_column
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.shape.working import WorkingColumn

ACT = Act.READ_DATES
SETTINGS = {"column": "column", "order": "order", "years_from": "number?", "misfits": "misfits?"}
DAY_FIRST, MONTH_FIRST = ORDERS = "day first", "month first"
MONTHS_OF_A_YEAR = 12
AS_TEXT = "left as text; write them in the sheet as 2026-04-30"
TYPOS = "correct them in the sheet if they are typos"
TIME = r"(?:[ T]+(?P<time>\d{1,2}:\d{2}(?::\d{2})?))?"
YEAR_FIRST = re.compile(rf"(?P<year>\d{{4}})[-/.](?P<month>\d{{1,2}})[-/.](?P<day>\d{{1,2}}){TIME}")
NUMBERS = re.compile(rf"(?P<one>\d{{1,2}})(?P<mark>[-/.])(?P<two>\d{{1,2}})(?P=mark)(?P<year>\d{{4}}|\d{{2}}){TIME}")
DAY_NAME = r"(?:[A-Za-z]{2,9}\.?,? +)?"
NAMED = re.compile(
    rf"{DAY_NAME}(?P<day>\d{{1,2}})(?:st|nd|rd|th)?[ .-]*(?P<name>[^\W\d_]{{3,10}})\.?[ ,.-]*"
    rf"(?P<year>\d{{4}}|\d{{2}}){TIME}"
)
NAME_FIRST = re.compile(
    rf"{DAY_NAME}(?P<name>[^\W\d_]{{3,10}})\.?[ -]*(?P<day>\d{{1,2}})(?:st|nd|rd|th)?[ ,-]+(?P<year>\d{{4}}){TIME}"
)
#: The first year that two digits can mean: as spreadsheets read them, and where a step does not say it.
EARLY, LATE = 1930, 1970
#: If this share of the first texts are dates, the column is looked at whole.
SHARE = 0.5


@dataclass(frozen=True)
class Parsed:
    """A date as written: the digits of the year, the two others, and whether either of these could be the day."""

    year: str
    day: int
    month: int
    open: bool
    time: str
    dotted: bool = False


def parse(text: str) -> Parsed | None:
    """The parts of a date in any usual form; None for another text."""
    text = text.strip()
    found = YEAR_FIRST.fullmatch(text)
    if found:
        return Parsed(found["year"], int(found["day"]), int(found["month"]), False, found["time"] or "")
    found = NUMBERS.fullmatch(text)
    if found:
        one, two = int(found["one"]), int(found["two"])
        return Parsed(found["year"], one, two, True, found["time"] or "", found["mark"] == ".")
    found = NAMED.fullmatch(text) or NAME_FIRST.fullmatch(text)
    month = MONTHS.get(found["name"].lower()) if found else None
    if found and month:
        return Parsed(found["year"], int(found["day"]), month, False, found["time"] or "")
    return None


def _full(digits: str, since: int) -> int:
    """The year that digits mean; where they are two, ``since`` is the first that it can be."""
    return int(digits) if len(digits) == 4 else since + (int(digits) - since) % 100


def written(parsed: Parsed | None, order: str, since: int = LATE) -> str | None:
    """The date in the ISO form; None if there is no such day.

    >>> [written(parse(text), DAY_FIRST) for text in ("3/4/2026", "Apr 3, 2026", "31/2/2026")]
    ['2026-04-03', '2026-04-03', None]
    >>> written(parse("3/4/63"), DAY_FIRST, EARLY)
    '1963-04-03'
    """
    if parsed is None:
        return None
    day, month = (parsed.month, parsed.day) if parsed.open and order == MONTH_FIRST else (parsed.day, parsed.month)
    try:
        plain = date(_full(parsed.year, since), month, day).isoformat()
    except ValueError:
        return None
    if not parsed.time:
        return plain
    parts = [part.zfill(2) for part in parsed.time.split(":")]
    return f"{plain} {':'.join([*parts, '00'][:3])}"


def find(working: Working) -> Iterator[Step | Doubt]:
    """A step for each column of dates in other forms than one that is read as it stands."""
    dated = [column for column in working.columns if _holds_dates(column)]
    unread = [one for one in dated if DATE.fit(one.cells.texts) is None and MOMENT.fit(one.cells.texts) is None]
    shown = {order for column in dated for order in _shown(column)} if unread else set()
    usual = shown.pop() if len(shown) == 1 else ""
    for column in unread:
        yield from _look_at(working, column, usual)


def _holds_dates(column: WorkingColumn) -> bool:
    """Whether many of the first texts of a column are dates in some form, and are no plain numbers."""
    probe = [str(text) for text in column.cells.texts.slice(0, kinds.PROBE).to_pylist()]
    if not probe or not all_but(int((1 - SHARE) * len(probe)), probe, parse):
        return False
    return not all(
        is_number(text) and "/" not in text and text.count("-") < 2 and text.count(".") < 2 for text in probe
    )


def _shown(column: WorkingColumn) -> Iterator[str]:
    """The orders that the dates of a column show by a number above twelve."""
    for text in column.cells.texts.to_pylist():
        told = parse(str(text))
        if told is not None and told.open and not told.dotted and max(told.day, told.month) > MONTHS_OF_A_YEAR:
            yield DAY_FIRST if told.day > MONTHS_OF_A_YEAR else MONTH_FIRST


def _look_at(working: Working, column: WorkingColumn, usual: str) -> Iterator[Step | Doubt]:
    """A step or a doubt for one column; ``usual`` is the order that the dates of the sheet show, if they show one."""
    texts = [str(text) for text in column.cells.texts.to_pylist()]
    parsed = [parse(text) for text in texts]
    told = {code: one for code, one in enumerate(parsed) if one is not None}
    either = [code for code, one in told.items() if one.open]
    timed = [code for code, one in told.items() if one.time]
    misread = [[code for code, one in enumerate(parsed) if written(one, order) is None] for order in ORDERS]
    orders = [order for order, odd in zip(ORDERS, misread, strict=True) if not odd]
    by_others = ""
    if len(orders) == 2 and all(told[code].dotted or told[code].day == told[code].month for code in either):
        orders = [DAY_FIRST]
    elif len(orders) == 2 and usual:
        orders, by_others = [usual], f", as other columns have the {usual}"
    if len(orders) == 1 and len(timed) in (0, len(texts)):
        since = _since([one.year for one in told.values()])
        example = next(text for text in texts if written(parse(text), orders[0]) != text)
        why = f"'{example}' is {written(parse(example), orders[0], since)}{by_others}"
        years = (("years_from", since),) if since != LATE else ()
        yield Step(ACT, (("column", column.name), ("order", orders[0]), *years), why)
    elif len(orders) == 1:
        yield _doubt(working, column, "holds dates of which some have a time", AS_TEXT, timed)
    elif orders:
        yield _doubt(working, column, "holds dates that could be day first or month first", AS_TEXT, either)
    elif misread[0] == misread[1] or len(misread[0]) != len(misread[1]):
        odd = min(misread, key=len)
        if kinds.are_few(len(odd), len(texts)):
            yield _doubt(working, column, "is a date except in some cells, so it stays text", TYPOS, odd)
    elif len(told) == len(texts):
        yield _doubt(
            working, column, "holds dates of which some have the day first and some the month", AS_TEXT, either
        )


def _doubt(working: Working, column: WorkingColumn, what: str, hint: str, odd: list[int]) -> Doubt:
    """What is said of a column, and of its texts that are ``odd``, by code."""
    places = working.places(column, first_places(column)[odd])
    return Doubt(f"'{column.name}' {what}", places, hint, len(odd))


def _since(years: list[str]) -> int:
    """The first year that two digits of these years can mean.

    >>> _since(["63", "71", "04"]), _since(["24", "25", "31"]), _since(["24", "25"])
    (1930, 1970, 1970)
    """
    if not any(len(digits) == 2 and int(digits) >= EARLY % 100 for digits in years):
        return LATE
    early, late = (np.ptp([_full(digits, since) for digits in years]) for since in (EARLY, LATE))
    return LATE if 2 * late < early else EARLY


def misfits(working: Working, step: Step) -> Iterator[tuple[WorkingColumn, int]]:
    """The column and each of its texts, by code, that are no dates in this order."""
    column = working.named(step.text("column"))
    for code, text in enumerate(column.cells.texts.to_pylist() if column else ()):
        if column and written(parse(str(text)), step.text("order")) is None:
            yield column, code


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet with dates in the ISO form; what does not read stays."""
    column = working.named(step.text("column"))
    if column is None:
        return working
    order, since = step.text("order"), step.number("years_from", LATE)
    texts = [str(text) for text in column.cells.texts.to_pylist()]
    plain = pa.array([written(parse(text), order, since) or text for text in texts], pa.string())
    return with_column(working, column, rewritten(column, plain, number))
