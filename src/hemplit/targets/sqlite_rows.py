"""Rows into SQLite and out of it, as Arrow tables."""

from __future__ import annotations

import json
from dataclasses import replace
from typing import TYPE_CHECKING, Any

import pyarrow as pa
import pyarrow.compute as pc
from sqlalchemy.dialects import sqlite

from hemplit.core.model.loads import Load
from hemplit.errors import TargetError
from hemplit.targets import schema
from hemplit.targets.sqlite_catalogue import (
    CREATE_LOADS,
    CREATE_OBJECTS,
    LOADS,
    OBJECTS,
    expected_objects,
    quote,
    written,
)

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    from hemplit.core.model.tables import Table, TableColumn, Tables
#: The driver guesses the type of a column from its first batch of rows and fails if a later one is of another.
FEWEST_ROWS_IN_BATCH = 1024
NOTED = ("file", "worksheet", "sheet", "mark", "rows", "at", "topup", "how", "counts", "left_out", "seal")


def reason_of(error: Exception) -> str:
    """What the library says, without its own name and the query."""
    return " ".join(str(error).replace("[SQLite]", "").split("query:")[0].split())


def read_rows(connection: Any, table: Table) -> pa.Table:
    """All rows of a table."""
    names = [quote(column.name) for column in table.columns]
    held = _selected(connection, table, names)
    if any(pa.types.is_binary(column.type) for column in held.columns):
        # Bytes are no values of ours, though they may spell one.
        shown = [f"CASE typeof({name}) WHEN 'blob' THEN 'bytes ' || hex({name}) ELSE {name} END" for name in names]
        held = _selected(connection, table, shown)
    return held


def _selected(connection: Any, table: Table, columns: Sequence[str]) -> pa.Table:
    query = f"SELECT {', '.join(columns)} FROM {quote(table.name)}"
    return fetched(connection, query, table.row_count).rename_columns([column.name for column in table.columns])


def fetched(connection: Any, query: str, rows: int) -> pa.Table:
    """What a query gives, in one batch; bytes in a text that no encoding of ours has are made readable."""
    with connection.cursor() as cursor:
        batch = str(max(rows + 1, FEWEST_ROWS_IN_BATCH))
        cursor.adbc_statement.set_options(**{"adbc.sqlite.query.batch_rows": batch})
        cursor.execute(query)
        held = cursor.fetch_arrow_table()
    for place, column in enumerate(held.columns):
        if pa.types.is_string(column.type) and not _is_text(column):
            held = held.set_column(place, held.column_names[place], _readable(column))
    return held


def _is_text(column: pa.ChunkedArray) -> bool:
    try:
        column.validate(full=True)
    except (pa.ArrowInvalid, UnicodeDecodeError):
        return False
    return True


def _readable(column: pa.ChunkedArray) -> pa.StringArray:
    """The column with texts that are none in any encoding of ours by their hexadecimal digits."""
    texts = []
    for value in column.cast(pa.binary()).to_pylist():
        try:
            texts.append(None if value is None else value.decode())
        except UnicodeDecodeError:
            texts.append(f"bytes {value.hex()}")
    return pa.array(texts, pa.string())


def fill(cursor: Any, tables: Tables) -> None:
    """Creates all, writes the rows, and looks whether every reference leads somewhere."""
    described, dialect = schema.metadata(tables), sqlite.dialect()
    cursor.execute(CREATE_OBJECTS)
    cursor.execute(CREATE_LOADS)
    for statement in schema.create_tables(described, tables, dialect):
        cursor.execute(statement)
    for table in tables.tables:
        cursor.adbc_ingest(table.name, as_stored(table), mode="append")
    for statement in schema.create_indexes(described, tables, dialect):
        cursor.execute(statement)
    for view in tables.views:
        cursor.execute(schema.create_view(described, view, dialect, written))
    made = [(name, kind) for name, (kind, _) in expected_objects(tables).items() if name not in (OBJECTS, LOADS)]
    listed = pa.table({"name": [name for name, _ in made], "kind": [kind for _, kind in made]})
    cursor.adbc_ingest(OBJECTS, listed, mode="append")
    for table in tables.tables:
        cursor.execute(f"PRAGMA foreign_key_check({quote(table.name)})")
        broken = cursor.fetchall()
        if broken:
            what = f"table '{broken[0][0]}' has a reference to '{broken[0][2]}' that leads nowhere"
            raise TargetError(table.name, what)


