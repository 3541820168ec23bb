"""Sheets that tell of the same things as a further one, as they are held: what they say, and that it stays said.

held: boats (MQ-1, Sloop, 1971), told of by yard and insured      further: insured (MQ-1, Yawl, 900)
→     yard is right, as it comes first; insured keeps 'Yawl' beside, and what it says of MQ-1 is filled in
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core import kinds
from hemplit.core.columns.codes import distinct, stack
from hemplit.core.model.grid import EMPTY, Source
from hemplit.core.model.relation import Relation
from hemplit.core.model.tables import Table, Tables
from hemplit.core.proof.rejoin import rejoin
from hemplit.core.tables.match import match
from hemplit.core.tables.merge import Merged
from hemplit.core.tables.same import differing, headers_in, keys_of, rows_of_things, said, united_for
from hemplit.core.tables.views import view_of_stored
from hemplit.dataclasses import dataclass, replace

if TYPE_CHECKING:
    from collections.abc import Mapping

    import numpy.typing as npt

    from hemplit.core.model.design import Design, SheetPlan, TablePlan
    from hemplit.core.model.relation import Column


@dataclass(frozen=True)
class Beside:
    """The ``others`` that tell of the same things as a sheet, and the ``relation`` of what all say of its things."""

    united: SheetPlan
    relation: Relation
    others: Mapping[str, Relation]


def beside(design: Design, sheet: str, relation: Relation, held: Mapping[str, Table]) -> Beside | None:
    """What is held of the things of a further sheet by others; None if these tell of other things."""
    united = design.united(sheet)
    if united is None:
        return None
    plans = [one for one in design.sheets if one.name in united.unites and one.name != sheet]
    others = {one.name: _as_held(design, one, held) for one in plans}
    return Beside(united, united_for(united, sheet, {**others, sheet: relation}), others)


def _as_held(design: Design, sheet: SheetPlan, held: Mapping[str, Table]) -> Relation:
    columns = tuple(_given(design, sheet, held).values())
    return Relation(Source(sheet.file), columns, np.arange(held[design.base_of(sheet.name).name].row_count))


def _given(design: Design, sheet: SheetPlan, tables: Mapping[str, Table]) -> dict[str, Column]:
    return rejoin(Tables(tuple(tables.values()), ()), view_of_stored(design, sheet, tables))


def settle(design: Design, sheet: str, held: Mapping[str, Table], merged: Merged) -> tuple[Merged, dict[int, str]]:
    """The tables, in which the other sheets still say what they said, where a column keeps it.

    Besides, for each row of the base table of the further sheet by which another would say something else, why.
    """
    united = design.united(sheet)
    assert united is not None
    broken: dict[int, str] = {}
    for plan in design.sheets:
        if plan.name in united.unites and plan.name != sheet:
            merged, odd = _settle(design, plan, united, held, merged)
            broken |= odd
    base, things = design.base_of(sheet).name, design.base_of(united.name).name
    named = _things_of(merged.tables, base, things)[merged.place[base]].tolist()
    return merged, {row: broken[thing] for row, thing in enumerate(named) if thing in broken}


def _things_of(tables: Mapping[str, Table], base: str, things: str) -> npt.NDArray[np.int32]:
    """For each row of a base table the row of the thing that it names."""
    reference = next(one for one in tables[base].references if one.table == things)
    return match(tables[base], reference, tables[things])


def _settle(
    design: Design, plan: SheetPlan, united: SheetPlan, held: Mapping[str, Table], merged: Merged
) -> tuple[Merged, dict[int, str]]:
    base = design.base_of(plan.name)
    table = merged.tables[base.name]
    keeping = {str(one.source): one.name for one in base.columns if one.unlike is not None}
    blank = np.full(table.row_count, EMPTY, dtype=np.int32)
    plain = [replace(one, codes=blank) if one.name in keeping.values() else one for one in table.columns]
    tables = {**merged.tables, base.name: replace(table, columns=tuple(plain))}
    before, after = _given(design, plan, held), _given(design, plan, tables)
    kept: dict[str, tuple[npt.NDArray[np.int32], object]] = {}
    broken: dict[int, str] = {}
    things = _things_of(merged.tables, base.name, design.base_of(united.name).name)
    for header, column in before.items():
        codes, values = stack([(column.codes, column.values), (after[header].codes, after[header].values)])
        one, two = np.split(codes, 2)
        differs = one != two
        if header in keeping:
            kept[keeping[header]] = np.where(differs, one, np.int32(EMPTY)).astype(np.int32), values
            differs &= one == EMPTY
        for row in np.flatnonzero(differs).tolist():
            keys = ", ".join(kinds.shown_at(before[key], row) for key in keys_of(united, plan.name) if key in before)
            what = (
                f"'{header}' of {keys} is {said(column, row)} in {plan.file}, and would be {said(after[header], row)}"
            )
            broken.setdefault(int(things[row]), f"{what}; {keep_it(base)}")
    columns = tuple(
        replace(one, codes=kept[one.name][0], values=kept[one.name][1]) if one.name in kept else one
        for one in table.columns
    )
    own = [column.name for column in table.columns if column.name in kept]
    changed = np.flatnonzero(_differ(table, replace(table, columns=columns), own))
    if not len(changed):
        return merged, broken
    settled = {**merged.tables, base.name: replace(table, columns=columns)}
    rows = {**merged.changed, base.name: np.union1d(merged.changed.get(base.name, changed), changed)}
    return replace(merged, tables=settled, changed=rows), broken


def keep_it(base: TablePlan) -> str:
    """What to do so that a sheet of which that is the base table keeps what it says otherwise than others."""
    return f"add a column to tables.{base.name} that keeps it"


def _differ(one: Table, other: Table, names: list[str]) -> npt.NDArray[np.bool_]:
    """The rows of two tables that differ in some of their columns."""
    found = np.zeros(one.row_count, dtype=bool)
    for name in names:
        mine, theirs = one.by_name[name], other.by_name[name]
        codes, _ = stack([(mine.codes, mine.values), (theirs.codes, theirs.values)])
        found |= np.not_equal(*np.split(codes, 2))
    return found


@dataclass(frozen=True)
class Otherwise:
    """A cell of a further sheet that says something else of a thing than an earlier sheet: its row, and in words.

    ``kept`` tells whether a column of the sheet's own table keeps it.
    """

    row: int
    address: str
    what: str
    kept: bool


def otherwise(design: Design, sheet: str, relation: Relation, around: Beside) -> list[Otherwise]:
    """The cells of a further sheet that say something else of a thing than an earlier sheet does."""
    relations = {**around.others, sheet: relation}
    given = headers_in(around.united, {name: one.names for name, one in relations.items()})
    things = _renumbered(rows_of_things(around.united, relations)[sheet])
    place = around.united.unites.index(sheet)
    own_columns = {header for column in design.base_of(sheet).columns for header in column.headers}
    found = []
    for group in around.united.same[around.united.by :]:
        if not group[place]:
            continue
        own, whole = relation.by_name[group[place]], around.relation.by_name[given[sheet, group[place]]]
        differs = np.flatnonzero(differing(own, whole, things) & (own.codes != EMPTY) & (things != EMPTY))
        for row in differs.tolist():
            keys = ", ".join(kinds.shown_at(relation.by_name[key], row) for key in keys_of(around.united, sheet))
            other = said(whole, int(things[row]))
            what = f"'{group[place]}' of {keys} is {said(own, row)}, and {other} in another sheet"
            found.append(Otherwise(row, relation.address(row, own), what, group[place] in own_columns))
    return found


def _renumbered(rows: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
    """The rows of the relation of the sheet's own things, for those of all things."""
    named = distinct(rows[rows != EMPTY])
    place = np.full(int(rows.max(initial=EMPTY)) + 2, EMPTY, dtype=np.int64)
    place[named] = np.arange(len(named))
    return place[rows]
