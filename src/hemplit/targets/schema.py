"""Tables → the statements that create them, shared by all SQL targets; every name is quoted by SQLAlchemy as needed."""

from __future__ import annotations

import operator
from functools import reduce
from typing import TYPE_CHECKING, Any

import sqlalchemy as sa
from sqlalchemy.schema import CreateIndex, CreateTable

from hemplit.core import kinds
from hemplit.core.design.arithmetic import HALF_UP
from hemplit.core.design.calendar import MONTHS
from hemplit.core.design.rules import FORM, LEAST, ONE_FILLED, ONE_OF
from hemplit.core.model.findings import BAND, DATE_PART, JOINED

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Mapping

    from hemplit.core.model.design import Rule
    from hemplit.core.model.findings import Formula
    from hemplit.core.model.relation import Kind
    from hemplit.core.model.tables import Gathered, Reference, Table, TableColumn, Tables, View

    #: How a dialect writes a stored value of a kind in the form of the sheet.
    Writer = Callable[[Kind, sa.ColumnElement[Any]], sa.ColumnElement[Any]]

TYPES: dict[str, sa.types.TypeEngine[Any]] = {
    "whole number": sa.BigInteger().with_variant(sa.Integer(), "sqlite"),
    "decimal": sa.Double().with_variant(sa.REAL(), "sqlite"),
    "date": sa.Date(),
    "time": sa.Time(),
    "date and time": sa.DateTime(),
    "yes/no": sa.Boolean(),
    "text": sa.Text(),
}
#: What the letters of a form stand for, and how those are written that mean something else to the database.
CLASSES = {"9": "[0-9]", "A": "[A-Z]", "*": "[*]", "?": "[?]", "[": "[[]"}
SIGNS = {"sum": operator.add, "difference": operator.sub}


def metadata(tables: Tables) -> sa.MetaData:
    """The tables with keys, references, uniqueness and an index for every reference that no key serves."""
    schema = sa.MetaData()
    for table in tables.tables:
        columns = [
            sa.Column(
                column.name,
                TYPES[column.kind.word],
                nullable=not column.required,
                autoincrement=False,
            )
            for column in table.columns
        ]
        keys: list[sa.schema.SchemaItem] = [sa.PrimaryKeyConstraint(*table.key)]
        keys += [sa.UniqueConstraint(*columns_alike) for columns_alike in table.unique]
        keys += [
            sa.ForeignKeyConstraint(
                reference.columns, [f"{reference.table}.{name}" for name in reference.table_columns], link_to_name=True
            )
            for reference in table.references
        ]
        keys += [
            sa.CheckConstraint(sa.column(column.name).in_([0, 1]))
            for column in table.columns
            if column.kind.word == "yes/no"
        ]
        keys += [sa.CheckConstraint(_rule(rule, table)) for rule in table.rules]
        created = sa.Table(table.name, schema, *columns, *keys)
        for reference in table.references:
            if not _served(table, reference):
                name = "_".join(("ix", table.name, *reference.columns))
                sa.Index(name[:60], *(created.c[column] for column in reference.columns))
    return schema


def _rule(rule: Rule, table: Table) -> sa.ColumnElement[bool]:
    """The condition that every row keeps; a blank breaks no rule about values."""
    named: list[sa.ColumnElement[Any]] = [sa.column(name) for name in rule.columns]
    one, *others = named
    if rule.kind == LEAST:
        return one >= sa.literal_column(f"{float(rule.values[0]):g}")
    if rule.kind == ONE_OF:
        return one.in_(_values(rule, table.by_name[rule.columns[0]]))
    if rule.kind == FORM:
        return one.op("GLOB")(sa.literal("".join(CLASSES.get(letter, letter) for letter in rule.values[0])))
    if rule.kind == ONE_FILLED:
        return one.is_(None) != others[0].is_(None)
    there = others[0].in_(_values(rule, table.by_name[rule.columns[1]]))
    return sa.or_(sa.and_(there, one.is_not(None)), sa.and_(sa.not_(there), one.is_(None)))


def _values(rule: Rule, column: TableColumn) -> list[Any]:
    """The values as they are stored."""
    return [value for value in column.values.to_pylist() if kinds.show(value, column.kind) in rule.values]


def _served(table: Table, reference: Reference) -> bool:
    return any(key[: len(reference.columns)] == reference.columns for key in (table.key, *table.unique))


def create_tables(schema: sa.MetaData, tables: Tables, dialect: sa.Dialect) -> Iterator[str]:
    """One statement per table, each after those it refers to."""
    for table in tables.tables:
        yield str(CreateTable(schema.tables[table.name]).compile(dialect=dialect)).strip()


def create_indexes(schema: sa.MetaData, tables: Tables, dialect: sa.Dialect) -> Iterator[str]:
    """One statement per index."""
    for table in tables.tables:
        for index in sorted(schema.tables[table.name].indexes, key=lambda one: str(one.name)):
            yield str(CreateIndex(index).compile(dialect=dialect))


def create_view(schema: sa.MetaData, view: View, dialect: sa.Dialect, writer: Writer) -> str:
    """The statement for the view that gives a sheet back under its headers."""
    return (
        f"CREATE VIEW {dialect.identifier_preparer.quote(view.name)} AS\n{select_view(schema, view, dialect, writer)}"
    )


