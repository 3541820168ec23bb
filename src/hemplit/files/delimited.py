"""Text with delimiters (.csv, .tsv, .txt) in UTF-8 → one grid.

The Arrow reader takes a file that is regular. One with empty lines or lines of another length goes through the
standard library's reader, which is slower and knows the line of every record.
"""

from __future__ import annotations

import csv
import mmap
from typing import TYPE_CHECKING

import pyarrow as pa
import pyarrow.csv

from hemplit.core.model.grid import Grid, Source
from hemplit.errors import InputError
from hemplit.files.cells import from_encoded, from_texts

if TYPE_CHECKING:
    from collections.abc import Iterator
    from pathlib import Path

ENDINGS = (".csv", ".tsv", ".txt")
DELIMITERS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}
MARK = b"\xef\xbb\xbf"
#: Beginnings of files that are no text, whatever their name says.
NOT_TEXT = {
    b"PK\x03\x04": "a workbook or another zip file",
    b"\xd0\xcf\x11\xe0": "an old workbook",
    b"\x89PNG": "a picture",
    b"%PDF": "a PDF",
    b"SQLite format 3": "a database",
}
#: So much of a file is looked at in one go.
CHUNK = 1 << 24
#: A cell longer than this is no cell of an office sheet but an unclosed quote that swallows the file.
LONGEST_CELL = 1 << 20


def read(path: Path) -> tuple[Grid, ...]:
    """The one sheet of a text file.

    Raises ``InputError`` with the line if the file is no such text.
    """
    with path.open("rb") as file, mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_READ) as content:
        _check_text(path, content)
        delimiter = _delimiter(content)
        source = Source(str(path), taken_as=f"UTF-8, {DELIMITERS[delimiter]}")
        regular = _is_regular(content)
    grid = _read_regular(path, source, delimiter) if regular else None
    if grid is not None:
        return (grid,)
    return (_read_line_by_line(path, source, delimiter),)


def _check_text(path: Path, content: mmap.mmap) -> None:
    for beginning, what in NOT_TEXT.items():
        if content[: len(beginning)] == beginning:
            raise InputError(str(path), f"this is {what}, not text", "give it the ending that it should have")
    if content.find(b"\x00") >= 0:
        raise InputError(str(path), "this is not text in UTF-8", "save it as CSV in UTF-8")


def _is_regular(content: mmap.mmap) -> bool:
    """Whether no line is empty and every quote is closed; the Arrow reader would pass over both in silence."""
    if content[:8].removeprefix(MARK)[:1] in (b"\n", b"\r"):
        return False
    if any(content.find(gap) >= 0 for gap in (b"\n\n", b"\r\n\r\n", b"\r\r", b"\n\r\n")):
        return False
    quotes = sum(content[start : start + CHUNK].count(b'"') for start in range(0, len(content), CHUNK))
    return quotes % 2 == 0


def _delimiter(content: mmap.mmap) -> str:
    """The delimiter that gives the first line the most cells."""
    end = content.find(b"\n")
    first = content[: end if end >= 0 else len(content)].decode("utf-8", "replace")
    csv.field_size_limit(max(LONGEST_CELL, len(first)))
    return max(DELIMITERS, key=lambda delimiter: len(next(csv.reader([first], delimiter=delimiter), [])))


def _read_regular(path: Path, source: Source, delimiter: str) -> Grid | None:
    """The grid if every record has as many cells as the first, else None."""
    first = next(_records(path, delimiter), [])
    names = [str(index) for index in range(len(first))]
    try:
        table = pyarrow.csv.read_csv(
            path,
            read_options=pyarrow.csv.ReadOptions(column_names=names),
            parse_options=pyarrow.csv.ParseOptions(
                delimiter=delimiter, newlines_in_values=True, ignore_empty_lines=False
            ),
            convert_options=pyarrow.csv.ConvertOptions(
                column_types=dict.fromkeys(names, pa.dictionary(pa.int32(), pa.string())),
                null_values=[""],
                strings_can_be_null=True,
            ),
        )
    except pa.ArrowInvalid:
        return None  # the other reader finds the line and says what is wrong with it
    columns = tuple(from_encoded(column.unify_dictionaries().combine_chunks()) for column in table.itercolumns())
    return Grid(source, columns, table.num_rows)


def _read_line_by_line(path: Path, source: Source, delimiter: str) -> Grid:
    records: list[list[str]] = []
    width = 0
    lines = _records(path, delimiter)
    for record in lines:
        if record and not width:
            width = len(record)
        if record and len(record) != width:
            raise InputError(
                f"{path} record {len(records) + 1}",
                f"it has {len(record)} cells where the first has {width}",
                "a cell that holds the delimiter must stand in quotes",
            )
        records.append(record or [""] * width)
    full = [record or [""] * width for record in records]
    columns = tuple(from_texts([record[index] for record in full]) for index in range(width))
    return Grid(source, columns, len(full))


def _records(path: Path, delimiter: str) -> Iterator[list[str]]:
    csv.field_size_limit(LONGEST_CELL)
    with path.open(encoding="utf-8-sig", newline="") as file:
        reader = csv.reader(file, delimiter=delimiter, strict=True)
        try:
            yield from reader
        except csv.Error as error:
            raise InputError(
                f"{path} line {reader.line_num}", f"its quotes do not close ({error})", "correct the quotes there"
            ) from error
        except UnicodeDecodeError as error:
            line = _line_of_fault(path)
            raise InputError(
                f"{path} line {line}", f"this is not text in UTF-8 ({error.reason})", "save it as CSV in UTF-8"
            ) from error


def _line_of_fault(path: Path) -> int:
    with path.open("rb") as file:
        for number, line in enumerate(file, 1):
            try:
                line.decode("utf-8")
            except UnicodeDecodeError:
                return number
    return 1
