"""What a workbook's values do not tell, read from the XML inside: its size, error cells, codes with zeros in front.

A number format such as ``00000`` shows 42 as 00042; whoever chose it meant a code. The XML is looked through once, in
pieces and without building a tree, after a check that it does not expand beyond reason.
"""

from __future__ import annotations

import re
import zipfile
import zlib
from typing import TYPE_CHECKING
from xml.etree import ElementTree
from xml.parsers import expat

import numpy as np

from hemplit.core.model.grid import Range, address
from hemplit.dataclasses import dataclass, field
from hemplit.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Iterator
    from pathlib import Path

    import numpy.typing as npt

#: How containers begin: old workbooks, and new ones that are protected, in which these names stand.
OLE = b"\xd0\xcf\x11\xe0"
PROTECTED = ("EncryptedPackage".encode("utf-16-le"), "EncryptionInfo".encode("utf-16-le"))
#: A workbook may expand to so many bytes, ...
MOST_BYTES = 6 << 30
#: ... and beyond this size to no more than so many times its own: sheets compress to a tenth, bombs to a thousandth.
FREE_BYTES, MOST_TIMES = 64 << 20, 400
#: So many cells are still a sheet and no slip of a finger in its last corner.
MOST_CELLS = 64_000_000
MOST_ROWS = 1 << 24
#: A row of 16,384 cells of some length.
LONGEST_ROW = 1 << 25
#: A number format that shows so many digits.
ZERO_FORMAT = re.compile("0{2,15}")
PIECE = 1 << 18
#: Parts that say how many entries they have. What a workbook counts of its texts besides is how often cells use them.
COUNTS = {
    "sharedstrings.xml": re.compile(rb'uniqueCount\s*=\s*["\']\s*(\d+)'),
    "styles.xml": re.compile(rb'count\s*=\s*["\']\s*(\d+)'),
}
#: A sheet of more cells than this is looked at for stray ones: of so many no more than one is filled.
SPARSE, FEWEST_FILLED = 5_000_000, 200
#: For the quick looks: all that is white a space, all quotes of one sort, and all digits the same.
ALIKE = bytes.maketrans(b"\t\r\n'", b'   "')
DIGITS = bytes.maketrans(b"123456789", b"0" * 9)
SPACED, AROUND = (b" =", b"= "), re.compile(rb" *= *")
#: How a row and a cell begin to say which they are.
REFERENCE = b' r="'
A_ROW = re.compile(rb"<(?:\w+:)?row\b")
ERROR = b' t="e"'
LONG = b"0" * 16
LONG_NUMBERS = (b">" + LONG, b">-" + LONG)
#: No sheet has more letters in a column or digits in a row.
LETTERS, ROW_DIGITS = 4, 9
LONG_TEXT = re.compile(r"-?\d{16,}")
NAMESPACE = re.compile(r"\{[^}]*\}")


class DamagedError(Exception):
    """The file is no whole workbook."""


@dataclass
class Inside:
    """One sheet: its used range from the first cell, texts that cells show, which of these are errors, merged cells.

    ``filled`` is how many cells are written in the file; None if nobody counted.
    """

    last: Range
    texts: dict[tuple[int, int], str] = field(default_factory=dict)
    errors: list[tuple[int, int]] = field(default_factory=list)
    merged: list[Range] = field(default_factory=list)
    filled: int | None = None


def check_beginning(path: Path, beginnings: tuple[bytes, ...]) -> None:
    """Raises ``InputError`` if the file is protected, or does not begin as such a workbook does."""
    with path.open("rb") as file:
        beginning = file.read(1 << 20)
    if beginning.startswith(OLE) and any(mark in beginning for mark in PROTECTED):
        raise protected(path)
    if not beginning.startswith(beginnings):
        ending = path.suffix.lower()
        raise InputError(
            str(path), "this is not a workbook", f"open it in a spreadsheet program and save it as {ending}"
        )


def protected(path: Path) -> InputError:
    """The error for a workbook that cannot be opened without its password."""
    return InputError(str(path), "the workbook is protected by a password", "save it without one")


def notes(found: Inside, hidden: bool) -> tuple[str, ...]:
    """What is worth saying of a sheet."""
    said = ["this sheet is hidden"] if hidden else []
    if found.errors:
        shown = ", ".join(f"{address(*place)} {found.texts[place]}" for place in found.errors[:4])
        many = "cells hold" if len(found.errors) > 1 else "cell holds"
        said.append(f"{len(found.errors):,} {many} an error: {shown}")
    return tuple(said)


def look_inside(path: Path) -> dict[str, Inside]:
    """What is found, by the names of the sheets."""
    try:
        with zipfile.ZipFile(path) as archive:
            check_expansion(path, archive)
            _check_counts(archive)
            zeros = _zero_formats(archive)
            return {name: _sheet(archive, part, zeros) for name, part in _parts(archive).items()}
    except (
        zipfile.BadZipFile, zlib.error, ElementTree.ParseError, expat.ExpatError, LookupError, EOFError, ValueError
    ) as error:  # fmt: skip
        raise DamagedError(str(error).strip("'\"")) from error
    except NotImplementedError as error:
        raise DamagedError(f"it is packed in an unusual way: {error}") from error
    except RuntimeError as error:  # what zipfile raises for an encrypted archive
        raise protected(path) from error


