"""DuckDB: files beyond memory, on this machine."""

from __future__ import annotations

from contextlib import contextmanager
from typing import TYPE_CHECKING, Any, Self

import duckdb
import pyarrow as pa
import pyarrow.parquet

from hemplit.engines.contract import EngineDialect, Staging
from hemplit.errors import InputError, TargetError
from hemplit.targets.postgresql import PostgresqlDialect
from hemplit.targets.sql.dialect import Dialect

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence
    from pathlib import Path

    from hemplit.targets.sql.terms import Term

LISTED = "SELECT table_name, CASE table_type WHEN 'VIEW' THEN 'VIEW' ELSE 'TABLE' END FROM information_schema.tables"
TYPES = {
    "whole number": "BIGINT",
    "decimal": "DOUBLE",
    "date": "DATE",
    "time": "TIME",
    "date and time": "TIMESTAMP",
    "yes/no": "BOOLEAN",
    "text": "VARCHAR",
}


class DuckdbDialect(PostgresqlDialect, EngineDialect):
    """Like PostgreSQL, but for how doubles are rounded and how long names may be."""

    name = "DuckDB"
    longest_name = EngineDialect.longest_name
    reserved = None  # as it has others than PostgreSQL

    def summed(self, columns: Sequence[str]) -> tuple[str, ...]:
        """Expressions over all rows that differ if these do, in whatever order the rows come."""
        row = f"hash({', '.join(columns)})"
        return (f"sum(CAST({row} AS HUGEINT))", f"bit_xor(hash({row}, 1))")

    def same(self, one: str, other: str) -> str:
        """The condition that two expressions say the same; two blanks do."""
        return f"{one} IS NOT DISTINCT FROM {other}"

    def type_of(self, kind: str) -> str:
        """The type for a kind of values."""
        return TYPES[kind]

    def rounded(self, number: Term, places: int) -> Term:
        return Dialect.rounded(self, number, places)


class DuckdbEngine:
    """A database of its own in a folder, in which larger things than memory are put on disk."""

    dialect: EngineDialect = DuckdbDialect()

    def __init__(self, folder: Path, memory: str, address: str = "") -> None:
        if address:
            raise InputError(f"--engine {address}", "DuckDB works on this machine", "write --engine duckdb")
        self._folder, self._count = folder, 0
        self._files: dict[str, Path] = {}
        self._connection = duckdb.connect(str(folder / "work.duckdb"))
        self._connection.execute("SET preserve_insertion_order = false")
        self._connection.execute(f"SET temp_directory = {self.dialect.literal(str(folder / 'spilled'))}")
        if memory:
            try:
                self._connection.execute(f"SET memory_limit = {self.dialect.literal(memory)}")
            except duckdb.Error as error:
                raise InputError(f"--memory {memory}", "this is no amount", "write for example --memory 4GB") from error

    def stage(self, name: str) -> Staging:
        """Takes rows in pieces, and holds them under a name once all are there."""
        # What DuckDB knows of a file outlives its content, so that each has a name of its own.
        self._count += 1
        self._files[name] = self._folder / f"staged{self._count}.parquet"
        return _Staging(self._connection, self.dialect, name, self._files[name])

    def create(self, name: str, query: str, by: Sequence[str]) -> None:
        """Makes a table of what a query finds, which others find by some columns."""
        del by  # tables are joined by hash
        self._run(f"CREATE TABLE {self.dialect.quote(name)} AS {query}")

    def rows(self, query: str) -> pa.Table:
        """What a query finds, which is little."""
        with _told():
            return self._connection.sql(query).to_arrow_table()

    def _run(self, statement: str) -> None:
        with _told():
            self._connection.execute(statement)

    def save(self, name: str, columns: Mapping[str, str], order: str, path: Path) -> None:
        """Writes columns of a table as a Parquet file, each as the expression that is given for it."""
        quote = self.dialect.quote
        shown = ", ".join(f"{value} AS {quote(column)}" for column, value in columns.items())
        rows = f"SELECT {shown} FROM {quote(name)} ORDER BY {quote(order)}"
        self._run(f"COPY ({rows}) TO {self.dialect.literal(str(path))} (FORMAT parquet)")

    def saved(self, path: Path) -> str:
        """A source of a query: the rows of a Parquet file."""
        return f"read_parquet({self.dialect.literal(str(path))})"

    def drop(self, names: Sequence[str]) -> None:
        """Takes away tables and staged rows, as far as they are there."""
        for name, kind in self._connection.execute(LISTED).fetchall():
            if name in names:
                self._run(f"DROP {kind} {self.dialect.quote(name)}")
                if name in self._files:
                    self._files.pop(name).unlink()

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *raised: object) -> None:
        self._connection.close()


@contextmanager
def _told() -> Iterator[None]:
    """Says plainly what a person can do something about. Raises ``TargetError``."""
    try:
        yield
    except duckdb.OutOfMemoryException as error:
        what = "DuckDB needs more memory than it may take"
        raise TargetError("--engine duckdb", what, "allow it more, such as --memory 4GB") from error
    except duckdb.IOException as error:
        what = f"DuckDB cannot write ({str(error).splitlines()[0]})"
        raise TargetError("--engine duckdb", what, "look at the disk; it needs several times the file") from error


class _Staging:
    """Writes pieces of rows into one Parquet file."""

    def __init__(self, connection: Any, dialect: EngineDialect, name: str, path: Path) -> None:
        self._connection, self._dialect, self._name, self._path = connection, dialect, name, path
        self._writer: Any = None

    def add(self, rows: pa.Table) -> None:
        """Further rows."""
        self._writer = self._writer or pyarrow.parquet.ParquetWriter(self._path, rows.schema)
        self._writer.write_table(rows)

    def close(self) -> None:
        """All rows are there."""
        self._writer.close()
        source = self._dialect.literal(str(self._path))
        name = self._dialect.quote(self._name)
        self._connection.execute(f"CREATE VIEW {name} AS SELECT * FROM read_parquet({source})")
