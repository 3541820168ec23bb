"""A table of dates, if it is wanted: one row per date, to which the date columns of all sheets refer."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from typing import TYPE_CHECKING

from hemplit.core.design.calendar import CALENDAR
from hemplit.core.model.design import ColumnPlan, Purpose, TablePlan
from hemplit.core.texts.words import unused

if TYPE_CHECKING:
    from hemplit.core.model.design import Design


def with_dates(design: Design) -> Design:
    """The design with its dates in a table of their own: of one sheet those that are written most alike.

    It belongs to the first sheet with dates; columns of other sheets refer to it by what they say.
    """
    dates = [(table.sheet, column) for table in design.tables for column in table.stored if _is_date(table, column)]
    if not dates:
        return design
    sheet = dates[0][0]
    kind, _ = Counter(column.kind for of, column in dates if of == sheet).most_common(1)[0]
    headers = [str(column.source) for of, column in dates if (of, column.kind) == (sheet, kind)]
    name = unused("dates", design.by_name, "dates")
    date = ColumnPlan("date", kind, tuple(headers), required=True)
    parts = tuple(ColumnPlan(part, part=part, required=True) for part in CALENDAR)
    why = f"the dates of {', '.join(dict.fromkeys(str(column.source) for _, column in dates))}"
    calendar = TablePlan(name, sheet, Purpose.LOOKUP, ("date",), (date, *parts), why=why)

    def referring(table: TablePlan, column: ColumnPlan) -> ColumnPlan:
        if not _is_date(table, column) or (table.sheet == sheet and column.kind != kind):
            return column
        return replace(column, kind=None if table.sheet == sheet else column.kind, to=name)

    made = [replace(one, columns=tuple(referring(one, column) for column in one.columns)) for one in design.tables]
    last = max(at for at, table in enumerate(made) if table.sheet == sheet)
    return replace(design, tables=(*made[: last + 1], calendar, *made[last + 1 :]))


def _is_date(table: TablePlan, column: ColumnPlan) -> bool:
    """Whether a column says a day by itself."""
    plain = (
        column.to is None and len(column.headers) == 1 and (column.unmatched or column.unlike or column.along) is None
    )
    is_date = column.source is not None and column.kind is not None and column.kind.word == "date"
    return plain and is_date and column.store and column.name not in table.key
