"""Tables → the statements that create them, with their keys, references, rules, indexes and comments."""

from __future__ import annotations

from dataclasses import replace
from enum import Enum
from typing import TYPE_CHECKING, Any

import sqlalchemy as sa
from sqlalchemy.schema import AddConstraint, CreateIndex, CreateTable, SetColumnComment, SetTableComment

from hemplit.core import kinds
from hemplit.core.model.design import RuleKind

if TYPE_CHECKING:
    from collections.abc import Collection, Iterable, Iterator

    from hemplit.core.model.design import Rule
    from hemplit.core.model.tables import Reference, Table, TableColumn, Tables
    from hemplit.targets.sql.dialect import Dialect


def metadata(
    tables: Tables, dialect: Dialect, *, fitted: bool = True, taken: Collection[str] = (), prefix: str = ""
) -> sa.MetaData:
    """The tables with keys, references, uniqueness and an index for every reference that no key serves.

    Types are ``fitted`` to the values, or only the widest for each kind. Names that are ``taken`` are no names for
    constraints, in which a ``prefix`` of the tables is left out.
    """
    schema = sa.MetaData()
    names = _Names(dialect, {*tables.by_name, *tables.view_names, *taken}, prefix)
    indexed = {pair for table in tables.tables for pair in _indexed(table)}
    for table in tables.tables:
        columns = [
            sa.Column(
                column.name,
                dialect.fitted_type(_pointed(tables, table, column), indexed=(table.name, column.name) in indexed)
                if fitted
                else dialect.types[column.kind.word],
                nullable=not column.required,
                autoincrement=False,
                comment=dialect.commented(column.comment),
            )
            for column in table.columns
        ]
        keys: list[sa.schema.SchemaItem] = [
            sa.PrimaryKeyConstraint(*table.key, name=names.unused("pk", table.name)),
            *(sa.UniqueConstraint(*some, name=names.unused("uq", table.name, *some)) for some in table.unique),
            *(
                _foreign_key(reference, names.unused("fk", table.name, *reference.columns))
                for reference in table.references
            ),
            *(
                sa.CheckConstraint(sa.column(column.name).in_([0, 1]), name=names.unused("ck", table.name, column.name))
                for column in table.columns
                if column.kind.word == "yes/no" and dialect.yes_is_one
            ),
            *(
                sa.CheckConstraint(rule_of(rule, table, dialect), name=names.unused("ck", table.name, *rule.columns))
                for rule in table.rules
            ),
        ]
        options: dict[str, Any] = {"comment": dialect.commented(table.comment), **dialect.table_options}
        created = sa.Table(table.name, schema, *columns, *keys, **options)
        for reference in table.references:
            if not _served(table, reference):
                name = names.unused("ix", table.name, *reference.columns)
                sa.Index(name, *(created.c[column] for column in reference.columns))
    return schema


class _Names:
    """Names of constraints and indexes, none of them twice."""

    def __init__(self, dialect: Dialect, taken: set[str], prefix: str) -> None:
        self.dialect, self.taken, self.prefix = dialect, {name.lower() for name in taken}, prefix

    def unused(self, sort: str, table: str, *columns: str) -> str:
        whole = "_".join((sort, table.removeprefix(self.prefix), *columns))
        name, count = self.dialect.fit(whole), 1
        while name.lower() in self.taken:
            count += 1
            name = self.dialect.fit(f"{whole}_{count}")
        self.taken.add(name.lower())
        return name


def _indexed(table: Table) -> Iterator[tuple[str, str]]:
    """The columns that a key, or what refers to one, looks up."""
    for some in (table.key, *table.unique, *(reference.columns for reference in table.references)):
        yield from ((table.name, column) for column in some)
    for reference in table.references:
        yield from ((reference.table, column) for column in reference.table_columns)


def _pointed(tables: Tables, table: Table, column: TableColumn) -> TableColumn:
    """The column to which one refers in the end, whose type it has."""
    for reference in table.references:
        if column.name in reference.columns and reference.table != table.name:
            other = tables.by_name[reference.table]
            name = reference.table_columns[reference.columns.index(column.name)]
            return replace(_pointed(tables, other, other.by_name[name]), name=column.name)
    return column


