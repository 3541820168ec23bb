"""The plain names of tables that are gone go to those that had to be called otherwise because of them.

orders: orders, parts      parts: part_parts      →      orders, parts
"""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from hemplit.core.draft.naming import table_name
from hemplit.core.model.design import Grain
from hemplit.core.model.findings import BAND
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Mapping

    from hemplit.core.model.design import ColumnPlan, Design, TablePlan


def with_freed_names(before: Design, design: Design) -> Design:
    """The design, of whose tables ``before`` some are gone, with the names of these where others wanted them."""
    gone = [table.name for table in before.tables if table.name not in design.by_name]
    names: dict[str, str] = {}
    # A sheet that is called so comes before one whose rows pair two things, of which the second is called so.
    for table in sorted(design.tables, key=lambda table: (table.sheet not in gone, table.grain is not Grain.ROW)):
        free = [name for name in gone if name not in names.values()]
        wanted = next((name for name in free if table.name == table_name((name,), table.sheet, {name})), None)
        if wanted is not None:
            names[table.name] = wanted
    if not names:
        return design
    tables = tuple(_called(table, names) for table in design.tables)
    return replace(design, tables=tables, trail=tuple(one.renamed(names) for one in design.trail))


def _called(table: TablePlan, names: Mapping[str, str]) -> TablePlan:
    """A table that speaks of others by their new names."""
    return replace(
        table,
        name=names.get(table.name, table.name),
        of=names.get(table.of, table.of) if table.of is not None else None,
        columns=tuple(_refers(column, names) for column in table.columns),
        why=_said(table.why, names),
    )


def _refers(column: ColumnPlan, names: Mapping[str, str]) -> ColumnPlan:
    to, formula = column.target, column.formula
    if to is not None and to[0] in names:
        column = replace(column, to=names[to[0]] if to[1] is None else f"{names[to[0]]}.{to[1]}")
    if formula is not None and formula.operation == BAND and formula.detail in names:
        column = replace(column, formula=replace(formula, detail=names[formula.detail]))
    return replace(column, why=_said(column.why, names))


def _said(why: str, names: Mapping[str, str]) -> str:
    return re.sub(r"\w+", lambda word: names.get(word[0], word[0]), why)
