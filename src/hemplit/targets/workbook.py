"""A workbook: a sheet for each table with lists to choose references from, behind one that says how they hang together.

Beside a reference by a number stands, in grey, what it is called; the workbook finds that by itself.
"""

from __future__ import annotations

import datetime
import re
import zipfile
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar

import pyarrow as pa
import python_calamine
import xlsxwriter
from xlsxwriter.utility import xl_col_to_name

from hemplit.core.model.loads import Ability
from hemplit.core.model.proof import Difference
from hemplit.errors import TargetError
from hemplit.targets.file import FileTarget
from hemplit.targets.sql.rows import as_stored

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence
    from pathlib import Path

    from hemplit.core.model.relation import Kind
    from hemplit.core.model.tables import Table, TableColumn, Tables

#: What workbooks hold at most: rows of a sheet, columns, letters of a cell, letters of a sheet's name.
MOST_ROWS, MOST_COLUMNS, MOST_LETTERS, LONGEST_NAME = 1_048_576, 16_384, 32_767, 31
NOT_IN_NAMES = re.compile(r"[\[\]:*?/\\]|^'|'$")
MARK = "Made by Hemplit"
OVERVIEW = "Tables"
ABOUT = ("Table", "Holds", "Rows", "Key", "Refers to", "Why")
OF_COLUMNS = ("Table", "Column", "Kind", "Filled", "Refers to", "From")
#: Days before this one are others to some programs, and are written as texts.
FIRST_DAY = datetime.date(1900, 3, 1)
#: Columns are as wide as their longest cell, between these, looking at so many.
NARROW, WIDE, LOOKED_AT = 8, 50, 500
HEADER = {"bold": True, "font_color": "#FFFFFF", "bg_color": "#1F4E5F", "valign": "top", "text_wrap": True}
GREY = {"font_color": "#7F7F7F", "italic": True}
FORMS = {"date": "yyyy-mm-dd", "time": "hh:mm:ss", "date and time": "yyyy-mm-dd hh:mm:ss", "whole number": "0"}
#: No two runs make the same file of the same tables if it says when it was made.
MADE = datetime.datetime(2000, 1, 1)
#: What the reader beneath raises where it did not foresee a damage; it is no ``Exception``.
PANIC = "PanicException"


@dataclass(frozen=True)
class _Called:
    """What the rows of a table are called: the sheet with its last row, the columns of its key and its name."""

    sheet: str
    last: int
    key: str
    name: str
    texts: Mapping[Any, Any]


