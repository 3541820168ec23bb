"""A table of a PostgreSQL server that is larger than memory → grids of some of its rows, as ``pieces`` of files.

The rows come in the order in which the server reads the table from its beginning.
"""

from __future__ import annotations

from contextlib import closing
from typing import TYPE_CHECKING, Any

import numpy as np
import pyarrow as pa

from hemplit.core.model.grid import Source
from hemplit.errors import InputError, nearest, without_password
from hemplit.files.database import BYTES, LISTED, literal, quoted
from hemplit.files.parquet import of_table
from hemplit.files.pieces import ROWS, RUNS, Piece
from hemplit.servers import postgresql

if TYPE_CHECKING:
    from collections.abc import Iterator

    import numpy.typing as npt

    from hemplit.core.model.grid import Grid

#: Rows come in the order of the table as far as one process reads it from the beginning.
IN_ORDER = "SET max_parallel_workers_per_gather = 0; SET synchronize_seqscans = off"


class TableRows:
    """The rows of a table or view. Raises ``InputError`` if there is none of that name, or no row in it."""

    def __init__(self, address: str) -> None:
        self._url, _, called = address.partition("#")
        self.path, self.called = without_password(self._url), called
        self.title = Source(self.path, called).title
        schema, _, name = called.rpartition(".")
        with closing(self._connection()) as connection:
            of = literal(schema) if schema else "current_schema()"
            known = dict(connection.execute(LISTED.format(schema=of)).fetchall())
            if name not in known:
                raise InputError(self.path, f"it has no table '{called}'", nearest(name, known))
            self._source = f"{quoted(schema)}.{quoted(name)}" if schema else quoted(name)
            columns = connection.execute(f"SELECT * FROM {self._source} LIMIT 0").description
            self.row_count = int(connection.execute(f"SELECT count(*) FROM {self._source}").fetchone()[0])
        if not self.row_count:
            raise InputError(self.path, f"'{called}' has no rows", "nothing can be read from it")
        self._names = [column.name for column in columns]
        bad = next((column.name for column in columns if column.type_code == BYTES), None)
        if bad is not None:
            where = f"{self.path} [{called}] column '{bad}'"
            raise InputError(where, "its cells hold bytes", "leave the column out with a view")

    def _connection(self) -> Any:
        connection = postgresql.connect(self._url, self.path)
        connection.execute(IN_ORDER)
        return connection

    def _rows(self, connection: Any, where: str = "") -> Iterator[pa.Table]:
        cells = ", ".join(f"{quoted(name)}::text" for name in self._names)
        source = self._source if not where else f"(SELECT row_number() OVER () - 1 AS hemplit_n, * FROM {self._source})"
        query = f"SELECT {cells} FROM {source} AS held{where}"
        for piece in postgresql.copied(connection, query, [pa.string()] * len(self._names)):
            yield piece.rename_columns(self._names)

    def __iter__(self) -> Iterator[Piece]:
        before = 0
        with closing(self._connection()) as connection:
            held: list[pa.Table] = []
            for rows in self._rows(connection):
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
        grid = of_table(rows, self.title)
        source = Source(self.path, self.called, taken_as="a table of a server", parts=parts)
        return type(grid)(source, grid.columns, grid.row_count)

    def row(self, place: int) -> str:
        """The row at a place, in words."""
        return f"row {place + 1:,}"

    def sample(self, most: int, also: npt.NDArray[np.int64]) -> Grid:
        """A grid of no more rows than that, in runs that lie evenly over the table, and of those at further places."""
        step = max(self.row_count // RUNS, 1)
        where = ""
        if self.row_count > most:
            numbers = ", ".join(map(str, (also - 1).tolist())) or "-1"
            where = f" WHERE hemplit_n % {step} < {most // RUNS} OR hemplit_n IN ({numbers})"
        with closing(self._connection()) as connection:
            return self._grid(pa.concat_tables(self._rows(connection, where)))
