"""What of a large table has to be read to add to it: the rows whose keys the further sheets name.

A table of a million rows is not read to add a thousand. Only tables that are known by a key that stands in the sheet
can be read so; of all others every row counts.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import stack
from hemplit.core.design import resolve
from hemplit.core.model.design import Grain
from hemplit.core.model.tables import Table, TableColumn, Tables
from hemplit.core.proof.unsaid import filled_together
from hemplit.core.tables.held import empty_tables, held_table
from hemplit.dataclasses import dataclass
from hemplit.flow.reading import replayed_but, take_apart

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from hemplit.core.model.design import ColumnPlan, Design, SheetPlan, TablePlan
    from hemplit.core.model.grid import Grid
    from hemplit.core.model.relation import Relation
    from hemplit.targets.contract import Target

#: Of tables with so many rows not all are read; reading them takes a tenth of a second.
LARGE = 50_000


@dataclass(frozen=True)
class Held:
    """The tables as far as they were read, and how many rows of each were not."""

    tables: Mapping[str, Table]
    unread: Mapping[str, int]


def held_for(design: Design, target: Target, further: Sequence[tuple[Grid, SheetPlan]]) -> Held:
    """What is held of the tables of a design, as far as adding these sheets needs it."""
    empty = empty_tables(design)
    counts = target.counts(Tables(tuple(empty.values()), ()))
    large = {name for name, count in counts.items() if count > LARGE and _is_keyed(design, design.by_name[name])}
    wanted = _keys(design, further, large) if large else {}
    whole = target.held(Tables(tuple(table for name, table in empty.items() if name not in wanted), ()))
    tables = {}
    for name, table in empty.items():
        stored = target.matching(table, target.expected(wanted[name])) if name in wanted else whole[name]
        tables[name] = held_table(table, stored)
    return Held(tables, {name: counts[name] - table.row_count for name, table in tables.items()})


def _is_keyed(design: Design, plan: TablePlan) -> bool:
    """Whether a table is known by its key alone, and that stands in the sheet."""
    columns = [plan.by_name[name] for name in plan.key]
    return (
        resolve.identity(plan) == plan.key
        and plan.grain is not Grain.LIST  # of a list every entry counts
        and not any(sheet.name == plan.sheet and sheet.of for sheet in design.sheets)
        and design.united(plan.sheet) is None  # of what others tell, too, all rows count
        and all(columns_alike == plan.key for columns_alike in plan.unique)
        and len(plan.feeds) == 1
        and not any(
            map(_says_more, filled_together(design, plan.sheet))
        )  # who said what of a thing is told by all rows
        and not any(resolve.numbers_rows(design, plan, column) for column in columns)
        and all(resolve.source(design, plan, column) for column in columns)
        and not any(_is_across(design, plan, column) for column in columns)
        and not any(column.to == plan.name for column in plan.columns)
    )


def _says_more(plan: TablePlan) -> bool:
    """Whether something is said of the things of a table besides their names."""
    names = resolve.identity(plan)
    return any(column.ids is None and column.name not in names for column in plan.stored)


def _is_across(design: Design, plan: TablePlan, column: ColumnPlan) -> bool:
    pointed = resolve.target(design, plan, column)
    return pointed is not None and resolve.is_across(plan, column, pointed)


def _keys(design: Design, further: Sequence[tuple[Grid, SheetPlan]], large: set[str]) -> dict[str, Table]:
    """The keys that the sheets name, for each of the large tables."""
    given: dict[str, list[Relation]] = {}
    for grid, plan in further:
        shaped, _ = replayed_but(grid, design, plan, grid.row_count)
        for name, relation in take_apart(design, {plan.name: (grid, shaped)}).relations.items():
            given.setdefault(name, []).append(relation)
    return {
        name: _named(design, design.by_name[name], given[design.by_name[name].sheet])
        for name in large
        if design.by_name[name].sheet in given
    }


def _named(design: Design, plan: TablePlan, relations: Sequence[Relation]) -> Table:
    columns = tuple(_column(design, plan, name, relations) for name in plan.key)
    return Table(plan.name, plan.purpose, columns, plan.key, (), (), sum(one.row_count for one in relations))


def _column(design: Design, plan: TablePlan, name: str, relations: Sequence[Relation]) -> TableColumn:
    header = str(resolve.source(design, plan, plan.by_name[name]))
    parts = [relation.by_name[header] for relation in relations]
    codes, values = stack([(part.codes, part.values) for part in parts])
    return TableColumn(name, parts[0].kind, codes.astype(np.int32), values, False)
