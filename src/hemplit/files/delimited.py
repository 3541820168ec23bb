"""Text with delimiters (.csv, .tsv, .txt) → one grid.

The Arrow reader takes a file that is regular. One with empty lines or lines of another length goes through the
standard library's reader, which is slower and knows the line of every record.
"""

from __future__ import annotations

import codecs
import csv
import io
import os
from collections import Counter
from itertools import islice
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.csv

from hemplit.at_once import at_once
from hemplit.core.model.grid import Grid, Source
from hemplit.core.shape.looks import is_word
from hemplit.dataclasses import dataclass, replace
from hemplit.errors import InputError
from hemplit.files.cells import from_encoded, from_texts
from hemplit.files.encodings import SAMPLE, Encoding, as_written, encoding_of, mended
from hemplit.files.endings import TEXTS

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence
    from typing import BinaryIO

    from hemplit.core.model.grid import GridColumn
    from hemplit.files.encodings import Mended

DELIMITERS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar", "^": "caret", "~": "tilde", ":": "colon"}
#: Signs that stand in texts, too, are delimiters only if nothing else is.
LAST_RESORT = ":"
#: Beginnings of files that are no text, whatever their name says.
NOT_TEXT = {
    b"PK\x03\x04": "a workbook or another zip file",
    b"\xd0\xcf\x11\xe0": "an old workbook",
    b"\x89PNG": "a picture",
    b"%PDF": "a PDF",
    b"SQLite format 3": "a database",
    b"PAR1": "a Parquet file",
    b"\x1f\x8b": "a compressed file",
}
#: So much of a file is looked at in one go.
CHUNK = 1 << 24
#: So much of it stays in the cache of the processor.
CACHED = 1 << 20
#: Files of so many bytes take longer to open, one by one, than to read together.
SMALL = 1 << 16
#: A cell may be as long as the reader beneath allows.
LONGEST_CELL = (1 << 31) - 1
#: Files that end so are parted by tabs, if any tab parts them.
TABBED = (".tsv", ".tab")
#: A delimiter parts at least this share of the first records as it does the header.
MOSTLY = 0.5
#: So many bytes that were read otherwise are named.
SHOWN = 4
#: The delimiter is the one that parts the most of so many records alike.
FIRST_RECORDS = 60
THREADS = 2
QUOTE, LINE_BREAK = ord('"'), ord("\n")
#: A sheet with more columns is none that a person made.
MOST_COLUMNS = 16_384


class Bytes:
    """The bytes of a file, read when they are looked at: what another program cuts off meanwhile is a plain error.

    Raises ``InputError`` then; a map of the file into memory would end the whole program.
    """

    def __init__(self, path: Path, file: BinaryIO) -> None:
        self._path, self._file = path, file
        self._length = os.fstat(file.fileno()).st_size

    def __len__(self) -> int:
        return self._length

    def __getitem__(self, part: slice) -> bytes:
        start, stop, _ = part.indices(self._length)
        self._file.seek(start)
        found = self._file.read(max(stop - start, 0))
        if len(found) < stop - start:
            raise InputError(str(self._path), "another program cut it short while it was read", "try again")
        return found


def read(path: Path) -> tuple[Grid, ...]:
    """The one sheet of a text file.

    Raises ``InputError`` with the line if the file is no such text.
    """
    with path.open("rb") as file:
        content = Bytes(path, file)
        encoding = _encoding(path, content)
        if encoding.codec == "utf-8":
            try:
                return (_grid(path, content, encoding),)
            except UnicodeDecodeError:
                pass  # what is not UTF-8 stands further down
            whole = content[:]
            found = mended(whole)
            if found is not None:
                return (_grid(path, found.text, encoding, _misread(whole, found)),)
            encoding = encoding_of(whole) or encoding
        try:
            text = content[encoding.mark :].decode(encoding.codec, "strict" if "16" in encoding.codec else "replace")
        except UnicodeDecodeError as error:
            hint = "save it again as CSV in UTF-8"
            raise InputError(str(path), f"this is not text in {encoding.said} ({error.reason})", hint) from error
        return (_grid(path, text.encode(), encoding),)


