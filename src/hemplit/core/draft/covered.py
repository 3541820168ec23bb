"""A thing of which another sheet lists all that is said here needs no table: the view takes it from the list.

orders: orders (…, part_no → parts_2), parts_2 (part_no, part, category_id → categories_2)
parts:  parts (part_no, part, category_id → categories, unit)
→       orders (…, part_no → parts; part and category taken along)
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.draft.listed import is_plain
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from hemplit.core.draft.listed import Listed, Partners
    from hemplit.core.model.design import ColumnPlan, Design, TablePlan
    from hemplit.core.model.findings import Link

#: So many things, or so large a share of them, may be missing in a list, as after a slip in a code: what is said of
#: these is kept beside the reference. Of more of them it would repeat, and they have a table.
UNLISTED, UNLISTED_SHARE = 2, 0.1


@dataclass(frozen=True)
class Covered:
    """A column of a thing, the header that it stands for, and the column of the list that says the same."""

    column: ColumnPlan
    header: str
    given: str


def covered(
    design: Design, thing: TablePlan, own: Sequence[ColumnPlan], link: Link, listed: Listed, found: Partners
) -> tuple[Covered, ...] | None:
    """All columns of a thing but those that name it, ``own``; None if the list does not say all of them.

    Of the few things that it does not list it says nothing.
    """
    few = link.different - link.known <= max(UNLISTED, UNLISTED_SHARE * link.different)
    agrees = found.agrees if few else found.says_the_same
    theirs = [(other.name, header) for other, header in _said(design, listed.table) if header in found.parent.by_name]
    said = {column.name: header for column, header in _said(design, thing)}
    made = []
    for column in thing.columns:
        if column in own or column.ids is not None:
            continue
        header = said.get(column.name)
        if header is None or not _goes_with(design, thing, column):
            return None
        given = next((name for name, other in theirs if agrees(header, other)), None)
        if given is None:
            return None
        made.append(Covered(column, header, given))
    return tuple(made)


def lists_of(design: Design, thing: TablePlan) -> tuple[str, ...]:
    """The tables to which nothing but the thing refers, and which go with it."""
    return tuple(
        pointed.table.name
        for column in thing.columns
        for pointed in [resolve.target(design, thing, column)]
        if pointed is not None and _is_of(design, thing, pointed.table)
    )


def _said(design: Design, table: TablePlan) -> Iterator[tuple[ColumnPlan, str]]:
    """The columns that hold the cells of one header, or refer to what holds them, each with this header."""
    lacking = {column.unmatched for column in table.columns}
    for column in table.columns:
        pointed = resolve.target(design, table, column)
        if is_plain(column):
            yield column, str(column.source)
        elif pointed is not None and column.store and not column.elsewhere and column.name not in lacking:
            names = resolve.names(pointed, column)
            named = pointed.table.by_name[names[0]]
            if len(column.headers) == 1 and len(names) == 1 and not column.alike:
                yield column, column.headers[0]
            elif not column.headers and len(names) == 1 and is_plain(named) and pointed.table.sheet == table.sheet:
                yield column, str(named.source)


def _goes_with(design: Design, thing: TablePlan, column: ColumnPlan) -> bool:
    """Whether nothing is lost with a column: what it alone refers to is a list of names."""
    pointed = resolve.target(design, thing, column)
    if pointed is None or not _is_of(design, thing, pointed.table):
        return True
    told = {*pointed.table.key, *resolve.identity(pointed.table)}
    return told.issuperset(column.name for column in pointed.table.columns)


def _is_of(design: Design, thing: TablePlan, table: TablePlan) -> bool:
    """Whether a table is one of the same sheet to which only this thing refers."""
    pointing = {
        one.name for one in design.tables for column in one.columns if (column.target or ("",))[0] == table.name
    }
    return table.sheet == thing.sheet and pointing == {thing.name}
