"""A workbook: a sheet for each table with lists to choose references from, behind one that says how they hang together.

Beside a reference by a number stands, in grey, what it is called; the workbook finds that by itself.
"""

from __future__ import annotations

import datetime
import re
import zipfile
from typing import TYPE_CHECKING, Any, ClassVar

import pyarrow as pa
import python_calamine
import xlsxwriter
from xlsxwriter.exceptions import FileCreateError
from xlsxwriter.utility import xl_col_to_name

from hemplit.core.model.loads import Ability
from hemplit.core.model.proof import Difference
from hemplit.dataclasses import dataclass
from hemplit.errors import TargetError
from hemplit.targets.file import FileTarget
from hemplit.targets.rows import Written, as_stored

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence
    from pathlib import Path

    from hemplit.core.model.relation import Kind
    from hemplit.core.model.tables import Reference, Table, TableColumn, Tables

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
#: So many letters the arrow of a filter hides.
ROOM = 3
#: So many rows are written before more is told.
TOLD = 1 << 12
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

    def _make(self, path: Path, tables: Tables, written: Written) -> None:
        self._check_size(tables)
        try:
            self._fill(path, tables, _sheet_names(tables), written)
        except FileCreateError as error:
            raise OSError(0, str(error)) from error

    def _fill(self, path: Path, tables: Tables, names: Mapping[str, str], written: Written) -> None:
        options = {"constant_memory": True, "strings_to_formulas": False, "strings_to_urls": False}
        with xlsxwriter.Workbook(str(path), options) as book:
            book.set_properties({"comments": MARK, "created": MADE})
            forms = {word: book.add_format({"num_format": form}) for word, form in FORMS.items()}
            _write_overview(book, tables, names)
            found = {table.name: _called(table, tables, names[table.name]) for table in tables.tables}
            called = {name: one for name, one in found.items() if one is not None}
            for table in tables.tables:
                _TableSheet(book, table, tables, names).write(called, forms, written)

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
        for table in tables.tables:
            headers = _headers(table, tables)
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


def _name_of(table: Table) -> str | None:
    """The column that says what the rows of a table are called that are known by a number; None if there is none."""
    named = next((some[0] for some in table.unique if len(some) == 1), None)
    is_number = len(table.key) == 1 and table.by_name[table.key[0]].kind.word == "whole number"
    return named if is_number and table.row_count else None


def _layout(table: Table, tables: Tables) -> list[tuple[str, bool]]:
    """The columns of a sheet: those of the table, and behind a reference by a number what it is called."""
    pointing = {one.columns[0]: one.table for one in table.references if len(one.columns) == 1}
    places = []
    for column in table.columns:
        places.append((column.name, False))
        if column.name in pointing and _name_of(tables.by_name[pointing[column.name]]):
            places.append((column.name, True))
    return places


def _headers(table: Table, tables: Tables) -> list[str]:
    return [f"{name}: name" if beside else name for name, beside in _layout(table, tables)]


def _called(table: Table, tables: Tables, sheet: str) -> _Called | None:
    """How to find what the rows of a table are called."""
    named = _name_of(table)
    if named is None:
        return None
    places = _layout(table, tables)
    key = table.by_name[table.key[0]]
    texts = dict(zip(_values(key), _values(table.by_name[named]), strict=True))
    key_at, name_at = (xl_col_to_name(places.index((name, False))) for name in (key.name, named))
    return _Called(sheet.replace("'", "''"), table.row_count + 1, key_at, name_at, texts)


def _values(column: TableColumn) -> list[Any]:
    values = column.values.to_pylist()
    return [None if code < 0 else values[code] for code in column.codes.tolist()]


class _TableSheet:
    """The sheet of one table."""

    def __init__(self, book: Any, table: Table, tables: Tables, names: Mapping[str, str]) -> None:
        self.book, self.table, self.tables, self.names = book, table, tables, names
        self.sheet = book.add_worksheet(names[table.name])
        self.layout = _layout(table, tables)

    def write(self, called: Mapping[str, _Called], forms: Mapping[str, Any], written: Written) -> None:
        """Header, rows, widths, filters, and a list to choose from for each reference of one column."""
        table, sheet = self.table, self.sheet
        header, grey = self.book.add_format(HEADER), self.book.add_format(GREY)
        cells = {column.name: _values(column) for column in table.columns}
        pointing = {one.columns[0]: one.table for one in table.references if len(one.columns) == 1}
        own = {column.name: self._form(column.kind, forms) for column in table.columns}
        for place, text in enumerate(_headers(table, self.tables)):
            name, beside = self.layout[place]
            texts = called[pointing[name]].texts.values() if beside else cells[name][:LOOKED_AT]
            longest = max((len(str(cell)) for cell in texts if cell is not None), default=0)
            sheet.set_column(place, place, min(max(longest, len(text) + ROOM, NARROW) + 1, WIDE))
        for place, text in enumerate(_headers(table, self.tables)):
            sheet.write_string(0, place, text, header)
        for row in range(table.row_count):
            if row % TOLD == 0:
                written.add(min(TOLD, table.row_count - row))
            for place, (name, beside) in enumerate(self.layout):
                value = cells[name][row]
                if beside:
                    self._write_name(row + 1, place, value, called[pointing[name]], grey)
                elif value is not None:
                    self._write(row + 1, place, value, own[name])
        sheet.freeze_panes(1, 0)
        sheet.autofilter(0, 0, max(table.row_count, 1), len(self.layout) - 1)
        for reference in table.references:
            if len(reference.columns) == 1:
                self._choose_from(reference)

    def _form(self, kind: Kind, forms: Mapping[str, Any]) -> Any:
        if kind.word == "decimal" and kind.form:
            return self.book.add_format({"num_format": kind.form})
        return forms.get(kind.word)

    def _write(self, row: int, place: int, value: Any, form: Any) -> None:
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

    def _write_name(self, row: int, place: int, value: Any, called: _Called, form: Any) -> None:
        """What the thing to the left is called."""
        cell = f"{xl_col_to_name(place - 1)}{row + 1}"
        name, key = (f"'{called.sheet}'!${at}$2:${at}${called.last}" for at in (called.name, called.key))
        formula = f'=IF({cell}="","",INDEX({name},MATCH({cell},{key},0)))'
        self.sheet.write_formula(row, place, formula, form, called.texts.get(value, ""))

    def _choose_from(self, reference: Reference) -> None:
        other = self.tables.by_name[reference.table]
        place = self.layout.index((reference.columns[0], False))
        at = xl_col_to_name(_layout(other, self.tables).index((reference.table_columns[0], False)))
        sheet = self.names[other.name].replace("'", "''")
        source = f"='{sheet}'!${at}$2:${at}${max(other.row_count, 1) + 1}"
        error = {"error_title": other.name[:32], "error_message": f"This is no key of {other.name}."[:255]}
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
        cell = (datetime.datetime.min + cell).time()
    elif isinstance(cell, datetime.datetime) and kind.word == "date":
        cell = cell.date()
    elif type(cell) is datetime.date and kind.word == "date and time":  # as the reader gives midnight
        cell = datetime.datetime(cell.year, cell.month, cell.day)
    return str(cell) if isinstance(cell, datetime.date | datetime.time) else cell


def _typed(cells: list[Any], kind: pa.DataType) -> pa.Array:
    try:
        return pa.array(cells, kind)
    except (pa.ArrowInvalid, pa.ArrowTypeError):  # somebody wrote something else there, and the proof will say so
        return pa.array([None if cell is None else _plain(cell) for cell in cells], pa.string())