def read_alike(paths: Sequence[str]) -> tuple[Grid, tuple[int, ...]] | None:
    """Small files of one header as one grid, with the first row of each file; None where each has to be looked at.

    That is so where one could be read otherwise alone: if it has quotes or lines of another length, is of another
    encoding, or begins with anything else than the words over its columns.
    """
    contents = _small(paths)
    if not contents:
        return None
    whole = b"".join(contents)
    if b"\x00" in whole or b'"' in whole or not _is_utf8(whole):
        return None
    delimiter = delimiter_of(Path(paths[0]), contents[0])
    header = _first_line(contents[0]).decode().strip("\r\n").split(delimiter)
    blank = f"{delimiter} \t\r\n".encode()
    has_header = (
        sum(sign in "".join((delimiter, *header)) for sign in DELIMITERS) == 1
        and len(header) > 1
        and all(map(is_word, header))
        and all(content.split(b"\n", 2)[1].strip(blank) for content in contents)
    )
    if not has_header:
        return None
    source = Source("", taken_as=f"UTF-8, {DELIMITERS[delimiter]}")
    grid = _read_regular(Path(paths[0]), whole, source, delimiter, _layout(whole))
    if grid is None:
        return None
    starts = np.cumsum([0, *(content.count(b"\n") for content in contents[:-1])]).tolist()
    return grid, tuple(starts)


def _small(paths: Sequence[str]) -> list[bytes]:
    """What stands in each of the files; nothing unless all are small and begin with the same line."""
    contents: list[bytes] = []
    for path in paths if all(Path(path).suffix.lower() in TEXTS for path in paths) else ():
        with Path(path).open("rb") as file:
            content = file.read(SMALL + 1)
        contents.append(content if content.endswith(b"\n") else content + b"\n")
        if not 0 < len(content) <= SMALL or not contents[-1].startswith(_first_line(contents[0])):
            return []
    return contents


def _first_line(content: bytes) -> bytes:
    return content[: content.index(b"\n") + 1]


def _is_utf8(content: bytes) -> bool:
    """Whether it is UTF-8, and would be read so whatever stands first: without a mark."""
    if content.startswith(codecs.BOM_UTF8):
        return False
    try:
        content.decode()
    except UnicodeDecodeError:
        return False
    return True


def _misread(content: bytes, found: Mended) -> tuple[str, ...]:
    """What is said of bytes that are no UTF-8, by their lines."""
    lines = [content.count(b"\n", 0, place) + 1 for place in found.places[:SHOWN]]
    said = ", ".join(
        f"line {line}: byte {content[place]:02X} as '{as_written(content[place])}'"
        for line, place in zip(lines, found.places, strict=False)
    )
    more = f" and {len(found.places) - SHOWN:,} more" if len(found.places) > SHOWN else ""
    many = "bytes are" if len(found.places) > 1 else "byte is"
    return (f"{len(found.places):,} {many} no UTF-8 and read otherwise: {said}{more}",)


def _encoding(path: Path, content: Bytes) -> Encoding:
    for beginning, what in NOT_TEXT.items():
        if content[: len(beginning)] == beginning:
            raise InputError(str(path), f"this is {what}, not text", "give it the ending that it should have")
    sample = content[:SAMPLE]
    encoding = encoding_of(sample, complete=len(content) <= SAMPLE)
    if encoding is None:
        line = sample.count(b"\n", 0, sample.find(b"\x00")) + 1
        raise InputError(f"{path} line {line}", "this is not text: it holds a zero byte here", "save it again as CSV")
    if encoding.codec != "utf-8" and not encoding.mark and mended(sample) is not None:
        return Encoding("utf-8", "UTF-8")
    return encoding


