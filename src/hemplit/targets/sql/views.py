"""Views → the statements that give each sheet back under its own headers, out of the tables joined again."""

from __future__ import annotations

import operator
from functools import reduce
from typing import TYPE_CHECKING, Any

import sqlalchemy as sa

from hemplit.core.design.arithmetic import HALF_UP
from hemplit.core.design.calendar import MONTHS
from hemplit.core.model.findings import BAND, DATE_PART, JOINED
from hemplit.targets.sql.names import labels_of

if TYPE_CHECKING:
    from hemplit.core.model.findings import Formula
    from hemplit.core.model.tables import Reference, Tables, View, ViewColumn
    from hemplit.targets.sql.dialect import Dialect

SIGNS = {"sum": operator.add, "difference": operator.sub}


def create_view(schema: sa.MetaData, tables: Tables, view: View, dialect: Dialect) -> str:
    """The statement for the view that gives a sheet back under its headers."""
    return f"CREATE VIEW {dialect.quote(view.name)} AS\n{select_view(schema, tables, view, dialect)}"


def select_view(schema: sa.MetaData, tables: Tables, view: View, dialect: Dialect, where: str = "") -> str:
    """The query of a view, of some rows of its base table if a condition says which."""
    return Query(schema, tables, view, dialect).text(where)


class Query:
    """The query of one view: its tables, each under an alias for each way to it."""

    def __init__(self, schema: sa.MetaData, tables: Tables, view: View, dialect: Dialect) -> None:
        self.schema, self.tables, self.view, self.dialect = schema, tables, view, dialect
        self.joined: sa.FromClause = schema.tables[view.base].alias(view.base)
        self.reached: dict[tuple[Reference, ...], sa.FromClause] = {(): self.joined}
        for column in view.columns:
            for way in (column.path, *(path for path, _ in column.otherwise)):
                self._reach(way)
        self.plain: dict[str, sa.ColumnElement[Any]] = {
            column.header: self.reached[column.path].c[column.column]
            for column in view.columns
            if column.column is not None
        }
        for column in view.columns:
            if column.otherwise:
                others = [self.reached[path].c[name] for path, name in column.otherwise]
                self.plain[column.header] = sa.func.coalesce(self.plain[column.header], *others)
        self.taken = {*schema.tables, *(_name(clause) for clause in self.reached.values())}

    def text(self, where: str) -> str:
        columns = [column for column in self.view.columns if not column.hidden]
        labels = labels_of((column.header for column in columns), self.dialect)
        shown = [self._shown(column).label(labels[column.header]) for column in columns]
        body = sa.select(*shown).select_from(self.joined)
        return self.dialect.said(body.where(sa.literal_column(where)) if where else body)

    def value(self, header: str) -> sa.ColumnElement[Any]:
        """What stands under a header, stored or calculated, as it is stored."""
        return self._formula(header)

    def _reach(self, way: tuple[Reference, ...]) -> None:
        for length in range(1, len(way) + 1):
            path = way[:length]
            if path not in self.reached:
                before = self.reached[path[:-1]]
                self.reached[path] = self.schema.tables[path[-1].table].alias(self._alias(path[-1].table))
                self.joined = self.joined.outerjoin(self.reached[path], _on(path[-1], before, self.reached[path]))

    def _alias(self, table: str) -> str:
        taken = {_name(clause).lower() for clause in self.reached.values()}
        name, count = table, 1
        while name.lower() in taken:
            count += 1
            name = self.dialect.fit(f"{table}_{count}")
        return name

    def _shown(self, column: ViewColumn) -> sa.ColumnElement[Any]:
        if column.gathered is not None:
            return self._gathered(column)
        if column.counted is not None:
            return self._counted(column.counted)
        if column.formula is None and self.view.sheet:
            return self.dialect.written(column.kind, self.plain[column.header])
        return self._formula(column.header)

    def _counted(self, pointing: Reference) -> sa.ColumnElement[Any]:
        """How many rows of a table refer to a row of the base."""
        other = self.schema.tables[pointing.table].alias(_unused("counted", self.taken))
        points = _on(pointing, self.reached[()], other)
        count: sa.Select[Any] = sa.select(sa.literal_column("count(*)")).select_from(other).where(points)
        return count.correlate_except(other).scalar_subquery()

    def _gathered(self, column: ViewColumn) -> sa.ColumnElement[Any]:
        """The value or values that belong to a row, out of the view of another relation.

        Written out, as an ordered list inside a list that belongs to a row of the outermost query has no other way.
        """
        given, quote = column.gathered, self.dialect.quote
        assert given is not None
        other = next(view for view in self.tables.views if view.name == given.view)
        labels, alias = labels_of((one.header for one in other.columns), self.dialect), _unused("listed", self.taken)
        named = {header: f"{alias}.{quote(labels[header])}" for header in (given.column, given.order, *given.by)}
        kinds = {one.header: one.kind for one in self.view.columns}
        own = {name: self.dialect.said(self.dialect.written(kinds[name], self.plain[name])) for name in given.by}
        where = " AND ".join(f"{named[name]} = {own[name]}" for name in given.by)
        source = f"FROM {quote(given.view)} AS {alias} WHERE {where}"
        if given.at is not None:
            at = self.dialect.said(sa.literal(given.at))
            return sa.literal_column(f"(SELECT {named[given.column]} {source} AND {named[given.order]} = {at})")
        value: sa.ColumnElement[Any] = sa.literal_column(named[given.column])
        if next(one.kind.word for one in other.columns if one.header == given.column) == "decimal":
            value = self.dialect.as_double(value)  # as 12.5, however many places it is stored with
        listed = self.dialect.listed(self.dialect.said(value), named[given.order], source, given.between)
        return sa.literal_column(f"({listed})")

    def _formula(self, header: str) -> sa.ColumnElement[Any]:
        if header in self.plain:
            return self.plain[header]
        formula = next(column.formula for column in self.view.columns if column.header == header)
        assert formula is not None
        operands = [self._formula(operand) for operand in formula.operands]
        if formula.operation == BAND:
            limit, name = sorted(self.schema.tables[formula.detail].c, key=lambda column: not column.primary_key)
            bands = self.schema.tables[formula.detail].alias(_unused("ranges", self.taken))
            found = sa.select(bands.c[name.name]).where(bands.c[limit.name] <= operands[0])
            last = found.order_by(bands.c[limit.name].desc()).limit(1).correlate_except(bands)
            return last.scalar_subquery()
        if formula.operation == JOINED:
            return sa.cast(operands[0], sa.Text()).concat(formula.detail).concat(sa.cast(operands[1], sa.Text()))
        if formula.operation == DATE_PART:
            return part_of_date(formula.detail, operands[0])
        doubles = [self.dialect.as_double(operand) for operand in operands]
        return self.dialect.rounded(_arithmetic(formula, doubles), formula.places)


