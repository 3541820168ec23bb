"""What one sheet lists and another says more of → one table that both fill, and of the list which things it has.

boats: boats (reg, length)    jobs: jobs (…, reg → boats_2), boats_2 (reg, owner)
→      boats_rows (reg → boats)    jobs (…, reg → boats)    boats (reg, owner, length)
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.draft.feeds import makes_sense, put_together
from hemplit.core.draft.naming import thing_words
from hemplit.core.draft.things import Sheets, Sort, match_of
from hemplit.core.model.design import ColumnPlan, Grain, Purpose, TablePlan
from hemplit.core.texts.words import unused
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Mapping

    from hemplit.core.draft.listed import Listed
    from hemplit.core.model.design import Design
    from hemplit.core.model.relation import Relation


def told_further(design: Design, thing: TablePlan, listed: Listed, relations: Mapping[str, Relation]) -> Design | None:
    """The design in which a thing of one sheet and what another lists are one table.

    None where both would not be the same sort of thing, or the rows of the list have more to them than a thing has:
    parts of their own, a table that goes on with some of them, or other sheets that list the same.
    """
    table = listed.table
    plan = design.sheet(table.sheet)
    has_more = plan.of or plan.unites or any(sheet.of == plan.name for sheet in design.sheets)
    has_more = has_more or any(one.of == table.name for one in design.tables)
    if table.grain is not Grain.ROW or len(listed.names) > 1 or has_more:
        return None
    name = table.by_name[listed.names[0]]
    of_list = _things_of(table, name, thing)
    rows = _rows_of(table, of_list, name, unused(f"{table.sheet}_rows", design.by_name, "rows"))
    tables = tuple(part for one in design.tables for part in ((of_list, rows) if one.name == table.name else (one,)))
    sheets = Sheets(relations)
    apart = replace(design, tables=tables)
    kept, gone = Sort(apart, thing, sheets), Sort(apart, of_list, sheets)
    if not (kept.is_sort and gone.is_sort):
        return None
    match = match_of(kept, gone, linked=True)
    if match is None:
        return None
    names = (thing.name, *((table.name,) if thing_words(table.name) & kept.about else ()))
    called = min(names, key=len)
    made = put_together(apart, kept, gone, match, called)
    return made if makes_sense(made) else None


def _things_of(table: TablePlan, name: ColumnPlan, thing: TablePlan) -> TablePlan:
    """The things that a list names, known by what makes them known in the other sheet: a code, or a made-up id."""
    key = thing.by_name[thing.key[0]]
    own = tuple(one for one in table.columns if one.ids is None)
    unique = tuple(names for names in table.unique if names != (name.name,))
    made = replace(table, purpose=Purpose.ENTITY, key=(name.name,), columns=own, grain=Grain.VALUE, unique=unique)
    if key.ids is None:
        return made
    made_up = replace(key, name=unused(key.name, {one.name for one in own}, "id"))
    return replace(made, key=(made_up.name,), columns=(made_up, *own), unique=((name.name,), *unique))


def _rows_of(table: TablePlan, things: TablePlan, name: ColumnPlan, called: str) -> TablePlan:
    """Which of the things a list has: one row for each of its rows."""
    column = ColumnPlan(things.key[0], name.kind, name.headers, table.name, required=name.required, why="one of them")
    why = f"which of them {table.sheet} lists: one row per sheet row"
    return TablePlan(called, table.sheet, Purpose.MAIN, (column.name,), (column,), grain=Grain.ROW, why=why)
