"""Rows into SQLite and out of it, as Arrow tables."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import pyarrow as pa

from hemplit.core.tables.nobody import to_nobody
from hemplit.errors import TargetError
from hemplit.targets.rows import BATCH, Written, as_stored, of_bytes
from hemplit.targets.sql.rows import LOADS, OBJECTS, noted
from hemplit.targets.sqlite_catalogue import (
    SQLITE,
)

if TYPE_CHECKING:
    from collections.abc import Callable, Mapping, Sequence

    from hemplit.core.model.loads import Load
    from hemplit.core.model.progress import Progress
    from hemplit.core.model.tables import Table, Tables
#: The driver guesses the type of a column from its first batch of rows and fails if a later one is of another.
FEWEST_ROWS_IN_BATCH = 1024

#: The names that SQLite gives the number of a row, unless a column is called so.
ROW_IDS = ("rowid", "_rowid_", "oid")


def reason_of(error: Exception) -> str:
    """What the library says, without its own name and the query."""
    return " ".join(str(error).replace("[SQLite]", "").split("query:")[0].split())


def row_id_of(table: Table) -> str | None:
    """What the number of a row is called that SQLite gives it; None if columns have taken all its names."""
    taken = {name.lower() for name in table.by_name}
    return next((name for name in ROW_IDS if name not in taken), None)


def ends_of(table: str, row_id: str) -> str:
    """The query for the first and the last number of a row; asked for both at once, SQLite would look at all."""
    source = SQLITE.quote(table)
    return f"SELECT (SELECT min({row_id}) FROM {source}), (SELECT max({row_id}) FROM {source})"


def read_rows(connection: Any, table: Table, where: str = "") -> pa.Table:
    """All rows of a table, or those of a condition."""
    names = [SQLITE.quote(column.name) for column in table.columns]
    held = _selected(connection, table, names, where)
    if any(pa.types.is_binary(column.type) for column in held.columns):
        # Bytes are no values of ours, though they may spell one.
        shown = [f"CASE typeof({name}) WHEN 'blob' THEN 'bytes ' || hex({name}) ELSE {name} END" for name in names]
        held = _selected(connection, table, shown, where)
    return held


def _selected(connection: Any, table: Table, columns: Sequence[str], where: str) -> pa.Table:
    query = f"SELECT {', '.join(columns)} FROM {SQLITE.quote(table.name)}{f' WHERE {where}' if where else ''}"
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


def without_bytes(held: pa.Table) -> pa.Table:
    """The same with bytes that somebody wrote among texts as texts, too."""
    for place, column in enumerate(held.columns):
        if pa.types.is_binary(column.type):
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
            texts.append(of_bytes(value))
    return pa.array(texts, pa.string())


def fill(cursor: Any, tables: Tables, objects: Mapping[str, tuple[str, str]], progress: Progress) -> None:
    """Creates all and writes the rows, of which every reference must lead somewhere.

    That is seen before, in the columns that share their values: SQLite would look up every row of every reference.
    """
    for table, reference in to_nobody(tables):
        raise TargetError(table.name, f"table '{table.name}' has a reference to '{reference.table}' that leads nowhere")
    by_kind = {
        kind: [statement for one, statement in objects.values() if one == kind] for kind in ("table", "index", "view")
    }
    for statement in by_kind["table"]:
        cursor.execute(statement)
    written = Written(tables, progress)
    for table in tables.tables:
        for batch in as_stored(table).to_batches(BATCH):
            cursor.adbc_ingest(table.name, batch, mode="append")
            written.add(batch.num_rows)
    written.linking()
    for statement in (*by_kind["index"], *by_kind["view"]):
        cursor.execute(statement)
    made = [(name, kind) for name, (kind, _) in objects.items() if name not in (OBJECTS, LOADS)]
    listed = pa.table({"name": [name for name, _ in made], "kind": [kind for _, kind in made]})
    cursor.adbc_ingest(OBJECTS, listed, mode="append")


def want(cursor: Any, keys: pa.Table) -> Callable[[str], str]:
    """Puts keys into a table of this connection; gives what names, of a table, the rows ``held`` with one."""
    names = ", ".join(map(SQLITE.quote, keys.column_names))
    cursor.execute("DROP TABLE IF EXISTS temp.hemplit_wanted")
    cursor.execute(f"CREATE TEMP TABLE hemplit_wanted ({names})")
    if keys.num_rows:
        marks = ", ".join("?" for _ in keys.column_names)
        cursor.executemany(f"INSERT INTO temp.hemplit_wanted VALUES ({marks})", keys.combine_chunks())
    same = " AND ".join(f"held.{SQLITE.quote(name)} = wanted.{SQLITE.quote(name)}" for name in keys.column_names)
    wanted = f"(SELECT DISTINCT {names} FROM temp.hemplit_wanted) AS wanted"
    # A cross join keeps the few keys in front, each of which is looked up.
    return lambda table: f"{wanted} CROSS JOIN {SQLITE.quote(table)} AS held ON {same}"


def note(cursor: Any, loads: Sequence[Load]) -> None:
    """Writes down what was loaded."""
    if loads:
        cursor.adbc_ingest(LOADS, noted(loads), mode="append")


def update(cursor: Any, table: Table) -> None:
    """Gives the rows of these keys the values that they have here."""
    others = [column.name for column in table.columns if column.name not in table.key]
    if not others or not table.row_count:
        return
    told = ", ".join(f"{SQLITE.quote(name)} = ?" for name in others)
    keys = " AND ".join(f"{SQLITE.quote(name)} = ?" for name in table.key)
    rows = as_stored(table).select([*others, *table.key]).to_pylist()
    for row in rows:
        cursor.execute(f"UPDATE {SQLITE.quote(table.name)} SET {told} WHERE {keys}", list(row.values()))