def _grid(path: Path, content: Bytes | bytes, encoding: Encoding, notes: tuple[str, ...] = ()) -> Grid:
    delimiter = delimiter_of(path, content)
    source = Source(str(path), taken_as=f"{encoding.said}, {DELIMITERS[delimiter]}")
    layout = _layout(content)
    grid = None
    if layout.closed and not (layout.breaks_in_quotes and _has_empty_line(content)):
        grid = _read_regular(path, content, source, delimiter, layout)
    grid = grid or _read_line_by_line(path, content, source, delimiter)
    return replace(grid, notes=(*grid.notes, *notes)) if notes else grid


@dataclass(frozen=True)
class _Layout:
    """How many lines there are, and whether every quote is closed and some line breaks stand in quotes."""

    lines: int
    closed: bool
    breaks_in_quotes: bool


def _layout(content: Bytes | bytes) -> _Layout:
    """Counted by comparing bytes at memory speed, in pieces; a break stands in quotes after an odd number of quotes."""
    lines, odd = 0, False
    inside = False
    for start in range(0, len(content), CACHED):
        chunk = np.frombuffer(content[start : start + CACHED], dtype=np.uint8)
        breaks = np.flatnonzero(chunk == LINE_BREAK)
        starts = np.append(0, breaks + 1)
        quotes = (chunk == QUOTE).view(np.uint8)
        odd_lines = np.bitwise_xor.reduceat(quotes, starts[starts < len(chunk)]).astype(bool)
        odd_so_far = np.logical_xor.accumulate(odd_lines) ^ odd
        inside = inside or bool(odd_so_far[: len(breaks)].any())
        lines += len(breaks)
        odd = bool(odd_so_far[-1])
    return _Layout(lines + (content[-1:] != b"\n"), not odd, inside)


def _has_empty_line(content: Bytes | bytes) -> bool:
    """The Arrow reader would pass over an empty line in silence."""
    if content[:8].removeprefix(b"\xef\xbb\xbf")[:1] in (b"\n", b"\r"):
        return True
    for start in range(0, len(content), CHUNK):
        chunk = content[start : start + CHUNK + 4]
        if any(gap in chunk for gap in (b"\n\n", b"\r\n\r\n", b"\r\r", b"\n\r\n")):
            return True
    return False


def delimiter_of(path: Path, content: Bytes | bytes) -> str:
    """The delimiter that parts most of the first records into the same number of cells; of several, the most cells.

    One that does not part the header, while another parts it as it does the rest, stands inside the cells.
    """
    beginning = content[: 1 << 16].decode("utf-8", "replace").lstrip("\ufeff")
    if beginning[:4].lower() == "sep=" and beginning[4:5] in DELIMITERS:
        return beginning[4]
    csv.field_size_limit(LONGEST_CELL)
    best, most = ",", (0, 0.0, 0, 0)
    for delimiter in filter(beginning.__contains__, DELIMITERS):
        records = list(islice(csv.reader(io.StringIO(beginning, newline=""), delimiter=delimiter), FIRST_RECORDS))
        if len(records) > 1 and len(records) < FIRST_RECORDS and len(content) > len(beginning):
            records.pop()  # it may be cut off
        widths = [len(record) for record in records if any(record)]
        several = Counter(width for width in widths if width > 1)
        if several:
            width, count = max(several.items(), key=lambda item: (item[1], item[0]))
            share = round(count / len(widths), 1)
            usual = delimiter not in LAST_RESORT
            named = share >= MOSTLY and usual and _parts_header(records, width)
            meant = path.suffix.lower() in TABBED and delimiter == "\t"
            score = (int(named or meant), share, int(usual), width)
            if score > most:
                best, most = delimiter, score
    return best


