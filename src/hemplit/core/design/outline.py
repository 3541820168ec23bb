"""The tables of a design without rows: what a person sees of them before anything is loaded."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.design.check import is_band
from hemplit.core.design.kinds import kind_of
from hemplit.core.model.tables import Outline, OutlineColumn

if TYPE_CHECKING:
    from hemplit.core.model.design import ColumnPlan, Design, TablePlan


def outlines(design: Design) -> tuple[Outline, ...]:
    """The outline of each table, in the order of the design."""
    return tuple(
        Outline(
            plan.name,
            plan.purpose,
            tuple(_column(design, plan, column) for column in plan.columns),
            plan.key,
            plan.unique,
            resolve.references(design, plan),
        )
        for plan in design.tables
    )


def _column(design: Design, plan: TablePlan, column: ColumnPlan) -> OutlineColumn:
    word = kind_of(design, plan, column).word
    required = column.required or column.name in plan.key
    if column.along is not None:
        return OutlineColumn(column.name, word, required=True, calculated=True)
    if column.store or column.formula is None:
        return OutlineColumn(column.name, word, required)
    ranges = column.formula.detail if is_band(column) else ""
    of = next((one.name for one in plan.columns if ranges and column.formula.operands[0] in one.headers), "")
    return OutlineColumn(column.name, word, required=True, calculated=True, ranges=ranges, of=of)
