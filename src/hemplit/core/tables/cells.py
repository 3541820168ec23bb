"""The cells of a column as they would be with one row per row of the sheet, and what a table keeps of them."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.columns.codes import Grouping, first_rows, stack
from hemplit.core.design import resolve
from hemplit.core.design.calendar import CALENDAR
from hemplit.core.design.ids import NUMBER, CodeBook
from hemplit.core.model.arrays import of
from hemplit.core.model.design import Grain
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import TEXT, Kind
from hemplit.core.model.tables import Table, TableColumn
from hemplit.core.tables import across
from hemplit.core.tables.filled import Filled, Places, tables_of
from hemplit.core.tables.refusals import shown
from hemplit.dataclasses import replace
from hemplit.errors import DataError, DesignError, nearest

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.design import ColumnPlan, Design, Feed, TablePlan
    from hemplit.core.model.relation import Relation

ID = Kind("whole number")


def cells_of(
    design: Design,
    plan: TablePlan,
    column: ColumnPlan,
    places: Places,
    filled: Mapping[str, Filled],
    held: TableColumn | None = None,
) -> TableColumn:
    """The column as it would be with one row for each place that fills the table.

    Where none of the feeds at hand says anything of it, it is blank, of the kind of the one that is ``held``.
    """
    speaking = {feed for feed in places.feeds if resolve.speaks(design, plan, column, feed)}
    if not speaking and held is not None:
        return replace(held, codes=np.full(places.count, EMPTY, dtype=np.int32))
    parts = {
        feed: _cells_in(design, plan, column, feed, relation, filled)
        for feed, relation in zip(places.feeds, places.relations, strict=True)
        if feed in speaking
    }
    said = list(parts.values())
    if len({part.kind.word for part in said}) > 1:
        raise DesignError(
            resolve.place(plan, column),
            "its headers are of different types",
            "give the same 'type' to all, or part them",
        )
    if len(places.feeds) == 1:
        return said[0]
    values = said[0].values
    codes = [part.codes for part in said]
    if any(part.values is not values for part in said):
        stacked, values = stack([(part.codes, part.values) for part in said])
        codes = np.split(stacked, np.cumsum([len(part.codes) for part in said])[:-1])
    whole = np.full(places.count, EMPTY, dtype=np.int32)
    for feed, own in zip(parts, codes, strict=True):
        whole[places.of(feed)] = own
    return replace(said[0], codes=whole, values=values)


def _cells_in(
    design: Design, plan: TablePlan, column: ColumnPlan, feed: Feed, relation: Relation, filled: Mapping[str, Filled]
) -> TableColumn:
    """The column as it is in the rows of one feed."""
    pointed = resolve.target(design, plan, column)
    rows_of = Places((feed,), (relation,))
    if column.unmatched is not None:
        return across.unmatched(design, plan, column, rows_of, tables_of(filled))
    if pointed is not None and resolve.is_across(plan, column, pointed, feed.sheet):
        return across.reference(design, plan, column, rows_of, tables_of(filled))
    inward = pointed is not None and pointed.table.name == plan.name
    own = next(iter(plan.headers_in(feed.sheet, column)), None)
    header = own if inward else resolve.source(design, plan, column, feed)
    if header is not None:
        cells = across.headed(plan, column, relation, header)
        if pointed is None or inward or (feed.sheet in pointed.table.sheets and own is None):
            return cells
        key = filled[pointed.table.name].by_name(pointed.column.name)
        kept = across.is_kept(design, plan, column)
        return with_values_of(key, cells, plan, column, rows_of, kept=kept)
    if pointed is None:
        raise DesignError(resolve.place(plan, column), "it has no content", "give it 'from', 'to' or 'ids'")
    named = feed
    if own is not None:
        found = pointed.table.feed_of(feed.sheet, own)
        if found is None:
            raise DesignError(
                resolve.place(plan, column),
                f"no column of '{pointed.table.name}' comes from '{own}'",
                f"add '{own}' to the 'from' of the column that names it there",
            )
        named = found
    other = filled[pointed.table.name]
    key = other.by_name(pointed.column.name)
    if feed.sheet in pointed.table.sheets:
        rows = other.rows_in(named if named in pointed.table.feeds else replace(named, role=0))
    else:
        rows = other.row_of[_rows_above(design, plan, column, relation, other.places.relations[0])]
    # Where the key is made up, row and code are the same; where it refers to a made-up key itself, they are not.
    codes = rows if pointed.column.ids is not None else np.append(key.codes, np.int32(EMPTY))[rows]
    return TableColumn(column.name, key.kind, codes, key.values, column.required)


def _rows_above(
    design: Design, plan: TablePlan, column: ColumnPlan, relation: Relation, above: Relation
) -> npt.NDArray[np.int64]:
    """For each row of a relation the row of the one from which it was taken: they stand in one row of the sheet."""
    pointed = resolve.target(design, plan, column)
    owner = next(sheet.of for sheet in design.sheets if sheet.name == plan.sheet)
    if pointed is None or pointed.table.sheet != owner or pointed.table.grain is not Grain.ROW:
        raise DesignError(
            resolve.place(plan, column),
            f"nothing tells which row of '{column.to}' belongs to a row of sheet '{plan.sheet}'",
            "refer to a key that stands in the sheet, or to the table of the rows that they were taken out of",
        )
    place = np.full(int(above.grid_rows.max(initial=-1)) + 1, EMPTY, dtype=np.int64)
    place[above.grid_rows] = np.arange(above.row_count)
    return place[relation.grid_rows]


def with_values_of(
    key: TableColumn, cells: TableColumn, plan: TablePlan, column: ColumnPlan, places: Places, *, kept: bool
) -> TableColumn:
    """The column with the values of the key that it refers to; what is not there is an error unless it is kept."""
    renumber = pc.fill_null(pc.index_in(cells.values, key.values), EMPTY).to_numpy(zero_copy_only=False)
    codes = np.append(renumber.astype(np.int32), np.int32(EMPTY))[cells.codes]
    orphan = (codes == EMPTY) & (cells.codes != EMPTY)
    if orphan.any() and not kept:
        row = int(orphan.argmax())
        spot = places.spot(row)
        raise DataError(
            resolve.place(plan, column),
            f"{spot.title} {spot.said} has {shown(cells, row)}, which '{column.to}' has not",
            "take 'to' off the column, or correct the sheet",
            spot.grid_row,
            sheet=spot.feed.sheet,
        )
    return TableColumn(cells.name, key.kind, codes, key.values, cells.required)


def column_of(
    design: Design, plan: TablePlan, column: ColumnPlan, cells: Mapping[str, TableColumn], filled: Filled
) -> TableColumn:
    """The column with one row for each row of the table, as the first place says it that speaks of it."""
    whole = cells[column.name]
    required = column.required or column.name in plan.key
    own = first_said(design, plan, column, filled)
    codes = whole.codes[filled.first] if own is None else np.append(whole.codes, np.int32(EMPTY))[own]
    return TableColumn(whole.name, whole.kind, codes, whole.values, required)


def first_said(design: Design, plan: TablePlan, column: ColumnPlan, filled: Filled) -> npt.NDArray[np.int64] | None:
    """For each row of the table the first place that can say something in a column, ``EMPTY`` for none.

    None if every place can.
    """
    said = reached(design, plan, column, filled.places)
    if len(said) == filled.places.count:
        return None
    said = said[filled.row_of[said] != EMPTY]
    own = first_rows(Grouping(filled.row_of[said], len(filled.first)))
    return np.append(said, EMPTY)[own]


def lowest(plan: TablePlan, column: ColumnPlan, relation: Relation, filled: Filled) -> TableColumn:
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


def part_of_date(plan: TablePlan, column: ColumnPlan, columns: Sequence[TableColumn]) -> TableColumn:
    """What a calendar says of the date that is the key."""
    date = next(one for one in columns if one.name in plan.key)
    if date.kind.word != "date":
        raise DesignError(resolve.place(plan, column), f"'{date.name}' is no date", "make a date the key")
    kind, told = CALENDAR[str(column.part)]
    encoded = told(date.values).dictionary_encode()
    codes = np.append(encoded.indices.to_numpy().astype(np.int32), np.int32(EMPTY))[date.codes]
    return TableColumn(column.name, kind, codes, encoded.dictionary, True)


def made_up(
    plan: TablePlan,
    column: ColumnPlan,
    cells: Mapping[str, TableColumn],
    first: npt.NDArray[np.int64],
    books: dict[tuple[str, str], CodeBook],
    held: Table | None = None,
) -> TableColumn:
    """Ids in the order of the rows: numbers from 1, or codes of a style, which a thing keeps in every sheet.

    Where rows that are ``held`` are named, too, the ids go on behind theirs.
    """
    rows = np.arange(len(first), dtype=np.int32)
    if column.ids is None or column.ids == NUMBER:
        last = 0 if held is None else pc.max(held.by_name[column.name].values).as_py() or 0
        return TableColumn(column.name, ID, rows, of(rows.astype(np.int64) + 1 + last), True)
    book = books.setdefault((column.ids, column.name), CodeBook(column.ids, 0 if held is None else held.row_count))
    named = [cells[name] for name in resolve.identity(plan)] if plan.grain is not Grain.ROW else []
    texts = [[kinds.show(value, one.kind) for value in one.values.to_pylist()] for one in named]
    names = (
        tuple(text[one.codes[row]] for text, one in zip(texts, named, strict=True))
        if named and all(one.codes[row] != EMPTY for one in named)
        else None
        for row in first.tolist()
    )
    return TableColumn(column.name, TEXT, rows, pa.array(book.codes(names), pa.string()), True)


def reached(design: Design, plan: TablePlan, column: ColumnPlan, places: Places) -> npt.NDArray[np.int64]:
    """The places in which a column can have content."""
    return places.where([feed for feed in places.feeds if resolve.speaks(design, plan, column, feed)])
