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

from hemplit.core.model.grid import Range
from hemplit.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Iterator
    from pathlib import Path

#: A workbook may expand to so many bytes, ...
MOST_BYTES = 6 << 30
#: ... and beyond this size to no more than so many times its own: sheets compress to a tenth, bombs to a thousandth.
FREE_BYTES, MOST_TIMES = 64 << 20, 400
PIECE = 1 << 24
CELL = re.compile(rb'<c r="([A-Z]+)(\d+)"([^>]*)>(?:<f[^>]*>[^<]*</f>|<f[^>]*/>)?<v>([^<]*)</v>')
DIMENSION = re.compile(rb'<dimension ref="(?:[A-Z]+\d+:)?([A-Z]+)(\d+)"')
LAST_CELL = re.compile(rb'<c r="([A-Z]+)(\d+)"')
NAMESPACE = re.compile(r"\{[^}]*\}")


class DamagedError(Exception):
    """The file is no whole workbook."""


@dataclass
class Inside:
    """One sheet: its used range from the first cell, texts that cells show, and which of these are errors."""

    last: Range
    texts: dict[tuple[int, int], str] = field(default_factory=dict)
    errors: list[tuple[int, int]] = field(default_factory=list)


def look_inside(path: Path) -> dict[str, Inside]:
    """What is found, by the names of the sheets."""
    try:
        with zipfile.ZipFile(path) as archive:
            _check_expansion(path, archive)
            zeros = _zero_formats(archive)
            return {name: _sheet(archive, part, zeros) for name, part in _parts(archive).items()}
    except (zipfile.BadZipFile, zlib.error, ElementTree.ParseError, KeyError, EOFError, ValueError) as error:
        raise DamagedError(str(error).strip("'\"")) from error
    except NotImplementedError as error:
        raise DamagedError(f"it is packed in an unusual way: {error}") from error
    except RuntimeError as error:  # what zipfile raises for an encrypted archive
        raise InputError(str(path), "the workbook is protected by a password", "save it without one") from error


def _check_expansion(path: Path, archive: zipfile.ZipFile) -> None:
    total = sum(part.file_size for part in archive.infolist())
    packed = max(path.stat().st_size, 1)
    if total > MOST_BYTES or (total > FREE_BYTES and total > MOST_TIMES * packed):
        raise InputError(
            str(path),
            f"it would expand from {packed:,} to {total:,} bytes, which no workbook does",
            "save it again in a spreadsheet program",
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
        if NAMESPACE.sub("", one.tag) == "numFmt" and re.fullmatch("0{2,15}", str(one.get("formatCode")))
    }
    styles = next((one for one in tree if NAMESPACE.sub("", one.tag) == "cellXfs"), ())
    return {
        str(place).encode(): plain[style.get("numFmtId")]
        for place, style in enumerate(styles)
        if style.get("numFmtId") in plain
    }


def _sheet(archive: zipfile.ZipFile, part: str, zeros: dict[bytes, int]) -> Inside:
    bottom = right = 0
    found = Inside(Range(0, 0, 0, 0))
    for place, piece in enumerate(_pieces(archive, part)):
        dimension = DIMENSION.search(piece, 0, 4096) if place == 0 else None
        if dimension:
            bottom, right = int(dimension[2]) - 1, _column(dimension[1])
        tail = LAST_CELL.findall(piece, max(len(piece) - 8192, 0))
        if tail:
            bottom, right = max(bottom, int(tail[-1][1]) - 1), max(right, _column(tail[-1][0]))
        if zeros or b't="e"' in piece:
            _special(piece, zeros, found)
    found.last = Range(0, 0, bottom, right)
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
