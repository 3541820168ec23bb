"""Which blanks of the tables that are held say something, and which are only there because no sheet spoke of them yet.

held: boats (PZ-1 Teal, rig blank), of which only jobs spoke, which has no rigs      further: lifts (PZ-1, sloop)
→     that the rig is blank was said by nobody, so sloop contradicts nothing and fills it
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.model.grid import EMPTY
from hemplit.core.tables.match import match, rows_behind
from hemplit.core.tables.views import said_by

if TYPE_CHECKING:
    from collections.abc import Mapping

    import numpy.typing as npt

    from hemplit.core.model.design import Design, TablePlan
    from hemplit.core.model.grid import Codes
    from hemplit.core.model.tables import Reference, Table

    #: Rows of the tables, by table and column.
    Flags = dict[tuple[str, str], npt.NDArray[np.bool_]]


def unsaid(design: Design, sheet: str, held: Mapping[str, Table]) -> Flags:
    """The rows, by table and column, of which nothing was said yet where a sheet is not the only one to speak."""
    rows: Flags = {}
    united = design.united(sheet)
    if united is not None:
        behind = _behind(design, sheet, held)
        for plan in design.tables_of(united.name):
            rows |= {(plan.name, column.name): ~behind[plan.name] for column in plan.stored}
    together = filled_together(design, sheet)
    said = _said(design, {one for plan in together for one in plan.sheets}, held) if together else {}
    for plan in together:
        none = np.zeros(held[plan.name].row_count, dtype=bool)
        rows |= {(plan.name, column.name): ~said.get((plan.name, column.name), none) for column in plan.stored}
    return rows


def filled_together(design: Design, sheet: str) -> list[TablePlan]:
    """The tables that a sheet, or what is made of it, fills together with others, or from several places of a row."""
    family = {sheet} | {one.name for one in design.sheets if one.of == sheet or sheet in one.unites}
    return [plan for plan in design.tables if len(plan.feeds) > 1 and {*plan.sheets} & family]


def _behind(design: Design, sheet: str, held: Mapping[str, Table]) -> dict[str, npt.NDArray[np.bool_]]:
    """The rows of each table to which the rows of a sheet lead."""
    flags = {name: np.zeros(table.row_count, dtype=bool) for name, table in held.items()}
    for name, rows in rows_behind(held, design.base_of(sheet).name):
        flags[name][rows[rows != EMPTY]] = True
    return flags


def _said(design: Design, sheets: set[str], held: Mapping[str, Table]) -> Flags:
    """The rows of which sheets say something in a column, be it that it is blank."""
    flags: Flags = {}

    def mark(table: str, column: str, rows: Codes) -> None:
        there = flags.setdefault((table, column), np.zeros(held[table].row_count, dtype=bool))
        there[rows[rows != EMPTY]] = True

    for sheet in (one for one in design.sheets if one.name in sheets):
        base = held[design.base_of(sheet.name).name]
        known: dict[tuple[Reference, ...], Codes] = {(): np.arange(base.row_count, dtype=np.int32)}
        for path, column in said_by(design, sheet):
            for step, reference in enumerate(path):
                table = path[step - 1].table if step else base.name
                rows = known[path[:step]]
                for name in reference.columns:
                    mark(table, name, rows)
                if path[: step + 1] not in known:
                    onward = match(held[table], reference, held[reference.table])
                    known[path[: step + 1]] = np.append(onward, np.int32(EMPTY))[rows]
            mark(path[-1].table if path else base.name, column, known[path])
    return flags