def select_view(schema: sa.MetaData, view: View, dialect: sa.Dialect, writer: Writer, where: str = "") -> str:
    """The query of a view, of some rows of its base table if a condition says which."""
    joined: sa.FromClause = schema.tables[view.base].alias(view.base)
    reached: dict[tuple[Reference, ...], sa.FromClause] = {(): joined}
    ways = [way for column in view.columns for way in (column.path, *(path for path, _ in column.otherwise))]
    for way in ways:
        for length in range(1, len(way) + 1):
            path = way[:length]
            if path not in reached:
                before = reached[path[:-1]]
                alias = _alias(path, reached)
                reached[path] = schema.tables[path[-1].table].alias(alias)
                joined = joined.outerjoin(reached[path], _on(path[-1], before, reached[path]))
    plain: dict[str, sa.ColumnElement[Any]] = {
        column.header: reached[column.path].c[column.column] for column in view.columns if column.column is not None
    }
    for column in view.columns:
        if column.otherwise:
            others = [reached[path].c[name] for path, name in column.otherwise]
            plain[column.header] = sa.func.coalesce(plain[column.header], *others)
    labels = labels_of(view)
    taken = {*schema.tables, *(str(getattr(clause, "name", "")) for clause in reached.values())}
    shown = []
    for column in view.columns:
        if column.gathered is not None:
            value = _gathered(column.gathered, plain, dialect, _unused("listed", taken))
        elif column.formula is None:
            value = writer(column.kind, plain[column.header])
        else:
            value = _formula(view, column.header, plain, schema, _unused("ranges", taken))
        shown.append(value.label(labels[column.header]))
    body = sa.select(*shown).select_from(joined)
    if where:
        body = body.where(sa.text(where))
    return str(body.compile(dialect=dialect, compile_kwargs={"literal_binds": True}))


def _unused(name: str, taken: set[str]) -> str:
    """An alias that no table and no other alias has; databases do not tell capitals from small letters there."""
    known = {one.lower() for one in taken}
    while name in known:
        name += "_"
    return name


def _gathered(
    given: Gathered, plain: Mapping[str, sa.ColumnElement[Any]], dialect: sa.Dialect, alias: str
) -> sa.ColumnElement[Any]:
    """The value or values that belong to a row, out of the view of another relation.

    Written out, as an ordered list inside a list that belongs to a row of the outermost query has no other way.
    """

    def said(clause: sa.ColumnElement[Any]) -> str:
        return str(clause.compile(dialect=dialect, compile_kwargs={"literal_binds": True}))

    quote = dialect.identifier_preparer.quote
    where = " AND ".join(f"{alias}.{quote(name)} = {said(plain[name])}" for name in given.by)
    source = f"FROM {quote(given.view)} AS {alias} WHERE {where}"
    column, order = f"{alias}.{quote(given.column)}", f"{alias}.{quote(given.order)}"
    if given.at is not None:
        return sa.literal_column(f"(SELECT {column} {source} AND {order} = {said(sa.literal(given.at))})")
    between = said(sa.literal(given.between))
    return sa.literal_column(
        f"(SELECT group_concat(one, {between}) FROM (SELECT {column} AS one {source} ORDER BY {order}) AS many)"
    )


def _on(reference: Reference, pointing: sa.FromClause, pointed: sa.FromClause) -> sa.ColumnElement[bool]:
    pairs = zip(reference.columns, reference.table_columns, strict=True)
    return sa.and_(*(pointing.c[one] == pointed.c[two] for one, two in pairs))


def _alias(path: tuple[Reference, ...], reached: dict[tuple[Reference, ...], sa.FromClause]) -> str:
    taken = {str(getattr(clause, "name", "")).lower() for clause in reached.values()}
    name, count = path[-1].table, 1
    while name.lower() in taken:
        count += 1
        name = f"{path[-1].table}_{count}"
    return name


def labels_of(view: View) -> dict[str, str]:
    """The headers as column names; most databases do not tell capitals from small letters there."""
    headers = [column.header for column in view.columns]
    labels: dict[str, str] = {}
    for header in headers:
        name, count = header, 1
        while name.lower() in {label.lower() for label in labels.values()}:
            count += 1
            name = f"{header} ({count})"
        labels[header] = name
    return labels


def _formula(
    view: View, header: str, plain: Mapping[str, sa.ColumnElement[Any]], schema: sa.MetaData, alias: str
) -> sa.ColumnElement[Any]:
    if header in plain:
        return plain[header]
    formula = next(column.formula for column in view.columns if column.header == header)
    assert formula is not None
    operands = [_formula(view, operand, plain, schema, alias) for operand in formula.operands]
    if formula.operation == BAND:
        limit, name = sorted(schema.tables[formula.detail].c, key=lambda column: not column.primary_key)
        bands = schema.tables[formula.detail].alias(alias)
        found = sa.select(bands.c[name.name]).where(bands.c[limit.name] <= operands[0])
        last = found.order_by(bands.c[limit.name].desc()).limit(1).correlate_except(bands)
        return last.scalar_subquery()
    if formula.operation == JOINED:
        return sa.cast(operands[0], sa.Text()).concat(formula.detail).concat(sa.cast(operands[1], sa.Text()))
    if formula.operation == DATE_PART:
        return _part_of_date(formula.detail, operands[0])
    return sa.func.round(_arithmetic(formula, operands), formula.places)


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


def _part_of_date(part: str, date: sa.ColumnElement[Any]) -> sa.ColumnElement[Any]:
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
