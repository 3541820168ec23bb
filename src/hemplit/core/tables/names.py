"""What things and kinds are called: which names are new to a table, and which of these are nearly names that it has."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core import kinds
from hemplit.core.design import resolve
from hemplit.core.design.kinds import kind_of
from hemplit.core.model.design import Grain
from hemplit.core.model.relation import TEXT, Doubt
from hemplit.core.shape.series import period_of
from hemplit.core.texts.listed import made_of
from hemplit.core.texts.twins import TwinsOf

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping, Sequence

    from hemplit.core.model.design import Design, TablePlan
    from hemplit.core.model.tables import Table

#: Of more names than this none is compared with all others.
MOST_NAMES = 5_000


def new_names(design: Design, table: Table, before: int) -> tuple[str, ...]:
    """What the new rows of a table of things or kinds are called, as far as one column names them."""
    name = name_of(design, design.by_name[table.name])
    column = None if name is None else table.by_name[name]
    return () if column is None else tuple(kinds.shown_at(column, row) for row in range(before, table.row_count))


def name_of(design: Design, plan: TablePlan) -> str | None:
    """The one column that names the things or kinds of a table, if there is one."""
    names = resolve.identity(plan)
    return None if plan.grain is Grain.ROW or len(names) > 1 else names[0]


def nearly_known(design: Design, tables: Mapping[str, Table], before: Mapping[str, int]) -> list[Doubt]:
    """The new names of things and kinds that are a slip away from one that is held."""
    found = []
    for plan in design.tables:
        table, name = tables[plan.name], name_of(design, plan)
        if name is not None and table.row_count <= MOST_NAMES and table.row_count > before[plan.name]:
            texts = [kinds.shown_at(table.by_name[name], row) for row in range(table.row_count)]
            found += like_held(design, plan, texts[before[plan.name] :], texts[: before[plan.name]])
    return found


def like_held(design: Design, plan: TablePlan, new: Iterable[str], held: Sequence[str]) -> list[Doubt]:
    """The new names of a table that are a slip away from one that it has, with the line that corrects each; and those
    in which several that it has stand together."""
    name = name_of(design, plan)
    # A code that is like another is another.
    if name is None or name in plan.key or kind_of(design, plan, plan.by_name[name]) != TEXT:
        return []
    header = resolve.source(design, plan, plan.by_name[name]) or name
    found, known, twins = [], {*held}, TwinsOf(held)
    periods: dict[tuple[object, ...] | None, list[str]] = {}
    for other in held:
        periods.setdefault(period_of(other), []).append(other)
    for text in filter(None, new):
        parts = made_of(text, known)
        if parts:
            what = f"{plan.name} has now '{text}', which is {' and '.join(map(repr, parts))}"
            found.append(Doubt(what, (), "if these are several, part them in the sheet as others are, and load again"))
            continue
        twin, period = twins.first(text), period_of(text)
        same = next((other for other in periods.get(period, ()) if other != text), None) if period else None
        if same is not None:
            what = f"{plan.name} has now '{text}', which may be '{same}'"
            found.append(Doubt(what, (), "if it is the same, call it so in the sheet, and load again"))
        elif twin is not None:
            step = f'{{ do = "correct typos", column = "{header}", instead = "{twin}", of = "{text}" }}'
            what = f"{plan.name} has now '{text}', which is like '{twin}'"
            found.append(Doubt(what, (), f"if it is the same, correct the sheet or add the step {step}"))
    return found
