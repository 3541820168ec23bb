"""Views → the statements that give each sheet back under its own headers, out of the tables joined again."""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

from hemplit.core.design.arithmetic import HALF_UP
from hemplit.core.design.calendar import MONTHS
from hemplit.core.model.findings import BAND, DATE_PART, JOINED
from hemplit.dataclasses import dataclass
from hemplit.targets.sql.names import labels_of
from hemplit.targets.sql.terms import Term, all_of, call, case, query, whole

if TYPE_CHECKING:
    from hemplit.core.model.findings import Formula
    from hemplit.core.model.tables import Reference, Tables, View, ViewColumn
    from hemplit.targets.sql.dialect import Dialect


@dataclass(frozen=True)
class Joined:
    """A table that a query reads under an alias, and the condition on which it is joined; none for the first."""

    table: str
    alias: str
    on: Term | None = None


def create_view(tables: Tables, view: View, dialect: Dialect) -> str:
    """The statement for the view that gives a sheet back under its headers."""
    return f"CREATE VIEW {dialect.quote(view.name)} AS\n{select_view(tables, view, dialect)}"


def select_view(tables: Tables, view: View, dialect: Dialect, where: str = "") -> str:
    """The query of a view, of some rows of its base table if a condition says which."""
    return Query(tables, view, dialect).text(where)


