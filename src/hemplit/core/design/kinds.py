"""What the values of a column are, from the column that says it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.design.calendar import CALENDAR
from hemplit.core.design.ids import NUMBER
from hemplit.core.model.relation import TEXT, Kind

if TYPE_CHECKING:
    from hemplit.core.model.design import ColumnPlan, Design, TablePlan


def kind_of(design: Design, plan: TablePlan, column: ColumnPlan) -> Kind:
    """What the values of a column are, stored here or taken along a reference."""
    if column.along is not None:
        reference = plan.by_name[column.along[0]]
        pointed = resolve.target(design, plan, reference)
        assert pointed is not None
        further, held = resolve.held_behind(design, pointed.table, column.along[1])
        there = design.by_name[further[-1].table] if further else pointed.table
        return kind_of(design, there, there.by_name[held])
    pointed = resolve.target(design, plan, column)
    if pointed is not None:
        return kind_of(design, pointed.table, pointed.column)
    if column.ids is not None:
        return Kind("whole number") if column.ids == NUMBER else TEXT
    if column.part is not None:
        return CALENDAR[column.part][0]
    if column.lowest is not None:
        given = [one.kind for _, one, header in design.headers_of(plan.sheet) if header == column.lowest]
        return next((kind for kind in given if kind is not None), Kind("decimal"))
    return column.kind or TEXT
