"""Whether tables that are held say the same as others, whatever the numbers of generated ids.

    expected: boats (1 Teal), (2 Knot)      held: boats (1 Knot), (2 Teal)      → alike

Where a sheet has grown since it was loaded first, its rows cannot be taken in the order in which they came, and ids
come out otherwise. Rows are then met as those of a further sheet are.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa

from hemplit.core import kinds
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.proof import SHOWN, Check, Difference
from hemplit.core.tables.held import held_table
from hemplit.core.tables.merge import merge
from hemplit.errors import DesignError

if TYPE_CHECKING:
    from collections.abc import Mapping

    from hemplit.core.model.design import Design, TablePlan
    from hemplit.core.model.tables import Table
    from hemplit.core.tables.merge import Merged


def check_alike(design: Design, stored: Mapping[str, pa.Table], expected: Mapping[str, Table]) -> Check:
    """Whether every row of the one stands in the other, with the same cells but for generated ids."""
    try:
        held = {name: held_table(table, stored[name]) for name, table in expected.items()}
        differences = _differences(design, held, expected, merge(design, held, expected))
    except pa.ArrowInvalid as error:
        differences = [Difference("the tables", "values of their types", str(error).splitlines()[0])]
    except DesignError as error:
        differences = [Difference(error.where, "what the sheets say", error.what)]
    cells = sum(table.row_count * len(table.columns) for table in expected.values())
    what = f"the {len(expected)} tables as stored say what the sheets say, whatever their generated ids"
    return Check(what, cells, "cells", len(differences), tuple(differences[:SHOWN]))


def _differences(
    design: Design, held: Mapping[str, Table], expected: Mapping[str, Table], merged: Merged
) -> list[Difference]:
    found = [
        Difference(f"{one.table}, {', '.join(one.names)}: {one.column}", one.further, one.held)
        for one in merged.conflicts
    ]
    for name, place in merged.place.items():
        plan, rows = design.by_name[name], range(held[name].row_count)
        if any(column.lowest for column in plan.columns):
            # No row of another table names a limit, so that it is known by all that it says.
            said = [_row(plan, expected[name], row) for row in range(expected[name].row_count)]
            stored = [_row(plan, held[name], row) for row in rows]
            new, lacking = [one for one in said if one not in stored], [one for one in stored if one not in said]
        else:
            new = [_row(plan, expected[name], row) for row in np.flatnonzero(place >= len(rows)).tolist()]
            lacking = [_row(plan, held[name], row) for row in np.setdiff1d(rows, place).tolist()]
        found += [Difference(f"table {name}", one, "no such row") for one in new]
        found += [Difference(f"table {name}", "no such row", one) for one in lacking]
    return found


def _row(plan: TablePlan, table: Table, row: int) -> str:
    """A row as a person reads it, without blanks and generated ids."""
    columns = (column for column in table.columns if plan.by_name[column.name].ids is None)
    cells = ((column, int(column.codes[row])) for column in columns)
    return ", ".join(kinds.show(column.values[code].as_py(), column.kind) for column, code in cells if code != EMPTY)
