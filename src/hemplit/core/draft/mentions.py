"""A column that names things which no sheet lists → it fills the table of these, too, and refers to it.

    jobs: boats (boat_reg, name)    visits: visits (visit_no, reg, boat)    →    visits (visit_no, boat_reg → boats)

What the columns beside it say of the things goes along, where it is what the others say.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design.feeds import of_one_sheet
from hemplit.core.draft.listed import Partners, is_plain, partners_of
from hemplit.core.texts.words import snake, stem_of, unused, words
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping

    from hemplit.core.draft.listed import Listed
    from hemplit.core.model.design import ColumnPlan, TablePlan
    from hemplit.core.model.findings import Link
    from hemplit.core.model.relation import Relation


def mentioned(
    table: TablePlan, column: ColumnPlan, link: Link, listed: Listed, relations: Mapping[str, Relation]
) -> tuple[TablePlan, TablePlan, str] | None:
    """The table of the things, that of the column, and the new name of the column; None if it cannot be so."""
    things, named = listed.table, listed.columns[0]
    cells = relations[link.child].by_name[link.headers[0]]
    apart = any(of_one_sheet(things, one) for one in things.columns)
    if link.alike or len(link.headers) > 1 or cells.kind != named.kind or apart:
        return None
    known = things.headers_in(link.child, named)
    key = things.key[0]
    taken = {one.name for one in table.columns} - {column.name}
    role = column.name if things.by_name[key].ids is None else f"{snake(words(link.headers[0]))}_id"
    reference = replace(
        column,
        name=unused(role if known else key, taken, f"{column.name}_{key}"),
        kind=None,
        headers=link.headers if known else (),
        to=things.name,
        why=f"{link.known:,} of {link.different:,} stand in {things.name}",
    )
    told = {} if known else _told(table, column, listed, partners_of(link, relations), link.headers[0])
    said = {named.name: (*known, *link.headers), **{name: one.headers for name, one in told.items()}}
    blank = {name for name, one in told.items() if relations[link.child].by_name[str(one.source)].blanks}
    columns = tuple(_also(one, link.child, said.get(one.name), blank) for one in things.columns)
    gone = list(told.values())
    own = tuple(reference if one is column else one for one in table.columns if one not in gone)
    rules = tuple(rule for rule in table.rules if not {*rule.columns} & {one.name for one in gone})
    return replace(things, columns=columns), replace(table, columns=own, rules=rules), reference.name


def in_roles(tables: Iterable[TablePlan], things: TablePlan, sheet: str) -> list[TablePlan]:
    """The tables of a sheet that now names such things in several places, with references that say by which header."""
    # What names them comes before what is said of them in each role.
    first = next(headers for one in things.columns if len(headers := things.headers_in(sheet, one)) > 1)[:1]
    return [
        replace(
            table,
            columns=tuple(
                replace(one, headers=first) if one.to == things.name and not one.all_headers else one
                for one in table.columns
            ),
        )
        for table in tables
        if table.sheet == sheet and any(one.to == things.name and not one.all_headers for one in table.columns)
    ]


def _also(column: ColumnPlan, sheet: str, headers: tuple[str, ...] | None, blank: set[str]) -> ColumnPlan:
    """A column of the things as a further sheet fills it."""
    if headers is None:
        return replace(column, required=column.required and column.is_made)
    others = tuple(one for one in column.elsewhere if one[0] != sheet)
    required = column.required and column.name not in blank
    return replace(column, elsewhere=(*others, (sheet, headers)), required=required)


def _told(table: TablePlan, column: ColumnPlan, listed: Listed, found: Partners, header: str) -> dict[str, ColumnPlan]:
    """The columns beside one that names a thing which say of it what a column of its table does, by that one."""
    about = stem_of(header)
    kept = {*table.key, *(name for names in table.unique for name in names)}
    theirs = [one for one in listed.table.columns if is_plain(one) and one not in listed.columns]
    told: dict[str, ColumnPlan] = {}
    for one in table.columns:
        is_beside = one is not column and is_plain(one) and one.name not in kept
        if is_beside and about and words(str(one.source))[: len(about)] == about:
            same = (
                other.name for other in theirs if found.says_nothing_else(str(one.source), str(other.source), header)
            )
            name = next(same, None)
            if name is not None:
                told.setdefault(name, one)
    return told
