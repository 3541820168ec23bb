"""Whether the sheets that fill a table can fill it: each names its things, and says what else it says by a header."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.model.design import Grain
from hemplit.errors import DesignError, nearest

if TYPE_CHECKING:
    from hemplit.core.model.design import ColumnPlan, Design, TablePlan


def check_feeds(design: Design, table: TablePlan) -> None:
    """Raises ``DesignError`` if sheets cannot fill a table as its columns say."""
    if table.grain is Grain.ROW and len(table.feeds) > 1:
        what = "it has one row per sheet row, so no column has several headers"
        raise DesignError(resolve.place(table), what, "take one")
    _check_named(design, table)
    if len(table.sheets) == 1:
        return
    known = [sheet.name for sheet in design.sheets]
    unknown = next((sheet for sheet in table.sheets if sheet not in known), None)
    if unknown is not None:
        place = next(resolve.place(table, one) for one in table.columns if unknown in dict(one.elsewhere))
        raise DesignError(f"{place}.from", f"there is no sheet '{unknown}'", nearest(unknown, known))
    if table.grain is not Grain.VALUE:
        what = "only a table with one row for each different key is filled from several sheets"
        raise DesignError(resolve.place(table), what, "give its columns the headers of one sheet")
    for name in resolve.identity(table):
        silent = next((sheet for sheet in table.sheets if not table.headers_in(sheet, table.by_name[name])), None)
        if silent is not None:
            what = f"'{name}' names its rows, and has no header in sheet '{silent}', which fills it, too"
            hint = f"write from = {{ …, {silent} = \"HEADER\" }}, or take '{silent}' out of its other columns"
            raise DesignError(resolve.place(table, table.by_name[name]), what, hint)
    for column in table.columns:
        said = of_one_sheet(table, column)
        if said:
            what = f"{said} is only for a table that one sheet fills"
            raise DesignError(resolve.place(table, column), what, "give the table's columns the headers of one sheet")


def _check_named(design: Design, table: TablePlan) -> None:
    """A reference by a header to things with made-up keys needs a column there that comes from that header, too."""
    for column in table.columns:
        pointed = resolve.target(design, table, column)
        if pointed is None or pointed.table is table or pointed.column.ids is None or column.named_by:
            continue
        for sheet in table.sheets:
            headers = table.headers_in(sheet, column)
            if headers and sheet in pointed.table.sheets and pointed.table.feed_of(sheet, headers[0]) is None:
                what = f"no column of '{pointed.table.name}' comes from '{headers[0]}'"
                hint = f"add '{headers[0]}' to the 'from' of the column that names it there"
                raise DesignError(resolve.place(table, column), what, hint)


def of_one_sheet(table: TablePlan, column: ColumnPlan) -> str:
    """What a column has that no table of several sheets can have; nothing if all can be."""
    odd = {
        "a calculated column": column.formula is not None and not column.store and bool(column.elsewhere),
        "'lowest'": column.lowest is not None,
        "'unmatched'": column.unmatched is not None,
        "'along'": column.along is not None,
        "'unlike'": column.unlike is not None,
        "a reference to its own rows": (column.target or ("",))[0] == table.name,
        "a reference by several headers": column.to is not None
        and any(len(table.headers_in(sheet, column)) > 1 for sheet in table.sheets),
    }
    return next((said for said, is_so in odd.items() if is_so), "")