class WorkbookTarget(FileTarget):
    """A workbook.

    >>> WorkbookTarget.takes("yard.xlsx"), WorkbookTarget.takes("yard.xls")
    (True, False)
    """

    endings: ClassVar = (".xlsx",)
    called = "workbook"
    lacks: Mapping[Ability, str] = {
        Ability.VIEWS: "a workbook joins no tables; its sheets are compared cell by cell",
        Ability.GROW: "a workbook cannot be added to",
    }

    def _is_ours(self) -> bool:
        try:
            with zipfile.ZipFile(self.path) as parts:
                return MARK.encode() in parts.read("docProps/core.xml")
        except (OSError, KeyError, zipfile.BadZipFile):
            return False

    def _make(self, path: Path, tables: Tables) -> None:
        self._check_size(tables)
        names = _sheet_names(tables)
        options = {"constant_memory": True, "strings_to_formulas": False, "strings_to_urls": False}
        with xlsxwriter.Workbook(str(path), options) as book:
            book.set_properties({"comments": MARK, "created": MADE})
            forms = {word: book.add_format({"num_format": form}) for word, form in FORMS.items()}
            _write_overview(book, tables, names)
            called = {table.name: one for table in tables.tables if (one := _called(table, names[table.name]))}
            for table in tables.tables:
                sheet = book.add_worksheet(names[table.name])
                _TableSheet(book, sheet, table, called, forms).write(tables, names)

    def _check_size(self, tables: Tables) -> None:
        for table in tables.tables:
            if table.row_count >= MOST_ROWS:
                what = f"'{table.name}' has {table.row_count:,} rows, and a sheet of a workbook {MOST_ROWS - 1:,}"
                raise TargetError(self.text, what, "load into a database")
            if 2 * len(table.columns) > MOST_COLUMNS:
                what = f"'{table.name}' has {len(table.columns):,} columns, and a sheet of a workbook {MOST_COLUMNS:,}"
                raise TargetError(self.text, what, "load into a database")
            for column in table.columns:
                if pa.types.is_string(column.values.type):
                    longest = max(map(len, column.values.to_pylist()), default=0)
                    if longest > MOST_LETTERS:
                        what = f"'{table.name}.{column.name}' holds a text of {longest:,} letters"
                        hint = f"a cell of a workbook holds {MOST_LETTERS:,}; load into a database"
                        raise TargetError(self.text, what, hint)

    def _read(self, path: Path, tables: Tables) -> dict[str, pa.Table]:
        names, sheets = _sheet_names(tables), self._sheets(path)
        return {table.name: _rows_of(table, sheets.get(names[table.name], [])) for table in tables.tables}

    def _sheets(self, path: Path) -> dict[str, list[list[Any]]]:
        try:
            book = python_calamine.CalamineWorkbook.from_path(path)
            return {name: book.get_sheet_by_name(name).to_python(skip_empty_area=False) for name in book.sheet_names}
        except (python_calamine.CalamineError, OSError) as error:
            raise TargetError(self.text, f"it cannot be read ({error})", "load the design again") from error
        except BaseException as error:
            if type(error).__name__ != PANIC:
                raise
            raise TargetError(self.text, f"the workbook is damaged ({error})", "load the design again") from error

    def structure(self, tables: Tables) -> tuple[int, Sequence[Difference]]:
        """Compares the sheet that says how the tables hang together, and the header of each sheet."""
        names, sheets = _sheet_names(tables), self._sheets(self.path)
        wanted = [[str(cell) for cell in row] for row in _overview(tables)]
        there = [[_plain(cell) for cell in row] for row in sheets.get(OVERVIEW, [])]
        width = len(ABOUT)
        padded = [[*row, *[""] * (width - len(row))] for row in there]
        found = [
            Difference(f"{OVERVIEW} row {at + 1}", _joined(wanted, at), _joined(padded, at))
            for at in range(max(len(wanted), len(padded)))
            if _joined(wanted, at) != _joined(padded, at)
        ]
        called = {table.name: one for table in tables.tables if (one := _called(table, names[table.name]))}
        for table in tables.tables:
            headers = _headers(table, called)
            have = [str(cell) for cell in (sheets.get(names[table.name]) or [[]])[0]]
            if headers != have:
                found.append(Difference(f"sheet {names[table.name]}", ", ".join(headers), ", ".join(have) or "nothing"))
        expected = {OVERVIEW, *names.values()}
        found += [Difference(f"sheet {name}", "nothing", "a sheet") for name in sheets if name not in expected]
        return len(wanted) + len(tables.tables), found


def _joined(rows: Sequence[Sequence[str]], at: int) -> str:
    return " | ".join(rows[at]).rstrip(" |") if at < len(rows) else "nothing"


def _plain(cell: Any) -> str:
    return f"{cell:g}" if isinstance(cell, float) else str(cell)


def _sheet_names(tables: Tables) -> dict[str, str]:
    """A name for the sheet of each table; programs do not tell capitals from small letters there."""
    taken = {OVERVIEW.lower(), "history"}
    names = {}
    for table in tables.tables:
        plain = NOT_IN_NAMES.sub("_", table.name)[:LONGEST_NAME]
        name, count = plain, 1
        while name.lower() in taken:
            count += 1
            name = f"{plain[: LONGEST_NAME - len(str(count)) - 1]}_{count}"
        taken.add(name.lower())
        names[table.name] = name
    return names


