"""Workbooks (.xlsx, .xlsm, .xls, .ods) → one grid per sheet with content.

Numbers are written as plainly as they can be without loss, dates in the ISO form, so that a text stands for one value.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import python_calamine

from hemplit.core.model.grid import Grid, Range, Source, address
from hemplit.errors import InputError
from hemplit.files import inside
from hemplit.files.cells import from_values

if TYPE_CHECKING:
    from pathlib import Path

    from hemplit.files.inside import Inside

ENDINGS = (".xlsx", ".xlsm", ".xls", ".ods")
ZIP, OLE = b"PK\x03\x04", b"\xd0\xcf\x11\xe0"
PROTECTED = ("EncryptedPackage".encode("utf-16-le"), "EncryptionInfo".encode("utf-16-le"))
#: So many cells are still a sheet and no slip of a finger in its last corner.
MOST_CELLS = 200_000_000


def read(path: Path) -> tuple[Grid, ...]:
    """The sheets that have content.

    Raises ``InputError`` if the file is no workbook, is protected, or all its sheets are empty.
    """
    _check(path)
    try:
        details = inside.look_inside(path) if path.suffix.lower() in (".xlsx", ".xlsm") else {}
        for name, detail in details.items():
            _check_size(path, name, detail)
        workbook = python_calamine.CalamineWorkbook.from_path(path)
        grids = []
        for sheet in workbook.sheets_metadata:
            if sheet.typ == python_calamine.SheetTypeEnum.WorkSheet:
                hidden = sheet.visible != python_calamine.SheetVisibleEnum.Visible
                grid = _grid(path, workbook, sheet.name, details.get(sheet.name), hidden)
                if grid is not None:
                    grids.append(grid)
    except python_calamine.PasswordError as error:
        raise _protected(path) from error
    except (python_calamine.CalamineError, inside.DamagedError) as error:
        raise InputError(str(path), f"the workbook is damaged ({error})", "save it again") from error
    if not grids:
        raise InputError(str(path), "the workbook is empty", "nothing can be read from it")
    return tuple(grids)


def _check(path: Path) -> None:
    old = path.suffix.lower() == ".xls"
    with path.open("rb") as file:
        beginning = file.read(len(ZIP))
        if beginning == OLE:
            file.seek(0)
            if any(mark in file.read(1 << 20) for mark in PROTECTED):
                raise _protected(path)
    if beginning != (OLE if old else ZIP) and not (old and beginning[:1] == b"\t"):
        ending = path.suffix.lower()
        raise InputError(
            str(path), "this is not a workbook", f"open it in a spreadsheet program and save it as {ending}"
        )


def _protected(path: Path) -> InputError:
    return InputError(str(path), "the workbook is protected by a password", "save it without one")


def _check_size(path: Path, name: str, detail: Inside) -> None:
    cells = (detail.last.bottom + 1) * (detail.last.right + 1)
    if cells > MOST_CELLS:
        corner = address(detail.last.bottom, detail.last.right)
        raise InputError(
            f"{path} [{name}] {corner}",
            f"the sheet reaches to this cell, {cells:,} cells",
            "delete the stray cells there",
        )


def _grid(
    path: Path, workbook: python_calamine.CalamineWorkbook, name: str, detail: Inside | None, hidden: bool
) -> Grid | None:
    sheet = workbook.get_sheet_by_name(name)
    rows = sheet.to_python(skip_empty_area=False)
    if not rows:
        return None
    notes = ["this sheet is hidden"] if hidden else []
    for (row, column), text in (detail.texts if detail else {}).items():
        if row < len(rows) and column < len(rows[row]):
            rows[row][column] = text
    if detail and detail.errors:
        shown = ", ".join(f"{address(*place)} {detail.texts[place]}" for place in detail.errors[:4])
        notes.append(f"{len(detail.errors):,} cells hold an error: {shown}")
    if workbook_has_merged(path):
        merged = [Range(top, left, bottom, right) for (top, left), (bottom, right) in sheet.merged_cell_ranges or ()]
    else:
        merged = []
    columns = tuple(from_values(column) for column in zip(*rows, strict=True))
    source = Source(str(path), name)
    return Grid(source, columns, len(rows), tuple(merged), notes=tuple(notes))


def workbook_has_merged(path: Path) -> bool:
    """Whether merged ranges can be read from this kind of workbook."""
    return path.suffix.lower() in (".xlsx", ".xlsm", ".xls")
