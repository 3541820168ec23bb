"""What engines do not do yet of what a design can ask for, and how the rows of a table refer to others of it there."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.design.ids import NUMBER
from hemplit.core.model.design import Grain
from hemplit.errors import DesignError

if TYPE_CHECKING:
    from hemplit.core.model.design import ColumnPlan, Design, TablePlan

NOT_YET = "an engine does not do this yet"
IN_MEMORY = "load it without --engine, if it fits into memory"


def check_can(design: Design) -> None:
    """Raises ``DesignError`` for what no engine does yet."""
    styled = Counter((one.ids, one.name) for table in design.tables for one in table.columns)
    for table in design.tables:
        of_several = len(table.sheets) > 1
        if of_several and table.grain is Grain.ROW:
            raise DesignError(
                resolve.place(table), f"it has a row for each row of several sheets; {NOT_YET}", IN_MEMORY
            )
        for column in table.columns:
            is_inward = bool(inward_key(design, table, column))
            names = names_of_own(design, table, column) if is_inward else ()
            through = table.by_name.get(column.unmatched or "")
            asked = {
                "it keeps what names no row of its own table": through is not None
                and keeps_own(design, table, through)
                and (of_several or resolve.identity(table) != names_of_own(design, table, through)),
                "it is a range in a table of several sheets": of_several and column.lowest is not None,
                "it names rows of its own table, which several sheets fill": is_inward and of_several,
                "ids of its style go on in another table": column.ids not in (None, NUMBER)
                and styled[column.ids, column.name] > 1,
                "several columns name the rows of its own table": is_inward
                and (len(names) != 1 or names == (column.name,)),
            }
            for what, is_asked in asked.items():
                if is_asked:
                    raise DesignError(resolve.place(table, column), f"{what}; {NOT_YET}", IN_MEMORY)


def inward_key(design: Design, plan: TablePlan, column: ColumnPlan) -> str:
    """The key of the own table to which a column refers by something else; blank if it does not."""
    pointed = resolve.target(design, plan, column)
    if pointed is None or pointed.table.name != plan.name or not (pointed.column.ids or column.named_by):
        return ""
    return pointed.column.name


def keeps_own(design: Design, plan: TablePlan, column: ColumnPlan) -> bool:
    """Whether a column refers to its own table, and another keeps what names no row of it."""
    pointed = resolve.target(design, plan, column)
    own = pointed is not None and pointed.table.name == plan.name
    return own and any(one.unmatched == column.name for one in plan.stored)


def names_of_own(design: Design, plan: TablePlan, column: ColumnPlan) -> tuple[str, ...]:
    """The columns of the own table in which stands what a reference says; none if one of them has no header."""
    pointed = resolve.target(design, plan, column)
    names = () if pointed is None else resolve.names(pointed, column)
    return names if all(plan.headers_in(plan.sheet, plan.by_name[name]) for name in names) else ()
