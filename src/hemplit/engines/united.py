"""Sheets that tell of the same things → one staged sheet with a row for each thing, as ``core.tables.same`` does it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.tables.same import headers_in, keys_of
from hemplit.engines.fill import AT, ROW, ROWS_OF_A_FEED, staged

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.model.design import SheetPlan
    from hemplit.engines.fill import Fill


def united_rows(fill: Fill, plan: SheetPlan) -> str:
    """The query for the rows of a sheet that unites others: what the first of them says that says anything.

    They come in the order in which the sheets speak of the things, one sheet after the other.
    """
    quote = fill.dialect.quote
    keys = [f"k{place}" for place in range(plan.by)]
    firsts, joins = [], []
    for place, sheet in enumerate(plan.unites):
        named = ", ".join(f"{quote(header)} AS {key}" for header, key in zip(keys_of(plan, sheet), keys, strict=True))
        source = f"(SELECT {named}, {quote(ROW)} AS one FROM {quote(staged(sheet))}) AS s"
        filled = " AND ".join(f"{key} IS NOT NULL" for key in keys)
        grouped = f"SELECT {', '.join(keys)}, min(one) AS one FROM {source} WHERE {filled} GROUP BY {', '.join(keys)}"
        firsts.append(f"p{place} AS (\n{grouped}\n)")
        same = " AND ".join(f"p{place}.{key} = things.{key}" for key in keys)
        joins.append(f"LEFT JOIN p{place} ON {same}")
        joins.append(f"LEFT JOIN {quote(staged(sheet))} AS s{place} ON s{place}.{quote(ROW)} = p{place}.one")
    told = "\nUNION ALL\n".join(
        f"SELECT {', '.join(keys)}, {place} * {ROWS_OF_A_FEED} + one AS place FROM p{place}"
        for place in range(len(plan.unites))
    )
    things = f"SELECT {', '.join(keys)}, min(place) AS place FROM (\n{told}\n) AS told GROUP BY {', '.join(keys)}"
    shown = [
        f"row_number() OVER (ORDER BY things.place) + {fill.first_rows[plan.name] - 1} AS {quote(ROW)}",
        f"things.place % {ROWS_OF_A_FEED} AS {quote(AT)}",
    ]
    for name, cells in _said(fill, plan).items():
        said = ", ".join(f"s{plan.unites.index(sheet)}.{quote(header)}" for sheet, header in cells)
        shown.append(f"coalesce({said}) AS {quote(name)}" if len(cells) > 1 else f"{said} AS {quote(name)}")
    parts = ",\n".join((*firsts, f"things AS (\n{things}\n)"))
    return f"WITH {parts}\nSELECT {', '.join(shown)}\nFROM things\n" + "\n".join(joins)


def _said(fill: Fill, plan: SheetPlan) -> dict[str, list[tuple[str, str]]]:
    """The headers of a united sheet, each with the sheets and headers that say it."""
    said: dict[str, list[tuple[str, str]]] = {}
    for cell, name in headers_in(plan, fill.names).items():
        said.setdefault(name, []).append(cell)
    return said


def told_unlike(fill: Fill, plan: SheetPlan) -> Iterator[tuple[str, str, tuple[str, str]]]:
    """The sheets and headers that have to say what the united sheet says, each with queries for rows that do not.

    The second is for the rows of the sheets that say it first. What a column keeps is not asked.
    """
    quote = fill.dialect.quote
    for (sheet, header), name in headers_in(plan, fill.names).items():
        if header not in {one for _, _, one in fill.design.headers_of(sheet)}:
            same = fill.dialect.same(f"s.{quote(header)}", f"u.{quote(name)}")
            source = (
                f"{quote(staged(sheet))} AS s JOIN {quote(staged(plan.name))} AS u ON {fill.same_thing(plan, sheet)}"
            )
            told = f"FROM {source} WHERE NOT ({same})"
            yield sheet, header, (f"SELECT s.{quote(ROW)} {told}", f"SELECT u.{quote(AT)} {told}")
