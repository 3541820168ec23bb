"""What a sheet lists that others refer to, and which of its rows each row of another sheet names."""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core.columns.codes import Grouping, combine, first_conflict, first_rows, tell_apart
from hemplit.core.columns.partners import partners
from hemplit.core.design import resolve
from hemplit.core.model.grid import EMPTY
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.design import ColumnPlan, TablePlan
    from hemplit.core.model.findings import Link
    from hemplit.core.model.relation import Column, Relation


@dataclass(frozen=True)
class Listed:
    """The table that lists what a link refers to: the columns there that stand for the key of the link."""

    table: TablePlan
    columns: tuple[ColumnPlan, ...]

    @property
    def names(self) -> tuple[str, ...]:
        """The names of these columns."""
        return tuple(column.name for column in self.columns)

    @property
    def is_keyed(self) -> bool:
        """Whether they are its key, in that order."""
        return self.names == self.table.key

    @property
    def named_by(self) -> tuple[str, ...]:
        """What a reference has to say of them: nothing if its rows are known by them anyhow."""
        made_up = self.table.by_name[self.table.key[0]].ids is not None
        usual = resolve.identity(self.table) if made_up else self.table.key
        return () if self.names == usual else self.names


@dataclass(frozen=True)
class Partners:
    """For each row of a sheet the row of the list that it names, ``EMPTY`` for none; ``lost`` are those that name one
    in vain."""

    rows: npt.NDArray[np.int64]
    lost: npt.NDArray[np.bool_]
    child: Relation
    parent: Relation

    @property
    def all_found(self) -> bool:
        """Whether every name is listed."""
        return not self.lost.any()

    def says_nothing_else(self, header: str, other: str, key: str) -> bool:
        """Whether a column says of each thing that a key names one thing, and of those that are listed what the list
        says."""
        own, named = self.child.by_name[header], self.child.by_name[key].codes
        told = np.flatnonzero(named != EMPTY)
        if own.kind != self.parent.by_name[other].kind or (own.codes[named == EMPTY] != EMPTY).any():
            return False
        if first_conflict(Grouping(named[told], len(self.child.by_name[key].values)), own.codes[told]) is not None:
            return False
        said, given = self._sides(header, other)
        return bool((said == given)[self.rows != EMPTY].all())

    def says_the_same(self, header: str | None, other: str | None) -> bool:
        """Whether a column of the list says in each row what a column of the sheet says there, if they have both."""
        if header not in self.child.by_name or other not in self.parent.by_name:
            return False
        if self.child.by_name[header].kind.word != self.parent.by_name[other].kind.word:
            return False
        said, given = self._sides(header, other)
        return bool((said == given).all())

    def is_lost(self, header: str) -> bool:
        """Whether a column says something in rows that name one in vain."""
        return bool((self.child.by_name[header].codes[self.lost] != EMPTY).any())

    def _sides(self, header: str, other: str) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
        return sides(self.child.by_name[header], self.parent.by_name[other], self.rows)


def sides(
    own: Column, theirs: Column, rows: npt.NDArray[np.int64]
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """What a column says in each row, and what another says in the row that belongs to it, in the codes of that one."""
    place = pc.fill_null(pc.index_in(own.values, theirs.values), -2).to_numpy(zero_copy_only=False)
    said = np.append(place.astype(np.int64), EMPTY)[own.codes]
    return said, np.append(theirs.codes.astype(np.int64), EMPTY)[rows]


def partners_of(link: Link, relations: Mapping[str, Relation]) -> Partners:
    """For each row of the sheet that refers the row of the list that it names."""
    child, parent = relations[link.child], relations[link.parent]
    own = [(child.by_name[name].codes, child.by_name[name].values) for name in link.headers]
    keys = [parent.by_name[name] for name in link.key]
    # Rows that say the same of the thing again do not count.
    whole = reduce(combine, (Grouping(key.codes + 1, len(key.values) + 1) for key in keys))
    listed = first_rows(whole)
    unique = is_unique(parent, link.key)
    first = np.arange(parent.row_count) if unique else np.sort(listed[listed != EMPTY])
    found = partners(own, [(key.codes[first], key.values) for key in keys], alike=link.alike)
    rows = np.append(first, EMPTY)[found]
    named = np.logical_or.reduce([codes != EMPTY for codes, _ in own])
    return Partners(rows, named & (rows == EMPTY), child, parent)


def is_unique(relation: Relation, names: Sequence[str]) -> bool:
    """Whether columns tell the rows of a sheet apart."""
    return tell_apart([(relation.by_name[name].codes, len(relation.by_name[name].values)) for name in names])


def is_plain(column: ColumnPlan) -> bool:
    """Whether a column holds the cells of one header as they are."""
    return column.to is None and len(column.headers) == 1 and not column.elsewhere and column.store
