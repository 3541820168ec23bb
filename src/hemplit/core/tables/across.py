"""References to a table of another sheet, whose rows are known there by what the cells of this sheet say.

Where these name no row, or several, the reference is blank, and another column keeps what they say.
"""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import combine, first_rows, stack, with_blank
from hemplit.core.columns.partners import partners
from hemplit.core.design import resolve
from hemplit.core.model.design import Feed
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.tables import TableColumn
from hemplit.core.tables.filled import Places
from hemplit.core.tables.refusals import all_of
from hemplit.core.tables.same import differing, headers_in, with_united
from hemplit.errors import TAKE_UP, DataError, DesignError, nearest

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.columns.partners import Cells
    from hemplit.core.model.design import ColumnPlan, Design, TablePlan
    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Relation
    from hemplit.core.model.tables import Table


def reference(
    design: Design, plan: TablePlan, column: ColumnPlan, rows_of: Places, tables: Mapping[str, Table]
) -> TableColumn:
    """The column with the keys of the rows of another sheet's table that its headers name, for the rows of a feed."""
    pointed = resolve.target(design, plan, column)
    assert pointed is not None
    rows, said = _partners(design, plan, column, rows_of, tables)
    orphan = (rows == EMPTY) & said
    if orphan.any() and not is_kept(design, plan, column):
        spot = rows_of.spot(int(orphan.argmax()))
        headers, _ = resolve.naming(design, plan, column, spot.feed.sheet)
        cells = ", ".join(spot.under(header) for header in headers)
        what = f"{spot.title} {spot.said} has {cells}, which '{column.to}' has not"
        hint = f'correct the sheet, or keep such cells beside it: {{ from = "{headers[0]}", unmatched = '
        hint += f'"{column.name}" }}'
        raise DataError(resolve.place(plan, column), what, hint, spot.grid_row, sheet=spot.feed.sheet)
    key = tables[pointed.table.name].by_name[pointed.column.name]
    return TableColumn(column.name, key.kind, np.append(key.codes, np.int32(EMPTY))[rows], key.values, column.required)


def without_strangers(design: Design, relations: Mapping[str, Relation]) -> dict[str, Relation]:
    """Samples of sheets without the rows that name rows of other sheets which these samples do not hold.

    Names that another column keeps may find nothing.
    """
    left = with_united(design, relations)
    for plan in resolve.filling_order(design, design.tables):
        for column, sheet in ((column, sheet) for column in plan.stored for sheet in plan.sheets):
            pointed = resolve.target(design, plan, column)
            if pointed is None or not resolve.is_across(plan, column, pointed, sheet) or is_kept(design, plan, column):
                continue
            own = left[sheet]
            headers, names = resolve.naming(design, plan, column, sheet)
            cells = [headed(plan, column, own, header) for header in headers]
            listed = _listed(pointed.table, names, left)
            if not listed:
                continue
            rows = partners([(one.codes, one.values) for one in cells], listed, alike=column.alike)
            blank = all_of([one.codes == EMPTY for one in cells], own.row_count)
            lost = own.grid_rows[(rows == EMPTY) & ~blank]
            rest = {name: one.without(lost) if one.source == own.source else one for name, one in left.items()}
            left = with_united(design, rest)
    return {name: left[name] for name in relations}


def _listed(plan: TablePlan, names: Sequence[str], relations: Mapping[str, Relation]) -> list[Cells]:
    """What the sheets that fill a table say in some of its columns, each once; nothing if none says it."""
    feeds = []
    for feed in plan.feeds:
        known = relations[feed.sheet].by_name
        headers = [plan.headers_in(feed.sheet, plan.by_name[name])[feed.role : feed.role + 1] for name in names]
        if all(said and said[0] in known for said in headers):
            feeds.append([known[said[0]] for said in headers])
    if not feeds:
        return []
    columns = [stack([(one.codes, one.values) for one in some]) for some in zip(*feeds, strict=True)]
    first = first_rows(reduce(combine, (with_blank(codes, len(values)) for codes, values in columns)))
    return [(codes[first[first != EMPTY]], values) for codes, values in columns]


