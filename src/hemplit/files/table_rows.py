"""A table of a server that is larger than memory → grids of some of its rows, as ``pieces`` of files.

The rows come in the order in which the server reads the table from its beginning.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from contextlib import closing
from typing import TYPE_CHECKING, Any, ClassVar

import numpy as np
import pyarrow as pa

from hemplit.core.model.grid import Source
from hemplit.dataclasses import dataclass, replace
from hemplit.errors import InputError, nearest, without_password
from hemplit.files.database import BYTES, Mariadb, Postgresql, literal, quoted
from hemplit.files.parquet import of_table
from hemplit.files.pieces import ROWS, RUNS, Piece
from hemplit.servers import mariadb, postgresql

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.model.grid import Grid

#: The columns of a table of MariaDB, and whether they hold bytes.
COLUMNS = """
SELECT COLUMN_NAME, CHARACTER_SET_NAME IS NULL AND (DATA_TYPE LIKE '%blob' OR DATA_TYPE LIKE '%binary' OR DATA_TYPE IN
    ('bit', 'geometry', 'geometrycollection', 'point', 'linestring', 'polygon', 'multipoint', 'multilinestring',
    'multipolygon')) FROM information_schema.COLUMNS
WHERE TABLE_SCHEMA = {schema} AND TABLE_NAME = {table} ORDER BY ORDINAL_POSITION
"""


@dataclass(frozen=True)
class _Some:
    """Which rows of a table are wanted: the first of each ``step``, as many as a ``run``, and further ones."""

    step: int
    run: int
    also: tuple[int, ...]

    def condition(self, counted: str, number: str) -> str:
        """The condition for rows, whose number from 0 is ``counted`` first and known afterwards."""
        further = f" OR {number} IN ({', '.join(map(str, self.also))})" if self.also else ""
        return f"{counted} % {self.step} < {self.run}{further}"


class _Server(ABC):
    """A connection for one look at a table."""

    mark: ClassVar[str] = '"'
    connection: Any

    def named(self, schema: str, name: str) -> str:
        """A table as a statement writes it."""
        return ".".join(quoted(one, self.mark) for one in (schema, name) if one)

    def count(self, source: str) -> int:
        """How many rows there are."""
        with self.connection.cursor() as cursor:
            cursor.execute(f"SELECT count(*) FROM {source}")
            return int(cursor.fetchone()[0])

    @abstractmethod
    def tables(self, schema: str) -> dict[str, str]:
        """The tables and views of a schema, or of the usual one."""

    @abstractmethod
    def columns(self, schema: str, name: str) -> dict[str, bool]:
        """The columns of a table, and whether they hold bytes."""

    @abstractmethod
    def pieces(self, source: str, columns: Sequence[str], some: _Some | None) -> Iterator[pa.Table]:
        """The cells as the server writes them, of all or some rows."""

    @abstractmethod
    def close(self) -> None:
        """Lets the server go."""


class _Postgresql(Postgresql, _Server):
    """By COPY."""

    def __init__(self, address: str) -> None:
        super().__init__(address)
        # Rows come in the order of the table as far as one process reads it from the beginning.
        self.connection.execute("SET max_parallel_workers_per_gather = 0; SET synchronize_seqscans = off")

    def columns(self, schema: str, name: str) -> dict[str, bool]:
        found = self.connection.execute(f"SELECT * FROM {self.named(schema, name)} LIMIT 0").description
        return {column.name: column.type_code == BYTES for column in found}

    def pieces(self, source: str, columns: Sequence[str], some: _Some | None) -> Iterator[pa.Table]:
        cells = ", ".join(f"{quoted(name)}::text" for name in columns)
        if some is not None:
            number = "held.hemplit_n"
            source = f"(SELECT row_number() OVER () - 1 AS hemplit_n, * FROM {source}) AS held"
            source = f"{source} WHERE {some.condition(number, number)}"
        return postgresql.copied(self.connection, f"SELECT {cells} FROM {source}", [pa.string()] * len(columns))


class _Mariadb(Mariadb, _Server):
    """By a query whose rows are not held."""

    mark = "`"

    def columns(self, schema: str, name: str) -> dict[str, bool]:
        of = literal(schema) if schema else "DATABASE()"
        with self.connection.cursor() as cursor:
            cursor.execute(COLUMNS.format(schema=of, table=literal(name)))
            return {str(column): bool(int(is_bytes)) for column, is_bytes in cursor.fetchall()}

    def pieces(self, source: str, columns: Sequence[str], some: _Some | None) -> Iterator[pa.Table]:
        cells = ", ".join(quoted(name, self.mark) for name in columns)
        if some is not None:
            # Rows are counted as they are read, as the server would write all of them down to number them otherwise.
            with self.connection.cursor() as cursor:
                cursor.execute("SET @hemplit_at := -1")
            source = f"{source} WHERE {some.condition('(@hemplit_at := @hemplit_at + 1)', '@hemplit_at')}"
        return mariadb.fetched(self.connection, f"SELECT {cells} FROM {source}")


class TableRows:
    """The rows of a table or view. Raises ``InputError`` if there is none of that name, or no row in it."""

    def __init__(self, address: str) -> None:
        self._url, _, called = address.partition("#")
        path = without_password(self._url)
        self.source = Source(path, called, taken_as="a table of a server")
        schema, _, name = called.rpartition(".")
        with closing(self._server()) as server:
            known = server.tables(schema)
            if name not in known:
                raise InputError(path, f"it has no table '{called}'", nearest(name, known))
            self._table = server.named(schema, name)
            columns = server.columns(schema, name)
            self.row_count = server.count(self._table)
        if not self.row_count:
            raise InputError(path, f"'{called}' has no rows", "nothing can be read from it")
        bad = next((column for column, is_bytes in columns.items() if is_bytes), None)
        if bad is not None:
            where = f"{path} [{called}] column '{bad}'"
            raise InputError(where, "its cells hold bytes", "leave the column out with a view")
        self._names = [*columns]
        self.column_count = len(columns)

    def _server(self) -> _Server:
        is_mariadb = self._url.partition("://")[0].lower() in mariadb.SCHEMES
        return (_Mariadb if is_mariadb else _Postgresql)(self._url)

    def _rows(self, server: _Server, some: _Some | None = None) -> Iterator[pa.Table]:
        for piece in server.pieces(self._table, self._names, some):
            yield piece.rename_columns(self._names)

    def __iter__(self) -> Iterator[Piece]:
        before = 0
        with closing(self._server()) as server:
            held: list[pa.Table] = []
            for rows in self._rows(server):
                held.append(rows)
                if sum(one.num_rows for one in held) >= ROWS:
                    yield self._piece(pa.concat_tables(held), before)
                    before += sum(one.num_rows for one in held)
                    held = []
            if held:
                yield self._piece(pa.concat_tables(held), before)

    def _piece(self, rows: pa.Table, before: int) -> Piece:
        grid = self._grid(rows, ((("", -before)),))
        return Piece(grid, np.append(0, np.arange(before, before + rows.num_rows) + 1))

    def _grid(self, rows: pa.Table, parts: tuple[tuple[str, int], ...] = ()) -> Grid:
        return replace(of_table(rows, self.source.title), source=replace(self.source, parts=parts))

    def row(self, place: int) -> str:
        """The row at a place, in words."""
        return f"row {place + 1:,}"

    def sample(self, most: int, also: npt.NDArray[np.int64]) -> Grid:
        """A grid of no more rows than that, in runs that lie evenly over the table, and of those at further places."""
        some = None
        if self.row_count > most:
            some = _Some(max(self.row_count // RUNS, 1), most // RUNS, tuple((also - 1).tolist()))
        with closing(self._server()) as server:
            return self._grid(pa.concat_tables(self._rows(server, some)))
