"""Entries of lists in tables of their own: the table whose rows have the lists, and of which of them a sheet speaks."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import distinct
from hemplit.core.design import resolve
from hemplit.core.model.design import Grain
from hemplit.core.model.grid import EMPTY
from hemplit.core.tables.match import match

if TYPE_CHECKING:
    from collections.abc import Mapping

    import numpy.typing as npt

    from hemplit.core.model.design import Design, TablePlan
    from hemplit.core.model.tables import Table


def owner_of(design: Design, plan: TablePlan) -> TablePlan | None:
    """The table whose rows have lists, if these are the entries; None of any other table.

    It is of the sheet that the entries were taken out of, or lists what that sheet only speaks of.
    """
    if plan.grain is Grain.LIST:
        return design.by_name[str(plan.of)]
    sheet = design.sheet(plan.sheet)
    if sheet.of is None or plan.grain is not Grain.ROW:
        return None
    above = {table.name for table in design.tables_of(sheet.of)}
    once = {name for step in design.sheet(sheet.of).steps if step.flag("once") for name in step.texts("key")}
    key = [plan.by_name[name] for name in plan.key if plan.by_name[name].target]
    own = [column for column in key if (column.target or ("",))[0] in above]
    elsewhere = [column for column in key if resolve.header(design, plan, column) in once]
    return next((design.by_name[column.target[0]] for column in (*own, *elsewhere) if column.target), None)


def spoken_of(design: Design, plan: TablePlan, above: Table, tables: Mapping[str, Table]) -> npt.NDArray[np.int64]:
    """The rows of a table that those tables name which are of the sheet that entries were taken out of, in order."""
    own = (tables[one.name] for one in design.tables_of(str(design.sheet(plan.sheet).of)) if one.name in tables)
    named = [match(one, to, above) for one in own for to in one.references if to.table == above.name]
    rows = distinct(np.concatenate([np.zeros(0, dtype=np.int64), *named]))
    return rows[rows != EMPTY]
