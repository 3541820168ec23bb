"""Fourth normal form: a sheet whose rows only combine independent lists becomes one table for each list.

Each list refers to the thing to which it belongs, and none of the tables has a row for each row of the sheet.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.draft.naming import plural, singular, stem, without
from hemplit.core.draft.sorts import is_code
from hemplit.core.model.design import ColumnPlan, Grain, Purpose, TablePlan
from hemplit.core.texts.words import snake, words
from hemplit.dataclasses import dataclass, replace

if TYPE_CHECKING:
    from collections.abc import Callable, Collection, Mapping, Sequence

    from hemplit.core.model.findings import Findings


@dataclass(frozen=True)
class Parted:
    """The header to which the lists belong, and the headers of each list, without what those decide."""

    header: str
    lists: tuple[tuple[str, ...], ...]
    groups: int

    @property
    def why(self) -> str:
        """Why the lists are parted."""
        lists = " and ".join(f"'{' + '.join(headers)}'" for headers in self.lists)
        return f"{lists} combine freely under each '{self.header}': in {self.groups} of them both have several values"


def parted(found: Findings, own: Collection[str], together: Sequence[Sequence[str]]) -> Parted | None:
    """The independent lists of a sheet, if its rows are nothing but their combinations.

    ``own`` are the headers that belong to the sheet's rows and to no thing, ``together`` those that are wished for in
    one table.
    """
    for one in found.multivalued:
        lists = tuple(tuple(name for name in part if name in own) for part in one.parts)
        whole = {*one.left, *(name for part in lists for name in part)} == set(own)
        wished = any(sum(bool(set(part) & set(wish)) for part in lists) > 1 for wish in together)
        if one.separable and whole and all(lists) and not wished:
            return Parted(one.left[0], lists, one.groups)
    return None


def list_tables(
    base: TablePlan,
    headers: Mapping[str, str],
    given: Parted,
    found: Findings,
    made_up: Callable[[str, str], ColumnPlan],
    name_of: Callable[[Sequence[str]], str],
) -> list[TablePlan]:
    """The tables of the lists, after that of the thing to which they belong if it has none yet.

    ``base`` is the table that they replace, ``headers`` has the header of each of its columns, ``name_of`` gives a
    table a name that is free.
    """
    column_of = {header: base.by_name[name] for name, header in headers.items()}
    about = singular(stem([given.header]))
    owner, up = _owner(base.sheet, column_of[given.header], given, found, made_up, name_of)
    tables = [] if owner is None else [owner]
    for part in given.lists:
        columns = [replace(column_of[header], required=not found.by_name[header].blanks) for header in part]
        what = without(plural(stem([part[0]])), about)
        key = _key(given.header, part, found)
        name = name_of((*about, *what))
        unique: tuple[tuple[str, ...], ...] = ()
        if len(part) == 1 or key:
            names = [column_of[header].name for header in key or part]
            columns = [replace(column, required=column.required or column.name in names) for column in columns]
            columns, keyed = [up, *columns], (up.name, *names)
        else:
            made = made_up(
                snake((*about, *singular(what), "id")), "generated id, because a column of the list may be blank"
            )
            unique = ((up.name, *(column.name for column in columns)),)
            columns, keyed = [made, up, *columns], (made.name,)
        plan = TablePlan(name, base.sheet, Purpose.DETAIL, keyed, tuple(columns), Grain.LIST, unique, of=up.to)
        refers = sum(column.to is not None for column in plan.columns if column.name in plan.key) > 1
        tables.append(replace(plan, purpose=Purpose.JUNCTION if refers else Purpose.DETAIL, why=given.why))
    return tables


def _owner(
    sheet: str,
    column: ColumnPlan,
    given: Parted,
    found: Findings,
    made_up: Callable[[str, str], ColumnPlan],
    name_of: Callable[[Sequence[str]], str],
) -> tuple[TablePlan | None, ColumnPlan]:
    """The table of the things to which the lists belong, unless there is one, and a list's reference to it."""
    if column.to is not None:
        return None, replace(column, required=True)
    about = singular(stem([given.header]))
    name = name_of(plural(about))
    why = f"the lists belong to '{given.header}'"
    if is_code(found.by_name[given.header]):
        key = replace(column, name=snake(words(given.header)), required=True)
        return TablePlan(name, sheet, Purpose.ENTITY, (key.name,), (key,), why=why), ColumnPlan(
            key.name, to=name, required=True
        )
    key = made_up(f"{snake(about)}_id", f"generated id, because '{given.header}' is a name")
    columns = (key, replace(column, name="name", required=True))
    return (
        TablePlan(name, sheet, Purpose.ENTITY, (key.name,), columns, unique=(("name",),), why=why),
        ColumnPlan(key.name, to=name, required=True),
    )


def _key(header: str, part: Sequence[str], found: Findings) -> tuple[str, ...]:
    """What tells the entries of one list apart: one column if it decides the others there, else all; blanks cannot."""
    decided = {(frozenset(one.left), one.right) for one in found.dependencies if not one.blank_decides}
    for name in part:
        rest = [other for other in part if other != name]
        if rest and all((frozenset((header, name)), other) in decided for other in rest):
            return (name,)
    return () if any(found.by_name[name].blanks for name in part) else tuple(part)
