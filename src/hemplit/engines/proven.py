"""Whether the tables that an engine made, or what was written from them, are what the sheet says: asked in the engine.

The tables are given by the names under which the engine holds them.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from hemplit.core.model.proof import Check, Difference
from hemplit.dataclasses import dataclass
from hemplit.engines.checks import compared, flat_query, joined_query
from hemplit.targets.sql.dialect import DIGITS, MOST_IN_FOUR_BYTES

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from hemplit.core.model.tables import Table, Tables, View
    from hemplit.engines.contract import Engine
    from hemplit.engines.fill import Fill

#: So many rows are shown of what differs.
SHOWN = 5
#: Decimal places beyond those of the sample that numbers may have; with more they are stored as doubles.
MORE_PLACES = 5


@dataclass(frozen=True)
class Measures:
    """What one look at all rows of a table tells."""

    rows: int
    blanks: Mapping[str, int]
    """How many there are in each column that has to be filled."""
    largest: Mapping[str, int]
    """The largest size of the numbers in each column of whole ones."""


def measured(engine: Engine, table: Table) -> Measures:
    """Looks at all rows of a table, once."""
    quote = engine.dialect.quote
    filled = [one.name for one in table.columns if one.required or one.name in table.key]
    whole = [one.name for one in table.columns if one.kind.word == "whole number"]
    terms = ["count(*)", *(f"count({quote(name)})" for name in filled), *(f"max(abs({quote(name)}))" for name in whole)]
    named = ", ".join(f"{term} AS m{place}" for place, term in enumerate(terms))
    (found,) = engine.rows(f"SELECT {named} FROM {quote(table.name)}").to_pylist()
    rows, *numbers = (int(one or 0) for one in found.values())
    blanks = {name: rows - count for name, count in zip(filled, numbers, strict=False)}
    return Measures(rows, blanks, dict(zip(whole, numbers[len(filled) :], strict=True)))


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


def hangs_together(engine: Engine, table: Table, measures: Measures) -> Check:
    """Whether keys are filled and there once, and each reference leads to a row."""
    quote = engine.dialect.quote
    name = quote(table.name)
    wrong = [
        Difference(f"{table.name}.{one}", "filled", f"{count:,} {'blank' if count == 1 else 'blanks'}")
        for one, count in measures.blanks.items()
        if count
    ]
    asked: list[tuple[str, str, str]] = []
    for key in (table.key, *table.unique):
        columns = ", ".join(map(quote, key))
        filled = " AND ".join(f"{quote(one)} IS NOT NULL" for one in key)
        query = f"SELECT {columns} FROM {name} WHERE {filled} GROUP BY {columns} HAVING count(*) > 1"
        asked.append((table.name, "one row", query))
    for reference in table.references:
        pairs = zip(reference.columns, reference.table_columns, strict=True)
        same = " AND ".join(f"own.{quote(one)} = other.{quote(two)}" for one, two in pairs)
        filled = " AND ".join(f"own.{quote(one)} IS NOT NULL" for one in reference.columns)
        query = (
            f"SELECT own.* FROM {name} AS own WHERE {filled} AND NOT EXISTS "
            f"(SELECT 1 FROM {quote(reference.table)} AS other WHERE {same})"
        )
        asked.append((f"{table.name} → {reference.table}", "a row", query))
    if engine.dialect.is_asked_at_once and asked:
        asked = _with_rows(engine, asked)
    for where, expected, query in asked:
        rows = engine.rows(f"{query} LIMIT {SHOWN}").to_pylist()
        wrong += [Difference(where, expected, _said(row)) for row in rows]
    what = f"{table.name}: each key is there once, and each reference leads to a row"
    return Check(what, table.row_count, "rows", len(wrong), tuple(wrong))


def _with_rows(engine: Engine, asked: Sequence[tuple[str, str, str]]) -> list[tuple[str, str, str]]:
    """Those of some queries, each the last of three, that find any rows: asked in one question."""
    each = (
        f"SELECT {place} AS place, count(*) AS found FROM (\n{query}\n) AS asked"
        for place, (_, _, query) in enumerate(asked)
    )
    counts = engine.rows(f"{' UNION ALL '.join(each)} ORDER BY place").column("found").to_pylist()
    return [one for one, count in zip(asked, counts, strict=True) if count]


def holds(engine: Engine, table: Table, source: str) -> Check:
    """Whether what was written from a table has its rows; ``source`` is what a query calls it."""
    quote = engine.dialect.quote
    typed = [f"CAST({quote(one.name)} AS {engine.dialect.type_of(one.kind.word)})" for one in table.columns]
    columns = ", ".join(f"{value} AS c{place}" for place, value in enumerate(typed))
    held, written = (f"SELECT {columns} FROM {place}" for place in (quote(table.name), source))
    return alike(
        engine, f"what was written holds all rows of {table.name}", (held, written), len(typed), table.row_count
    )


def exact(engine: Engine, table: Table, largest: Mapping[str, int]) -> dict[str, str]:
    """The columns of a table, each in the narrowest type that holds it exactly, as files of Parquet have them."""
    quote = engine.dialect.quote
    kept = {column.name: quote(column.name) for column in table.columns}
    for name, most in largest.items():
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


def _said(row: Mapping[str, Any]) -> str:
    return ", ".join("" if value is None else str(value) for value in row.values())
