"""Whether the tables that an engine made, or what was written from them, are what the sheet says: asked in the engine.

The tables are given by the names under which the engine holds them.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from hemplit.core.model.proof import Check, Difference
from hemplit.dataclasses import replace
from hemplit.engines.checks import compared, flat_query, joined_query
from hemplit.targets.sql.dialect import DIGITS, MOST_IN_FOUR_BYTES

if TYPE_CHECKING:
    from collections.abc import Mapping

    from hemplit.core.model.tables import Table, Tables, View
    from hemplit.engines.contract import Engine
    from hemplit.engines.fill import Fill

#: So many rows are shown of what differs.
SHOWN = 5
#: Decimal places beyond those of the sample that numbers may have; with more they are stored as doubles.
MORE_PLACES = 5


def counted(engine: Engine, table: Table) -> Table:
    """The table with the number of its rows."""
    count = engine.rows(f"SELECT count(*) AS rows_held FROM {engine.dialect.quote(table.name)}")
    return replace(table, row_count=int(count.column(0)[0].as_py()))


def given_back(engine: Engine, fill: Fill, tables: Tables, view: View, rows: int) -> Check:
    """Whether the tables, joined again, have the cells of the sheet, in whatever order."""
    what = f"the tables joined again give all rows of {view.sheet}"
    return alike(engine, what, (flat_query(fill, view), joined_query(fill, tables, view)), len(compared(view)), rows)


def alike(engine: Engine, what: str, sides: tuple[str, str], columns: int, rows: int) -> Check:
    """Whether two queries find the same rows: as many, and with the same sums over all of them.

    Their so many columns are called c0, c1 and so on.
    """
    terms = ("count(*)", *engine.dialect.summed([f"c{place}" for place in range(columns)]))
    sums = ", ".join(f"{term} AS s{place}" for place, term in enumerate(terms))
    # Both are asked for at once: half of the time of a question to a cluster goes by before it begins.
    each = (f"SELECT {number} AS side, {sums} FROM (\n{side}\n) AS found" for number, side in enumerate(sides))
    one, other = engine.rows(f"{' UNION ALL '.join(each)} ORDER BY side").drop_columns("side").to_pylist()
    if one == other:
        return Check(what, rows, "rows", 0, ())
    lost, more = (
        engine.rows(f"SELECT * FROM (\n{left}\nEXCEPT ALL\n{right}\n) AS differs LIMIT {SHOWN}").to_pylist()
        for left, right in (sides, sides[::-1])
    )
    differences = [Difference(what, _said(row), "no such row") for row in lost]
    differences += [Difference(what, "no such row", _said(row)) for row in more]
    return Check(what, rows, "rows", max(len(differences), 1), tuple(differences))


def hangs_together(engine: Engine, table: Table) -> Check:
    """Whether keys are filled and there once, and each reference leads to a row."""
    quote = engine.dialect.quote
    name = quote(table.name)
    wrong: list[Difference] = []
    for key in (table.key, *table.unique):
        columns = ", ".join(map(quote, key))
        filled = " AND ".join(f"{quote(one)} IS NOT NULL" for one in key)
        query = f"SELECT {columns} FROM {name} WHERE {filled} GROUP BY {columns} HAVING count(*) > 1 LIMIT {SHOWN}"
        wrong += [Difference(table.name, "one row", _said(row)) for row in engine.rows(query).to_pylist()]
    required = [column.name for column in table.columns if column.required or column.name in table.key]
    blanks = ", ".join(f"count(*) - count({quote(one)}) AS b{place}" for place, one in enumerate(required))
    for one, count in zip(required, engine.rows(f"SELECT {blanks} FROM {name}").columns, strict=True):
        if count[0].as_py():
            wrong.append(Difference(f"{table.name}.{one}", "filled", f"{count[0].as_py():,} blanks"))
    for reference in table.references:
        pairs = zip(reference.columns, reference.table_columns, strict=True)
        same = " AND ".join(f"own.{quote(one)} = other.{quote(two)}" for one, two in pairs)
        filled = " AND ".join(f"own.{quote(one)} IS NOT NULL" for one in reference.columns)
        query = (
            f"SELECT own.* FROM {name} AS own WHERE {filled} AND NOT EXISTS "
            f"(SELECT 1 FROM {quote(reference.table)} AS other WHERE {same}) LIMIT {SHOWN}"
        )
        rows = engine.rows(query).to_pylist()
        wrong += [Difference(f"{table.name} → {reference.table}", "a row", _said(row)) for row in rows]
    what = f"{table.name}: each key is there once, and each reference leads to a row"
    return Check(what, table.row_count, "rows", len(wrong), tuple(wrong))


def holds(engine: Engine, table: Table, source: str) -> Check:
    """Whether what was written from a table has its rows; ``source`` is what a query calls it."""
    quote = engine.dialect.quote
    typed = [f"CAST({quote(one.name)} AS {engine.dialect.type_of(one.kind.word)})" for one in table.columns]
    columns = ", ".join(f"{value} AS c{place}" for place, value in enumerate(typed))
    held, written = (f"SELECT {columns} FROM {place}" for place in (quote(table.name), source))
    return alike(
        engine, f"what was written holds all rows of {table.name}", (held, written), len(typed), table.row_count
    )


def exact(engine: Engine, table: Table) -> dict[str, str]:
    """The columns of a table, each in the narrowest type that holds it exactly, as files of Parquet have them."""
    quote = engine.dialect.quote
    kept = {column.name: quote(column.name) for column in table.columns}
    for name, most in largest(engine, table).items():
        if most <= MOST_IN_FOUR_BYTES:
            kept[name] = f"CAST({quote(name)} AS INTEGER)"
    for column in table.columns:
        if column.kind.word == "decimal" and column.kind.form:
            name = quote(column.name)
            least = max(len(column.kind.form) - 2, 0)
            tried = range(least, least + MORE_PLACES)
            others = (f"count(CASE WHEN round({name}, {places}) <> {name} THEN 1 END) AS p{places}" for places in tried)
            found = engine.rows(f"SELECT {', '.join(others)} FROM {quote(table.name)}").columns
            places = next((one for one, count in zip(tried, found, strict=True) if not count[0].as_py()), None)
            if places is not None:
                kept[column.name] = f"CAST({name} AS DECIMAL({DIGITS + places}, {places}))"
    return kept


def largest(engine: Engine, table: Table) -> dict[str, int]:
    """The largest size of the numbers in each column of whole ones."""
    quote = engine.dialect.quote
    whole = [column.name for column in table.columns if column.kind.word == "whole number"]
    if not whole:
        return {}
    most = ", ".join(f"max(abs({quote(name)})) AS m{place}" for place, name in enumerate(whole))
    found = engine.rows(f"SELECT {most} FROM {quote(table.name)}").columns
    return {name: int(value[0].as_py() or 0) for name, value in zip(whole, found, strict=True)}


def _said(row: Mapping[str, Any]) -> str:
    return ", ".join("" if value is None else str(value) for value in row.values())