def _parts_header(records: Sequence[Sequence[str]], width: int) -> bool:
    """Whether the first record with as many cells as most have names each of its columns.

    Titles may stand above it, but none that another delimiter would part: then that may be the header.
    """
    filled = [record for record in records if any(record)]
    header = next((place for place, record in enumerate(filled) if len(record) == width), None)
    if header is None:
        return False
    above = [text for record in filled[:header] for text in record]
    return all(cell.strip() for cell in filled[header]) and not any(
        sign in text for text in above for sign in DELIMITERS if sign not in LAST_RESORT + ","
    )


def _read_regular(path: Path, content: Bytes | bytes, source: Source, delimiter: str, layout: _Layout) -> Grid | None:
    """The grid if every record has as many cells as the first, else None.

    There must be as many rows as lines, or the reader passed over an empty one. Texts are read plain and encoded column
    by column, two at a time: to let the reader encode took half as long again. Of a small file, threads take longer to
    start than to work.
    """
    small = len(content) <= CACHED
    first = next(_records(path, content[:SAMPLE], delimiter), [])
    names = [str(index) for index in range(len(first))]
    if not names or len(names) > MOST_COLUMNS:
        return None
    try:
        table = pyarrow.csv.read_csv(
            pa.BufferReader(content) if isinstance(content, bytes) else path,
            read_options=pyarrow.csv.ReadOptions(column_names=names, use_threads=not small),
            parse_options=pyarrow.csv.ParseOptions(
                delimiter=delimiter, newlines_in_values=layout.breaks_in_quotes, ignore_empty_lines=False
            ),
            convert_options=pyarrow.csv.ConvertOptions(
                column_types=dict.fromkeys(names, pa.string()),
                null_values=[""],
                strings_can_be_null=True,
            ),
        )
    except pa.ArrowInvalid:
        return None  # the other reader finds the line and says what is wrong with it
    if not layout.breaks_in_quotes and layout.lines != table.num_rows:
        return None
    columns, rows = tuple(at_once(_encoded, table.columns, 1 if small else THREADS)), table.num_rows
    if not small:  # The texts of a large file are half of all that is held at any time, if Arrow keeps their memory.
        del table
        pa.default_memory_pool().release_unused()
    return Grid(source, columns, rows)


def _encoded(column: pa.ChunkedArray) -> GridColumn:
    return from_encoded(column.combine_chunks().dictionary_encode())


def _read_line_by_line(path: Path, content: Bytes | bytes, source: Source, delimiter: str) -> Grid:
    records = list(_records(path, content, delimiter))
    lengths = Counter(len(record) for record in records if record)
    if not lengths:
        return Grid(source, (), len(records))
    width = max(lengths)
    if width > MOST_COLUMNS:
        line = next(place for place, record in enumerate(records, 1) if len(record) == width)
        raise InputError(f"{path} record {line}", f"it has {width:,} cells", f"the most is {MOST_COLUMNS:,}")
    columns = tuple(
        from_texts([record[index] if index < len(record) else "" for record in records]) for index in range(width)
    )
    return Grid(source, columns, len(records), too_long=_too_long(records, lengths))


def _too_long(records: Sequence[Sequence[str]], lengths: Counter[int]) -> tuple[int, ...]:
    """The records with content beyond the header, which is the first record as long as most are."""
    usual = max(lengths, key=lambda length: (lengths[length], length))
    header = next(len(record) for record in records if len(record) >= usual)
    return tuple(row for row, record in enumerate(records) if len(record) > header and any(record[header:]))


def _records(path: Path, content: Bytes | bytes, delimiter: str) -> Iterator[list[str]]:
    csv.field_size_limit(LONGEST_CELL)
    with io.TextIOWrapper(io.BytesIO(content[:]), encoding="utf-8-sig", newline="") as file:
        reader = csv.reader(file, delimiter=delimiter, strict=True)
        last = 0
        try:
            for record in reader:
                last = reader.line_num
                yield record
        except csv.Error as error:
            what = f"its quotes do not close: one opens in this line ({error})"
            raise InputError(f"{path} line {last + 1}", what, "correct the quotes there") from error
