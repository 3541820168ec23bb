"""Tables → the statements that create them, with their keys, references, rules, indexes and comments."""

from __future__ import annotations

from enum import Enum
from typing import TYPE_CHECKING

import pyarrow as pa

from hemplit.core import kinds
from hemplit.core.model.design import RuleKind
from hemplit.dataclasses import dataclass, replace
from hemplit.targets.sql.terms import BLANK, FILLED, Term, all_of, any_of, whole

if TYPE_CHECKING:
    from collections.abc import Collection, Iterator

    from hemplit.core.model.design import Rule
    from hemplit.core.model.tables import Reference, Table, TableColumn, Tables
    from hemplit.targets.sql.dialect import Dialect


class References(Enum):
    """With which of its references a table is created; the others come later."""

    ALL = "all"
    OF_OTHERS = "all but those to itself"
    NONE = "none"


@dataclass(frozen=True)
class Constraint:
    """What holds for the rows of a table, by its name; ``is_own`` says that it is a reference to the table itself."""

    name: str
    text: str
    is_reference: bool = False
    is_own: bool = False


@dataclass(frozen=True)
class TableStatements:
    """The statements for one table: its ``name`` as they write it, the lines of its columns, and what holds for it."""

    name: str
    columns: tuple[str, ...]
    constraints: tuple[Constraint, ...]
    end: str
    #: The name of each index with its statement.
    indexes: tuple[tuple[str, str], ...]
    #: The statements that say where the table and its columns come from, for databases that take them by themselves.
    comments: tuple[str, ...]

    def create(self, references: References = References.ALL) -> str:
        """The statement that creates it."""
        wanted = (one.text for one in self.constraints if not one.is_reference or _is_wanted(one, references))
        return f"CREATE TABLE {self.name} (\n\t" + ", \n\t".join((*self.columns, *wanted)) + f"\n){self.end}"

    def add_references(self, *, only_own: bool = False) -> Iterator[str]:
        """A statement for each reference that it was created without."""
        for one in sorted(self.constraints, key=lambda one: one.name):
            if one.is_reference and (one.is_own or not only_own):
                yield f"ALTER TABLE {self.name} ADD {one.text}"


def _is_wanted(one: Constraint, references: References) -> bool:
    return references is References.ALL or (references is References.OF_OTHERS and not one.is_own)


def statements_of(
    tables: Tables, dialect: Dialect, *, fitted: bool = True, taken: Collection[str] = (), prefix: str = ""
) -> dict[str, TableStatements]:
    """The tables by name, with keys, references, uniqueness and an index for every reference that no key serves.

    Types are ``fitted`` to the values, or only the widest for each kind, and no comment says what there is. Names
    that are ``taken`` are no names for constraints, in which a ``prefix`` of the tables is left out.
    """
    names = _Names(dialect, {*tables.by_name, *tables.view_names, *taken}, prefix)
    indexed = {pair for table in tables.tables for pair in _indexed(table)}
    return {
        table.name: _of_table(tables, table, dialect, names, indexed if fitted else None) for table in tables.tables
    }


def _of_table(
    tables: Tables, table: Table, dialect: Dialect, names: _Names, indexed: Collection[tuple[str, str]] | None
) -> TableStatements:
    """The statements for a table; where nothing is said to be ``indexed``, types are the widest, without comments."""
    constraints = tuple(_constraints(table, dialect, names))
    return TableStatements(
        dialect.quote(table.name),
        tuple(_column_line(tables, table, column, dialect, indexed) for column in table.columns),
        constraints,
        dialect.table_end(None if indexed is None else dialect.commented(table.comment)),
        tuple(sorted(_indexes(table, dialect, names))),
        () if dialect.comments_inside else tuple(_comments(table, dialect)),
    )


def _column_line(
    tables: Tables,
    table: Table,
    column: TableColumn,
    dialect: Dialect,
    indexed: Collection[tuple[str, str]] | None,
) -> str:
    """The line of a column: its name, its type, whether it is filled, and where it comes from."""
    word, comment = dialect.types[column.kind.word], None
    if indexed is not None:
        is_indexed = (table.name, column.name) in indexed
        word = dialect.fitted_type(_pointed(tables, table, column), indexed=is_indexed)
        comment = dialect.commented(column.comment) if dialect.comments_inside else None
    said = f" COMMENT {dialect.literal(comment)}" if comment else ""
    return f"{dialect.quote(column.name)} {word}{' NOT NULL' * column.required}{said}"


