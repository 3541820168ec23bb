"""Tables of a SQLite database → one grid each, whose first row holds the names of the columns."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from typing import TYPE_CHECKING

from hemplit.core.model.grid import Grid, Source
from hemplit.errors import InputError, nearest
from hemplit.files.cells import from_pieces, piece

if TYPE_CHECKING:
    from pathlib import Path

    from hemplit.core.model.grid import GridColumn

#: A folder of sheets may hold what they were loaded into, so a database is only read if somebody names it.
ENDINGS = (".sqlite", ".sqlite3", ".db")
BEGINNING = b"SQLite format 3\x00"
#: What a database keeps for itself, and what Hemplit keeps in it.
KEPT = ("sqlite_", "hemplit_")
#: So many rows are taken at once.
ROWS = 1 << 14


def read(path: Path, table: str = "") -> tuple[Grid, ...]:
    """Each table that has rows, or the one table or view of a name.

    Raises ``InputError`` if the file is no database, has no such table, or holds bytes in a cell.
    """
    with path.open("rb") as file:
        if file.read(len(BEGINNING)) != BEGINNING:
            raise InputError(str(path), "this is not a SQLite database", "look at what it is")
    try:
        with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)) as connection:
            listed = connection.execute(
                "SELECT name, type FROM sqlite_master WHERE type IN ('table', 'view')"
            ).fetchall()
            known = {str(name): str(kind) for name, kind in listed if not str(name).startswith(KEPT)}
            if table and table not in known:
                raise InputError(str(path), f"it has no table '{table}'", nearest(table, known))
            wanted = [table] if table else [name for name, kind in known.items() if kind == "table"]
            grids = [_grid(connection, path, name) for name in wanted]
    except sqlite3.Error as error:
        raise InputError(str(path), f"it cannot be read ({error})", "close it in other programs") from error
    filled = tuple(grid for grid in grids if grid.row_count > 1)
    if not filled:
        raise InputError(str(path), "no table of it has rows", "nothing can be read from it")
    return filled


def _grid(connection: sqlite3.Connection, path: Path, table: str) -> Grid:
    quoted = '"' + table.replace('"', '""') + '"'
    cursor = connection.execute(f"SELECT * FROM {quoted}")
    names = [str(column[0]) for column in cursor.description]
    pieces = [[piece([name])] for name in names]
    count = 1
    while rows := cursor.fetchmany(ROWS):
        for name, parts, cells in zip(names, pieces, zip(*rows, strict=True), strict=True):
            if any(isinstance(cell, bytes) for cell in cells):
                where = f"{path} [{table}] column '{name}'"
                raise InputError(where, "its cells hold bytes", "leave the column out with a view")
            parts.append(piece(["" if cell is None else cell for cell in cells]))
        count += len(rows)
    columns: tuple[GridColumn, ...] = tuple(map(from_pieces, pieces))
    return Grid(Source(str(path), table, taken_as="SQLite"), columns, count)
