"""Which rows of a sheet tell of one thing: they agree in what names it, and nothing contradicts."""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import (
    Grouping,
    by_first_appearance,
    combine,
    first_conflict,
)
from hemplit.core.design import resolve
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.tables import TableColumn
from hemplit.core.tables.cells import reached
from hemplit.core.tables.refusals import (
    all_of,
    check_key_filled,
    grouping_of,
    shown,
)
from hemplit.errors import DataError

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.design import Design, TablePlan
    from hemplit.core.model.grid import Codes
    from hemplit.core.tables.filled import Places


def rows_by_identity(
    design: Design, plan: TablePlan, places: Places, cells: Mapping[str, TableColumn]
) -> tuple[Codes, npt.NDArray[np.int64]]:
    names = resolve.identity(plan)
    blank = {name: cell.codes == EMPTY for name, cell in cells.items()}
    rest_blank = all_of([blank[name] for name in cells if name not in names], places.count)
    if plan.of is not None:
        own = [name for name in cells if (plan.by_name[name].target or ("",))[0] != plan.of]
        absent = all_of([blank[name] for name in own], places.count)
        if names == plan.key:
            check_key_filled(
                design, plan, places, cells, ~absent & ~all_of([~blank[name] for name in names], places.count)
            )
    elif names == plan.key:
        some_blank = ~all_of([~blank[name] for name in names], places.count)
        absent = some_blank & rest_blank
        check_key_filled(design, plan, places, cells, some_blank & ~rest_blank)
    else:
        absent = rest_blank & all_of([blank[name] for name in names], places.count)
    present = np.flatnonzero(~absent)
    grouped = reduce(combine, (grouping_of(cells[name], present) for name in names))
    if names != plan.key:
        grouped = _unnamed_apart(grouped, [cells[name] for name in names], list(cells.values()), present)
    grouping, first = by_first_appearance(grouped)
    row_of = np.full(places.count, EMPTY, dtype=np.int32)
    row_of[present] = grouping.codes
    for name in cells:
        if name not in names:
            rows = reached(design, plan, plan.by_name[name], places)
            rows = rows[row_of[rows] != EMPTY]
            conflict = first_conflict(Grouping(row_of[rows], len(first)), cells[name].codes[rows])
            if conflict is not None:
                group = rows[row_of[rows] == row_of[rows[conflict[0]]]]
                raise _contradiction(design, plan, places, cells, name, group)
    return row_of, present[first]


def _contradiction(
    design: Design,
    plan: TablePlan,
    places: Places,
    cells: Mapping[str, TableColumn],
    name: str,
    group: npt.NDArray[np.int64],
) -> DataError:
    """The error for a row that says something else in a column than most rows of the same thing, the later of two."""
    codes = cells[name].codes[group] + 1
    usual = codes == codes[int(np.bincount(codes)[codes].argmax())]
    odd, other = int(group[~usual][0]), int(group[usual][0])
    at, there = places.spot(odd), places.spot(other)

    def header(of: str) -> str:
        return resolve.header(design, plan, plan.by_name[of], at.feed)

    def cell(of: str, place: int) -> str:
        spot = places.spot(place)
        return spot.under(resolve.header(design, plan, plan.by_name[of], spot.feed)) or shown(cells[of], place)

    thing = ", ".join(f"{header(one)} {cell(one, odd)}" for one in resolve.identity(plan))
    more = f" and {np.count_nonzero(usual) - 1:,} more" if np.count_nonzero(usual) > 1 else ""
    of_other = f"{there.title} " if there.relation is not at.relation else ""
    what = (
        f"{at.title} {at.said}: {thing} has {header(name)} {cell(name, odd)},"
        f" but {cell(name, other)} in {of_other}{there.said}{more}"
    )
    hint = "correct the sheet, or move the column to a table whose key determines it"
    return DataError(f"{resolve.place(plan)}.columns.{name}", what, hint, at.grid_row, sheet=at.feed.sheet)


def _unnamed_apart(
    grouped: Grouping, names: Sequence[TableColumn], cells: Sequence[TableColumn], rows: npt.NDArray[np.int64]
) -> Grouping:
    """The groups, with the rows that name nothing told apart by all that is said in them."""
    unnamed = ~all_of([name.codes[rows] != EMPTY for name in names], len(rows))
    if not unnamed.any():
        return grouped
    whole = reduce(combine, (grouping_of(cell, rows) for cell in cells))
    return combine(grouped, Grouping(np.where(unnamed, whole.codes + 1, 0).astype(np.int32), whole.size + 1))
