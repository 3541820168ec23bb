"""Rows as a target holds them → the tables of a design, in the values that its sheets are read in."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.design import resolve
from hemplit.core.design.kinds import kind_of
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.tables import Table, TableColumn
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from hemplit.core.model.design import ColumnPlan, Design, TablePlan

#: A text with a time of day can be read only as one of a day.
ANY_DAY = "1970-01-01"


def empty_tables(design: Design) -> dict[str, Table]:
    """The tables of a design without rows, each after those it refers to."""
    made = {}
    for plan in resolve.filling_order(design, design.tables):
        columns = tuple(_column(design, plan, column) for column in plan.stored)
        made[plan.name] = Table(
            plan.name, plan.purpose, columns, plan.key, plan.unique, resolve.references(design, plan), 0
        )
    return made


def held_table(like: Table, stored: pa.Table) -> Table:
    """The table with the rows that a target holds, in the order in which it gives them; ``like`` has their kinds."""
    columns = tuple(_encoded(column, stored.column(column.name).combine_chunks()) for column in like.columns)
    return replace(like, columns=columns, row_count=stored.num_rows)


def _encoded(like: TableColumn, stored: pa.Array) -> TableColumn:
    wanted = like.values.type
    if stored.null_count == len(stored):
        # Of a column without values a database knows no type.
        stored = pa.nulls(len(stored), wanted)
    if pa.types.is_boolean(wanted) and not pa.types.is_boolean(stored.type):
        stored = pc.cast(stored, pa.int64())
    if pa.types.is_time(wanted) and pa.types.is_string(stored.type):
        stored = pc.cast(pc.binary_join_element_wise(ANY_DAY, stored, "T"), pa.timestamp("s"))
    encoded = pc.cast(stored, wanted).dictionary_encode()
    codes = pc.fill_null(encoded.indices, EMPTY).to_numpy(zero_copy_only=False).astype(np.int32)
    return replace(like, codes=codes, values=encoded.dictionary)


def _column(design: Design, plan: TablePlan, column: ColumnPlan) -> TableColumn:
    kind = kind_of(design, plan, column)
    required = column.required or column.name in plan.key
    return TableColumn(column.name, kind, np.zeros(0, np.int32), kinds.parse(pa.array([], pa.string()), kind), required)