def is_kept(design: Design, plan: TablePlan, column: ColumnPlan) -> bool:
    """Whether the cells of a reference stand in other columns, too, so that nothing is lost if they name no row."""
    others = [
        (one.unmatched, header)
        for table in design.tables_of(plan.sheet)
        for one in table.columns
        if one is not column and one.store
        for header in one.headers
    ]
    return all(
        any(other == header and through in (None, column.name) for through, other in others)
        for header in column.headers
    )


def unmatched(
    design: Design, plan: TablePlan, column: ColumnPlan, rows_of: Places, tables: Mapping[str, Table]
) -> TableColumn:
    """The cells of a header that, with what else its reference goes by, name no row of the other table."""
    rows, _ = _partners(design, plan, plan.by_name[str(column.unmatched)], rows_of, tables)
    cells = headed(plan, column, rows_of.relations[0], str(column.source))
    codes = np.where(rows == EMPTY, cells.codes, np.int32(EMPTY))
    return TableColumn(column.name, cells.kind, codes, cells.values, False)


def unlike(
    design: Design, plan: TablePlan, column: ColumnPlan, relations: Mapping[str, Relation], tables: Mapping[str, Table]
) -> TableColumn:
    """The cells of a header that say something else of a thing than the first of the sheets that tell of it."""
    relation = relations[plan.sheet]
    reference = plan.by_name[str(column.unlike)]
    pointed = resolve.target(design, plan, reference)
    assert pointed is not None
    united = next(one for one in design.sheets if one.name == pointed.table.sheet)
    rows, _ = _partners(design, plan, reference, Places((Feed(plan.sheet),), (relation,)), tables)
    header = str(column.source)
    cells = headed(plan, column, relation, header)
    given = headers_in(united, {one: relations[one].names for one in united.unites})
    whole = relations[united.name].by_name[given[plan.sheet, header]]
    differs = differing(relation.by_name[header], whole, rows.astype(np.int64))
    return TableColumn(column.name, cells.kind, np.where(differs, cells.codes, np.int32(EMPTY)), cells.values, False)


def headed(plan: TablePlan, column: ColumnPlan, relation: Relation, header: str) -> TableColumn:
    """The cells under a header."""
    if header not in relation.by_name:
        taking = next((step for step in relation.steps if header in step.takes and not step.proposed), None)
        what = f"{relation.source.title} has no column '{header}'"
        if taking is None:
            raise DesignError(resolve.place(plan, column), what, nearest(header, relation.names))
        what += f" once the step '{taking.act}' is done"
        raise DesignError(resolve.place(plan, column), what, TAKE_UP)
    came = relation.by_name[header]
    return TableColumn(column.name, came.kind, came.codes, came.values, column.required)


def _partners(
    design: Design, plan: TablePlan, column: ColumnPlan, rows_of: Places, tables: Mapping[str, Table]
) -> tuple[Codes, npt.NDArray[np.bool_]]:
    """For each row of a feed the one row of another sheet's table that it names, and whether it names any."""
    pointed = resolve.target(design, plan, column)
    assert pointed is not None
    relation = rows_of.relations[0]
    headers, names = resolve.naming(design, plan, column, rows_of.feeds[0].sheet)
    own = [headed(plan, column, relation, header) for header in headers]
    if pointed.table is plan:
        # The rows of the sheet are those of the table, which is not filled yet.
        theirs = [headed(plan, plan.by_name[name], relation, str(plan.by_name[name].source)) for name in names]
    else:
        theirs = [tables[pointed.table.name].by_name[name] for name in names]
    for cells, listed in zip(own, theirs, strict=False):
        if cells.kind.word != listed.kind.word and not column.alike:
            what = f"it holds a {cells.kind.word}, and '{pointed.table.name}.{listed.name}' a {listed.kind.word}"
            raise DesignError(resolve.place(plan, column), what, "give both the same 'type', or write alike = true")
    rows = partners(
        [(one.codes, one.values) for one in own], [(one.codes, one.values) for one in theirs], alike=column.alike
    )
    return rows.astype(np.int32), ~all_of([cells.codes == EMPTY for cells in own], relation.row_count)
