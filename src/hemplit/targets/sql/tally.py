"""A part of a tally → the statement that answers it, along the references as a view goes."""

from __future__ import annotations

from typing import TYPE_CHECKING

import pyarrow as pa

from hemplit.core import kinds
from hemplit.core.model.tally import Aggregate, DatePart, Sign
from hemplit.core.tally.labels import DAY
from hemplit.targets.sql.names import labels_of
from hemplit.targets.sql.terms import BLANK, FILLED, Term, all_of, any_of, call
from hemplit.targets.sql.views import Query, part_of_date

if TYPE_CHECKING:
    from collections.abc import Callable

    from hemplit.core.model.relation import Kind
    from hemplit.core.model.tables import Tables
    from hemplit.core.model.tally import Condition, Grouped, Measure, Part
    from hemplit.targets.sql.dialect import Dialect
    from hemplit.targets.sql.views import Joined

MONTH = "year and month"


def select_tally(tables: Tables, part: Part, dialect: Dialect, *, plain: bool = False) -> str:
    """The query for one part, a row for each group: its columns, and of each measure what is asked.

    Where an average is asked it gives sum and number, out of which averages of several groups can be made; a ``plain``
    one gives what a person reads.
    """
    one = _Tally(tables, part, dialect)
    groups = [(grouped.title, one.group(grouped)) for grouped in part.by]
    told = [*groups, *(told for measure in part.measures for told in one.told(measure, plain=plain))]
    labels = labels_of((title for title, _ in told), dialect)
    shown = ",\n".join(f"  {column.text} AS {dialect.quote(labels[title])}" for title, column in told)
    lines = ["SELECT", shown, *(_line(joined, dialect) for joined in one.query.joined)]
    if part.where:
        lines.append("WHERE " + "\n  AND ".join(f"({one.holds(condition).text})" for condition in part.where))
    if groups:
        numbers = ", ".join(str(place) for place in range(1, len(groups) + 1))
        lines += [f"GROUP BY {numbers}", f"ORDER BY {numbers}"]
    return "\n".join(lines)


def explained(part: Part, statement: str) -> str:
    """The statement with what it does in words before it."""
    measures = ", ".join(measure.title for measure in part.measures)
    by = f" by {', '.join(grouped.title for grouped in part.by)}" if part.by else ""
    lines = [f"{measures}{by}: each row of {part.view.base} counts once."]
    ways = {column.path[:length] for column in part.view.columns for length in range(1, len(column.path) + 1)}
    if ways:
        lines.append("Each join follows a reference to the one row it names; LEFT keeps rows that refer to nothing.")
    if any(grouped.part is DatePart.WEEKDAY for grouped in part.by):
        lines.append("Days of the week are numbered from 1 for Monday.")
    return "".join(f"-- {' '.join(line.split())}\n" for line in lines) + f"{statement};\n"


def _line(joined: Joined, dialect: Dialect) -> str:
    """The line of a table."""
    alias = "" if joined.table == joined.alias else f" AS {dialect.quote(joined.alias)}"
    named = f"{dialect.quote(joined.table)}{alias}"
    return f"FROM {named}" if joined.on is None else f"  LEFT JOIN {named} ON {joined.on.text}"


class _Tally:
    """The expressions of one part."""

    def __init__(self, tables: Tables, part: Part, dialect: Dialect) -> None:
        self.dialect = dialect
        self.query = Query(tables, part.view, dialect)
        self.kinds = {column.header: column.kind for column in part.view.columns}

    def group(self, grouped: Grouped) -> Term:
        """What tells rows apart, as it is shown; days in an order that sorts."""
        column, kind = self.query.value(grouped.header), self.kinds[grouped.header]
        if grouped.part is None:
            return self.dialect.written(DAY if kind.word == "date" else kind, column)
        year = self.dialect.part("year", column)
        parts: dict[DatePart, Callable[[], Term]] = {
            DatePart.YEAR: lambda: year,
            DatePart.QUARTER: lambda: self.dialect.joined(
                self.dialect.as_text(year, 4),
                self.dialect.value("-Q"),
                self.dialect.as_text(part_of_date("quarter", column, self.dialect), 1),
            ),
            DatePart.MONTH: lambda: part_of_date(MONTH, column, self.dialect),
            DatePart.WEEK: lambda: self.dialect.week(column),
            DatePart.WEEKDAY: lambda: self.dialect.weekday(column),
        }
        return parts[grouped.part]()

    def told(self, measure: Measure, *, plain: bool) -> list[tuple[str, Term]]:
        """The columns that answer for a measure, with what they are called."""
        title, aggregate = measure.title, measure.aggregate
        if measure.header is None:
            return [(title, call("count", Term("*")))]
        value = self.query.value(measure.header)
        if aggregate is Aggregate.AVERAGE and not plain:
            return [(f"sum, {title}", call("sum", value)), (f"number, {title}", call("count", value))]
        return [(title, call(FUNCTIONS[aggregate], value))]

    def holds(self, condition: Condition) -> Term:
        """Whether a row is as a condition wants it."""
        column, kind = self.query.value(condition.header), self.kinds[condition.header]
        if condition.sign is Sign.BLANK:
            return column.is_(BLANK)
        if condition.sign is Sign.FILLED:
            return column.is_(FILLED)
        compared = [column.compared(SIGNS[condition.sign], self._literal(text, kind)) for text in condition.values]
        if condition.sign is Sign.IS_NOT:
            return any_of([column.is_(BLANK), all_of(compared)])
        return any_of(compared)

    def _literal(self, text: str, kind: Kind) -> Term:
        value = kinds.parse(pa.array([text]), kind)[0].as_py()
        return self.dialect.value(value if kind.word == "yes/no" or kind.is_number else str(value))


FUNCTIONS = {
    Aggregate.SUM: "sum",
    Aggregate.NUMBER: "count",
    Aggregate.AVERAGE: "avg",
    Aggregate.SMALLEST: "min",
    Aggregate.LARGEST: "max",
}
SIGNS = {
    Sign.IS: "=",
    Sign.IS_NOT: "!=",
    Sign.LESS: "<",
    Sign.AT_MOST: "<=",
    Sign.MORE: ">",
    Sign.AT_LEAST: ">=",
}