def check_expansion(path: Path, archive: zipfile.ZipFile) -> None:
    """Raises ``InputError`` if the workbook would become unreasonably big."""
    total = sum(part.file_size for part in archive.infolist())
    packed = max(path.stat().st_size, 1)
    if total > MOST_BYTES or (total > FREE_BYTES and total > MOST_TIMES * packed):
        raise InputError(
            str(path),
            f"it would expand from {packed:,} to {total:,} bytes, which no workbook does",
            "save it again in a spreadsheet program",
        )


def _check_counts(archive: zipfile.ZipFile) -> None:
    """The reader beneath sets so much memory aside as a part says that it has entries, before it looks."""
    for part in archive.infolist():
        count = COUNTS.get(part.filename.lower().rpartition("/")[2])
        if count:
            with archive.open(part) as file:
                told = [int(number) for number in count.findall(file.read(PIECE))]
            if max(told, default=0) > part.file_size:
                raise DamagedError(
                    f"{part.filename} says that it has {max(told):,} entries in {part.file_size:,} bytes"
                )


def _tree(archive: zipfile.ZipFile, part: str) -> ElementTree.Element:
    text = archive.read(part)
    if b"<!DOCTYPE" in text[:1024] or b"<!ENTITY" in text:
        raise DamagedError("its XML declares entities, which no workbook does")
    return ElementTree.fromstring(text)


def _parts(archive: zipfile.ZipFile) -> dict[str, str]:
    """The XML part of each sheet by its name."""
    targets = {
        one.get("Id"): str(one.get("Target")).lstrip("/") for one in _tree(archive, "xl/_rels/workbook.xml.rels")
    }
    parts = {}
    known = set(archive.namelist())
    for one in _tree(archive, "xl/workbook.xml").iter():
        if NAMESPACE.sub("", one.tag) == "sheet":
            link = next((value for key, value in one.attrib.items() if NAMESPACE.sub("", key) == "id"), None)
            target = targets.get(link, "")
            part = target if target.startswith("xl/") else f"xl/{target}"
            if part in known and "worksheet" in part:
                parts[str(one.get("name"))] = part
    return parts


def _zero_formats(archive: zipfile.ZipFile) -> dict[str, int]:
    """The cell styles that show numbers with zeros in front, and to how many digits."""
    if "xl/styles.xml" not in archive.namelist():
        return {}
    tree = _tree(archive, "xl/styles.xml")
    plain = {
        one.get("numFmtId"): len(str(one.get("formatCode")))
        for one in tree.iter()
        if NAMESPACE.sub("", one.tag) == "numFmt" and ZERO_FORMAT.fullmatch(str(one.get("formatCode")))
    }
    styles = next((one for one in tree if NAMESPACE.sub("", one.tag) == "cellXfs"), ())
    return {
        str(place): plain[style.get("numFmtId")] for place, style in enumerate(styles) if style.get("numFmtId") in plain
    }


def _sheet(archive: zipfile.ZipFile, part: str, zeros: dict[str, int]) -> Inside:
    """The XML is looked at quickly, and only where that shows something it is parsed."""
    found = Inside(Range(0, 0, 0, 0))
    marks = [ERROR, *(f' s="{style}"'.encode() for style in zeros)]
    bottom, right, numbered = 0, 0, True
    rows = _Rows(zeros, found)
    for piece in _pieces(archive, part):
        text = piece.translate(ALIKE)
        if _has_any(text, SPACED):
            text = AROUND.sub(b"=", text)
        has_numbers, bottom, right = _reaches(text, bottom, right)
        numbered = numbered and (has_numbers or b"row" not in text)
        special = any(mark in text for mark in marks)
        if not special and LONG in text.translate(DIGITS):
            digits = text.translate(DIGITS, b" ")
            special = any(number in digits for number in LONG_NUMBERS)
        if special or not numbered:
            rows.read(piece)
    found.last = Range(0, 0, max(bottom, rows.bottom), max(right, rows.right))
    if (found.last.bottom + 1) * (found.last.right + 1) > SPARSE:
        found.filled = sum(piece.count(b"<c ") + piece.count(b":c ") for piece in _pieces(archive, part))
    return found


def _words(text: bytes, size: int) -> npt.NDArray[np.unsignedinteger]:
    """At each letter what so many letters from there on are as one number; room must stand behind them."""
    return np.ndarray((len(text) - size + 1,), f"<u{size}", text, strides=(1,))


def _has_any(text: bytes, words: tuple[bytes, ...]) -> bool:
    """Whether one of some words of two letters is there; so a search takes a third of the time."""
    pairs = _words(text, 2)
    return any(bool((pairs == int.from_bytes(word, "little")).any()) for word in words)


