"""Workbooks (.xlsx, .xlsm, .ods) → one grid per sheet with content.

Numbers are written as plainly as they can be without loss, dates in the ISO form, so that a text stands for one value.
"""

from __future__ import annotations

from collections import defaultdict
from itertools import chain, islice
from typing import TYPE_CHECKING

import python_calamine

from hemplit.core.model.grid import Grid, Range, Source, address
from hemplit.errors import InputError
from hemplit.files import inside, open_document
from hemplit.files.cells import from_few, from_pieces, piece
from hemplit.files.inside import Inside

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping
    from datetime import date, datetime, time, timedelta
    from pathlib import Path

    import pyarrow as pa

    from hemplit.core.model.grid import GridColumn

    Value = int | float | str | bool | time | date | datetime | timedelta

ZIP = b"PK\x03\x04"
#: What the reader beneath raises where it did not foresee a damage; it is no ``Exception``.
PANIC = "PanicException"
#: So many rows are taken at once.
ROWS = 2_000
#: Fewer are taken value by value: measured, it is quicker up to seven hundred rows.
FEW = 500


def read(path: Path) -> tuple[Grid, ...]:
    """The sheets that have content.

    Raises ``InputError`` if the file is no workbook, is protected, or all its sheets are empty.
    """
    inside.check_beginning(path, (ZIP,))
    try:
        look_inside = open_document.look_inside if path.suffix.lower() == ".ods" else inside.look_inside
        details = look_inside(path)
        for name, detail in details.items():
            _check_size(path, name, detail)
        workbook = python_calamine.CalamineWorkbook.from_path(path)
        grids = []
        for sheet in workbook.sheets_metadata:
            if sheet.typ == python_calamine.SheetTypeEnum.WorkSheet:
                hidden = sheet.visible != python_calamine.SheetVisibleEnum.Visible
                grid = _grid(path, workbook, sheet.name, details.get(sheet.name, Inside(Range(0, 0, 0, 0))), hidden)
                if grid is not None:
                    grids.append(grid)
    except python_calamine.PasswordError as error:
        raise inside.protected(path) from error
    except (python_calamine.CalamineError, inside.DamagedError) as error:
        raise InputError(str(path), f"the workbook is damaged ({error})", "save it again") from error
    except BaseException as error:
        if type(error).__name__ != PANIC:
            raise
        raise InputError(str(path), f"the workbook is damaged ({error})", "save it again") from error
    if not grids:
        raise InputError(str(path), "the workbook is empty", "nothing can be read from it")
    return tuple(grids)


def _check_size(path: Path, name: str, detail: Inside) -> None:
    cells = (detail.last.bottom + 1) * (detail.last.right + 1)
    filled = cells if detail.filled is None else detail.filled
    if cells > inside.MOST_CELLS or (cells > inside.SPARSE and cells > inside.FEWEST_FILLED * filled):
        raise InputError(
            f"{path} [{name}] {address(detail.last.bottom, detail.last.right)}",
            f"the sheet reaches to this cell, {cells:,} cells, of which {filled:,} are written",
            "delete the stray cells far out and save it again",
        )


def _grid(
    path: Path, workbook: python_calamine.CalamineWorkbook, name: str, detail: Inside, hidden: bool
) -> Grid | None:
    sheet = workbook.get_sheet_by_name(name)
    if sheet.start is None or sheet.end is None:
        return None
    if detail.merged:
        merged = detail.merged
    elif path.suffix.lower() != ".ods":
        merged = [Range(top, left, bottom, right) for (top, left), (bottom, right) in sheet.merged_cell_ranges or ()]
    else:
        merged = []
    columns = _columns(sheet.iter_rows(), sheet.start[1], sheet.end[1] + 1, detail.texts)
    notes = inside.notes(detail, hidden)
    return Grid(Source(str(path), name), columns, len(columns[0].codes), tuple(merged), notes=notes)


def _columns(
    rows: Iterator[list[Value]], left: int, width: int, shown: Mapping[tuple[int, int], str]
) -> tuple[GridColumn, ...]:
    """The cells in pieces of some rows, which are still in the cache when they become columns; the header is the first.

    The rows begin at the column ``left``; ``shown`` are texts that stand in the place of values.
    """
    special = defaultdict(list)
    for (row, column), text in shown.items():
        if column < width:
            special[row].append((column, text))

    def whole(some: list[list[Value]], first: int) -> list[list[Value]]:
        if not left and special.keys().isdisjoint(range(first, first + len(some))):
            return some
        some = [[""] * left + row for row in some]
        for place, cells in enumerate(some, first):
            for column, text in special.get(place, ()):
                cells[column] = text
        return some

    begun = list(islice(rows, FEW))
    if len(begun) < FEW:
        return tuple(map(from_few, zip(*whole(begun, 0), strict=True)))
    pieces: list[list[pa.Array]] = [[] for _ in range(width)]
    rows, first, count = chain(begun, rows), 0, 1
    while some := list(islice(rows, count)):
        for of_column, values in zip(pieces, zip(*whole(some, first), strict=True), strict=True):
            of_column.append(piece(values))
        first += len(some)
        count = ROWS
    return tuple(map(from_pieces, pieces))
