"""Entries that stood under periods side by side: a sheet says nothing of a period for which it has no columns.

held: Jan, Feb, Mar of each dock    further: Mar, Apr    →    Apr is new, Jan and Feb are not gone
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import stack
from hemplit.core.design import resolve
from hemplit.core.model.acts import Act
from hemplit.core.model.relation import KIND, POSITION

if TYPE_CHECKING:
    from collections.abc import Mapping

    import numpy.typing as npt

    from hemplit.core.model.design import Design, TablePlan
    from hemplit.core.model.tables import Table, TableColumn

    Flags = npt.NDArray[np.bool_]


def in_both_periods(
    design: Design, plan: TablePlan, held: Table, further: Mapping[str, TableColumn]
) -> tuple[Flags, Flags]:
    """Which entries, held and further, are of periods of which both sides speak; of a table without periods all."""
    name = _period(design, plan)
    if not name:
        return np.ones(held.row_count, dtype=bool), np.ones(len(next(iter(further.values())).codes), dtype=bool)
    one, other = held.by_name[name], further[name]
    codes, _ = stack([(one.codes, one.values), (other.codes, other.values)])
    mine, theirs = np.split(codes, [held.row_count])
    return np.isin(mine, theirs), np.isin(theirs, mine)


def _period(design: Design, plan: TablePlan) -> str:
    """The column with the month or year over which the entries of a table stood; empty if it has none."""
    part = next((sheet.part for sheet in design.sheets if sheet.name == plan.sheet and sheet.of), "")
    labels = {
        step.text("label")
        for sheet in design.sheets
        for step in sheet.steps
        if step.act == Act.SIDEWAYS and step.text("into") == part and not step.proposed
    }
    labels -= {POSITION, KIND}
    return next((one.name for one in plan.stored if part and resolve.header(design, plan, one) in labels), "")