def _reaches(text: bytes, bottom: int, right: int) -> tuple[bool, int, int]:
    """Whether some XML numbers its rows, and the last row and column that it or what stood before it names.

    A cell may name another row than the one it stands in, and the reader beneath believes it: it counts where its row
    has more digits than the last one.
    """
    text += b" " * (LETTERS + ROW_DIGITS + 1)
    letters = np.frombuffer(text, np.uint8)
    start = np.flatnonzero(_words(text, 4) == int.from_bytes(REFERENCE, "little")) + len(REFERENCE)
    column, named = np.zeros(len(start), dtype=np.int32), np.ones(len(start), dtype=bool)
    for _ in range(LETTERS):
        letter = (letters[start] | 32) - np.uint8(ord("a"))  # small letters; what is none lies beyond them
        named &= letter < 26
        if not named.any():
            break
        column = np.where(named, 26 * column + letter + 1, column)
        start = start + named
    rows = start[column == 0]
    bottom = max(bottom, int(_digits(letters, rows).max(initial=0)) - 1)
    far = start[(column > 0) & _are_digits(letters[start + len(str(bottom + 1))])]
    bottom = max(bottom, int(_digits(letters, far).max(initial=0)) - 1)
    return len(rows) > 0, min(bottom, MOST_ROWS), max(right, int(column.max(initial=1)) - 1)


def _are_digits(letters: npt.NDArray[np.uint8]) -> npt.NDArray[np.bool_]:
    return (letters - np.uint8(ord("0"))) < 10


def _digits(letters: npt.NDArray[np.uint8], start: npt.NDArray[np.intp]) -> npt.NDArray[np.int64]:
    """The numbers that begin at some places."""
    number, goes_on = np.zeros(len(start), dtype=np.int64), np.ones(len(start), dtype=bool)
    for place in range(ROW_DIGITS):
        goes_on &= _are_digits(letters[start + place])
        if not goes_on.any():
            break
        number = np.where(goes_on, 10 * number + letters[start + place] - ord("0"), number)
    return number


class _Rows:
    """Parses pieces of a sheet that are made of whole rows, and keeps the texts that cells show."""

    def __init__(self, zeros: dict[str, int], found: Inside) -> None:
        self._zeros, self._found = zeros, found
        self.bottom = self.right = 0
        self._row = self._column = -1
        self._cell: dict[str, str] = {}
        self._text: list[str] = []
        self._inside = ""

    def read(self, piece: bytes) -> None:
        first = A_ROW.search(piece)
        start = first.start() if first else len(piece)
        end = max(piece.rfind(b"</row>") + 6, piece.rfind(b":row>") + 5)
        parser = expat.ParserCreate("utf-8")
        parser.buffer_text = True
        parser.StartElementHandler = self._start
        parser.EndElementHandler = self._end
        parser.CharacterDataHandler = self._characters
        parser.Parse(b"<rows>" + piece[start:end] + b"</rows>", True)

    def _start(self, name: str, attributes: dict[str, str]) -> None:
        match name.rpartition(":")[2]:
            case "row":
                self._row = int(attributes["r"]) - 1 if "r" in attributes else self._row + 1
                self.bottom = max(self.bottom, min(self._row, MOST_ROWS))
                self._column = -1
            case "c":
                letters = re.match("[A-Z]+", attributes.get("r", ""))
                self._column = _column(letters[0].encode()) if letters else self._column + 1
                self.right = max(self.right, self._column)
                self._cell, self._text = attributes, []
            case "v":
                self._inside = "v"

    def _characters(self, text: str) -> None:
        if self._inside:
            self._text.append(text)

    def _end(self, name: str) -> None:
        match name.rpartition(":")[2]:
            case "v":
                self._inside = ""
            case "c":
                self._keep("".join(self._text).strip())

    def _keep(self, text: str) -> None:
        sort, style = self._cell.get("t", "n"), self._cell.get("s", "0")
        place = (self._row, self._column)
        if sort == "e":
            self._found.texts[place] = text
            self._found.errors.append(place)
        elif sort == "n" and style in self._zeros and text.isdigit():
            self._found.texts[place] = text.zfill(self._zeros[style])
        elif sort == "n" and LONG_TEXT.fullmatch(text):
            self._found.texts[place] = text


def _pieces(archive: zipfile.ZipFile, part: str) -> Iterator[bytes]:
    """The XML in pieces that end where a row ends, the last one where all ends."""
    rest = b""
    with archive.open(part) as file:
        while piece := file.read(PIECE):
            whole = rest + piece
            if len(piece) < PIECE:  # the last one; what stands behind its rows is looked at with them
                rest = whole
                break
            end = max(whole.rfind(b"</row>") + 6, whole.rfind(b":row>") + 5)
            if end < 6 and len(whole) < LONGEST_ROW:
                rest = whole
                continue
            end = end if end >= 6 else len(whole)
            yield whole[:end]
            rest = whole[end:]
    if rest:
        yield rest


def _column(letters: bytes) -> int:
    column = 0
    for letter in letters[:4].upper():
        column = 26 * column + letter - 64
    return column - 1
