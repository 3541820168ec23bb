"""A table with its places: the rows of the sheets that fill it, one feed after the other.

boats, from the 12 rows of jobs for the boat and for its tender, and the 10 of lifts:  places 0…11, 12…23, 24…33
"""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core import kinds
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.tables import Table, TableColumn
from hemplit.dataclasses import dataclass, field, replace

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.design import Feed
    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Relation


@dataclass(frozen=True)
class Spot:
    """One row of a sheet, as a feed of a table reads it."""

    feed: Feed
    relation: Relation
    row: int

    @property
    def grid_row(self) -> int:
        """Its place in the grid."""
        return int(self.relation.grid_rows[self.row])

    @property
    def title(self) -> str:
        """The name of its sheet for a person."""
        return self.relation.source.title

    @property
    def said(self) -> str:
        """Which row of the sheet it is, for a person."""
        return self.relation.row(self.row)

    def under(self, header: str) -> str:
        """What stands under a header, as a message shows it; empty if the sheet has no such header."""
        came = self.relation.by_name.get(header)
        if came is None:
            return ""
        return "a blank" if came.codes[self.row] == EMPTY else f"'{kinds.shown_at(came, self.row)}'"


@dataclass(frozen=True)
class Places:
    """The feeds of a table that are at hand, each with the relation whose rows it reads."""

    feeds: tuple[Feed, ...]
    relations: tuple[Relation, ...]

    @cached_property
    def starts(self) -> tuple[int, ...]:
        """The first place of each feed, and how many there are."""
        return tuple(np.cumsum([0, *(relation.row_count for relation in self.relations)]).tolist())

    @property
    def count(self) -> int:
        return self.starts[-1]

    def of(self, feed: Feed) -> slice:
        """The places of a feed; none of one that is not at hand."""
        if feed not in self.feeds:
            return slice(0)
        at = self.feeds.index(feed)
        return slice(self.starts[at], self.starts[at + 1])

    def where(self, feeds: Sequence[Feed]) -> npt.NDArray[np.int64]:
        """The places of several feeds."""
        ranges = [np.arange(self.count)[self.of(feed)] for feed in self.feeds if feed in feeds]
        return np.concatenate(ranges) if ranges else np.zeros(0, dtype=np.int64)

    def spot(self, place: int) -> Spot:
        """The row of a sheet at a place."""
        at = int(np.searchsorted(self.starts, place, side="right")) - 1
        return Spot(self.feeds[at], self.relations[at], place - self.starts[at])


@dataclass(frozen=True)
class Filled:
    """A table with its places in the sheets.

    ``row_of`` of shape (places,) is its row for each, or ``EMPTY``; ``first`` of shape (table rows,) the first of those
    for each of its rows; ``silent`` has for columns the rows of which no place says anything there.
    """

    row_of: Codes
    first: npt.NDArray[np.int64]
    places: Places
    table: Table | None = None
    silent: Mapping[str, npt.NDArray[np.bool_]] = field(default_factory=dict)

    def by_name(self, column: str) -> TableColumn:
        """A column of the table."""
        assert self.table is not None
        return self.table.by_name[column]

    @property
    def of_rows(self) -> Places:
        """Its rows as places: of each the sheet's row that speaks of it first. All its feeds read one sheet."""
        relation = self.places.relations[0]
        rows = self.first % relation.row_count
        first = replace(relation, columns=(), grid_rows=relation.grid_rows[rows])
        return Places(self.places.feeds[:1], (first,))

    def rows_in(self, feed: Feed) -> Codes:
        """The row of the table for each row of the sheet that a feed reads."""
        return self.row_of[self.places.of(feed)]


def tables_of(filled: Mapping[str, Filled]) -> dict[str, Table]:
    return {name: one.table for name, one in filled.items() if one.table is not None}
