"""Columns that are made of others without arithmetic: texts joined ("First Last"), parts of a date, days later.

Checked row by row on the distinct combinations of values; only what holds in every filled row is told.
"""

from __future__ import annotations

from itertools import permutations
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.columns.codes import Grouping, combine, distinct, first_rows
from hemplit.core.design.calendar import PARTS
from hemplit.core.model.arrays import taken
from hemplit.core.model.findings import DATE_PART, DAYS_LATER, JOINED, Computed, Formula
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import TEXT
from hemplit.core.texts.vocabulary import MOMENT
from hemplit.core.texts.words import words

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    import numpy.typing as npt

    from hemplit.core.model.relation import Column

BETWEEN = (" ", ", ", "-", "", " - ", "/", "_", ".")
#: Fewer different results could be met by accident.
FEWEST_VALUES = 5
#: So many values a part of a date can have; the others write words or years, which nothing else is like.
VALUES = {"quarter": 4, "month": 12, "day": 31, "week": 53, "quarter with Q": 4}
#: Where the header names no part of a date, so unlikely must it be that as many dates give its values by accident.
BY_ACCIDENT = 0.001
#: So many rows are tried before all.
SAMPLE = 40
DATES = ("date", "date and time")


def derived(columns: Sequence[Column]) -> tuple[Computed, ...]:
    """The columns that are joined texts, parts of dates or a number of days after a date.

    A result stands to the right of what it is made of as a rule, so the columns are tried from the right.
    """
    found: list[Computed] = []
    told: dict[tuple[str, int], dict[str, str]] = {}

    def parts(column: Column, date: int) -> dict[str, str]:
        if (column.name, date) not in told:
            moment = column.values.slice(date, 1)
            told[column.name, date] = {name: part(moment)[0].as_py() for name, part in PARTS.items()}
        return told[column.name, date]

    for result in reversed(columns):
        others = [column for column in columns if column is not result]
        formula = None
        if len(result.values) >= FEWEST_VALUES and result.kind == TEXT:
            formula = _joined(result, others)
        if formula is None and result.kind.word in ("text", "whole number") and len(result.values) > 1:
            formula = _part(result, [column for column in others if column.kind.word in DATES], parts)
        if formula is None and result.kind.word in DATES and len(result.values) >= FEWEST_VALUES:
            formula = _later(result, [column for column in others if column.kind.word == result.kind.word], found)
        if formula is not None:
            found.append(Computed(result.name, formula, result.filled))
    return tuple(reversed(found))


def _texts(column: Column, rows: npt.NDArray[np.int64]) -> pa.Array:
    return pc.cast(taken(column.values, column.codes[rows]), pa.string())


def _joined(result: Column, others: Sequence[Column]) -> Formula | None:
    filled = np.flatnonzero(result.codes != EMPTY)
    some = filled[:SAMPLE]
    wanted = _texts(result, some).to_pylist()
    parts = {}
    for column in others:
        if column.kind != TEXT or column.codes[some[0]] == EMPTY:
            continue
        if column.values[int(column.codes[some[0]])].as_py() not in wanted[0]:  # which most columns fail at once
            continue
        texts = _texts(column, some).to_pylist()
        if all(text and text in whole for text, whole in zip(texts, wanted, strict=True)):
            parts[column.name] = column
    for first, second in permutations(parts.values(), 2):
        for between in BETWEEN:
            if all(_holds_joined(result, first, second, between, rows) for rows in (some, filled)):
                return Formula(JOINED, (first.name, second.name), detail=between)
    return None


def _holds_joined(result: Column, first: Column, second: Column, between: str, rows: npt.NDArray[np.int64]) -> bool:
    pairs = combine(_filled(first, rows), _filled(second, rows))
    distinct = rows[first_rows(combine(pairs, _filled(result, rows)))]
    joined = pc.binary_join_element_wise(_texts(first, distinct), _texts(second, distinct), between)
    return bool(pc.all(pc.fill_null(pc.equal(joined, _texts(result, distinct)), False)).as_py())


def _filled(column: Column, rows: npt.NDArray[np.int64]) -> Grouping:
    codes = column.codes[rows]
    return Grouping(np.where(codes == EMPTY, np.int32(len(column.values)), codes), len(column.values) + 1)


def _part(result: Column, dates: Sequence[Column], parts: Callable[[Column, int], dict[str, str]]) -> Formula | None:
    for column in dates:
        rows = np.flatnonzero((result.codes != EMPTY) | (column.codes != EMPTY))
        if not len(rows) or EMPTY in (result.codes[rows[0]], column.codes[rows[0]]):
            continue
        said, date = int(result.codes[rows[0]]), int(column.codes[rows[0]])
        first = str(result.values[said].as_py())
        few = [name for name, text in parts(column, date).items() if text == first]  # which most fail at once
        few = [name for name in few if _is_part(result, column, PARTS[name], rows[:SAMPLE])]
        distinct = rows[first_rows_of(column, result, rows)] if few else rows
        for name in few:
            if _is_no_accident(result, name, len(distinct)) and _is_part(result, column, PARTS[name], distinct):
                return Formula(DATE_PART, (column.name,), detail=name)
    return None


def _is_no_accident(result: Column, part: str, dates: int) -> bool:
    """Whether so many different dates show that a column is that part of them.

    Two haul-outs in March and June say nothing of a column that holds 1 and 2, nor do stages 1 to 5 from the first to
    the fifth of a month.
    """
    said = not MOMENT.isdisjoint(words(result.name))
    telling = dates - _counted_on(result)
    return dates > 1 and (said or part not in VALUES or VALUES[part] ** -telling <= BY_ACCIDENT)


def _counted_on(result: Column) -> int:
    """How many of the values are one more than another: stages that are counted follow each other as days do."""
    if result.kind.word != "whole number":
        return 0
    numbers = distinct(result.values.to_numpy(zero_copy_only=False).astype(np.int64))
    return int(np.count_nonzero(np.diff(numbers) == 1))


def _is_part(result: Column, dates: Column, part: Callable[[pa.Array], pa.Array], rows: npt.NDArray[np.int64]) -> bool:
    moments = taken(dates.values, dates.codes[rows])
    return bool(pc.all(pc.fill_null(pc.equal(part(moments), _texts(result, rows)), False)).as_py())


def first_rows_of(one: Column, other: Column, rows: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
    """The places in ``rows`` where a combination of the two columns stands for the first time."""
    first = first_rows(combine(_filled(one, rows), _filled(other, rows)))
    return first[first >= 0]


def _later(result: Column, dates: Sequence[Column], found: Sequence[Computed]) -> Formula | None:
    taken = {operand for one in found for operand in one.formula.operands if one.name != result.name}
    for column in dates:
        rows = np.flatnonzero((result.codes != EMPTY) | (column.codes != EMPTY))
        if result.name in taken or len(_days_between(column, result, rows[:SAMPLE])) != 1:
            continue
        days = _days_between(column, result, rows[first_rows_of(column, result, rows)])
        if len(days) == 1 and days[0]:
            return Formula(DAYS_LATER, (column.name,), detail=str(int(days[0])))
    return None


def _days_between(one: Column, other: Column, rows: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
    """The different numbers of days from the one to the other in these rows; none if one of them is blank there."""
    if any((column.codes[rows] == EMPTY).any() for column in (one, other)):
        return np.zeros(0, dtype=np.int64)
    day = np.dtype("datetime64[D]")
    starts, ends = (
        column.values.to_numpy(zero_copy_only=False).astype(day)[column.codes[rows]] for column in (one, other)
    )
    return distinct((ends - starts).astype(np.int64))
