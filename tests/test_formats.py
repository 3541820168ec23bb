"""Every kind of file that is read, and those that only look like one."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Callable
from datetime import date, datetime
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet
import pytest
import xlsxwriter

from conftest import cells
from hemplit import files
from hemplit.core.model.grid import Range
from hemplit.errors import InputError
from hemplit.flow import reading

SAVED = Path(__file__).parent / "workbooks"
SAID = {
    "utf-8": "UTF-8", "utf-8-sig": "UTF-8 with mark", "utf-16": "UTF-16", "utf-16-le": "UTF-16", "utf-16-be": "UTF-16",
    "cp1252": "Windows-1252", "cp1250": "Windows-1250", "cp1251": "Windows-1251", "cp1253": "Windows-1253",
    "cp1254": "Windows-1254", "cp1257": "Windows-1257",
}  # fmt: skip
WORDS = {
    "cp1250": "Łódź, část žlutá", "cp1251": "Белая лодка на причале", "cp1253": "Λευκό σκάφος στο λιμάνι",
    "cp1254": "ışık gemisi, İskele, çağ", "cp1257": "Ķegums, ūdens, šķiņķis, ēka",
}  # fmt: skip


@pytest.mark.parametrize("encoding", SAID)
def test_an_encoding_is_told(encoding: str, tmp_path: Path) -> None:
    name = WORDS.get(encoding, "Möwe, grün")
    path = tmp_path / "boats.csv"
    path.write_bytes(f'Boat;Note\n"{name}";x\n'.encode(encoding))
    (grid,) = files.read(str(path))
    assert cells(grid) == [["Boat", "Note"], [name, "x"]]
    assert grid.source.taken_as == f"{SAID[encoding]}, semicolon"


@pytest.mark.slow
def test_a_late_byte_that_is_no_utf_8(tmp_path: Path) -> None:
    path = tmp_path / "boats.csv"
    path.write_bytes(b"Boat,Note\n" + b"Teal,plain\n" * 500_000 + "Möwe,spät\n".encode("cp1252"))
    (grid,) = files.read(str(path))
    assert (cells(grid)[-1], grid.row_count) == (["Möwe", "spät"], 500_002)
    assert grid.source.taken_as == "Windows-1252, comma"


def made_workbook(path: Path) -> None:
    with xlsxwriter.Workbook(path) as book:
        jobs, hidden = book.add_worksheet("Jobs"), book.add_worksheet("Old")
        hidden.hide()
        hidden.write_row(0, 0, ["a", "b"])
        jobs.write_row(0, 0, ["Code", "Day", "Open", "Hours", "Dock"])
        zeros, day = book.add_format({"num_format": "00000"}), book.add_format({"num_format": "dd/mm/yyyy"})
        for row in (1, 2):
            jobs.write_number(row, 0, 41 + row, zeros)
            jobs.write_datetime(row, 1, datetime(2026, 4, row), day)
            jobs.write_boolean(row, 2, row == 1)
            jobs.write_number(row, 3, row / 2)
        jobs.write_formula(2, 3, "=1/0", None, "#DIV/0!")
        jobs.merge_range(1, 4, 2, 4, "North")


@pytest.mark.parametrize("ending", [".xlsx", ".xlsm", ".xls", ".ods"])
def test_a_workbook_is_read_as_it_is_shown(ending: str, tmp_path: Path) -> None:
    path = tmp_path / f"yard{ending}"
    if ending in (".xlsx", ".xlsm"):
        made_workbook(path)
    else:  # the same, saved by a spreadsheet program
        path = SAVED / path.name
    jobs, hidden = files.read(str(path))
    assert cells(jobs) == [
        ["Code", "Day", "Open", "Hours", "Dock"],
        ["00042", "2026-04-01", "TRUE", "0.5", "North"],
        ["00043", "2026-04-02", "FALSE", "#DIV/0!", ""],
    ]
    assert jobs.merged == (Range(1, 4, 2, 4),)
    assert jobs.notes == ("1 cell holds an error: D3 #DIV/0!",)
    assert hidden.notes == ("this sheet is hidden",)
    assert reading.read([str(path)]).notes[-1].endswith("this sheet is left out")


def test_a_workbook_whose_texts_come_again_and_again(tmp_path: Path) -> None:
    """It holds each text once, and says how often cells use it, which is more than the part has bytes."""
    with xlsxwriter.Workbook(tmp_path / "docks.xlsx") as book:
        page = book.add_worksheet()
        for row in range(2_000):
            page.write_row(row, 0, ["Dock", "North"])
    (grid,) = files.read(str(tmp_path / "docks.xlsx"))
    assert (grid.row_count, cells(grid)[-1]) == (2_000, ["Dock", "North"])


def test_parquet_keeps_its_values(tmp_path: Path) -> None:
    columns = {"Job": [1, 2, None], "Day": [date(2026, 4, 1), None, date(2026, 4, 3)], "Hours": [0.5, 2.0, 3.25]}
    pyarrow.parquet.write_table(pa.table(columns), tmp_path / "jobs.parquet")
    (grid,) = files.read(str(tmp_path / "jobs.parquet"))
    assert cells(grid) == [
        ["Job", "Day", "Hours"],
        ["1", "2026-04-01", "0.5"],
        ["2", "", "2"],
        ["", "2026-04-03", "3.25"],
    ]


def test_files_of_the_same_columns_are_one_sheet(tmp_path: Path) -> None:
    tmp_path = tmp_path / "haul-outs"
    tmp_path.mkdir()
    (tmp_path / "2026-04 North.csv").write_text("Boat,Weight\nTeal,900\nSmew,800\n", encoding="utf-8")
    (tmp_path / "2026-05 South.csv").write_text("Weight,Boat\n700,Knot\n", encoding="utf-8")
    (tmp_path / "berths.csv").write_text("Berth,Dock\nN1,North\n", encoding="utf-8")
    found = reading.read([str(tmp_path)])
    assert sorted(found.relations) == ["berths", "haul_outs"]
    outs = found.relations["haul_outs"]
    assert outs.names == ("Boat", "Weight", "Month", "Part of File Name")
    shown = [[column.values[int(code)].as_py() for code in column.codes] for column in outs.columns]
    assert shown == [
        ["Teal", "Smew", "Knot"], [900, 800, 700], ["2026-04", "2026-04", "2026-05"], ["North", "North", "South"],
    ]  # fmt: skip
    assert outs.address(2, outs.columns[0]) == "2026-05 South.csv A2"


def bomb() -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("xl/workbook.xml", b" " * (100 << 20))
    return out.getvalue()


def far_cells(*places: tuple[int, int]) -> bytes:
    """A workbook with cells in these places, which does not know its own size."""
    out, other = io.BytesIO(), io.BytesIO()
    with xlsxwriter.Workbook(out) as book:
        page = book.add_worksheet()
        page.write_row(0, 0, ["a", "b"])
        for row, column in places:
            page.write(row, column, "x")
    with zipfile.ZipFile(out) as archive, zipfile.ZipFile(other, "w") as changed:
        for part in archive.namelist():
            changed.writestr(part, re.sub(b"<dimension[^>]*>", b"", archive.read(part)))
    return other.getvalue()


def protected() -> bytes:
    return b"\xd0\xcf\x11\xe0" + bytes(600) + "EncryptedPackage".encode("utf-16-le") + bytes(600)


REFUSED: dict[str, tuple[Callable[[], bytes], str]] = {
    "bomb.xlsx": (bomb, "it would expand"),
    "corner.xlsx": (lambda: far_cells((1_048_575, 16_383)), "XFD1048576: the sheet reaches to this cell"),
    "edges.xlsx": (lambda: far_cells((1, 16_383), (1_048_575, 0)), "XFD1048576: the sheet reaches to this cell"),
    "secret.xlsx": (protected, "protected by a password"),
    "plain.ods": (lambda: b"hello", "this is not a workbook"),
    "text.parquet": (lambda: b"hello", "this is no Parquet file"),
}


@pytest.mark.slow
@pytest.mark.parametrize("name", REFUSED)
def test_what_only_looks_like_a_sheet_is_refused(name: str, tmp_path: Path) -> None:
    content, expected = REFUSED[name]
    (tmp_path / name).write_bytes(content())
    with pytest.raises(InputError, match=expected) as raised:
        files.read(str(tmp_path / name))
    assert "\n" not in str(raised.value)
