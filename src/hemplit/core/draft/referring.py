"""The columns by which a table refers to a list, and those that keep the cells which name nothing in it."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core import kinds
from hemplit.core.draft.naming import singular
from hemplit.core.model.design import ColumnPlan
from hemplit.core.model.grid import EMPTY
from hemplit.core.texts.vocabulary import CONTACT
from hemplit.core.texts.words import in_full, is_part, snake, stem_of, unused, words
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    from hemplit.core.draft.covered import Covered
    from hemplit.core.draft.listed import Listed, Partners
    from hemplit.core.model.design import TablePlan
    from hemplit.core.model.findings import Link
    from hemplit.core.model.relation import Column

#: So many cells that name nothing are shown with the design.
SHOWN = 3


def reference_to(
    table: TablePlan, column: ColumnPlan, link: Link, listed: Listed, found: Partners, *, required: bool
) -> ColumnPlan:
    """The column as a reference to what is listed."""
    single = len(listed.table.key) == 1
    key = listed.table.key[0]
    taken = {one.name for one in table.columns} - {column.name}
    name = column.name
    about = stem_of(name) if is_part(name) else words(name)
    if single and listed.named_by and listed.table.by_name[key].ids is None:
        plain = snake(about).removesuffix("_id")
        says_it = key.startswith(f"{plain}_") or in_full(words(key))[:1] == (plain,)
        name = unused(key if says_it else f"{plain}_{key}", taken, key)
    if single and listed.table.by_name[key].ids is not None and not name.endswith("_id"):
        # Who is known by a mail is somebody.
        said = tuple(word for word in about if word not in CONTACT | {"name"})
        name = unused(f"{snake(singular(said))}_id" if said else key, taken, key)
    place = link.headers.index(str(column.source))
    return replace(
        column,
        name=name,
        kind=found.child.by_name[str(column.source)].kind,
        to=listed.table.name if single else f"{listed.table.name}.{listed.names[place]}",
        required=required,
        named_by=listed.named_by if single else (),
        why=_why(link, listed),
    )


def unmatched(reference: ColumnPlan, taken: Iterable[str], found: Partners) -> tuple[ColumnPlan, ...]:
    """A column for the cells that name nothing that is listed, if there are any."""
    if found.all_found:
        return ()
    column = found.child.by_name[str(reference.source)]
    rows = [row for row in np.flatnonzero(found.lost).tolist() if column.codes[row] != EMPTY]
    said = ", ".join(f"{found.child.address(row, column)} '{_text(column, row)}'" for row in rows[:SHOWN])
    more = ", …" if len(rows) > SHOWN else ""
    name = unused(f"{snake(words(column.name))}_unmatched", {*taken}, "unmatched")
    kept = replace(
        reference, name=name, kind=column.kind, to=None, named_by=(), headers=reference.headers[:1], required=False
    )
    return (replace(kept, unmatched=reference.name, why=f"not listed: {said}{more}"),)


def description(
    taken: set[str], own: Sequence[ColumnPlan], link: Link, listed: Listed, found: Partners
) -> tuple[ColumnPlan, list[ColumnPlan]]:
    """One reference by several columns, and what holds the cells of these that name nothing that is listed."""
    key = listed.table.key[0]
    made = replace(
        own[0],
        name=unused(key, taken, key),
        kind=None,
        to=listed.table.name,
        headers=link.headers,
        named_by=listed.names,
        required=all(one.required for one in own) and found.all_found,
        why=_why(link, listed),
    )
    further: list[ColumnPlan] = []
    for one in own:
        names = taken | {made.name} | {other.name for other in further}
        further += (
            replace(kept, unmatched=made.name)
            for kept in unmatched(replace(made, name=one.name, headers=one.headers), names, found)
        )
    return made, further


def beside(table: TablePlan, column: ColumnPlan, link: Link, listed: Listed) -> ColumnPlan:
    """A further column that refers to what is listed, beside one that has to stay as it is."""
    key = listed.table.key[0]
    taken = {one.name for one in table.columns}
    about = stem_of(link.headers[0]) if len(link.headers) == 1 and listed.table.by_name[key].ids is not None else ()
    said = f"{snake(singular(about))}_id" if about else f"{snake(words(link.headers[0]))}_{key}"
    name = key if key not in taken and not about else unused(said, taken, key)
    return replace(
        column,
        name=name,
        kind=None,
        to=listed.table.name,
        headers=link.headers,
        named_by=listed.names if len(link.headers) > 1 or link.alike else listed.named_by,
        alike=link.alike,
        required=False,
        why=_why(link, listed),
    )


def odd_columns(said: Covered, taken: Iterable[str], *, required: bool) -> list[ColumnPlan]:
    """The columns of a thing of which the list says something else, as they stay with the rows of the sheet."""
    made: list[ColumnPlan] = []
    names: dict[str, str] = {}
    for one in said.odd:
        names[one.name] = unused(one.name, {*taken, *names.values()}, "said")
        along = (names[one.along[0]], one.along[1]) if one.along is not None else None
        made.append(replace(one, name=names[one.name], along=along, required=one.required and required))
    return made


def given_columns(
    said: Covered, reference: ColumnPlan, taken: Iterable[str], listed: Listed, found: Partners
) -> list[ColumnPlan]:
    """What the view takes from the list, and columns that keep it of things which are not listed."""
    made: list[ColumnPlan] = []
    for header, given in said.given.items():
        used = {*taken, *(one.name for one in made)}
        column = ColumnPlan(unused(snake(words(header)), used, "given"), headers=(header,))
        made += taken_along(column, reference, given, used, listed, found)
    return made


def taken_along(
    column: ColumnPlan, reference: ColumnPlan, given: str, taken: Iterable[str], listed: Listed, found: Partners
) -> tuple[ColumnPlan, ...]:
    """A column as the view takes it from the list, and one that keeps its cells of things which are not listed."""
    why = f"the view takes it from {listed.table.name}.{given}"
    along = replace(column, kind=None, along=(reference.name, given), store=False, required=False, why=why)
    if not found.is_lost(str(column.source)):
        return (along,)
    kept = unmatched(replace(along, along=None, store=True), {*taken, along.name}, found)
    return (along, *(replace(one, unmatched=reference.name) for one in kept))


def _why(link: Link, listed: Listed) -> str:
    written = ", written differently" if link.alike else ""
    return f"{link.known:,} of {link.different:,} stand in {listed.table.name}{written}"


def _text(column: Column, row: int) -> str:
    return kinds.show(column.values[int(column.codes[row])].as_py(), column.kind)
