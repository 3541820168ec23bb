"""What a workbook's values do not tell, read from the XML inside: its size, error cells, codes with zeros in front.

A number format such as ``00000`` shows 42 as 00042; whoever chose it meant a code. The XML is looked through once, in
pieces and without building a tree, after a check that it does not expand beyond reason.
"""

from __future__ import annotations

import re
import zipfile
import zlib
from dataclasses import dataclass, field
from typing import TYPE_CHECKING
from xml.etree import ElementTree

from hemplit.core.model.grid import Range, address
from hemplit.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Iterator
    from pathlib import Path

#: How containers begin: old workbooks, and new ones that are protected, in which these names stand.
OLE = b"\xd0\xcf\x11\xe0"
PROTECTED = ("EncryptedPackage".encode("utf-16-le"), "EncryptionInfo".encode("utf-16-le"))
#: A workbook may expand to so many bytes, ...
MOST_BYTES = 6 << 30
#: ... and beyond this size to no more than so many times its own: sheets compress to a tenth, bombs to a thousandth.
FREE_BYTES, MOST_TIMES = 64 << 20, 400
#: So many cells are still a sheet and no slip of a finger in its last corner.
MOST_CELLS = 200_000_000
MOST_COLUMNS = 16_384
#: A number format that shows so many digits.
ZERO_FORMAT = re.compile("0{2,15}")
PIECE = 1 << 18
#: Parts that say how many entries they have. What a workbook counts of its texts besides is how often cells use them.
COUNTS = {
    "sharedstrings.xml": re.compile(rb'uniqueCount\s*=\s*["\']\s*(\d+)'),
    "styles.xml": re.compile(rb'count\s*=\s*["\']\s*(\d+)'),
}
CELL = re.compile(
    rb'<(?:\w+:)?c r="([A-Z]+)(\d+)"([^>]*)>(?:<(?:\w+:)?f[^>]*>[^<]*</(?:\w+:)?f>|<(?:\w+:)?f[^>]*/>)?'
    rb"<(?:\w+:)?v>([^<]*)<"
)
DIMENSION = re.compile(rb'<(?:\w+:)?dimension ref="(?:[A-Z]+\d+:)?([A-Z]+)(\d+)"')
A_CELL = re.compile(rb'c r="([A-Z]+)(\d+)"')
#: Cells beyond column Z, by their letters.
FAR_RIGHT = re.compile(rb'c r="([A-Z]{2,})')
NAMESPACE = re.compile(r"\{[^}]*\}")


class DamagedError(Exception):
    """The file is no whole workbook."""


@dataclass
class Inside:
    """One sheet: its used range from the first cell, texts that cells show, which of these are errors, merged cells."""

    last: Range
    texts: dict[tuple[int, int], str] = field(default_factory=dict)
    errors: list[tuple[int, int]] = field(default_factory=list)
    merged: list[Range] = field(default_factory=list)


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
    except (zipfile.BadZipFile, zlib.error, ElementTree.ParseError, LookupError, EOFError, ValueError) as error:
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


def _zero_formats(archive: zipfile.ZipFile) -> dict[bytes, int]:
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
        str(place).encode(): plain[style.get("numFmtId")]
        for place, style in enumerate(styles)
        if style.get("numFmtId") in plain
    }


def _sheet(archive: zipfile.ZipFile, part: str, zeros: dict[bytes, int]) -> Inside:
    told = bottom = right = 0
    found = Inside(Range(0, 0, 0, 0))
    for place, piece in enumerate(_pieces(archive, part)):
        dimension = DIMENSION.search(piece, 0, 4096) if place == 0 else None
        if dimension:
            told, right = int(dimension[2]) - 1, _column(dimension[1])
        last = A_CELL.search(piece, max(piece.rfind(b'c r="'), 0))
        if last:
            bottom, right = max(bottom, int(last[2]) - 1), max(right, _column(last[1]))
        if zeros or b't="e"' in piece:
            _special(piece, zeros, found)
    if bottom > told and (bottom + 1) * MOST_COLUMNS > MOST_CELLS:
        # The part does not know its own size, so cells may stand anywhere.
        far = {letters for piece in _pieces(archive, part) for letters in FAR_RIGHT.findall(piece)}
        right = max([right, *map(_column, far)])
    found.last = Range(0, 0, max(told, bottom), right)
    return found


def _special(piece: bytes, zeros: dict[bytes, int], found: Inside) -> None:
    for letters, digits, attributes, value in CELL.findall(piece):
        place = (int(digits) - 1, _column(letters))
        if b't="e"' in attributes:
            found.texts[place] = value.decode()
            found.errors.append(place)
        elif zeros and b' t="' not in attributes:
            style = re.search(rb' s="(\d+)"', attributes)
            if style and style[1] in zeros and value.isdigit():
                found.texts[place] = value.decode().zfill(zeros[style[1]])


def _pieces(archive: zipfile.ZipFile, part: str) -> Iterator[bytes]:
    """The XML in pieces that end where a cell ends."""
    rest = b""
    with archive.open(part) as file:
        while piece := file.read(PIECE):
            whole = rest + piece
            end = whole.rfind(b"</c>") + 4
            if end < 4:
                end = whole.rfind(b":c>") + 3
            if end < 3:
                end = len(whole)
            yield whole[:end]
            rest = whole[end:]
    if rest:
        yield rest


def _column(letters: bytes) -> int:
    column = 0
    for letter in letters:
        column = 26 * column + letter - 64
    return column - 1
