"""A table with its place in the sheet that it comes from."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.model.tables import Table, TableColumn

if TYPE_CHECKING:
    from collections.abc import Mapping

    import numpy.typing as npt

    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Relation


@dataclass(frozen=True)
class Filled:
    """A table with its place in the sheet.

    ``row_of`` of shape (roles × sheet rows,) is its row for each, or ``EMPTY``; ``first`` of shape (table rows,) the
    first of those for each of its rows; ``relation`` is the sheet.
    """

    row_of: Codes
    first: npt.NDArray[np.int64]
    relation: Relation
    table: Table | None = None

    def by_name(self, column: str) -> TableColumn:
        """A column of the table."""
        assert self.table is not None
        return self.table.by_name[column]


def tables_of(filled: Mapping[str, Filled]) -> dict[str, Table]:
    return {name: one.table for name, one in filled.items() if one.table is not None}
