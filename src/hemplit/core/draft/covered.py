"""A thing of which another sheet lists all that is said here needs no table: the view takes it from the list.

orders: orders (…, part_no → parts_2), parts_2 (part_no, part, category_id → categories_2, maker)
parts:  parts (part_no, part, category_id → categories, maker_no → makers)      makers: makers (maker_no, name)
→       orders (…, part_no → parts; part, category and maker taken along)
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.design import resolve
from hemplit.core.draft.listed import is_plain, partners_of, sides
from hemplit.core.model.grid import EMPTY
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Collection, Iterator, Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.draft.listed import Listed, Partners
    from hemplit.core.model.design import ColumnPlan, Design, TablePlan
    from hemplit.core.model.findings import Link
    from hemplit.core.model.relation import Column, Relation

#: So many things, or so large a share of them, may be missing in a list, as after a slip in a code: what is said of
#: these is kept beside the reference. Of more of them it would repeat, and they have a table.
UNLISTED, UNLISTED_SHARE = 2, 0.1


@dataclass(frozen=True)
class Covered:
    """What the list says of a thing: the headers here, each with what gives it there, and the tables that go."""

    given: Mapping[str, str]
    gone: tuple[str, ...]


@dataclass(frozen=True)
class _Told:
    """A column that tells something of the things of a list: what gives it there, and its row for each of the sheet."""

    given: str
    column: Column
    rows: npt.NDArray[np.int64]


@dataclass(frozen=True)
class Covering:
    """A design with what its sheets say, and the links between them."""

    design: Design
    relations: Mapping[str, Relation]
    links: Sequence[Link]

    def covered(
        self, thing: TablePlan, own: Collection[ColumnPlan], link: Link, listed: Listed, found: Partners
    ) -> Covered | None:
        """What the list says of all columns of a thing but those that name it, ``own``; None if it does not say all.

        Of the few things that it does not list it says nothing.
        """
        gone = self._with_own(thing)
        headers = {header for table in gone for header in self._headers(table, gone, own)}
        few = link.different - link.known <= max(UNLISTED, UNLISTED_SHARE * link.different)
        cells = [column for column in found.child.columns if column.name in headers]
        if len(cells) < len(headers) or not (few or all(not found.is_lost(one.name) for one in cells)):
            return None
        told = [*self._told(listed.table, found.parent, found.rows)] if cells else []
        given = {one.name: next((each.given for each in told if _agrees(one, each, ~found.lost)), "") for one in cells}
        return Covered(given, tuple(table.name for table in gone)) if all(given.values()) else None

    def _with_own(self, thing: TablePlan) -> list[TablePlan]:
        """A thing, and the tables of its sheet to which nothing else refers, even through others."""
        found = [thing]
        for table in found:
            for column in table.columns:
                pointed = resolve.target(self.design, table, column)
                names = {one.name for one in found}
                if pointed is None or pointed.table.name in names or pointed.table.sheets != (thing.sheet,):
                    continue
                if all(one.name in names for one in self.design.tables if _refers(one, pointed.table.name)):
                    found.append(pointed.table)
        return found

    def _headers(
        self, table: TablePlan, gone: Sequence[TablePlan], own: Collection[ColumnPlan]
    ) -> Iterator[str | None]:
        """The headers for which the columns of a table stand that would go; None for what cannot be given."""
        said = {column.name: header for column, header in self._said(table)}
        for column in table.columns:
            pointed = resolve.target(self.design, table, column)
            if column in own or column.ids is not None:
                continue
            if column.along is not None:
                yield column.source
            elif pointed is None or pointed.table not in gone or column.headers:
                yield said.get(column.name)

    def _said(self, table: TablePlan) -> Iterator[tuple[ColumnPlan, str]]:
        """The columns that hold the cells of one header, or refer to what holds them, each with this header."""
        lacking = {column.unmatched for column in table.columns}
        for column in table.columns:
            pointed = resolve.target(self.design, table, column)
            if is_plain(column):
                yield column, str(column.source)
            elif pointed is not None and column.store and not column.elsewhere and column.name not in lacking:
                names = resolve.names(pointed, column)
                named = pointed.table.by_name[names[0]]
                if len(column.headers) == 1 and len(names) == 1 and not column.alike:
                    yield column, column.headers[0]
                elif not column.headers and len(names) == 1 and is_plain(named) and pointed.table.sheet == table.sheet:
                    yield column, str(named.source)

    def _told(
        self, table: TablePlan, relation: Relation, rows: npt.NDArray[np.int64], before: str = ""
    ) -> Iterator[_Told]:
        """All that is told of the things of a list, also by the lists to which it refers."""
        for column, header in self._said(table):
            if header in relation.by_name:
                yield _Told(f"{before}{column.name}", relation.by_name[header], rows)
        for column, header in self._said(table):
            pointed = resolve.target(self.design, table, column)
            if pointed is None or pointed.table is table:
                continue
            onward = f"{before}{column.name}."
            if pointed.table.sheet == table.sheet and not column.headers:
                yield from self._told(pointed.table, relation, rows, onward)
                continue
            link = next((one for one in self.links if (one.child, one.headers) == (table.sheet, (header,))), None)
            if link is not None and link.parent == pointed.table.sheet:
                there = np.append(partners_of(link, self.relations).rows, EMPTY)[rows]
                yield from self._told(pointed.table, self.relations[link.parent], there, onward)


def _refers(table: TablePlan, to: str) -> bool:
    return any(column.target is not None and column.target[0] == to for column in table.columns)


def _agrees(cells: Column, told: _Told, where: npt.NDArray[np.bool_]) -> bool:
    """Whether what is told is what the sheet says."""
    if cells.kind.word != told.column.kind.word:
        return False
    said, given = sides(cells, told.column, told.rows)
    return bool((said == given)[where].all())
