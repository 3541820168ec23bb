"""The trail of a design in the names that its tables have now, and what a person may ask for by name or by header."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.model.design import Grain, Purpose
from hemplit.dataclasses import replace
from hemplit.errors import DesignError, nearest

if TYPE_CHECKING:
    from collections.abc import Mapping

    from hemplit.core.model.design import Design, Passage, TablePlan

#: A table that was renamed has at least this share of the headers that went along into it.
KEPT = 0.5
#: The purposes of tables that are lists for others.
LISTS = (Purpose.LOOKUP, Purpose.RANGE)


def present_trail(design: Design) -> tuple[Passage, ...]:
    """The passages whose tables are still there; one that was renamed is known by the headers that it has."""
    named = {one.table: _name_of(design, one) for one in design.trail}
    return tuple(
        replace(one, table=now, out_of=named.get(one.out_of) or _known(design, one.out_of, now))
        for one in design.trail
        for now in [named[one.table]]
        if now
    )


def _name_of(design: Design, passage: Passage) -> str:
    """What the table of a passage is called now; empty if it is gone."""
    if passage.table in design.by_name:
        return passage.table
    taken = {one.table for one in design.trail}
    wanted = {*passage.headers}
    shares = {
        table.name: len(wanted & _said_in(design, table)) / max(len(wanted), 1)
        for table in design.tables
        if table.name not in taken and table.grain is not Grain.ROW and table.purpose not in LISTS
    }
    best = max(shares, key=lambda name: shares[name], default="")
    return best if best and shares[best] >= KEPT else ""


def _said_in(design: Design, table: TablePlan) -> set[str]:
    """The headers of a table, and of the lists that it refers to."""
    lists = [design.by_name[one.target[0]] for one in table.columns if one.target and one.target[0] in design.by_name]
    tables = [table, *(one for one in lists if one.purpose in LISTS)]
    return {header for one in tables for column in one.columns for header in column.all_headers}


def sheet_of(design: Design, passage: Passage) -> str:
    """The sheet in which a table came out of another."""
    table, other = design.by_name[passage.table], design.by_name.get(passage.out_of)
    return other.sheet if other is not None and other.sheet in table.sheets else table.sheet


def _known(design: Design, name: str, other: str) -> str:
    """The name of a table; where there is none of it any more, that of the rows of the sheet of another."""
    return name if name in design.by_name else design.base_of(design.by_name[other].sheet).name


def asked_for(design: Design, text: str) -> tuple[str, str]:
    """The table and the column, if one is meant, that a text names: TABLE, TABLE.COLUMN, or a header.

    Raises ``DesignError`` if there is none.
    """
    table, _, column = text.partition(".")
    if table in design.by_name:
        return table, column
    of_header: Mapping[str, tuple[str, str]] = {
        header: (one.name, held.name)
        for one in reversed(design.tables)
        for held in one.columns
        for header in held.all_headers
    }
    if text in of_header:
        return of_header[text]
    hint = nearest(table if column else text, [*design.by_name, *of_header])
    raise DesignError(f"tables.{table}", f"there is no table or header '{text}'", hint)
