"""Which rows of a view tell all of it.

Under each header a view says what one column of the row itself holds, or what is found or calculated by a few of them:
the columns of a reference, or what a formula starts from. Rows that agree in these say the same there. What the rows
themselves hold is compared in each of them, where the tables are; so it is enough that everything by which something
is found or calculated is read once. Of a million order lines that is as many as there are orders.
"""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import Grouping, combine, first_rows, with_blank

if TYPE_CHECKING:
    from collections.abc import Iterator

    import numpy.typing as npt

    from hemplit.core.model.tables import Table, Tables, View, ViewColumn

#: A view of fewer rows is read whole, which takes a second or so; and so is one of which a larger share of the rows
#: would have to be read. Measured at 1,020,116 x 28: a quarter of the rows takes 2.7 s, three quarters 5.0, nine tenths
#: 7.3 and the whole 6.3.
FEWEST_ROWS, MOST = 200_000, 0.75
#: Kinds that stand in a view as they are stored.
AS_STORED = ("whole number", "decimal", "text")


def telling_rows(view: View, tables: Tables) -> npt.NDArray[np.bool_] | None:
    """For each row of the base table whether it has to be read, shape (rows,); None if the view is to be read whole."""
    base = tables.by_name[view.base]
    gathers = any(column.gathered is not None or column.counted is not None for column in view.columns)
    if base.row_count < FEWEST_ROWS or view.lists or gathers:
        return None
    wanted = np.zeros(base.row_count, dtype=bool)
    for together in sorted((_together(base, names) for names in _found_by(view)), key=lambda one: -one.size):
        here = np.zeros(together.size, dtype=bool)
        here[together.codes[wanted]] = True
        first = first_rows(together)
        wanted[first[~here & (first >= 0)]] = True
    return wanted if np.count_nonzero(wanted) <= MOST * base.row_count else None


def _found_by(view: View) -> list[tuple[str, ...]]:
    """The columns of the base table by which something is found or calculated, those that belong together in one."""
    headers = {column.header: column for column in view.columns}
    found = {frozenset(_hangs_on(column, headers)) for column in view.columns if not _is_as_stored(column)}
    return sorted(tuple(sorted(one)) for one in found if not any(one < other for other in found))


def _is_as_stored(column: ViewColumn) -> bool:
    is_own = column.column is not None and not column.path and not column.otherwise
    return is_own and column.kind.word in AS_STORED


def _hangs_on(column: ViewColumn, headers: dict[str, ViewColumn]) -> Iterator[str]:
    """The columns of the base table that decide what stands under a header."""
    if column.formula is not None:
        for operand in column.formula.operands:
            yield from _hangs_on(headers[operand], headers)
    elif column.column is not None:
        for path, name in ((column.path, column.column), *column.otherwise):
            yield from path[0].columns if path else (name,)


def _together(base: Table, names: tuple[str, ...]) -> Grouping:
    columns = (base.by_name[name] for name in names)
    return reduce(combine, (with_blank(column.codes, len(column.values)) for column in columns))
