"""Workbooks (.xlsx) → one grid per sheet with content.

Numbers are written as plainly as they can be without loss, dates in the ISO form, so that a text stands for one value.
"""

from __future__ import annotations

from datetime import date, datetime, time, timedelta
from typing import TYPE_CHECKING

import python_calamine

from hemplit.core.model.grid import Grid, Source
from hemplit.errors import InputError
from hemplit.files.cells import from_texts

if TYPE_CHECKING:
    from collections.abc import Sequence
    from pathlib import Path

ENDINGS = (".xlsx",)
ZIP = b"PK\x03\x04"


def read(path: Path) -> tuple[Grid, ...]:
    """The sheets that have content.

    Raises ``InputError`` if the file is no workbook, or all its sheets are empty.
    """
    with path.open("rb") as file:
        if file.read(len(ZIP)) != ZIP:
            raise InputError(
                str(path), "this is not a workbook", "open it in a spreadsheet program and save it as .xlsx"
            )
    try:
        workbook = python_calamine.CalamineWorkbook.from_path(path)
        sheets = [
            (name, workbook.get_sheet_by_name(name).to_python(skip_empty_area=False)) for name in workbook.sheet_names
        ]
    except python_calamine.CalamineError as error:
        raise InputError(str(path), f"the workbook is damaged ({error})", "save it again as .xlsx") from error
    grids = tuple(_grid(Source(str(path), name), rows) for name, rows in sheets if rows)
    if not grids:
        raise InputError(str(path), "the workbook is empty", "nothing can be read from it")
    return grids


def _grid(source: Source, rows: Sequence[Sequence[object]]) -> Grid:
    columns = tuple(from_texts([_text(cell) for cell in column]) for column in zip(*rows, strict=True))
    return Grid(source, columns, len(rows))


def _text(cell: object) -> str:
    """A cell as text; a time of day of its own day is a date."""
    if isinstance(cell, bool):
        return "TRUE" if cell else "FALSE"
    if isinstance(cell, float):
        return str(int(cell)) if cell.is_integer() and abs(cell) < 1e15 else repr(cell)
    if isinstance(cell, datetime):
        return cell.isoformat(" ", "seconds") if cell.time() != time() else cell.date().isoformat()
    if isinstance(cell, date | time):
        return cell.isoformat()
    if isinstance(cell, timedelta):
        return str(cell)
    return str(cell)
