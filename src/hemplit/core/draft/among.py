"""What stands where among the tables that sheets were drafted into: whose rows, which column, and what lists it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.draft.listed import Listed, is_unique
from hemplit.core.model.design import Grain, Purpose
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Mapping

    from hemplit.core.model.design import ColumnPlan, TablePlan
    from hemplit.core.model.findings import Link
    from hemplit.core.model.relation import Relation


def base_of(tables: Mapping[str, TablePlan], sheet: str) -> TablePlan | None:
    """The table of the rows of a sheet; None of one whose rows are combinations of lists."""
    return next((one for one in tables.values() if one.sheet == sheet and one.grain is Grain.ROW), None)


def holder_of(tables: Mapping[str, TablePlan], sheet: str, header: str) -> tuple[TablePlan, ColumnPlan] | None:
    """The column in which the cells of a header stand; classes of ranges stay where they are."""
    return next(
        (
            (table, column)
            for table in tables.values()
            if table.sheet == sheet and table.purpose is not Purpose.RANGE
            for column in table.columns
            if column.source == header
            and column.to is None
            and column.unmatched is None
            and column.store
            and column.formula is None
            and len(column.headers) == 1
            and not column.elsewhere
        ),
        None,
    )


def listed_by(tables: Mapping[str, TablePlan], link: Link, relations: Mapping[str, Relation]) -> Listed | None:
    """The table of the sheet that lists what is referred to, each once by these columns."""
    for table in tables.values():
        if link.parent not in table.sheets or table.of is not None:
            continue
        several = len(link.key) > 1
        own = [
            column
            for column in table.columns
            if column.store and (column.to is None or (several and _says_its_cells(tables, table, column)))
        ]
        plain = {header: column for column in own for header in table.headers_in(link.parent, column)[:1]}
        columns = tuple(plain[name] for name in link.key if name in plain)
        names = tuple(column.name for column in columns)
        if len(columns) < len(link.key):
            continue
        if table.grain is Grain.ROW:
            unique = is_unique(relations[link.parent], link.key)
            known = names == table.key or names in table.unique or not unique
            return Listed(table if known else replace(table, unique=(*table.unique, names)), columns)
        if resolve.identity(table) == names:
            return Listed(table, columns)
    return None


def _says_its_cells(tables: Mapping[str, TablePlan], table: TablePlan, column: ColumnPlan) -> bool:
    """Whether in a reference stands what its sheet says: the code of what is listed, if each is."""
    name, key = column.target or ("", None)
    listed = tables[name]
    by_code = listed.by_name[key or listed.key[0]].ids is None and not column.named_by and not column.alike
    return by_code and bool(column.headers) and all(one.unmatched != column.name for one in table.columns)


def may_refer(tables: Mapping[str, TablePlan], table: TablePlan, listed: Listed, link: Link) -> bool:
    """Whether a table can refer to the list: not in a circle, to its own rows only by one name that tells them apart,
    and to what has a key of several columns only by these."""
    if len(listed.table.key) > 1 and not listed.is_keyed:
        return False
    if link.child == link.parent:
        own = table.grain is Grain.ROW and listed.table.name == table.name
        return own and len(link.headers) == 1 and listed.names in (resolve.identity(listed.table), *listed.table.unique)
    return not _reaches(tables, listed.table.name, table.name)


def _reaches(tables: Mapping[str, TablePlan], start: str, name: str) -> bool:
    """Whether a table refers to another, by itself or through others."""
    seen, todo = set(), [start]
    while todo:
        here = todo.pop()
        seen.add(here)
        todo += [one.target[0] for one in tables[here].columns if one.target and one.target[0] not in seen]
    return name in seen


def names_things(table: TablePlan, column: ColumnPlan) -> bool:
    """Whether a column names the things of its table."""
    return table.grain is Grain.VALUE and resolve.identity(table) == (column.name,)
