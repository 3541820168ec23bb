"""Tables of a database → one grid each, whose first row holds the names of the columns.

A file of SQLite is known by its ending, a server by its address; what is behind a # names the table.
"""

from __future__ import annotations

import sqlite3
from contextlib import closing, contextmanager
from itertools import islice
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol

from hemplit.core.model.grid import Grid, Source
from hemplit.errors import InputError, TargetError, nearest, without_password
from hemplit.files.cells import from_pieces, piece
from hemplit.servers import is_address, mariadb, postgresql, sqlite

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

BEGINNING = b"SQLite format 3\x00"
#: What a database keeps for itself, and what Hemplit keeps in it.
KEPT = ("sqlite_", "hemplit_")
#: So many rows are taken at once.
ROWS = 1 << 14
LISTED = (
    "SELECT table_name, CASE table_type WHEN 'VIEW' THEN 'view' ELSE 'table' END FROM information_schema.tables "
    "WHERE table_schema = {schema} ORDER BY table_name"
)


class _Database(Protocol):
    """One sort of database."""

    where: str
    taken_as: str

    def tables(self, schema: str) -> dict[str, str]:
        """What there is, in a schema or the usual one: whether each name is a table or a view."""

    def rows(self, schema: str, table: str) -> Any:
        """For a while the names of the columns and the rows of a table."""

    def close(self) -> None: ...


def read(path: str) -> tuple[Grid, ...]:
    """Each table that has rows, or the table or view that is named behind a #, in a schema if that is named, too.

    Raises ``InputError`` if it is no database, is not reached, has no such table, or holds bytes in a cell.
    """
    place, _, table = path.partition("#") if is_address(path) or not Path(path).is_file() else (path, "", "")
    try:
        with closing(_opened(place)) as database:
            return _grids(database, table)
    except TargetError as error:
        raise InputError(error.where, error.what, error.hint) from error
    except sqlite3.Error as error:
        raise InputError(place, f"it cannot be read ({error})", "close it in other programs") from error


def _opened(place: str) -> _Database:
    scheme = place.partition("://")[0].lower()
    if not is_address(place):
        return _Sqlite(Path(place))
    if scheme in postgresql.SCHEMES:
        return Postgresql(place)
    if scheme in mariadb.SCHEMES:
        return Mariadb(place)
    hint = "postgresql://, mariadb:// and mysql:// are"
    raise InputError(without_password(place), "this is no address of a server that is read", hint)


class _Sqlite:
    """A file of SQLite."""

    taken_as = "SQLite"

    def __init__(self, path: Path) -> None:
        self.where = str(path)
        with path.open("rb") as file:
            if file.read(len(BEGINNING)) != BEGINNING:
                raise InputError(self.where, "this is not a SQLite database", "look at what it is")
        self.connection = sqlite.connect(path)

    def tables(self, schema: str) -> dict[str, str]:
        query = "SELECT name, type FROM sqlite_master WHERE type IN ('table', 'view')"
        return {str(name): str(kind) for name, kind in self.connection.execute(query)}

    @contextmanager
    def rows(self, schema: str, table: str) -> Iterator[tuple[list[str], Iterable[tuple[Any, ...]]]]:
        cursor = self.connection.execute(f"SELECT * FROM {quoted(table)}")
        yield [str(column[0]) for column in cursor.description], cursor

    def close(self) -> None:
        self.connection.close()


class Postgresql:
    """A database of PostgreSQL, whose cells come as it writes them."""

    taken_as = "a table of a server"

    def __init__(self, address: str) -> None:
        self.where = without_password(address)
        self.connection = postgresql.connect(address, self.where)

    def tables(self, schema: str) -> dict[str, str]:
        of = literal(schema) if schema else "current_schema()"
        return dict(self.connection.execute(LISTED.format(schema=of)).fetchall())

    @contextmanager
    def rows(self, schema: str, table: str) -> Iterator[tuple[list[str], Iterable[tuple[Any, ...]]]]:
        named = f"{quoted(schema)}.{quoted(table)}" if schema else quoted(table)
        columns = self.connection.execute(f"SELECT * FROM {named} LIMIT 0").description
        cells = ", ".join(
            quoted(column.name) if column.type_code == BYTES else f"{quoted(column.name)}::text" for column in columns
        )
        with self.connection.cursor(name="hemplit") as cursor:
            cursor.itersize = ROWS
            cursor.execute(f"SELECT {cells} FROM {named}")
            yield [column.name for column in columns], cursor

    def close(self) -> None:
        self.connection.close()


class Mariadb:
    """A database of MariaDB or MySQL, whose cells come as it writes them."""

    taken_as = "a table of a server"

    def __init__(self, address: str) -> None:
        self.where = without_password(address)
        self.connection = mariadb.connect(address, self.where)
        self.connection.decoders = {}

    def tables(self, schema: str) -> dict[str, str]:
        with self.connection.cursor() as cursor:
            cursor.execute(LISTED.format(schema=literal(schema) if schema else "DATABASE()"))
            return dict(cursor.fetchall())

    @contextmanager
    def rows(self, schema: str, table: str) -> Iterator[tuple[list[str], Iterable[tuple[Any, ...]]]]:
        named = ".".join(quoted(one, "`") for one in (schema, table) if one)
        with self.connection.cursor() as cursor:
            cursor.execute(f"SELECT * FROM {named}")
            yield [column[0] for column in cursor.description], cursor

    def close(self) -> None:
        self.connection.close()


#: The number of the type in which PostgreSQL holds bytes.
BYTES = 17


def quoted(name: str, mark: str = '"') -> str:
    """A name as a statement writes it."""
    return mark + name.replace(mark, 2 * mark) + mark


def literal(text: str) -> str:
    """A text as a statement writes it."""
    return quoted(text, "'")


def _grids(database: _Database, table: str) -> tuple[Grid, ...]:
    schema, _, name = ("", "", table) if database.taken_as == _Sqlite.taken_as else table.rpartition(".")
    known = {one: kind for one, kind in database.tables(schema).items() if not one.startswith(KEPT)}
    if table and name not in known:
        raise InputError(database.where, f"it has no table '{table}'", nearest(name, known))
    wanted = [name] if table else [one for one, kind in known.items() if kind == "table"]
    grids = [_grid(database, schema, one, table or one) for one in wanted]
    filled = tuple(grid for grid in grids if grid.row_count > 1)
    if not filled:
        raise InputError(database.where, "no table of it has rows", "nothing can be read from it")
    return filled


def _grid(database: _Database, schema: str, name: str, called: str) -> Grid:
    with database.rows(schema, name) as (names, rows):
        pieces = [[piece([one])] for one in names]
        count, left = 1, iter(rows)
        while held := list(islice(left, ROWS)):
            count += len(held)
            for parts, column, cells in zip(pieces, names, zip(*held, strict=True), strict=True):
                if any(isinstance(cell, bytes) for cell in cells):
                    where = f"{database.where} [{name}] column '{column}'"
                    raise InputError(where, "its cells hold bytes", "leave the column out with a view")
                parts.append(piece(["" if cell is None else cell for cell in cells]))
    columns = tuple(map(from_pieces, pieces))
    return Grid(Source(database.where, called, taken_as=database.taken_as), columns, count)
