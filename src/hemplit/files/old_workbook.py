"""Old workbooks (.xls) → one grid per sheet with content; codes that a number format shows with zeros are kept so."""

from __future__ import annotations

import io
import re
import struct
from datetime import timedelta
from typing import TYPE_CHECKING

from hemplit.core.model.grid import Grid, Range, Source
from hemplit.dataclasses import dataclass
from hemplit.errors import InputError
from hemplit.files.cells import from_pieces, piece
from hemplit.files.inside import OLE, ZERO_FORMAT, Inside, check_beginning, notes, protected

if TYPE_CHECKING:
    from pathlib import Path

    import xlrd
    import xlrd.sheet

#: How the oldest ones begin, which are no containers.
OLDEST = b"\t"
#: A format that shows so many hours, minutes or seconds as there are, and no time of day.
ON_END = re.compile(r"\[[hms]+\]", re.IGNORECASE)
#: What the workbook is called inside its container.
STREAMS = ("Workbook", "Book")
#: What the libraries beneath raise for a damaged file, beside their own errors.
DAMAGED = (
    struct.error, AssertionError, LookupError, ValueError, TypeError, AttributeError, ArithmeticError, MemoryError,
    RecursionError,
)  # fmt: skip


def read(path: Path) -> tuple[Grid, ...]:
    """The sheets that have content.

    Raises ``InputError`` if the file is no workbook, is protected, or all its sheets are empty.
    """
    import olefile.olefile
    import xlrd
    import xlrd.compdoc

    check_beginning(path, (OLE, OLDEST))
    try:
        book = xlrd.open_workbook(file_contents=_stream(path), logfile=_Silence(), formatting_info=True)
        formats = _formats(book)
        grids = [_grid(path, sheet, book.datemode, formats) for sheet in book.sheets() if sheet.nrows and sheet.ncols]
    except (xlrd.XLRDError, xlrd.compdoc.CompDocError, olefile.olefile.OleFileError, *DAMAGED) as error:
        if "encrypted" in str(error):
            raise protected(path) from error
        said = " ".join(str(error).split()) or type(error).__name__
        raise InputError(str(path), f"the workbook is damaged ({said})", "save it again") from error
    if not grids:
        raise InputError(str(path), "the workbook is empty", "nothing can be read from it")
    return tuple(grids)


def _stream(path: Path) -> bytes:
    """The workbook itself, out of its container if it has one; a chain that runs in a circle ends with its length."""
    import olefile

    content = path.read_bytes()
    if not content.startswith(OLE):
        return content
    with olefile.OleFileIO(io.BytesIO(content)) as container:  # a few bytes by themselves it takes for a name
        name = next((name for name in STREAMS if container.exists(name)), None)
        if name is None:
            raise ValueError("there is no workbook in it")
        stream: bytes = container.openstream(name).read()
        return stream


class _Silence:
    """Where the library beneath may write what it thinks of the file."""

    def write(self, text: str) -> int:
        return len(text)


@dataclass(frozen=True)
class _Formats:
    """The cell styles that show numbers with zeros in front, to how many digits, and those that show hours on end."""

    zeros: dict[int, int]
    durations: frozenset[int]


def _formats(book: xlrd.Book) -> _Formats:
    formats = {key: one.format_str for key, one in book.format_map.items()}
    styles = [(place, formats.get(style.format_key, "")) for place, style in enumerate(book.xf_list)]
    return _Formats(
        {place: len(said) for place, said in styles if ZERO_FORMAT.fullmatch(said)},
        frozenset(place for place, said in styles if ON_END.search(said)),
    )


def _grid(path: Path, sheet: xlrd.sheet.Sheet, datemode: int, formats: _Formats) -> Grid:
    found = Inside(Range(0, 0, sheet.nrows - 1, sheet.ncols - 1))
    columns = []
    for column in range(sheet.ncols):
        values = [_value(sheet, row, column, datemode, formats, found) for row in range(sheet.nrows)]
        columns.append(from_pieces([piece(values[:1]), piece(values[1:])]))
    merged = tuple(Range(top, left, end - 1, right - 1) for top, end, left, right in sheet.merged_cells)
    return Grid(
        Source(str(path), sheet.name), tuple(columns), sheet.nrows, merged, notes=notes(found, sheet.visibility > 0)
    )


def _value(sheet: xlrd.sheet.Sheet, row: int, column: int, datemode: int, formats: _Formats, found: Inside) -> object:
    import xlrd

    if column >= sheet.row_len(row):
        return ""
    kind, value = sheet.cell_type(row, column), sheet.cell_value(row, column)
    match kind:
        case xlrd.XL_CELL_NUMBER if formats.zeros and value >= 0 and float(value).is_integer():
            digits = formats.zeros.get(sheet.cell_xf_index(row, column))
            value = value if digits is None else str(int(value)).zfill(digits)
        case xlrd.XL_CELL_DATE if value < 0 or sheet.cell_xf_index(row, column) in formats.durations:
            value = timedelta(days=value)
        case xlrd.XL_CELL_DATE:
            moment = xlrd.xldate_as_datetime(value, datemode)
            value = moment.time() if 0 <= value < 1 else moment
        case xlrd.XL_CELL_BOOLEAN:
            value = bool(value)
        case xlrd.XL_CELL_ERROR:
            value = found.texts[row, column] = xlrd.error_text_from_code.get(value, "#ERROR!")
            found.errors.append((row, column))
    return value