def _overview(tables: Tables) -> Iterator[tuple[str | int, ...]]:
    """The rows of the first sheet: the tables, then their columns."""
    yield ABOUT
    for table in tables.tables:
        to = ", ".join(dict.fromkeys(reference.table for reference in table.references))
        yield table.name, table.purpose, table.row_count, ", ".join(table.key), to, table.comment
    yield ()
    yield OF_COLUMNS
    for table in tables.tables:
        pointing = {name: one.table for one in table.references for name in one.columns}
        for column in table.columns:
            filled = "always" if column.required else ""
            yield table.name, column.name, column.kind.word, filled, pointing.get(column.name, ""), column.comment


def _write_overview(book: Any, tables: Tables, names: Mapping[str, str]) -> None:
    sheet, header = book.add_worksheet(OVERVIEW), book.add_format(HEADER)
    link = book.add_format({"font_color": "#1F4E5F", "underline": 1})
    for place, width in enumerate((24, 24, 14, 24, 24, 60)):
        sheet.set_column(place, place, width)
    sheet.freeze_panes(1, 0)
    for at, row in enumerate(_overview(tables)):
        for place, cell in enumerate(row):
            if row in (ABOUT, OF_COLUMNS):
                sheet.write_string(at, place, str(cell), header)
            elif place == 0:
                quoted = names[str(cell)].replace("'", "''")
                sheet.write_url(at, place, f"internal:'{quoted}'!A1", link, str(cell))
            elif isinstance(cell, int):
                sheet.write_number(at, place, cell)
            else:
                sheet.write_string(at, place, cell)


def _called(table: Table, sheet: str) -> _Called | None:
    """How to find what the rows of a table are called that are known by a number; None if they have no such name."""
    named = next((some[0] for some in table.unique if len(some) == 1), None)
    key = table.by_name[table.key[0]]
    if named is None or len(table.key) > 1 or key.kind.word != "whole number" or not table.row_count:
        return None
    places = [column.name for column in table.columns]
    texts = dict(zip(_values(key), _values(table.by_name[named]), strict=True))
    key_at, name_at = (xl_col_to_name(places.index(name)) for name in (key.name, named))
    return _Called(sheet.replace("'", "''"), table.row_count + 1, key_at, name_at, texts)


def _values(column: TableColumn) -> list[Any]:
    values = column.values.to_pylist()
    return [None if code < 0 else values[code] for code in column.codes.tolist()]


def _named(table: Table, column: TableColumn, called: Mapping[str, _Called]) -> _Called | None:
    """What a reference of one column is called beside it."""
    pointing = next((one for one in table.references if one.columns == (column.name,)), None)
    return called.get(pointing.table) if pointing is not None else None


def _headers(table: Table, called: Mapping[str, _Called]) -> list[str]:
    """The header of the sheet of a table; what a reference is called stands behind all columns."""
    beside = [f"{column.name}: name" for column in table.columns if _named(table, column, called)]
    return [*(column.name for column in table.columns), *beside]