def want(cursor: Any, keys: pa.Table) -> Callable[[str], str]:
    """Puts keys into a table of this connection; gives what names, of a table, the rows ``held`` with one."""
    names = ", ".join(map(quote, keys.column_names))
    cursor.execute("DROP TABLE IF EXISTS temp.hemplit_wanted")
    cursor.execute(f"CREATE TEMP TABLE hemplit_wanted ({names})")
    if keys.num_rows:
        marks = ", ".join("?" for _ in keys.column_names)
        cursor.executemany(f"INSERT INTO temp.hemplit_wanted VALUES ({marks})", keys.combine_chunks())
    same = " AND ".join(f"held.{quote(name)} = wanted.{quote(name)}" for name in keys.column_names)
    wanted = f"(SELECT DISTINCT {names} FROM temp.hemplit_wanted) AS wanted"
    # A cross join keeps the few keys in front, each of which is looked up.
    return lambda table: f"{wanted} CROSS JOIN {quote(table)} AS held ON {same}"


def note(cursor: Any, loads: Sequence[Load]) -> None:
    """Writes down what was loaded."""
    if loads:
        rows = [[*_plain(one), json.dumps(dict(one.counts)), json.dumps(one.left_out), one.seal] for one in loads]
        told = pa.table([list(column) for column in zip(*rows, strict=True)], names=NOTED)
        cursor.adbc_ingest(LOADS, told, mode="append")


def load_of(row: tuple[Any, ...]) -> Load:
    """What a row of the list says; what is no load is one that somebody changed."""
    *said, counts, left_out, seal = row
    try:
        held = {str(name): int(count) for name, count in json.loads(counts).items()}
        file, worksheet, sheet, mark, rows, at, topup, how = said
        besides = tuple(map(str, json.loads(left_out)))
        load = Load(file, worksheet, sheet, mark, rows, at, bool(topup), how, held, besides)
        sealed = load.seal == seal and [*map(type, said)] == [*map(type, _plain(load))]
    except (ValueError, TypeError, AttributeError):
        return Load(str(said[0]), "", str(said[2]), "", 0, "", sealed=False)
    return replace(load, sealed=sealed)


def _plain(load: Load) -> tuple[str | int, ...]:
    """What the list has of a load in columns of their own."""
    return (load.file, load.worksheet, load.sheet, load.mark, load.rows, load.at, int(load.topup), load.how)


def update(cursor: Any, table: Table) -> None:
    """Gives the rows of these keys the values that they have here."""
    others = [column.name for column in table.columns if column.name not in table.key]
    if not others or not table.row_count:
        return
    told = ", ".join(f"{quote(name)} = ?" for name in others)
    keys = " AND ".join(f"{quote(name)} = ?" for name in table.key)
    rows = as_stored(table).select([*others, *table.key]).to_pylist()
    for row in rows:
        cursor.execute(f"UPDATE {quote(table.name)} SET {told} WHERE {keys}", list(row.values()))


def as_stored(table: Table) -> pa.Table:
    """The rows of a table in the types that SQLite has for them."""
    return pa.table({column.name: _encoded(column) for column in table.columns})


def _encoded(column: TableColumn) -> pa.Array:
    values = column.values
    if column.kind.word == "yes/no":
        values = pc.cast(values, pa.int64())
    elif column.kind.word in ("date", "time", "date and time"):
        values = pc.cast(values, pa.string())
    return values.take(pa.array(column.codes, mask=column.codes < 0))
