"""Relation × design → tables. Whatever a design asks for is either done without loss or refused with the cells that
stand against it; nothing is ever dropped in silence.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import reduce
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core import across, kinds, resolve
from hemplit.core.calendar import CALENDAR
from hemplit.core.codes import Grouping, by_first_appearance, combine, first_conflict, first_rows, stack, with_blank
from hemplit.core.ids import NUMBER, CodeBook
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import TEXT, Kind
from hemplit.core.model.tables import Table, TableColumn, Tables
from hemplit.core.refusals import (
    all_of,
    check_combinations,
    check_filled,
    check_key_filled,
    check_operands,
    check_rules,
    check_unique,
    conflict_error,
    grouping_of,
    row_said,
    shown,
)
from hemplit.core.same import check_told_alike, with_united
from hemplit.core.views import view_of
from hemplit.errors import DesignError, nearest

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.design import ColumnPlan, Design, Rule, TablePlan
    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Relation

ID = Kind("whole number")


@dataclass(frozen=True)
class Filled:
    """A table with its place in the sheet.

    ``row_of`` of shape (roles × sheet rows,) is its row for each, or ``EMPTY``; ``first`` of shape (table rows,) the
    first of those for each of its rows; ``relation`` is the sheet.
    """

    row_of: Codes
    first: npt.NDArray[np.int64]
    relation: Relation
    table: Table | None = None

    def by_name(self, column: str) -> TableColumn:
        """A column of the table."""
        assert self.table is not None
        return self.table.by_name[column]


def _tables(filled: Mapping[str, Filled]) -> dict[str, Table]:
    return {name: one.table for name, one in filled.items() if one.table is not None}


def split(design: Design, relations: Mapping[str, Relation]) -> Tables:
    """The tables that the design makes of the relations, which are given by sheet name.

    Raises ``DesignError`` where the data contradict the design, naming the cells.
    """
    relations = with_united(design, relations)
    check_told_alike(design, relations)
    filled: dict[str, Filled] = {}
    books: dict[tuple[str, str], CodeBook] = {}
    for plan in resolve.filling_order(design, design.tables):
        check_operands(plan, relations[plan.sheet])
        filled[plan.name] = _fill(design, plan, relations, filled, books)
    for sheet in design.sheets:
        if design.lists_of(sheet.name):
            rows = {plan.name: filled[plan.name].row_of for plan in design.lists_of(sheet.name)}
            base = design.base_of(sheet.name)
            check_combinations(base, relations[sheet.name], filled[base.name].row_of, rows)
    # The view of a sheet gathers cells from those of the relations that were taken out of it, which come first.
    ordered = sorted((sheet for sheet in design.sheets if not sheet.unites), key=lambda sheet: sheet.of is None)
    views = tuple(view_of(design, sheet, relations) for sheet in ordered)
    return Tables(tuple(one.table for one in filled.values() if one.table is not None), views)


def _fill(
    design: Design,
    plan: TablePlan,
    relations: Mapping[str, Relation],
    filled: Mapping[str, Filled],
    books: dict[tuple[str, str], CodeBook],
) -> Filled:
    """The table; ``books`` has the codes that were made up so far, by their style and the name of the key."""
    relation = relations[plan.sheet]
    cells = {
        column.name: across.unlike(design, plan, column, relations, _tables(filled))
        if column.unlike is not None
        else _cells(design, plan, column, relation, filled)
        for column in plan.stored
        if not column.is_made
    }
    if plan.each_row:
        row_of = np.arange(relation.row_count, dtype=np.int32)
        first: npt.NDArray[np.int64] = np.arange(relation.row_count)
    else:
        row_of, first = _rows_by_identity(design, plan, relation, cells)
    columns = tuple(
        _lowest(plan, column, relation, Filled(row_of, first, relation))
        if column.lowest
        else _made_up(plan, column, cells, first, books)
        if column.ids is not None
        else _column(design, plan, column, cells, row_of, first)
        for column in plan.stored
        if not column.part
    )
    columns += tuple(_part(plan, column, columns) for column in plan.stored if column.part)
    references = resolve.references(design, plan)
    columns = _inward(design, plan, columns, Filled(row_of, first, relation), relation)
    rules = tuple(_in_terms_of_keys(design, plan, rule, filled) for rule in plan.rules if not rule.proposed)
    table = Table(plan.name, plan.purpose, columns, plan.key, plan.unique, references, len(first), rules)
    check_filled(plan, relation, table, first)
    check_rules(plan, relation, table, first)
    for columns_alike in (plan.key, *plan.unique):
        check_unique(plan, relation, table, columns_alike, first)
    return Filled(row_of, first, relation, table)


def _in_terms_of_keys(design: Design, plan: TablePlan, rule: Rule, filled: Mapping[str, Filled]) -> Rule:
    """The rule with the keys of the things that its values name, where its column refers to these."""
    pointed = resolve.target(design, plan, plan.by_name[rule.columns[-1]])
    if not rule.values or pointed is None or pointed.table.name == plan.name:
        return rule
    other = filled[pointed.table.name]
    name, key = other.by_name(resolve.identity(pointed.table)[0]), other.by_name(pointed.column.name)
    texts = [kinds.show(value, name.kind) for value in name.values.to_pylist()]
    named = [code != EMPTY and texts[code] in rule.values for code in name.codes.tolist()]
    keys = key.values.take(pa.array(key.codes[np.array(named, dtype=bool)])).to_pylist()
    return replace(rule, values=tuple(kinds.show(value, key.kind) for value in keys))


def _reach(design: Design, plan: TablePlan, column: ColumnPlan) -> int:
    """In how many of the roles of a table a column has content."""
    pointed = resolve.target(design, plan, column)
    if pointed is not None:
        return 1 if column.source is not None else min(plan.role_count, pointed.table.role_count)
    return len(column.sources) or plan.role_count


def _cells(
    design: Design, plan: TablePlan, column: ColumnPlan, relation: Relation, filled: Mapping[str, Filled]
) -> TableColumn:
    """The column as it would be with one row per row of the sheet, for each role one after the other."""
    reach = _reach(design, plan, column)
    parts = [_cells_in_role(design, plan, column, relation, filled, role) for role in range(reach)]
    if len({part.kind for part in parts}) > 1:
        raise DesignError(
            resolve.place(plan, column),
            "its headers are of different kinds",
            "give the same 'kind' to all, or part them",
        )
    blank = np.full((plan.role_count - reach) * relation.row_count, EMPTY, dtype=np.int32)
    if len(parts) == 1 or all(part.values is parts[0].values for part in parts):
        return replace(parts[0], codes=np.concatenate([*(part.codes for part in parts), blank]))
    codes, values = stack([(part.codes, part.values) for part in parts])
    return replace(parts[0], codes=np.concatenate([codes, blank]), values=values)


def _cells_in_role(
    design: Design, plan: TablePlan, column: ColumnPlan, relation: Relation, filled: Mapping[str, Filled], role: int
) -> TableColumn:
    pointed = resolve.target(design, plan, column)
    if column.unmatched is not None:
        return across.unmatched(design, plan, column, relation, _tables(filled))
    if pointed is not None and resolve.is_across(plan, column, pointed):
        return across.reference(design, plan, column, relation, _tables(filled))
    inward = pointed is not None and pointed.table.name == plan.name
    header = column.source if inward else resolve.source(design, plan, column, role)
    if header is not None:
        cells = across.headed(plan, column, relation, header)
        if pointed is None or inward or (pointed.table.sheet == plan.sheet and column.source is None):
            return cells
        key = filled[pointed.table.name].by_name(pointed.column.name)
        kept = across.is_kept(design, plan, column)
        return _with_values_of(key, cells, plan, column, relation, kept=kept)
    if pointed is None:
        raise DesignError(resolve.place(plan, column), "it has no content", "give it 'from', 'to' or 'ids'")
    if column.source is not None:
        found = pointed.table.role_of(column.source)
        if found is None:
            raise DesignError(
                resolve.place(plan, column),
                f"no column of '{pointed.table.name}' comes from '{column.source}'",
                f"add '{column.source}' to the 'from' of the column that names it there",
            )
        role = found
    other = filled[pointed.table.name]
    key = other.by_name(pointed.column.name)
    if other.relation is relation:
        start = role * relation.row_count if role < pointed.table.role_count else 0
        rows = other.row_of[start : start + relation.row_count]
    else:
        rows = other.row_of[_rows_above(design, plan, column, relation, other.relation)]
    # Where the key is made up, row and code are the same; where it refers to a made-up key itself, they are not.
    codes = rows if pointed.column.ids is not None else np.append(key.codes, np.int32(EMPTY))[rows]
    return TableColumn(column.name, key.kind, codes, key.values, column.required)


def _rows_above(
    design: Design, plan: TablePlan, column: ColumnPlan, relation: Relation, above: Relation
) -> npt.NDArray[np.int64]:
    """For each row of a relation the row of the one from which it was taken: they stand in one row of the sheet."""
    pointed = resolve.target(design, plan, column)
    owner = next(sheet.of for sheet in design.sheets if sheet.name == plan.sheet)
    if pointed is None or pointed.table.sheet != owner or not pointed.table.each_row:
        raise DesignError(
            resolve.place(plan, column),
            f"rows of sheet '{plan.sheet}' cannot be told which row of '{column.to}' is theirs",
            "refer to a key that stands in the sheet, or to the table of the rows that they were taken out of",
        )
    place = np.full(int(above.grid_rows.max(initial=-1)) + 1, EMPTY, dtype=np.int64)
    place[above.grid_rows] = np.arange(above.row_count)
    return place[relation.grid_rows]


def _with_values_of(
    key: TableColumn, cells: TableColumn, plan: TablePlan, column: ColumnPlan, relation: Relation, *, kept: bool
) -> TableColumn:
    """The column with the values of the key that it refers to; what is not there is an error unless it is kept."""
    renumber = pc.fill_null(pc.index_in(cells.values, key.values), EMPTY).to_numpy(zero_copy_only=False)
    codes = np.append(renumber.astype(np.int32), np.int32(EMPTY))[cells.codes]
    orphan = (codes == EMPTY) & (cells.codes != EMPTY)
    if orphan.any() and not kept:
        row = int(orphan.argmax())
        raise DesignError(
            resolve.place(plan, column),
            f"{relation.source.title} {row_said(relation, row)} has {shown(cells, row)}, which '{column.to}' has not",
            "take 'to' off the column, or correct the sheet",
        )
    return TableColumn(cells.name, key.kind, codes, key.values, cells.required)


def _column(
    design: Design,
    plan: TablePlan,
    column: ColumnPlan,
    cells: Mapping[str, TableColumn],
    row_of: Codes,
    first: npt.NDArray[np.int64],
) -> TableColumn:
    whole = cells[column.name]
    required = column.required or column.name in plan.key
    if _reach(design, plan, column) < plan.role_count:
        rows = _reached(design, plan, column, row_of)
        own = first_rows(Grouping(row_of[rows], len(first)))
        codes = np.where(own == EMPTY, np.int32(EMPTY), whole.codes[rows[own]])
    else:
        codes = whole.codes[first]
    return TableColumn(whole.name, whole.kind, codes, whole.values, required)


def _lowest(plan: TablePlan, column: ColumnPlan, relation: Relation, filled: Filled) -> TableColumn:
    """The smallest value of a number among the rows of each class."""
    if column.lowest not in relation.by_name:
        hint = nearest(str(column.lowest), relation.names)
        raise DesignError(resolve.place(plan, column), f"{relation.source.title} has no column '{column.lowest}'", hint)
    by = relation.by_name[column.lowest]
    order = pc.sort_indices(by.values).to_numpy()
    rank = np.empty(len(order), dtype=np.int64)
    rank[order] = np.arange(len(order))
    rows = np.flatnonzero((filled.row_of != EMPTY) & (by.codes != EMPTY))
    smallest = np.full(len(filled.first), len(order), dtype=np.int64)
    np.minimum.at(smallest, filled.row_of[rows], rank[by.codes[rows]])
    codes = np.append(order, EMPTY)[smallest].astype(np.int32)
    return TableColumn(column.name, by.kind, codes, by.values, True)


def _part(plan: TablePlan, column: ColumnPlan, columns: Sequence[TableColumn]) -> TableColumn:
    """What a calendar says of the date that is the key."""
    date = next(one for one in columns if one.name in plan.key)
    if date.kind.word != "date":
        raise DesignError(resolve.place(plan, column), f"'{date.name}' is no date", "make a date the key")
    kind, told = CALENDAR[str(column.part)]
    encoded = told(date.values).dictionary_encode()
    codes = np.append(encoded.indices.to_numpy().astype(np.int32), np.int32(EMPTY))[date.codes]
    return TableColumn(column.name, kind, codes, encoded.dictionary, True)


def _made_up(
    plan: TablePlan,
    column: ColumnPlan,
    cells: Mapping[str, TableColumn],
    first: npt.NDArray[np.int64],
    books: dict[tuple[str, str], CodeBook],
) -> TableColumn:
    """Ids in the order of the rows: numbers from 1, or codes of a style, which a thing keeps in every sheet."""
    rows = np.arange(len(first), dtype=np.int32)
    if column.ids is None or column.ids == NUMBER:
        return TableColumn(column.name, ID, rows, pa.array(rows.astype(np.int64) + 1), True)
    book = books.setdefault((column.ids, column.name), CodeBook(column.ids))
    named = [cells[name] for name in resolve.identity(plan)] if not plan.each_row else []
    texts = [[kinds.show(value, one.kind) for value in one.values.to_pylist()] for one in named]
    names = (
        tuple(text[one.codes[row]] for text, one in zip(texts, named, strict=True))
        if named and all(one.codes[row] != EMPTY for one in named)
        else None
        for row in first.tolist()
    )
    return TableColumn(column.name, TEXT, rows, pa.array(book.codes(names), pa.string()), True)


def _reached(design: Design, plan: TablePlan, column: ColumnPlan, row_of: Codes) -> npt.NDArray[np.int64]:
    """The rows, role after role, that speak of a thing and in which the column can have content."""
    rows = len(row_of) // plan.role_count
    reach = _reach(design, plan, column)
    return np.flatnonzero(row_of[: rows * reach] != EMPTY)


def _inward(
    design: Design, plan: TablePlan, columns: Sequence[TableColumn], filled: Filled, relation: Relation
) -> tuple[TableColumn, ...]:
    """The columns; one that refers to its own table with the keys of the rows that it names."""
    by_name = {column.name: column for column in columns}
    made = []
    for column in columns:
        said = plan.by_name[column.name]
        pointed = resolve.target(design, plan, said)
        if pointed is None or pointed.table.name != plan.name:
            made.append(column)
        elif pointed.column.ids is None:
            kept = across.is_kept(design, plan, said)
            key = by_name[pointed.column.name]
            made.append(_with_values_of(key, column, plan, said, relation, kept=kept))
        else:
            key = by_name[pointed.column.name]
            codes = _rows_named(design, plan, said, column, by_name, filled)
            made.append(replace(column, kind=key.kind, codes=codes, values=key.values))
    return tuple(made)


def _rows_named(
    design: Design,
    plan: TablePlan,
    said: ColumnPlan,
    column: TableColumn,
    by_name: Mapping[str, TableColumn],
    filled: Filled,
) -> Codes:
    """For each row of the table the row of it that the column names."""
    relation = filled.relation
    role = plan.role_of(str(said.source))
    if role is not None:
        start = role * relation.row_count
        named = filled.row_of[start : start + relation.row_count][filled.first % relation.row_count]
        return np.where(column.codes == EMPTY, np.int32(EMPTY), named)
    names = resolve.identity(plan)
    if len(names) != 1:
        raise DesignError(
            resolve.place(plan, said), f"{' + '.join(names)} together name a row", "name one column in 'unique'"
        )
    name = by_name[names[0]]
    kept = across.is_kept(design, plan, said)
    found = _with_values_of(name, column, plan, said, relation, kept=kept)
    rows = first_rows(with_blank(name.codes, len(name.values)))[: len(name.values)]
    return np.append(rows, EMPTY).astype(np.int32)[found.codes]


def _rows_by_identity(
    design: Design, plan: TablePlan, relation: Relation, cells: Mapping[str, TableColumn]
) -> tuple[Codes, npt.NDArray[np.int64]]:
    names = resolve.identity(plan)
    rows_of_all = relation.row_count * plan.role_count
    blank = {name: cell.codes == EMPTY for name, cell in cells.items()}
    rest_blank = all_of([blank[name] for name in cells if name not in names], rows_of_all)
    belongs_to = plan.list_of or plan.some_of
    if belongs_to is not None:
        own = [name for name in cells if (plan.by_name[name].target or ("",))[0] != belongs_to]
        absent = all_of([blank[name] for name in own], rows_of_all)
        if names == plan.key:
            check_key_filled(plan, relation, cells, ~absent & ~all_of([~blank[name] for name in names], rows_of_all))
    elif names == plan.key:
        some_blank = ~all_of([~blank[name] for name in names], rows_of_all)
        absent = some_blank & rest_blank
        check_key_filled(plan, relation, cells, some_blank & ~rest_blank)
    else:
        absent = rest_blank & all_of([blank[name] for name in names], rows_of_all)
    present = np.flatnonzero(~absent)
    grouped = reduce(combine, (grouping_of(cells[name], present) for name in names))
    if names != plan.key:
        grouped = _unnamed_apart(grouped, [cells[name] for name in names], list(cells.values()), present)
    grouping, first = by_first_appearance(grouped)
    row_of = np.full(rows_of_all, EMPTY, dtype=np.int32)
    row_of[present] = grouping.codes
    for name in cells:
        if name not in names:
            rows = _reached(design, plan, plan.by_name[name], row_of)
            conflict = first_conflict(Grouping(row_of[rows], len(first)), cells[name].codes[rows])
            if conflict is not None:
                found = (int(rows[conflict[0]]), int(rows[conflict[1]]))
                raise conflict_error(plan, relation, [cells[one] for one in names], cells[name], found)
    return row_of, present[first]


def _unnamed_apart(
    grouped: Grouping, names: Sequence[TableColumn], cells: Sequence[TableColumn], rows: npt.NDArray[np.int64]
) -> Grouping:
    """The groups, with the rows that name nothing told apart by all that is said in them."""
    unnamed = ~all_of([name.codes[rows] != EMPTY for name in names], len(rows))
    if not unnamed.any():
        return grouped
    whole = reduce(combine, (grouping_of(cell, rows) for cell in cells))
    return combine(grouped, Grouping(np.where(unnamed, whole.codes + 1, 0).astype(np.int32), whole.size + 1))
