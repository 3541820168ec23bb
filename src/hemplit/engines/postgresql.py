"""PostgreSQL: the server in which the sheet lies, and into which its tables go, in one transaction."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import pyarrow as pa
import pyarrow.compute as pc

from hemplit.engines.contract import EngineDialect, Staging
from hemplit.engines.proven import largest
from hemplit.targets.postgresql import PostgresqlDialect

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.model.tables import Table, TableColumn
    from hemplit.targets.sql.session import Session

TYPES = {
    "whole number": "bigint",
    "decimal": "double precision",
    "date": "date",
    "time": "time",
    "date and time": "timestamp",
    "yes/no": "boolean",
    "text": "text",
}
#: The type for what rows come in, by Arrow's name.
COLUMNS = {
    "int64": "bigint",
    "double": "double precision",
    "date32[day]": "date",
    "time32[s]": "time",
    "timestamp[s]": "timestamp",
    "bool": "boolean",
    "string": "text",
}


class PostgresqlEngineDialect(PostgresqlDialect, EngineDialect):
    """As the target has it."""

    def same(self, one: str, other: str) -> str:
        """The condition that two expressions say the same; two blanks do."""
        # Of arrays the server makes a hash, of IS NOT DISTINCT FROM none; and in them two blanks are the same.
        return f"ARRAY[{one}] = ARRAY[{other}]"

    def type_of(self, kind: str) -> str:
        """The type for a kind of values."""
        return TYPES[kind]

    def least(self, kind: str, value: str) -> str:
        return f"bool_and({value})" if kind == "yes/no" else super().least(kind, value)

    def most(self, kind: str, value: str) -> str:
        return f"bool_or({value})" if kind == "yes/no" else super().most(kind, value)

    def summed(self, columns: Sequence[str]) -> tuple[str, ...]:
        """Expressions over all rows that differ if these do, in whatever order the rows come."""
        row = f"CAST(ROW({', '.join(columns)}) AS text)"
        return (f"sum(CAST(hashtextextended({row}, 0) AS numeric))", f"bit_xor(hashtextextended({row}, 1))")


class PostgresqlEngine:
    """Temporary tables on the connection of a target; they are gone with it."""

    dialect: EngineDialect = PostgresqlEngineDialect()

    def __init__(self, session: Session) -> None:
        self._session = session
        self._known: set[str] = set()

    def stage(self, name: str) -> Staging:
        """Takes rows in pieces, and holds them under a name once all are there."""
        self._known.add(name)
        return _Staging(self._session, name)

    def create(self, name: str, query: str) -> None:
        """Makes a table of what a query finds."""
        quoted = self.dialect.quote(self.dialect.fit(name))
        self._known.add(name)
        self._session.run(f"CREATE TEMPORARY TABLE {quoted} AS {query}")
        self._session.run(f"ANALYZE {quoted}")

    def rows(self, query: str) -> pa.Table:
        """What a query finds, which is little."""
        names, rows = self._session.found(query)
        columns = zip(*rows, strict=True) if rows else [() for _ in names]
        return pa.table([pa.array(list(column)) for column in columns], names=list(names))

    def drop(self, names: Sequence[str]) -> None:
        """Takes away tables and staged rows, as far as they are there."""
        for name in self._known.intersection(names):
            self._session.run(f"DROP TABLE IF EXISTS {self.dialect.quote(self.dialect.fit(name))}")
            self._known.remove(name)


def with_extremes(engine: PostgresqlEngine, table: Table) -> Table:
    """The table with the values of its sample, and those of all rows that decide the types of its columns: the largest
    numbers, and those with the most decimal places."""
    quote = engine.dialect.quote
    further: dict[str, list[float | int]] = {name: [most] for name, most in largest(engine, table).items()}
    for column in table.columns:
        if column.kind.word == "decimal":
            name = quote(column.name)
            orders = (f"scale(CAST({name} AS numeric)) DESC", f"abs({name}) DESC", f"abs({name})")
            found = (
                engine.rows(f"SELECT {name} AS c0 FROM {quote(table.name)} WHERE {name} <> 0 ORDER BY {order} LIMIT 1")
                for order in orders
            )
            further[column.name] = [value for one in found for value in one.column(0).to_pylist()]
    return replace(table, columns=tuple(_with(one, further.get(one.name, [])) for one in table.columns))


def _with(column: TableColumn, further: Sequence[float | int]) -> TableColumn:
    more = pa.array(further, column.values.type)
    return replace(column, values=pc.unique(pa.concat_arrays([column.values, more])))


class _Staging:
    """Copies pieces of rows into a temporary table."""

    def __init__(self, session: Session, name: str) -> None:
        dialect = PostgresqlEngineDialect()
        self._session, self._name, self._quote, self._is_there = session, dialect.fit(name), dialect.quote, False

    def add(self, rows: pa.Table) -> None:
        """Further rows."""
        if not self._is_there:
            columns = ", ".join(f"{self._quote(field.name)} {COLUMNS[str(field.type)]}" for field in rows.schema)
            self._session.run(f"CREATE TEMPORARY TABLE {self._quote(self._name)} ({columns})")
            self._is_there = True
        self._session.put(self._name, rows)

    def close(self) -> None:
        """All rows are there."""
        self._session.run(f"ANALYZE {self._quote(self._name)}")
