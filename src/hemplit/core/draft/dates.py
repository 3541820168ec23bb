"""A table of dates, if it is wanted: one row per date, to which the date columns of all sheets refer."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from hemplit.core.design.calendar import CALENDAR
from hemplit.core.draft.listed import is_plain
from hemplit.core.model.design import ColumnPlan, Purpose, TablePlan
from hemplit.core.texts.words import unused
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from hemplit.core.model.design import Design


def with_dates(design: Design) -> Design:
    """The design with its dates in a table of their own, which all sheets fill: of each those that it writes alike."""
    dates = [(table.sheet, column) for table in design.tables for column in table.stored if _is_date(table, column)]
    if not dates:
        return design
    forms = {
        sheet: Counter(column.kind for of, column in dates if of == sheet).most_common(1)[0][0] for sheet, _ in dates
    }
    headers = {
        sheet: tuple(str(column.source) for of, column in dates if (of, column.kind) == (sheet, form))
        for sheet, form in forms.items()
    }
    first, *others = headers
    name = unused("dates", design.by_name, "dates")
    elsewhere = tuple((sheet, headers[sheet]) for sheet in others)
    date = ColumnPlan("date", forms[first], headers[first], required=True, elsewhere=elsewhere)
    parts = tuple(ColumnPlan(part, part=part, required=True) for part in CALENDAR)
    why = f"the dates of {', '.join(dict.fromkeys(str(column.source) for _, column in dates))}"
    calendar = TablePlan(name, first, Purpose.LOOKUP, ("date",), (date, *parts), why=why)

    def referring(table: TablePlan, column: ColumnPlan) -> ColumnPlan:
        if not _is_date(table, column) or column.kind != forms[table.sheet]:
            return column
        # Another sheet may write its dates in a form of its own.
        return replace(column, kind=None if column.kind == forms[first] else column.kind, to=name)

    made = [replace(one, columns=tuple(referring(one, column) for column in one.columns)) for one in design.tables]
    last = max(at for at, table in enumerate(made) if table.sheet == first)
    return replace(design, tables=(*made[: last + 1], calendar, *made[last + 1 :]))


def _is_date(table: TablePlan, column: ColumnPlan) -> bool:
    """Whether a column says a day by itself."""
    plain = is_plain(column) and (column.unmatched or column.unlike or column.along) is None
    is_date = column.kind is not None and column.kind.word == "date"
    return plain and is_date and column.name not in table.key
