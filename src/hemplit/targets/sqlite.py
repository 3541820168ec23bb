"""The embedded default: one SQLite file, written beside its final name and put in place when it is whole."""

from __future__ import annotations

import sqlite3
from pathlib import Path
from typing import TYPE_CHECKING, Any

import adbc_driver_manager
import adbc_driver_sqlite.dbapi
import pyarrow as pa
import pyarrow.compute as pc
import sqlalchemy as sa
from sqlalchemy.dialects import sqlite

from hemplit.core.kinds.calendar import directives
from hemplit.errors import TargetError
from hemplit.targets import schema

if TYPE_CHECKING:
    from collections.abc import Iterable

    from hemplit.core.model.relation import Kind
    from hemplit.core.model.tables import Table, TableColumn, Tables, View

ENDINGS = (".sqlite", ".sqlite3", ".db")
#: The driver guesses the type of a column from its first batch of rows and fails if a later one is of another.
FEWEST_ROWS_IN_BATCH = 1024
#: The file counts only when it is whole and in place, so nothing needs to be made safe while it is written.
UNFINISHED = ("PRAGMA journal_mode = OFF", "PRAGMA synchronous = OFF")


class SqliteTarget:
    """A SQLite file.

    >>> SqliteTarget.takes("yard.sqlite"), SqliteTarget.takes("yard.csv")
    (True, False)
    """

    def __init__(self, text: str) -> None:
        self.text = text
        self.path = Path(text)

    @classmethod
    def takes(cls, text: str) -> bool:
        return "://" not in text and Path(text).suffix.lower() in ENDINGS

    def check(self) -> None:
        if not self.path.parent.is_dir():
            raise TargetError(self.text, "its folder does not exist", f"make the folder {self.path.parent} first")
        if self.path.is_dir():
            raise TargetError(self.text, "this is a folder", "name a file in it")

    def exists(self) -> bool:
        return self.path.exists()

    def write(self, tables: Tables) -> None:
        """Makes the file beside its final name; an older file is replaced at the end, or stays untouched."""
        unfinished = self.path.with_name(self.path.name + ".unfinished")
        try:
            unfinished.unlink(missing_ok=True)
            try:
                _write(unfinished, tables)
                unfinished.replace(self.path)
            finally:
                unfinished.unlink(missing_ok=True)
        except OSError as error:
            raise TargetError(
                self.text, f"it cannot be written ({error.strerror})", "close it in other programs"
            ) from error
        except (sqlite3.Error, adbc_driver_manager.Error) as error:
            raise TargetError(self.text, f"the database refuses the tables ({error})", "look at the design") from error

    def expected(self, table: Table) -> pa.Table:
        """Dates and times are ISO texts, yes and no are 1 and 0."""
        return _rows(table)

    def read(self, tables: Tables) -> dict[str, pa.Table]:
        if not self.exists():
            raise TargetError(self.text, "there is no such file", "load the design into it first")
        held = {}
        try:
            with adbc_driver_sqlite.dbapi.connect(f"{self.path.absolute().as_uri()}?mode=ro") as connection:
                for table in tables.tables:
                    held[table.name] = _read(connection, table)
        except (adbc_driver_manager.Error, OSError) as error:
            reason = " ".join(str(error).replace("[SQLite]", "").split())
            raise TargetError(
                self.text, f"it does not hold the tables of the design ({reason})", "load the design again"
            ) from error
        return held

    def view_rows(self, view: View) -> int:
        connection = sqlite3.connect(self.path)
        try:
            return int(connection.execute(f"SELECT COUNT(*) FROM {_quote(view.name)}").fetchone()[0])
        except sqlite3.Error as error:
            raise TargetError(
                self.text, f"the view '{view.name}' cannot be read ({error})", "load the design again"
            ) from error
        finally:
            connection.close()


def _quote(name: str) -> str:
    return sqlite.dialect().identifier_preparer.quote(name)


def _read(connection: Any, table: Table) -> pa.Table:
    columns = ", ".join(_quote(column.name) for column in table.columns)
    with connection.cursor() as cursor:
        rows = max(table.row_count + 1, FEWEST_ROWS_IN_BATCH)
        cursor.adbc_statement.set_options(**{"adbc.sqlite.query.batch_rows": str(rows)})
        cursor.execute(f"SELECT {columns} FROM {_quote(table.name)}")
        return cursor.fetch_arrow_table()


def _write(path: Path, tables: Tables) -> None:
    dialect = sqlite.dialect()
    described = schema.metadata(tables)
    _execute(path, schema.create_tables(described, tables, dialect))
    with adbc_driver_sqlite.dbapi.connect(str(path), autocommit=True) as bulk, bulk.cursor() as cursor:
        for pragma in UNFINISHED:
            cursor.execute(pragma)
        for table in tables.tables:
            cursor.adbc_ingest(table.name, _rows(table), mode="append")
    _execute(path, schema.create_indexes(described, tables, dialect))
    _execute(path, (schema.create_view(described, view, dialect, _written) for view in tables.views))
    broken = _execute(path, ["PRAGMA foreign_key_check"])
    if broken:
        raise TargetError(str(path), f"table '{broken[0][0]}' has a reference to '{broken[0][2]}' that leads nowhere")


def _execute(path: Path, statements: Iterable[str]) -> list[Any]:
    """Runs all statements in one transaction and returns the rows of the last."""
    connection = sqlite3.connect(path, isolation_level=None)
    try:
        for pragma in UNFINISHED:
            connection.execute(pragma)
        connection.execute("BEGIN")
        rows: list[Any] = []
        for statement in statements:
            rows = connection.execute(statement).fetchall()
        connection.execute("COMMIT")
        return rows
    finally:
        connection.close()


def _rows(table: Table) -> pa.Table:
    return pa.table({column.name: _encoded(column) for column in table.columns})


def _encoded(column: TableColumn) -> pa.Array:
    values = column.values
    if column.kind.word == "yes/no":
        values = pc.cast(values, pa.int64())
    elif column.kind.word in ("date", "time", "date and time"):
        values = pc.cast(values, pa.string())
    return values.take(pa.array(column.codes, mask=column.codes < 0))


def _written(kind: Kind, column: sa.ColumnElement[Any]) -> sa.ColumnElement[Any]:
    """A stored value as the sheet writes it: dates in its order, yes and no in its words; numbers stay numbers."""
    if kind.word == "yes/no":
        yes, _, no = kind.form.partition("/")
        return sa.case((column.is_(True), yes), (column.is_(False), no))
    if kind.word in ("date", "time", "date and time"):
        return sa.func.strftime(directives(kind.form), column)
    return column
