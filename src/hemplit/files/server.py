"""Tables of a database on a server → one grid each, whose first row holds the names of the columns."""

from __future__ import annotations

from contextlib import closing, contextmanager
from itertools import islice
from typing import TYPE_CHECKING, Any

from hemplit.core.model.grid import Grid, Source
from hemplit.errors import InputError, TargetError, nearest, without_password
from hemplit.files.cells import from_pieces, piece
from hemplit.servers import mariadb, postgresql

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

#: What Hemplit keeps for itself.
KEPT = "hemplit_"
#: So many rows are taken at once.
ROWS = 1 << 14
LISTED = "SELECT table_schema, table_name, table_type FROM information_schema.tables WHERE table_schema = {schema}"


def read(address: str) -> tuple[Grid, ...]:
    """Each table that has rows, or the table or view that is named behind a #, in a schema if that is named, too.

    Raises ``InputError`` if the server is not reached, has no such table, or holds bytes in a cell.
    """
    url, _, table = address.partition("#")
    where = without_password(url)
    try:
        if url.partition("://")[0].lower() in postgresql.SCHEMES:
            return _read_all(_Postgresql(url, where), table)
        if url.partition("://")[0].lower() in mariadb.SCHEMES:
            return _read_all(_Mariadb(url, where), table)
    except TargetError as error:
        raise InputError(error.where, error.what, error.hint) from error
    raise InputError(where, "this is no address of a server that is read", "postgresql://, mariadb:// and mysql:// are")


class _Postgresql:
    """The tables of a PostgreSQL database."""

    #: The schema where somebody names none.
    usual = "current_schema()"
    mark = '"'

    def __init__(self, url: str, where: str) -> None:
        self.where = where
        self.connection = postgresql.connect(url, where)

    def rows(self, query: str) -> Iterator[tuple[Any, ...]]:
        yield from self.connection.execute(query).fetchall()

    @contextmanager
    def texts(self, table: str) -> Iterator[tuple[list[str], Iterable[tuple[Any, ...]]]]:
        """The names of the columns, and the rows as texts."""
        columns = self.connection.execute(f"SELECT * FROM {table} LIMIT 0").description
        odd = next((column.name for column in columns if column.type_code == BYTES), None)
        if odd is not None:
            raise InputError(f"{self.where} column '{odd}'", "its cells hold bytes", "leave it out with a view")
        cells = ", ".join(f"{quoted(column.name, self.mark)}::text" for column in columns)
        with self.connection.cursor(name="hemplit") as cursor:
            cursor.itersize = ROWS
            cursor.execute(f"SELECT {cells} FROM {table}")
            yield [column.name for column in columns], cursor


class _Mariadb:
    """The tables of a MariaDB or MySQL database."""

    usual = "DATABASE()"
    mark = "`"

    def __init__(self, url: str, where: str) -> None:
        self.where = where
        self.connection = mariadb.connect(url, where)
        self.connection.decoders = {}  # all as the server writes it

    def rows(self, query: str) -> Iterator[tuple[Any, ...]]:
        with self.connection.cursor() as cursor:
            cursor.execute(query)
            yield from cursor.fetchall()

    @contextmanager
    def texts(self, table: str) -> Iterator[tuple[list[str], Iterable[tuple[Any, ...]]]]:
        """The names of the columns, and the rows as texts."""
        with self.connection.cursor() as cursor:
            cursor.execute(f"SELECT * FROM {table}")
            yield [column[0] for column in cursor.description], cursor


#: The number of the type in which PostgreSQL holds bytes.
BYTES = 17


def quoted(name: str, mark: str) -> str:
    """A name as a statement writes it."""
    return mark + name.replace(mark, 2 * mark) + mark


def _read_all(database: _Postgresql | _Mariadb, table: str) -> tuple[Grid, ...]:
    schema, _, name = table.rpartition(".")
    with closing(database.connection):
        meant = "'" + schema.replace("'", "''") + "'" if schema else database.usual
        listed = [tuple(map(str, row)) for row in database.rows(LISTED.format(schema=meant) + " ORDER BY table_name")]
        known = {one: (of, kind) for of, one, kind in listed if not one.startswith(KEPT)}
        if table and name not in known:
            raise InputError(database.where, f"it has no table '{table}'", nearest(name, known))
        wanted = [name] if table else [one for one, (_, kind) in known.items() if kind == "BASE TABLE"]
        grids = [_grid(database, known[one][0], one, table or one) for one in wanted]
    filled = tuple(grid for grid in grids if grid.row_count > 1)
    if not filled:
        raise InputError(database.where, "no table of it has rows", "nothing can be read from it")
    return filled


def _grid(database: _Postgresql | _Mariadb, schema: str, name: str, called: str) -> Grid:
    with database.texts(f"{quoted(schema, database.mark)}.{quoted(name, database.mark)}") as (names, rows):
        pieces = [[piece([one])] for one in names]
        count, left = 1, iter(rows)
        while held := list(islice(left, ROWS)):
            count += len(held)
            for parts, column, cells in zip(pieces, names, zip(*held, strict=True), strict=True):
                if any(isinstance(cell, bytes) for cell in cells):
                    where = f"{database.where} [{name}] column '{column}'"
                    raise InputError(where, "its cells hold bytes", "leave it out with a view")
                parts.append(piece(["" if cell is None else str(cell) for cell in cells]))
    return Grid(Source(database.where, called, taken_as="a table of a server"), tuple(map(from_pieces, pieces)), count)
