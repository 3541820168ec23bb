"""What would go wrong were it not for a table: a change that the sheet asks for in many rows."""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core import kinds
from hemplit.core.columns.codes import Grouping, combine
from hemplit.core.design import resolve
from hemplit.core.design.resolve import identity
from hemplit.core.model.design import Feed, Grain
from hemplit.core.model.grid import EMPTY
from hemplit.core.tables.refusals import all_of
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from hemplit.core.model.design import ColumnPlan, Design, TablePlan
    from hemplit.core.model.relation import Relation

#: So many places, and so many dependencies that were not followed, are named.
PLACES = 4
LISTED = 6


@dataclass(frozen=True)
class Anomaly:
    """A change that a person would make, and in how many cells of the sheet and of the tables."""

    header: str
    lead: str
    value: str
    cells: int
    places: tuple[str, ...]


def lead_of(design: Design, table: TablePlan, sheet: str | None = None) -> tuple[str, ...]:
    """The headers, in one of its sheets, that tell one row of a table from another."""
    feed = Feed(sheet or table.sheet)
    headers = (resolve.source(design, table, table.by_name[name], feed) for name in identity(table))
    return tuple(header for header in headers if header is not None)


def anomaly_of(
    design: Design, table: TablePlan, headers: tuple[str, ...], relation: Relation, sheet: str | None = None
) -> Anomaly | None:
    """The change of the first header in the row of the sheet's commonest such thing."""
    lead = lead_of(design, table, sheet)
    known = tuple(name for name in headers if name in relation.by_name)
    if table.grain is Grain.LIST and known:
        # An entry of a list stands in the sheet with every entry of the others.
        owner = lead_of(design, design.by_name[str(table.of)])
        return _commonest(relation, (*owner, known[0]), known[0])
    changed = next((name for name in known if name not in lead and _is_in_cells(relation, name)), None)
    if changed is None or len(lead) != 1 or table.grain in (Grain.ROW, Grain.SUBSET):
        return None
    return _commonest(relation, lead, changed)


def _is_in_cells(relation: Relation, name: str) -> bool:
    """Whether a column stands in cells of the rows, and not once above them or in the name of the file."""
    column = relation.by_name[name]
    return column.own or column.part_of is not None or bool(relation.of)


def _commonest(relation: Relation, lead: tuple[str, ...], changed: str) -> Anomaly | None:
    """The change of a column where the most rows agree in ``lead``."""
    if not set(lead) <= set(relation.by_name):
        return None
    columns = [relation.by_name[name] for name in lead]
    filled = np.flatnonzero(all_of([column.codes != EMPTY for column in columns], relation.row_count))
    if not len(filled):
        return None
    groups = reduce(combine, (Grouping(column.codes[filled], len(column.values)) for column in columns))
    rows = filled[groups.codes == np.bincount(groups.codes).argmax()]
    values = (kinds.show(column.values[int(column.codes[rows[0]])].as_py(), column.kind) for column in columns)
    places = tuple(relation.address(int(row), relation.by_name[changed]) for row in rows[:PLACES])
    return Anomaly(changed, " + ".join(lead), " + ".join(values), len(rows), places)


def through(design: Design, column: ColumnPlan) -> str | None:
    """The header by which the table is known to which a column refers."""
    if column.target is None:
        return None
    lead = lead_of(design, design.by_name[column.target[0]])
    return lead[0] if lead else None
