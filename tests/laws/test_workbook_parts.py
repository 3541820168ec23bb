"""What the quick look at the XML of a workbook finds is what an XML parser finds, however it is written."""

from __future__ import annotations

import io
import re
import zipfile
from unittest.mock import patch
from xml.etree import ElementTree

from hypothesis import given
from hypothesis import strategies as st

from hemplit.core.model.grid import column_letters, column_number
from hemplit.files import inside

ZEROS = {"3": 5, "5": 4}
VALUES = [
    "1",
    "42",
    "12345678901234567",
    "-1234567890123456",
    "0.30000000000000004",
    "#N/A",
    " 7 ",
    " 1234567890123456 ",
]


@st.composite
def sheets(draw: st.DrawFn) -> str:
    """The XML of a sheet: with or without a namespace, in any quotes and blanks, its attributes in any order."""
    quote, equals = draw(st.sampled_from("\"'")), draw(st.sampled_from(["=", " = ", "\n=", "= "]))
    space, prefix = draw(st.sampled_from([" ", "\n", "  "])), draw(st.sampled_from(["", "x:"]))

    def attributes(some: list[tuple[str, str]]) -> str:
        return "".join(f"{space}{name}{equals}{quote}{said}{quote}" for name, said in draw(st.permutations(some)))

    row, rows = 0, []
    for _ in range(draw(st.integers(1, 8))):
        row += draw(st.sampled_from([1, 1, 2, 90]))
        column, cells = -1, []
        for _ in range(draw(st.integers(0, 4))):
            column += draw(st.sampled_from([1, 1, 2, 30, 700]))
            told = [("r", f"{column_letters(column)}{row}"), ("s", str(draw(st.integers(0, 6))))]
            kind = draw(st.sampled_from(["", "n", "s", "e", "str"]))
            told += [("t", kind)] if kind else []
            value = f"<{prefix}v>{draw(st.sampled_from(VALUES))}</{prefix}v>"
            cells.append(f"<{prefix}c{attributes(told)}>{value}</{prefix}c>")
        rows.append(f"<{prefix}row{attributes([('r', str(row)), ('ht', '15.5')])}>{''.join(cells)}</{prefix}row>")
    return f"<{prefix}sheetData>{''.join(rows)}</{prefix}sheetData>"


def plainly(xml: str) -> tuple[dict[tuple[int, int], str], list[tuple[int, int]], int, int]:
    """The texts that cells show, those that are errors, and the last row and column."""
    texts, errors, bottom, right = {}, [], 0, 0
    tree = ElementTree.fromstring(f'<all xmlns:x="of-sheets">{xml}</all>')
    for cell in (one for one in tree.iter() if one.tag.endswith(("row", "c"))):
        letters, digits = re.fullmatch(r"([A-Z]*)(\d+)", cell.attrib["r"]).groups()  # type: ignore[union-attr]
        bottom = max(bottom, int(digits) - 1)
        if not letters:
            continue
        place = (int(digits) - 1, column_number(letters))
        right = max(right, place[1])
        kind, value = cell.attrib.get("t", "n"), str(cell[0].text).strip()
        if kind == "e":
            texts[place] = value
            errors.append(place)
        elif kind == "n" and cell.attrib["s"] in ZEROS and value.isdigit():
            texts[place] = value.zfill(ZEROS[cell.attrib["s"]])
        elif kind == "n" and re.fullmatch(r"-?\d{16,}", value):
            texts[place] = value
    return texts, errors, bottom, right


@given(xml=sheets(), size=st.sampled_from([200, 1_000, 1 << 18]))
def test_a_quick_look_finds_what_a_parser_finds(xml: str, size: int) -> None:
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        archive.writestr("sheet1.xml", xml)
    with zipfile.ZipFile(packed) as archive, patch.object(inside, "PIECE", size):
        found = inside._sheet(archive, "sheet1.xml", ZEROS)
    assert (found.texts, sorted(found.errors), found.last.bottom, found.last.right) == plainly(xml)