class _TableSheet:
    """The sheet of one table."""

    def __init__(
        self, book: Any, sheet: Any, table: Table, called: Mapping[str, _Called], forms: Mapping[str, Any]
    ) -> None:
        self.book, self.sheet, self.table, self.called, self.forms = book, sheet, table, called, forms

    def write(self, tables: Tables, names: Mapping[str, str]) -> None:
        """Header, rows, widths, filters, and a list to choose from for each reference of one column."""
        table, sheet = self.table, self.sheet
        headers = _headers(table, self.called)
        columns = [_values(column) for column in table.columns]
        forms = [self._form(column.kind) for column in table.columns]
        beside = [(at, one) for at, column in enumerate(table.columns) if (one := _named(table, column, self.called))]
        for place, header in enumerate(headers):
            cells = columns[place] if place < len(columns) else []
            longest = max((len(str(cell)) for cell in cells[:LOOKED_AT] if cell is not None), default=0)
            sheet.set_column(place, place, min(max(longest, len(header), NARROW) + 2, WIDE))
        header_form, grey = self.book.add_format(HEADER), self.book.add_format(GREY)
        for place, header in enumerate(headers):
            sheet.write_string(0, place, header, header_form)
        for row in range(table.row_count):
            for place, cells in enumerate(columns):
                if cells[row] is not None:
                    self._write(row + 1, place, cells[row], table.columns[place].kind, forms[place])
            for further, (place, one) in enumerate(beside):
                found = one.texts.get(columns[place][row])
                cell = f"{xl_col_to_name(place)}{row + 2}"
                name, key = (f"'{one.sheet}'!${at}$2:${at}${one.last}" for at in (one.name, one.key))
                formula = f'=IF({cell}="","",INDEX({name},MATCH({cell},{key},0)))'
                sheet.write_formula(row + 1, len(columns) + further, formula, grey, "" if found is None else found)
        sheet.freeze_panes(1, 0)
        sheet.autofilter(0, 0, max(table.row_count, 1), len(headers) - 1)
        for reference in table.references:
            if len(reference.columns) == 1:
                self._choose_from(reference.columns[0], tables.by_name[reference.table], reference, names)

    def _form(self, kind: Kind) -> Any:
        if kind.word == "decimal" and kind.form:
            return self.book.add_format({"num_format": kind.form})
        return self.forms.get(kind.word)

    def _write(self, row: int, place: int, value: Any, kind: Kind, form: Any) -> None:
        sheet = self.sheet
        if isinstance(value, bool):
            sheet.write_boolean(row, place, value)
        elif isinstance(value, int | float):
            sheet.write_number(row, place, value, form)
        elif isinstance(value, str):
            sheet.write_string(row, place, value)
        elif isinstance(value, datetime.time) or _day(value) >= FIRST_DAY:
            sheet.write_datetime(row, place, value, form)
        else:
            sheet.write_string(row, place, str(value))

    def _choose_from(self, name: str, other: Table, reference: Any, names: Mapping[str, str]) -> None:
        place = [column.name for column in self.table.columns].index(name)
        letters = xl_col_to_name([column.name for column in other.columns].index(reference.table_columns[0]))
        sheet = names[other.name].replace("'", "''")
        source = f"='{sheet}'!${letters}$2:${letters}${max(other.row_count, 1) + 1}"
        error = {"error_title": other.name, "error_message": f"This is no key of {other.name}."[:255]}
        last = max(self.table.row_count, 1)
        self.sheet.data_validation(1, place, last, place, {"validate": "list", "source": source, **error})


def _day(value: datetime.date) -> datetime.date:
    return value.date() if isinstance(value, datetime.datetime) else value


def _rows_of(table: Table, cells: Sequence[Sequence[Any]]) -> pa.Table:
    """The rows of a sheet under the headers of a table, in the types in which they are stored."""
    header = [str(cell) for cell in cells[0]] if cells else []
    wanted = as_stored(table).schema
    columns = []
    for column in table.columns:
        at = header.index(column.name) if column.name in header else None
        some = [_stored(row[at] if at is not None and at < len(row) else "", column.kind) for row in cells[1:]]
        columns.append(_typed(some, wanted.field(column.name).type))
    return pa.table(columns, names=[column.name for column in table.columns])


def _stored(cell: Any, kind: Kind) -> Any:
    """A cell as it is stored; what is of another kind stays what it is."""
    if cell == "" and isinstance(cell, str):
        return None
    if isinstance(cell, bool):
        return int(cell)
    if isinstance(cell, float) and kind.word == "whole number" and cell.is_integer():
        return int(cell)
    if isinstance(cell, datetime.timedelta):
        return str((datetime.datetime.min + cell).time())
    if isinstance(cell, datetime.datetime) and kind.word == "date":
        return str(cell.date())
    return str(cell) if isinstance(cell, datetime.date | datetime.time) else cell


def _typed(cells: list[Any], kind: pa.DataType) -> pa.Array:
    try:
        return pa.array(cells, kind)
    except (pa.ArrowInvalid, pa.ArrowTypeError):  # somebody wrote something else there, and the proof will say so
        return pa.array([None if cell is None else _plain(cell) for cell in cells], pa.string())
