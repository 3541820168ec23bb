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
from hemplit.core.texts.words import words
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
#: Of so many things, or of so large a share of them, a sheet may say something else than the list: these are told, and
#: the column stays with the rows of the sheet. Of more it is something else that it says.
ODD, ODD_SHARE = 1, 0.1
#: In so many rows it is seen whether two columns say the same.
LOOKED_AT = 1_000


@dataclass(frozen=True)
class Covered:
    """What the list says of a thing: the headers here, each with what gives it there, the columns that stay with the
    rows of the sheet, and the tables that go."""

    given: Mapping[str, str]
    odd: tuple[ColumnPlan, ...]
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

        Of the few things that it does not list it says nothing, and of few others it may say something else.
        """
        few = link.different - link.known <= max(UNLISTED, UNLISTED_SHARE * link.different)
        told = [*self._told(listed.table, found.parent, found.rows)]
        given: dict[str, str] = {}
        gone, kept = {thing.name}, set()
        odd: list[ColumnPlan] = []
        for part in self._parts(thing, own):
            tables = self._with_own(thing, part)
            headers = {header for column in part for header in self._headers(thing, [column], tables)}
            headers |= {header for table in tables for header in self._headers(table, table.columns, tables)}
            cells = [column for column in found.child.columns if column.name in headers]
            if not told or len(cells) < len(headers) or not (few or all(not found.is_lost(one.name) for one in cells)):
                return None
            most = max(ODD, int(ODD_SHARE * link.known))
            best = {one.name: min((_compared(one, each, found, most) for each in told), key=_rank) for one in cells}
            if any(one.odd > most for one in best.values()):
                return None
            names = {table.name for table in tables}
            if any(one.odd for one in best.values()):
                if part[0].along is not None:
                    return None  # it hangs on what names the thing
                odd += part
                kept |= names
            else:
                given |= {header: one.given for header, one in best.items()}
                gone |= names
        return Covered(given, tuple(odd), tuple(name for name in gone if name not in kept))

    def _parts(self, thing: TablePlan, own: Collection[ColumnPlan]) -> list[list[ColumnPlan]]:
        """The columns of a thing, each with those that hang on it."""
        parts: dict[str, list[ColumnPlan]] = {}
        for column in thing.columns:
            if column not in own and column.ids is None:
                parts.setdefault(column.along[0] if column.along else column.name, []).append(column)
        return [*parts.values()]

    def _with_own(self, thing: TablePlan, part: Sequence[ColumnPlan]) -> list[TablePlan]:
        """The tables of its sheet to which nothing else refers than columns of a thing, even through others."""
        found: list[TablePlan] = []
        todo = [(thing, column) for column in part]
        for table, column in todo:
            pointed = resolve.target(self.design, table, column)
            names = {thing.name, *(one.name for one in found)}
            if pointed is None or pointed.table.name in names or pointed.table.sheets != (thing.sheet,):
                continue
            if all(one.name in names for one in self.design.tables if _refers(one, pointed.table.name)):
                found.append(pointed.table)
                todo += [(pointed.table, one) for one in pointed.table.columns]
        return found

    def _headers(
        self, table: TablePlan, columns: Sequence[ColumnPlan], gone: Sequence[TablePlan]
    ) -> Iterator[str | None]:
        """The headers for which columns of a table stand; None for what cannot be given."""
        said = {column.name: header for column, header in self._said(table)}
        for column in columns:
            pointed = resolve.target(self.design, table, column)
            if column.along is not None:
                yield column.source
            elif column.ids is None and (pointed is None or pointed.table not in gone or column.headers):
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
        if self.relations[table.sheet] is not relation:
            return  # another sheet says it first, in other rows
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


@dataclass(frozen=True)
class _Compared:
    """What gives a header, of how many things it says something else, and whether it has another header there."""

    given: str
    odd: int
    renamed: bool


def _rank(one: _Compared) -> tuple[int, bool, int]:
    return one.odd, one.renamed, one.given.count(".")


def _compared(cells: Column, told: _Told, found: Partners, most: int) -> _Compared:
    """A column beside one that tells of the same things; beyond ``most`` odd ones the first rows are enough."""
    renamed = words(cells.name) != words(told.column.name)
    if cells.kind.word != told.column.kind.word:
        return _Compared(told.given, most + 1, renamed)
    said, given = sides(cells, told.column, told.rows)
    differs = (said != given) & ~found.lost
    odd = len(np.unique(found.rows[:LOOKED_AT][differs[:LOOKED_AT]]))
    if odd <= most and len(differs) > LOOKED_AT:
        odd = len(np.unique(found.rows[differs]))
    return _Compared(told.given, odd, renamed)
