"""A part of a tally → the statement that answers it, along the references as a view goes."""

from __future__ import annotations

from datetime import date, datetime
from typing import TYPE_CHECKING, Any

import pyarrow as pa
import sqlalchemy as sa

from hemplit.core import kinds
from hemplit.core.model.tally import Aggregate, DatePart, Sign
from hemplit.core.tally.labels import DAY, NUMBERS
from hemplit.targets.sql.names import labels_of
from hemplit.targets.sql.views import Query, part_of_date

if TYPE_CHECKING:
    from collections.abc import Callable

    from hemplit.core.model.relation import Kind
    from hemplit.core.model.tables import Tables
    from hemplit.core.model.tally import Condition, Grouped, Measure, Part
    from hemplit.targets.sql.dialect import Dialect

MONTH = "year and month"


def select_tally(schema: sa.MetaData, tables: Tables, part: Part, dialect: Dialect, *, plain: bool = False) -> str:
    """The query for one part, a row for each group: its columns, and of each measure what is asked.

    Where an average is asked it gives sum and number, out of which averages of several groups can be made; a ``plain``
    one gives what a person reads.
    """
    one = _Tally(schema, tables, part, dialect)
    groups = [(grouped.title, one.group(grouped)) for grouped in part.by]
    told = [*groups, *(told for measure in part.measures for told in one.told(measure, plain=plain))]
    labels = labels_of((title for title, _ in told), dialect)
    shown = [column.label(labels[title]) for title, column in told]
    lines = ["SELECT", ",\n".join(f"  {one.written(column)}" for column in shown), *_joined(one.query.joined, dialect)]
    if part.where:
        lines.append("WHERE " + "\n  AND ".join(f"({one.wanted(condition)})" for condition in part.where))
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


def _joined(clause: sa.FromClause, dialect: Dialect) -> list[str]:
    """The tables, a line for each, in the order in which they are joined."""
    if isinstance(clause, sa.Join):
        on = dialect.said(clause.onclause) if clause.onclause is not None else "true"
        return [*_joined(clause.left, dialect), f"  LEFT JOIN {_table(clause.right, dialect)} ON {on}"]
    return [f"FROM {_table(clause, dialect)}"]


def _table(clause: sa.FromClause, dialect: Dialect) -> str:
    assert isinstance(clause, sa.Alias) and isinstance(clause.element, sa.Table)
    name, alias = clause.element.name, str(clause.name)
    return dialect.quote(name) if name == alias else f"{dialect.quote(name)} AS {dialect.quote(alias)}"


class _Tally:
    """The expressions of one part."""

    def __init__(self, schema: sa.MetaData, tables: Tables, part: Part, dialect: Dialect) -> None:
        self.dialect = dialect
        self.query = Query(schema, tables, part.view, dialect)
        self.kinds = {column.header: column.kind for column in part.view.columns}
        self.bare = dialect.said(sa.select(sa.literal_column("1")).select_from(self.query.joined))

    def written(self, column: sa.ColumnElement[Any]) -> str:
        """A column as it stands among these tables, to which queries inside of it refer."""
        whole = self.dialect.said(sa.select(column).select_from(self.query.joined))
        return whole.removeprefix("SELECT ").removesuffix(self.bare.removeprefix("SELECT 1")).strip()

    def wanted(self, condition: Condition) -> str:
        """A condition as it stands among these tables."""
        body: sa.Select[Any] = sa.select(sa.literal_column("1")).select_from(self.query.joined)
        body = body.where(self.holds(condition))
        return self.dialect.said(body).removeprefix(self.bare).strip().removeprefix("WHERE").strip()

    def group(self, grouped: Grouped) -> sa.ColumnElement[Any]:
        """What tells rows apart, as it is shown; days in an order that sorts."""
        column, kind = self.query.value(grouped.header), self.kinds[grouped.header]
        if grouped.part is None:
            return self.dialect.written(DAY if kind.word == "date" else kind, column)
        year = sa.extract("year", column)
        parts: dict[DatePart, Callable[[], sa.ColumnElement[Any]]] = {
            DatePart.YEAR: lambda: year,
            DatePart.QUARTER: lambda: (
                sa.cast(year, sa.String(4)).concat("-Q").concat(sa.cast(part_of_date("quarter", column), sa.String(1)))
            ),
            DatePart.MONTH: lambda: part_of_date(MONTH, column),
            DatePart.WEEK: lambda: self.dialect.week(column),
            DatePart.WEEKDAY: lambda: self.dialect.weekday(column),
        }
        return parts[grouped.part]()

    def told(self, measure: Measure, *, plain: bool) -> list[tuple[str, sa.ColumnElement[Any]]]:
        """The columns that answer for a measure, with what they are called."""
        title, aggregate = measure.title, measure.aggregate
        if measure.header is None:
            return [(title, sa.func.count())]
        value = self.query.value(measure.header)
        if aggregate is Aggregate.AVERAGE and not plain:
            return [(f"sum, {title}", sa.func.sum(value)), (f"number, {title}", sa.func.count(value))]
        return [(title, FUNCTIONS[aggregate](value))]

    def holds(self, condition: Condition) -> sa.ColumnElement[bool]:
        """Whether a row is as a condition wants it."""
        column, kind = self.query.value(condition.header), self.kinds[condition.header]
        if condition.sign is Sign.BLANK:
            return column.is_(None)
        if condition.sign is Sign.FILLED:
            return column.is_not(None)
        compared = [SIGNS[condition.sign](column, self._literal(text, kind)) for text in condition.values]
        if condition.sign is Sign.IS_NOT:
            return sa.or_(column.is_(None), sa.and_(*compared))
        return sa.or_(*compared)

    def _literal(self, text: str, kind: Kind) -> sa.ColumnElement[Any]:
        value = kinds.parse(pa.array([text]), kind)[0].as_py()
        if kind.word == "yes/no":
            return sa.true() if value else sa.false()
        if isinstance(value, date | datetime):
            return sa.literal(str(value), sa.Text())
        return sa.literal(value if kind.word in NUMBERS else str(value))


FUNCTIONS: dict[Aggregate, Callable[[sa.ColumnElement[Any]], sa.ColumnElement[Any]]] = {
    Aggregate.SUM: sa.func.sum,
    Aggregate.NUMBER: sa.func.count,
    Aggregate.AVERAGE: sa.func.avg,
    Aggregate.SMALLEST: sa.func.min,
    Aggregate.LARGEST: sa.func.max,
}
SIGNS: dict[Sign, Callable[[sa.ColumnElement[Any], sa.ColumnElement[Any]], sa.ColumnElement[bool]]] = {
    Sign.IS: lambda one, two: one == two,
    Sign.IS_NOT: lambda one, two: one != two,
    Sign.LESS: lambda one, two: one < two,
    Sign.AT_MOST: lambda one, two: one <= two,
    Sign.MORE: lambda one, two: one > two,
    Sign.AT_LEAST: lambda one, two: one >= two,
}