def _foreign_key(reference: Reference, name: str) -> sa.ForeignKeyConstraint:
    columns = [f"{reference.table}.{column}" for column in reference.table_columns]
    return sa.ForeignKeyConstraint(reference.columns, columns, name=name, link_to_name=True)


def rule_of(rule: Rule, table: Table, dialect: Dialect) -> sa.ColumnElement[bool]:
    """The condition that every row keeps; a blank breaks no rule about values."""
    named: list[sa.ColumnElement[Any]] = [sa.column(name) for name in rule.columns]
    one, *others = named
    if rule.kind == RuleKind.MIN:
        return one >= sa.literal_column(f"{float(rule.values[0]):.15g}")
    if rule.kind == RuleKind.ALLOWED:
        return one.in_(_values(rule, table.by_name[rule.columns[0]]))
    if rule.kind == RuleKind.PATTERN:
        return dialect.keeps_form(one, rule.values[0])
    if rule.kind == RuleKind.ONE_FILLED:
        return one.is_(None) != others[0].is_(None)
    there = others[0].in_(_values(rule, table.by_name[rule.columns[1]]))
    return sa.or_(sa.and_(there, one.is_not(None)), sa.and_(sa.not_(there), one.is_(None)))


def _values(rule: Rule, column: TableColumn) -> list[Any]:
    """The values as they are stored."""
    return [value for value in column.values.to_pylist() if kinds.show(value, column.kind) in rule.values]


def _served(table: Table, reference: Reference) -> bool:
    return any(key[: len(reference.columns)] == reference.columns for key in (table.key, *table.unique))


class References(Enum):
    """With which of its references a table is created; the others come later."""

    ALL = "all"
    OF_OTHERS = "all but those to itself"
    NONE = "none"


def create_tables(
    schema: sa.MetaData, tables: Tables, dialect: Dialect, *, references: References = References.ALL
) -> Iterator[tuple[str, str]]:
    """The name and the statement of each table, each after those it refers to."""
    for table in tables.tables:
        created = schema.tables[table.name]
        wanted = [one for one in created.foreign_key_constraints if _is_wanted(one, references)]
        statement = CreateTable(created, include_foreign_key_constraints=wanted)
        yield table.name, str(statement.compile(dialect=dialect.sql)).strip()


def _is_wanted(constraint: sa.ForeignKeyConstraint, references: References) -> bool:
    return references is References.ALL or (references is References.OF_OTHERS and not _is_own(constraint))


def _is_own(constraint: sa.ForeignKeyConstraint) -> bool:
    return constraint.referred_table is constraint.table


def add_references(schema: sa.MetaData, tables: Tables, dialect: Dialect, *, only_own: bool = False) -> Iterator[str]:
    """A statement for each reference that a table was created without."""
    for table in tables.tables:
        for constraint in _sorted(schema.tables[table.name].foreign_key_constraints):
            if not only_own or _is_own(constraint):
                yield str(AddConstraint(constraint, isolate_from_table=False).compile(dialect=dialect.sql))


def create_indexes(schema: sa.MetaData, tables: Tables, dialect: Dialect) -> Iterator[tuple[str, str]]:
    """The name and the statement of each index."""
    for table in tables.tables:
        for index in _sorted(schema.tables[table.name].indexes):
            yield str(index.name), str(CreateIndex(index).compile(dialect=dialect.sql))


def set_comments(schema: sa.MetaData, tables: Tables, dialect: Dialect) -> Iterator[str]:
    """The statements that say where each table and column comes from, for databases that take them by themselves."""
    for table in tables.tables:
        created = schema.tables[table.name]
        if created.comment:
            yield dialect.said(SetTableComment(created))
        yield from (dialect.said(SetColumnComment(column)) for column in created.columns if column.comment)


def _sorted(some: Iterable[Any]) -> list[Any]:
    return sorted(some, key=lambda one: str(one.name))
