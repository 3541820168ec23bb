"""What the values of an .ods workbook do not tell: its size, error cells, merged cells, codes with zeros in front.

The text of a cell shows what its value does not: 42 shown as 00042 is a code. The XML is looked through once as a
stream; a cell or row that is there many times is written once, with a count.
"""

from __future__ import annotations

import re
import zipfile
import zlib
from typing import TYPE_CHECKING
from xml.parsers import expat

from hemplit.core.model.grid import Range
from hemplit.files.inside import PIECE, DamagedError, Inside, check_expansion

if TYPE_CHECKING:
    from pathlib import Path

CONTENT = "content.xml"
#: A code or an error that stands so many times is no content of a sheet.
MOST_REPEATED = 1 << 16
ZEROS = re.compile(r"0\d+")


def look_inside(path: Path) -> dict[str, Inside]:
    """What is found, by the names of the sheets."""
    scan = _Scan()
    parser = expat.ParserCreate()
    parser.buffer_text = True
    parser.StartElementHandler = scan.start
    parser.EndElementHandler = scan.end
    parser.CharacterDataHandler = scan.text
    parser.EntityDeclHandler = scan.entity
    try:
        with zipfile.ZipFile(path) as archive:
            check_expansion(path, archive)
            with archive.open(CONTENT) as file:
                while some := file.read(PIECE):
                    parser.Parse(some)
            parser.Parse(b"", True)
    except (zipfile.BadZipFile, zlib.error, expat.ExpatError, LookupError, EOFError, ValueError) as error:
        raise DamagedError(str(error).strip("'\"")) from error
    except (NotImplementedError, RuntimeError) as error:
        raise DamagedError(f"it is packed in an unusual way: {error}") from error
    return scan.sheets


class _Scan:
    """Keeps its place in the sheet while the elements of the XML go by."""

    def __init__(self) -> None:
        self.sheets: dict[str, Inside] = {}
        self._sheet = Inside(Range(0, 0, 0, 0))
        self._row = self._column = self._rows = self._cells = 0
        self._cell: dict[str, str] | None = None
        self._shown: list[str] = []
        self._money: dict[int, dict[int, tuple[str, str]]] = {}

    def entity(self, *_: object) -> None:
        raise DamagedError("its XML declares entities, which no workbook does")

    def start(self, name: str, attributes: dict[str, str]) -> None:
        match name.rpartition(":")[2]:
            case "table":
                self._sheet = self.sheets.setdefault(attributes.get("table:name", ""), Inside(Range(0, 0, 0, 0)))
                self._row = 0
            case "table-row":
                self._rows = int(attributes.get("table:number-rows-repeated", 1))
                self._column = 0
            case "table-cell" | "covered-table-cell":
                self._cells = int(attributes.get("table:number-columns-repeated", 1))
                self._cell, self._shown = attributes, []

    def text(self, text: str) -> None:
        if self._cell is not None:
            self._shown.append(text)

    def end(self, name: str) -> None:
        match name.rpartition(":")[2]:
            case "table":
                self._keep_currencies()
            case "table-row":
                self._row += self._rows
            case "table-cell" | "covered-table-cell" if self._cell is not None:
                if self._shown or "office:value-type" in self._cell:
                    self._content(self._cell, "".join(self._shown))
                self._column += self._cells
                self._cell = None

    def _keep_currencies(self) -> None:
        """Where a column has amounts in several currencies, the number alone would not tell which."""
        for column, cells in self._money.items():
            if len({currency for currency, _ in cells.values()}) > 1:
                self._sheet.texts.update({(row, column): shown for row, (_, shown) in cells.items()})
        self._money = {}

    def _content(self, cell: dict[str, str], shown: str) -> None:
        last = self._sheet.last
        bottom, right = self._row + self._rows - 1, self._column + self._cells - 1
        self._sheet.last = Range(0, 0, max(last.bottom, bottom), max(last.right, right))
        spans = [int(cell.get(f"table:number-{way}-spanned", 1)) for way in ("rows", "columns")]
        if max(spans) > 1:
            corner = self._row + spans[0] - 1, self._column + spans[1] - 1
            self._sheet.merged.append(Range(self._row, self._column, *corner))
        kind = cell.get("office:value-type")
        if kind == "currency":
            of_column = self._money.setdefault(self._column, {})
            of_column[self._row] = (cell.get("office:currency", ""), shown)
        error = cell.get("calcext:value-type") == "error"
        yes_no = kind == "float" and shown in ("TRUE", "FALSE")
        code = kind == "float" and ZEROS.fullmatch(shown) and float(cell.get("office:value", "nan")) == int(shown)
        if (error or code or yes_no) and self._rows * self._cells <= MOST_REPEATED:
            places = [
                (row, column) for row in range(self._row, bottom + 1) for column in range(self._column, right + 1)
            ]
            self._sheet.texts.update(dict.fromkeys(places, shown))
            if error:
                self._sheet.errors += places