class Query:
    """The query of one view: its tables, each under an alias for each way to it."""

    def __init__(self, tables: Tables, view: View, dialect: Dialect) -> None:
        self.tables, self.view, self.dialect = tables, view, dialect
        self.joined = [Joined(view.base, view.base)]
        self.reached: dict[tuple[Reference, ...], str] = {(): view.base}
        for column in view.columns:
            for way in (column.path, *(path for path, _ in column.otherwise)):
                self._reach(way)
        self.plain: dict[str, Term] = {
            column.header: dialect.column(column.column, self.reached[column.path])
            for column in view.columns
            if column.column is not None
        }
        for column in view.columns:
            if column.otherwise:
                others = (dialect.column(name, self.reached[path]) for path, name in column.otherwise)
                self.plain[column.header] = call("coalesce", self.plain[column.header], *others)
        self.taken = {*tables.by_name, *self.reached.values()}

    def text(self, where: str) -> str:
        """The whole query."""
        columns = [column for column in self.view.columns if not column.hidden]
        labels = labels_of((column.header for column in columns), self.dialect)
        quote = self.dialect.quote
        shown = ", ".join(f"{self._shown(column).text} AS {quote(labels[column.header])}" for column in columns)
        first, *others = self.joined
        joins = "".join(
            f" LEFT OUTER JOIN {quote(one.table)} AS {quote(one.alias)} ON {one.on.text}" for one in others if one.on
        )
        rows = f" \nWHERE {where}" if where else ""
        return f"SELECT {shown} \nFROM {quote(first.table)} AS {quote(first.alias)}{joins}{rows}"

    def value(self, header: str) -> Term:
        """What stands under a header, stored or calculated, as it is stored."""
        return self._formula(header)

    def _reach(self, way: tuple[Reference, ...]) -> None:
        for length in range(1, len(way) + 1):
            path = way[:length]
            if path not in self.reached:
                alias = self._alias(path[-1].table)
                self.joined.append(Joined(path[-1].table, alias, self._on(path[-1], self.reached[path[:-1]], alias)))
                self.reached[path] = alias

    def _on(self, reference: Reference, pointing: str, pointed: str) -> Term:
        pairs = zip(reference.columns, reference.table_columns, strict=True)
        column = self.dialect.column
        return all_of([column(one, pointing).compared("=", column(two, pointed)) for one, two in pairs])

    def _alias(self, table: str) -> str:
        taken = {alias.lower() for alias in self.reached.values()}
        name, count = table, 1
        while name.lower() in taken:
            count += 1
            name = self.dialect.fit(f"{table}_{count}")
        return name

    def _shown(self, column: ViewColumn) -> Term:
        if column.gathered is not None:
            return self._gathered(column)
        if column.counted is not None:
            return self._counted(column.counted)
        if column.formula is None and self.view.sheet:
            return self.dialect.written(column.kind, self.plain[column.header])
        return self._formula(column.header)

    def _counted(self, pointing: Reference) -> Term:
        """How many rows of a table refer to a row of the base."""
        alias, quote = _unused("counted", self.taken), self.dialect.quote
        points = self._on(pointing, self.view.base, alias)
        return query(f"SELECT count(*) \nFROM {quote(pointing.table)} AS {quote(alias)} \nWHERE {points.text}")

    def _gathered(self, column: ViewColumn) -> Term:
        """The value or values that belong to a row, out of the view of another relation."""
        given, quote = column.gathered, self.dialect.quote
        assert given is not None
        other = next(view for view in self.tables.views if view.name == given.view)
        labels, alias = labels_of((one.header for one in other.columns), self.dialect), _unused("listed", self.taken)
        named = {header: f"{alias}.{quote(labels[header])}" for header in (given.column, given.order, *given.by)}
        kinds = {one.header: one.kind for one in self.view.columns}
        own = {name: self.dialect.written(kinds[name], self.plain[name]).text for name in given.by}
        where = " AND ".join(f"{named[name]} = {own[name]}" for name in given.by)
        source = f"FROM {quote(given.view)} AS {alias} WHERE {where}"
        if given.at is not None:
            at = self.dialect.value(given.at).text
            return query(f"SELECT {named[given.column]} {source} AND {named[given.order]} = {at}")
        value = Term(named[given.column])
        if next(one.kind.word for one in other.columns if one.header == given.column) == "decimal":
            value = self.dialect.listed_number(value)
        return query(self.dialect.listed(value.text, named[given.order], source, given.between))

    def _formula(self, header: str) -> Term:
        if header in self.plain:
            return self.plain[header]
        formula = next(column.formula for column in self.view.columns if column.header == header)
        assert formula is not None
        operands = [self._formula(operand) for operand in formula.operands]
        if formula.operation == BAND:
            return self._band(formula.detail, operands[0])
        if formula.operation == JOINED:
            first, second = map(self.dialect.as_text, operands)
            return self.dialect.joined(first, self.dialect.value(formula.detail), second)
        if formula.operation == DATE_PART:
            return part_of_date(formula.detail, operands[0], self.dialect)
        doubles = [self.dialect.as_double(operand) for operand in operands]
        return self.dialect.rounded(self._arithmetic(formula, doubles), formula.places)

    def _band(self, ranges: str, number: Term) -> Term:
        """The name of the range in which a number lies."""
        table, alias, quote = self.tables.by_name[ranges], _unused("ranges", self.taken), self.dialect.quote
        limit = self.dialect.column(table.key[0], alias)
        name = next(column.name for column in table.columns if column.name not in table.key)
        below = limit.compared("<=", number).text
        rows = f"FROM {quote(ranges)} AS {quote(alias)} \nWHERE {below} ORDER BY {limit.text} DESC"
        return query(f"SELECT {self.dialect.column(name, alias).text} \n{rows}{self.dialect.first_only}")

    def _arithmetic(self, formula: Formula, operands: list[Term]) -> Term:
        """The same in the same order as the doubles of the check."""
        match formula.operation:
            case "constant":
                return operands[0] + whole(float(formula.detail))
            case "product":
                return operands[0] * operands[1] * whole(HALF_UP)
            case "total":
                return reduce(Term.__add__, (call("coalesce", one, whole(0)) for one in operands))
            case "percentage":
                return operands[0] * operands[1] / self.dialect.hundred * whole(HALF_UP)
            case "difference":
                return operands[0] - operands[1]
            case _:
                return reduce(Term.__add__, operands)


def _unused(name: str, taken: set[str]) -> str:
    """An alias that no table and no other alias has; databases do not tell capitals from small letters there."""
    known = {one.lower() for one in taken}
    while name in known:
        name += "_"
    return name


def part_of_date(part: str, date: Term, dialect: Dialect) -> Term:
    """What a calendar says of a date, as the design calls it."""
    year, month = dialect.part("year", date), dialect.part("month", date)
    quarter = case((month.compared("<=", whole(3 * number)), whole(number)) for number in range(1, 5))
    match part:
        case "year and month":
            between = case([(month.compared("<", whole(10)), dialect.value("-0"))], dialect.value("-"))
            return dialect.joined(dialect.as_text(year), between, dialect.as_text(month))
        case "quarter":
            return quarter
        case "quarter with Q":
            return dialect.joined(dialect.value("Q"), dialect.as_text(quarter))
        case "name of the month" | "short name of the month":
            letters = 3 if part == "short name of the month" else None
            named = enumerate(MONTHS, 1)
            return case((month.compared("=", whole(number)), dialect.value(name[:letters])) for number, name in named)
        case _:
            return dialect.part(part, date)