def _name(clause: sa.FromClause) -> str:
    return str(getattr(clause, "name", ""))


def _unused(name: str, taken: set[str]) -> str:
    """An alias that no table and no other alias has; databases do not tell capitals from small letters there."""
    known = {one.lower() for one in taken}
    while name in known:
        name += "_"
    return name


def _on(reference: Reference, pointing: sa.FromClause, pointed: sa.FromClause) -> sa.ColumnElement[bool]:
    pairs = zip(reference.columns, reference.table_columns, strict=True)
    return sa.and_(*(pointing.c[one] == pointed.c[two] for one, two in pairs))


def _arithmetic(formula: Formula, operands: list[sa.ColumnElement[Any]]) -> sa.ColumnElement[Any]:
    """The same in the same order as the doubles of the check."""
    match formula.operation:
        case "constant":
            return operands[0] + sa.literal(float(formula.detail))
        case "product":
            return operands[0] * operands[1] * sa.literal(HALF_UP)
        case "percentage":
            return operands[0] * operands[1] / sa.literal(100.0) * sa.literal(HALF_UP)
        case _:
            return reduce(SIGNS[formula.operation], operands)


def part_of_date(part: str, date: sa.ColumnElement[Any]) -> sa.ColumnElement[Any]:
    year, month = sa.extract("year", date), sa.extract("month", date)
    quarter = sa.case(*((month <= 3 * number, number) for number in range(1, 5)))
    match part:
        case "year and month":
            zero = sa.case((month < 10, "-0"), else_="-")
            return sa.cast(year, sa.Text()).concat(zero).concat(sa.cast(month, sa.Text()))
        case "quarter":
            return quarter
        case "quarter with Q":
            return sa.literal("Q").concat(sa.cast(quarter, sa.Text()))
        case "name of the month" | "short name of the month":
            letters = 3 if part == "short name of the month" else None
            return sa.case(*((month == number, name[:letters]) for number, name in enumerate(MONTHS, 1)))
        case _:
            return sa.extract(part, date)