def _constraints(table: Table, dialect: Dialect, names: _Names) -> Iterator[Constraint]:
    """Its key, what is unique, its references, and the rules for its rows."""
    listed = dialect.listed_names
    yield _constraint(dialect, names.unused("pk", table.name), f"PRIMARY KEY ({listed(table.key)})")
    for some in table.unique:
        yield _constraint(dialect, names.unused("uq", table.name, *some), f"UNIQUE ({listed(some)})")
    for reference in table.references:
        yield _reference(dialect, table, reference, names.unused("fk", table.name, *reference.columns))
    for column in table.columns:
        if column.kind.word == "yes/no" and dialect.yes_is_one:
            one_or_none = dialect.column(column.name).among([whole(0), whole(1)])
            yield _check(dialect, names.unused("ck", table.name, column.name), one_or_none)
    for rule in (one for one in table.rules if not one.proposed):
        yield _check(dialect, names.unused("ck", table.name, *rule.columns), rule_of(rule, table, dialect))


def _indexes(table: Table, dialect: Dialect, names: _Names) -> Iterator[tuple[str, str]]:
    """An index for every reference that no key serves, by its name."""
    for one in table.references:
        if not _served(table, one):
            name = names.unused("ix", table.name, *one.columns)
            place = f"{dialect.quote(table.name)} ({dialect.listed_names(one.columns)})"
            yield name, f"CREATE INDEX {dialect.quote(name)} ON {place}"


def _comments(table: Table, dialect: Dialect) -> Iterator[str]:
    """The statements that say where a table and its columns come from."""
    quote = dialect.quote
    comment = dialect.commented(table.comment)
    if comment:
        yield f"COMMENT ON TABLE {quote(table.name)} IS {dialect.literal(comment)}"
    for column in table.columns:
        comment = dialect.commented(column.comment)
        if comment:
            place = f"{quote(table.name)}.{quote(column.name)}"
            yield f"COMMENT ON COLUMN {place} IS {dialect.literal(comment)}"


def _constraint(dialect: Dialect, name: str, text: str) -> Constraint:
    return Constraint(name, f"CONSTRAINT {dialect.quote(name)} {text}")


def _check(dialect: Dialect, name: str, condition: Term) -> Constraint:
    return _constraint(dialect, name, f"CHECK ({condition.text})")


def _reference(dialect: Dialect, table: Table, one: Reference, name: str) -> Constraint:
    pointed = f"{dialect.quote(one.table)} ({dialect.listed_names(one.table_columns)})"
    made = _constraint(dialect, name, f"FOREIGN KEY({dialect.listed_names(one.columns)}) REFERENCES {pointed}")
    return replace(made, is_reference=True, is_own=one.table == table.name)


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


def rule_of(rule: Rule, table: Table, dialect: Dialect) -> Term:
    """The condition that every row keeps; a blank breaks no rule about values."""
    one, *others = map(dialect.column, rule.columns)
    if rule.kind == RuleKind.MIN:
        return one.compared(">=", Term(f"{float(rule.values[0]):.15g}"))
    if rule.kind == RuleKind.ALLOWED:
        return one.among(_values(rule, table.by_name[rule.columns[0]], dialect))
    if rule.kind == RuleKind.PATTERN:
        return dialect.keeps_form(one, rule.values[0])
    if rule.kind == RuleKind.ONE_FILLED:
        return one.is_(BLANK).compared("!=", others[0].is_(BLANK))
    values = _values(rule, table.by_name[rule.columns[1]], dialect)
    filled, blank = one.is_(FILLED), one.is_(BLANK)
    there, elsewhere = others[0].among(values), Term(f"({others[0].among(values, 'NOT IN').text})")
    return any_of([all_of([there, filled]), all_of([elsewhere, blank])])


def _values(rule: Rule, column: TableColumn, dialect: Dialect) -> list[Term]:
    """The values as they are stored, those too that have not come so far."""
    values = kinds.parse(pa.array(rule.values, pa.string()), column.kind).drop_null().to_pylist()
    return [dialect.value(value) for value in values]


def _served(table: Table, reference: Reference) -> bool:
    return any(key[: len(reference.columns)] == reference.columns for key in (table.key, *table.unique))
