"""A table of dates, if it is wanted: one row per date, to which every date column points under its own name."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from typing import TYPE_CHECKING

from hemplit.core.design.calendar import CALENDAR
from hemplit.core.model.design import ColumnPlan, Purpose, TablePlan
from hemplit.core.texts.words import unused

if TYPE_CHECKING:
    from collections.abc import Sequence


def with_dates(tables: Sequence[TablePlan], sheet: str, taken: set[str]) -> list[TablePlan]:
    """The tables of a sheet with their dates in a table of its own; those written most alike, if they are several."""
    dates = [
        column
        for table in tables
        for column in table.stored
        if column.source and column.to is None and column.name not in table.key
        if column.kind and column.kind.word == "date" and not column.roles
    ]
    if not dates:
        return list(tables)
    kind, _ = Counter(column.kind for column in dates).most_common(1)[0]
    headers = [str(column.source) for column in dates if column.kind == kind]
    name = unused("dates", taken, "dates")
    taken.add(name)
    date = ColumnPlan("date", kind, source=headers[0], required=True, roles=tuple(headers[1:]))
    parts = tuple(ColumnPlan(part, part=part, required=True) for part in CALENDAR)
    why = f"the dates of {', '.join(headers)}"
    made = []
    for table in tables:
        columns = tuple(
            replace(column, kind=None, to=name) if column.source in headers and column.to is None else column
            for column in table.columns
        )
        made.append(replace(table, columns=columns))
    return [*made, TablePlan(name, sheet, Purpose.LOOKUP, ("date",), (date, *parts), why=why)]
