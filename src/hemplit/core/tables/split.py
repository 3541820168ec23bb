"""Relation × design → tables. Whatever a design asks for is either done without loss or refused with the cells that
stand against it; nothing is ever dropped in silence.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa

from hemplit.core import kinds
from hemplit.core.columns.codes import first_rows, stack, with_blank
from hemplit.core.design import resolve
from hemplit.core.design.ids import CodeBook
from hemplit.core.model.design import Feed, Grain
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.tables import Table, TableColumn, Tables
from hemplit.core.tables import across
from hemplit.core.tables.cells import cells_of, column_of, first_said, lowest, made_up, part_of_date, with_values_of
from hemplit.core.tables.filled import Filled, Places, tables_of
from hemplit.core.tables.refusals import (
    check_combinations,
    check_filled,
    check_operands,
    check_rules,
    check_unique,
)
from hemplit.core.tables.rows import rows_by_identity
from hemplit.core.tables.same import check_told_alike, with_united
from hemplit.core.tables.views import view_of
from hemplit.dataclasses import dataclass, field, replace
from hemplit.errors import DesignError

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.design import ColumnPlan, Design, Rule, TablePlan
    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Relation


@dataclass
class _Done:
    """The tables that are filled, and the codes that were made up so far, by their style and the name of the key."""

    filled: dict[str, Filled] = field(default_factory=dict)
    books: dict[tuple[str, str], CodeBook] = field(default_factory=dict)


def split(
    design: Design,
    relations: Mapping[str, Relation],
    held: Mapping[str, Table] | None = None,
    beside: Mapping[str, Relation] | None = None,
) -> Tables:
    """The tables that the design makes of the relations, which are given by sheet name.

    Where ``held`` tables are given, these are all that is known of the sheets that are not; ``beside`` has those of
    them that tell of the same things as a given one. Raises ``DesignError`` where the data contradict the design,
    naming the cells.
    """
    if held is None:
        relations = with_united(design, relations)
        check_told_alike(design, relations)
    done = _Done()
    filled = done.filled
    for plan in resolve.filling_order(design, design.tables):
        given = tuple(feed for feed in plan.feeds if held is None or feed.sheet in relations)
        if not given and held is not None:
            filled[plan.name] = _held(held[plan.name])
            continue
        places = Places(given, tuple(relations[feed.sheet] for feed in given))
        if plan.sheet in relations:
            check_operands(plan, relations[plan.sheet])
        earlier = None if held is None else held[plan.name]
        filled[plan.name] = _fill(design, plan, places, {**(beside or {}), **relations}, done, earlier)
    sheets = [sheet for sheet in design.sheets if sheet.name in relations]
    for sheet in sheets:
        if design.lists_of(sheet.name):
            feed = Feed(sheet.name)
            rows = {plan.name: filled[plan.name].rows_in(feed) for plan in design.lists_of(sheet.name)}
            base = design.base_of(sheet.name)
            places = Places((feed,), (relations[sheet.name],))
            check_combinations(design, base, places, filled[base.name].rows_in(feed), rows)
    # The view of a sheet gathers cells from those of the relations that were taken out of it, which come first.
    ordered = sorted((sheet for sheet in sheets if not sheet.unites), key=lambda sheet: sheet.of is None)
    views = tuple(view_of(design, sheet, {**(beside or {}), **relations}) for sheet in ordered)
    base_rows = {sheet.name: filled[design.base_of(sheet.name).name].rows_in(Feed(sheet.name)) for sheet in sheets}
    silent = {(name, column): flags for name, one in filled.items() for column, flags in one.silent.items()}
    tables = tuple(one.table for one in filled.values() if one.table is not None)
    return Tables(tables, views, base_rows, silent=silent)


def _held(table: Table) -> Filled:
    """A table of a sheet that is not given: no row of those that are stands for one of its rows by itself."""
    none = np.zeros(0, dtype=np.int64)
    return Filled(none.astype(np.int32), none, Places((), ()), table)


def _fill(
    design: Design,
    plan: TablePlan,
    places: Places,
    relations: Mapping[str, Relation],
    done: _Done,
    held: Table | None,
) -> Filled:
    """The table. The new rows of one that refers to itself may name rows that are ``held``, too."""
    filled = done.filled
    cells = {
        column.name: across.unlike(design, plan, column, relations, tables_of(filled))
        if column.unlike is not None
        else cells_of(design, plan, column, places, filled, None if held is None else held.by_name[column.name])
        for column in plan.stored
        if not column.is_made
    }
    if plan.grain is Grain.ROW:
        row_of = np.arange(places.count, dtype=np.int32)
        first: npt.NDArray[np.int64] = np.arange(places.count)
    else:
        row_of, first = rows_by_identity(design, plan, places, cells)
    made = Filled(row_of, first, places)
    earlier = held if _refers_to_itself(plan) else None
    columns = tuple(
        lowest(plan, column, places.relations[0], made)
        if column.lowest
        else made_up(plan, column, cells, first, done.books, earlier)
        if column.ids is not None
        else column_of(design, plan, column, cells, made)
        for column in plan.stored
        if not column.part
    )
    columns += tuple(part_of_date(plan, column, columns) for column in plan.stored if column.part)
    references = resolve.references(design, plan)
    columns = _inward(design, plan, columns, made, earlier)
    rules = tuple(_in_terms_of_keys(design, plan, rule, filled) for rule in plan.rules if not rule.proposed)
    columns = tuple(replace(column, comment=_comment(plan.by_name[column.name])) for column in columns)
    table = Table(plan.name, plan.purpose, columns, plan.key, plan.unique, references, len(first), rules, plan.why)
    check_filled(design, plan, table, made)
    check_rules(design, plan, table, made)
    for columns_alike in (plan.key, *plan.unique):
        check_unique(design, table, columns_alike, made)
    places_of = {column.name: first_said(design, plan, column, made) for column in plan.stored if column.name in cells}
    silent = {name: own == EMPTY for name, own in places_of.items() if own is not None}
    return replace(made, table=table, silent=silent)


def _comment(column: ColumnPlan) -> str:
    """The headers from which a column comes, and why it is there."""
    headers = " and ".join(f"'{header}'" for header in column.all_headers)
    return "; ".join(one for one in (headers, column.why) if one)


def _in_terms_of_keys(design: Design, plan: TablePlan, rule: Rule, filled: Mapping[str, Filled]) -> Rule:
    """The rule with the keys of the things that its values name, where its column refers to these.

    No database can be given one that names a thing which has not come so far; the sheets are held to it all the same.
    """
    pointed = resolve.target(design, plan, plan.by_name[rule.columns[-1]])
    if not rule.values or pointed is None or pointed.table.name == plan.name:
        return rule
    other = filled[pointed.table.name]
    name, key = other.by_name(resolve.identity(pointed.table)[0]), other.by_name(pointed.column.name)
    texts = [kinds.show(value, name.kind) for value in name.values.to_pylist()]
    named = [code != EMPTY and texts[code] in rule.values for code in name.codes.tolist()]
    keys = key.values.take(pa.array(key.codes[np.array(named, dtype=bool)])).to_pylist()
    lacks = not {*rule.values} <= {*texts}
    return replace(rule, values=tuple(kinds.show(value, key.kind) for value in keys), proposed=lacks)


def _refers_to_itself(plan: TablePlan) -> bool:
    return any((column.target or ("",))[0] == plan.name for column in plan.columns)


def _inward(
    design: Design, plan: TablePlan, columns: Sequence[TableColumn], filled: Filled, held: Table | None
) -> tuple[TableColumn, ...]:
    """The columns; one that refers to its own table with the keys of the rows that it names, new ones first."""
    by_name = {column.name: _with_held(column, held) for column in columns}
    made = []
    for column in columns:
        said = plan.by_name[column.name]
        pointed = resolve.target(design, plan, said)
        if pointed is None or pointed.table.name != plan.name:
            made.append(column)
            continue
        key = by_name[pointed.column.name]
        if pointed.column.ids is None and not said.named_by:
            kept = across.is_kept(design, plan, said)
            made.append(with_values_of(key, column, plan, said, filled.of_rows, kept=kept))
        else:
            rows = _rows_named(design, plan, said, column, by_name, filled)
            codes = np.append(key.codes, np.int32(EMPTY))[rows]
            made.append(replace(column, kind=key.kind, codes=codes, values=key.values))
    return tuple(made)


def _with_held(column: TableColumn, held: Table | None) -> TableColumn:
    """The cells of a column, and those of the rows that are held behind them."""
    if held is None:
        return column
    other = held.by_name[column.name]
    codes, values = stack([(column.codes, column.values), (other.codes, other.values.cast(column.values.type))])
    return replace(column, codes=codes.astype(np.int32), values=values)


def _rows_named(
    design: Design,
    plan: TablePlan,
    said: ColumnPlan,
    column: TableColumn,
    by_name: Mapping[str, TableColumn],
    filled: Filled,
) -> Codes:
    """For each row of the table the row of it that the column names; those that are held come behind the new ones."""
    feed = plan.feed_of(plan.sheet, str(said.source))
    if feed is not None and plan.sheets == (plan.sheet,):
        named = filled.rows_in(feed)[filled.first % filled.places.relations[0].row_count]
        return np.where(column.codes == EMPTY, np.int32(EMPTY), named)
    pointed = resolve.target(design, plan, said)
    assert pointed is not None
    names = resolve.names(pointed, said)
    if len(names) != 1:
        raise DesignError(
            resolve.place(plan, said),
            f"only {' + '.join(names)} together name a row of it",
            "name one column in 'unique'",
        )
    name = by_name[names[0]]
    kept = across.is_kept(design, plan, said)
    found = with_values_of(name, column, plan, said, filled.of_rows, kept=kept)
    rows = first_rows(with_blank(name.codes, len(name.values)))[: len(name.values)]
    return np.append(rows, EMPTY).astype(np.int32)[found.codes]
