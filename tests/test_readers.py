"""Readers keep every value as it was written: through the real program, file by file."""

from __future__ import annotations

import csv
import io
import re
import sqlite3
import zipfile
from datetime import datetime, timedelta
from pathlib import Path

import pyarrow as pa
import pyarrow.parquet
import pytest
import xlsxwriter

from conftest import cells, hemplit
from hemplit import files
from hemplit.errors import InputError
from hemplit.files.delimited import Bytes

BOATS = ["カワセミ", "ツバメ", "カモメ", "サギ", "ウミネコ"]
SCRIPTS = {
    "cp932": "船名,所有者\nカワセミ,山田太郎\nツバメ,鈴木花子\n",
    "euc_jp": "船名,所有者\nカワセミ,山田太郎\nツバメ,鈴木花子\n",
    "gb18030": "船名,船主\n翠鸟,王小明\n燕子,李华\n海鸥,张伟\n",
    "big5": "船名,船主\n翠鳥,王小明\n燕子,李華\n海鷗,張偉\n",
    "euc_kr": "배이름,소유자\n물총새,김철수\n제비,이영희\n",
    "cp1251": "Лодка,Владелец\nЗимородок,Иван Петров\nЛасточка,Анна Смирнова\n",
    "koi8_r": "Лодка,Владелец\nЗимородок,Иван Петров\nЛасточка,Анна Смирнова\n",
    "cp1253": "Σκάφος,Ιδιοκτήτης\nΑλκυόνα,Γιώργος Παπαδόπουλος\nΧελιδόνι,Μαρία\n",
}
DELIMITED = {
    "decimal commas": ("a.csv", "Menge;Preis\n1,5;2,25\n3,5;4,75\n10,0;1,00\n", [["1,5", "2,25"], ["3,5", "4,75"]]),
    "names with commas": ("a.csv", "Nr;Name\n1;Lee, Ann\n2;Keel, Ben\n", [["1", "Lee, Ann"], ["2", "Keel, Ben"]]),
    "tabs and commas": ("a.tsv", "Name\tTown\nLee, Ann\tKiel, N\nKeel, B\tOst, W\n", [["Lee, Ann", "Kiel, N"]]),
    "a title with another sign": ("a.csv", "Jobs; all\nJob,Boat\n1,Teal\n2,Smew\n", [["Job", "Boat"], ["1", "Teal"]]),
    "a cell of three million signs": ("a.csv", f'a,b\n1,"{"x" * 3_000_000}"\n', [["1", "x" * 3_000_000]]),
}


@pytest.mark.parametrize("codec", SCRIPTS)
def test_a_text_in_another_script_is_read(codec: str, tmp_path: Path) -> None:
    (tmp_path / "boats.csv").write_bytes(SCRIPTS[codec].encode(codec))
    (grid,) = files.read(str(tmp_path / "boats.csv"))
    assert cells(grid) == list(csv.reader(io.StringIO(SCRIPTS[codec])))


@pytest.mark.parametrize("case", DELIMITED)
def test_the_delimiter_is_what_parts_the_header(case: str, tmp_path: Path) -> None:
    name, text, rows = DELIMITED[case]
    (tmp_path / name).write_text(text, encoding="utf-8")
    (grid,) = files.read(str(tmp_path / name))
    assert cells(grid)[1 : 1 + len(rows)] == rows


def test_a_stray_byte_is_told_and_the_rest_stays(tmp_path: Path) -> None:
    lines = "".join(f"{row},Größe Ü\n" for row in range(30))
    (tmp_path / "a.csv").write_bytes(f"Nr,Name\n{lines}".encode() + b"31,caf\xe9\n")
    ran = hemplit("load", "a.csv", "--into", "a.sqlite", folder=tmp_path)
    assert "a.csv: 1 byte is no UTF-8 and read otherwise: line 32: byte E9 as 'é'" in ran.err
    connection = sqlite3.connect(tmp_path / "a.sqlite")
    assert {row[0] for row in connection.execute("SELECT Name FROM a_sheet")} == {"Größe Ü", "café"}
    connection.close()
    again = hemplit("load", "a.design.toml", "--into", "b.sqlite", folder=tmp_path)
    assert "line 32: byte E9 as 'é'" in again.err


def test_what_is_no_text_is_named_by_its_line(tmp_path: Path) -> None:
    (tmp_path / "quote.csv").write_text('a,b\n1,2\n3,"open\n4,5\n6,7\n', encoding="utf-8")
    assert (
        "quote.csv line 3: its quotes do not close: one opens in this line"
        in hemplit("look", "quote.csv", folder=tmp_path).err
    )
    (tmp_path / "zero.csv").write_bytes(b"a,b\n1,2\n3,\x00\n")
    assert (
        "zero.csv line 3: this is not text: it holds a zero byte here"
        in hemplit("look", "zero.csv", folder=tmp_path).err
    )


@pytest.mark.parametrize(
    "sections",
    [[f"{part}.{number}" for part in (1, 2, 3) for number in range(1, 21)], "1 1.1 1.2 2 2.1 2.2 2.3".split()],
)
def test_numbers_of_sections_are_no_measures(sections: list[str], tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("Item,Text\n" + "".join(f"{one},t{one}\n" for one in sections), encoding="utf-8")
    assert hemplit("load", "a.csv", "--into", "a.sqlite", folder=tmp_path).code == 0
    connection = sqlite3.connect(tmp_path / "a.sqlite")
    assert {row[0] for row in connection.execute("SELECT Item FROM a_sheet")} == set(sections)
    connection.close()


def test_joiners_in_words_and_pictures_stay(tmp_path: Path) -> None:
    words = ["می‌خواهم", "👩‍🔧", "क्‍ष"]
    (tmp_path / "a.csv").write_text("Word,No\n" + "".join(f"{one} ,{len(one)}\n" for one in words), encoding="utf-8")
    hemplit("load", "a.csv", "--into", "a.sqlite", folder=tmp_path)
    connection = sqlite3.connect(tmp_path / "a.sqlite")
    assert {row[0] for row in connection.execute("SELECT Word FROM a_sheet")} == set(words)
    connection.close()


def workbook(path: Path) -> None:
    with xlsxwriter.Workbook(path) as book:
        sheet = book.add_worksheet("A")
        forms = [book.add_format({"num_format": form}) for form in ("yyyy-mm-dd hh:mm:ss.000", "[h]:mm", "00000")]
        sheet.write_row(0, 0, ["Stamp", "Span", "Minus", "Long", "Key", "Code", "Fault"])
        for row in range(1, 4):
            sheet.write_datetime(row, 0, datetime(2026, 3, 1, 10, 0, 0, 123_000 * row), forms[0])
            sheet.write_datetime(row, 1, timedelta(hours=25 + row, minutes=30), forms[1])
            sheet.write_number(row, 2, -row / 16, forms[1])
            sheet.write_number(row, 3, 1_234_567_890_123_450 + row)
            sheet.write_string(row, 4, f"1998.{row:03}")
            sheet.write_number(row, 5, row, forms[2])
            sheet.write_formula(row, 6, "=1/0", None, "#DIV/0!")


EXPECTED = [
    ["2026-03-01 10:00:00.123", "26:30:00", "-1:30:00", "1234567890123451", "1998.001", "00001", "#DIV/0!"],
    ["2026-03-01 10:00:00.246", "27:30:00", "-3:00:00", "1234567890123452", "1998.002", "00002", "#DIV/0!"],
    ["2026-03-01 10:00:00.369", "28:30:00", "-4:30:00", "1234567890123453", "1998.003", "00003", "#DIV/0!"],
]


def test_a_workbook_keeps_what_its_cells_show(tmp_path: Path) -> None:
    workbook(tmp_path / "a.xlsx")
    (grid,) = files.read(str(tmp_path / "a.xlsx"))
    assert cells(grid)[1:] == EXPECTED
    assert grid.notes[0].startswith("3 cells hold an error: G2 #DIV/0!")


@pytest.mark.parametrize("few", [True, False])
def test_midnight_is_a_moment_among_others_and_else_a_day(few: bool, tmp_path: Path) -> None:
    with xlsxwriter.Workbook(tmp_path / "lifts.xlsx") as book:
        sheet, form = book.add_worksheet(), book.add_format({"num_format": "yyyy-mm-dd hh:mm"})
        sheet.write_row(0, 0, ["Lift", "Began", "Day", "Noted"])
        for lift in range(24 if few else 9_000):
            began = datetime(2026, 3, 1) + timedelta(hours=lift)
            sheet.write_row(lift + 1, 0, [lift])
            sheet.write_datetime(lift + 1, 1, began, form)
            sheet.write_datetime(lift + 1, 2, datetime(began.year, began.month, began.day), form)
            sheet.write_string(lift + 1, 3, f"{began:%Y-%m-%d %H:%M:%S}" if lift % 24 else f"{began:%Y-%m-%d}")
    ran = hemplit("load", "lifts.xlsx", "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.err or ran.out
    first = sqlite3.connect(tmp_path / "yard.sqlite").execute("SELECT * FROM lifts_sheet WHERE Lift < 2").fetchall()
    # What somebody wrote as a text stays as it was written.
    assert first[0] == (0, "2026-03-01 00:00:00", "2026-03-01", "2026-03-01")
    assert first[1] == (1, "2026-03-01 01:00:00", "2026-03-01", "2026-03-01 01:00:00")


def rewritten(path: Path, part: str, *changes: tuple[str, str]) -> None:
    """The workbook with other XML in one of its parts."""
    with zipfile.ZipFile(path) as whole:
        parts = {name: whole.read(name) for name in whole.namelist()}
    text = parts[part].decode()
    for before, after in changes:
        assert before in text
        text = text.replace(before, after)
    parts[part] = text.encode()
    with zipfile.ZipFile(path, "w") as copy:
        for name, content in parts.items():
            copy.writestr(name, content)


ODD_XML = {
    "attributes in another order": [
        (f'<c r="{c}{r}" s="3">', f'<c s="3" r="{c}{r}">') for c, r in [("F", 2), ("F", 3)]
    ],
    "single quotes": [(f'<c r="{c}{r}" t="e">', f"<c t='e' r='{c}{r}'>") for c, r in [("G", 2), ("G", 3)]],
    "a long number": [("<v>1234567890123451</v>", "<v>12345678901234567891</v>")],
}


@pytest.mark.parametrize("case", ODD_XML)
def test_the_xml_of_a_workbook_may_be_written_otherwise(case: str, tmp_path: Path) -> None:
    workbook(tmp_path / "a.xlsx")
    rewritten(tmp_path / "a.xlsx", "xl/worksheets/sheet1.xml", *ODD_XML[case])
    (grid,) = files.read(str(tmp_path / "a.xlsx"))
    long = {"1234567890123451": "12345678901234567891"} if case == "a long number" else {}
    assert cells(grid)[1:] == [[long.get(text, text) for text in row] for row in EXPECTED]


@pytest.mark.slow
@pytest.mark.parametrize(
    ("row", "cell"),
    [("1048576", "XFD1048576"), ("1048576", "A1048576"), ("3", "XFD3"), ("9", "I281048576"), ("9", "i1048576")],
)
def test_a_stray_cell_far_out_is_a_plain_refusal_or_read(row: str, cell: str, tmp_path: Path) -> None:
    workbook(tmp_path / "a.xlsx")
    stray = f'<row r="{row}"><c r="{cell}"><v>1</v></c></row></sheetData>'
    rewritten(tmp_path / "a.xlsx", "xl/worksheets/sheet1.xml", ("</sheetData>", stray))
    ran = hemplit("look", "a.xlsx", folder=tmp_path)
    assert (ran.code == 0) if cell == "XFD3" else "delete the stray cells far out" in ran.err


def test_currencies_of_an_open_document_are_told_apart(tmp_path: Path) -> None:
    path = tmp_path / "a.ods"
    path.write_bytes((Path(__file__).parent / "workbooks" / "yard.ods").read_bytes())
    with zipfile.ZipFile(path) as whole:
        text = whole.read("content.xml").decode()
    hours = 'office:value-type="float" office:value="42"'
    assert hours in text
    euro = 'office:value-type="currency" office:currency="EUR" office:value="42"'
    dollar = 'office:value-type="currency" office:currency="USD" office:value="43"'
    rewritten(
        path, "content.xml", (hours, euro), (hours.replace("42", "43"), dollar), ("00042<", "42 €<"), ("00043<", "$43<")
    )
    assert [row[0] for row in cells(files.read(str(path))[0])[1:3]] == ["42 €", "$43"]


def test_parquet_keeps_what_python_has_no_value_for(tmp_path: Path) -> None:
    table = pa.table(
        {
            "ns": pa.array([1_772_359_200_123_456_789, 1_772_359_200_000_000_000], pa.timestamp("ns")),
            "far": pa.array([3_000_000, -800_000], pa.int32()).cast(pa.date32()),
            "raw": pa.array([b"\xff\x00", b"Teal"], pa.binary()),
            "long": pa.array([2**63 - 1, -(2**63)], pa.int64()),
            "span": pa.array([90_061_001, -1_000], pa.duration("ms")),
        }
    )
    pyarrow.parquet.write_table(table, tmp_path / "a.parquet")
    (grid,) = files.read(str(tmp_path / "a.parquet"))
    assert cells(grid)[1:] == [
        ["2026-03-01 10:00:00.123456789", "10183-09-21", "0xff00", "9223372036854775807", "25:01:01.001"],
        ["2026-03-01 10:00:00", "-0221-09-04", "Teal", "-9223372036854775808", "-0:00:01"],
    ]


def test_a_file_that_is_cut_short_while_it_is_read_is_an_error(tmp_path: Path) -> None:
    path = tmp_path / "a.csv"
    path.write_text("a,b\n" + "1,2\n" * 1_000_000, encoding="utf-8")
    with path.open("rb") as file:
        content = Bytes(path, file)
        assert content[:4] == b"a,b\n"
        path.write_text("a,b\n", encoding="utf-8")
        with pytest.raises(InputError, match="cut it short while it was read"):
            content[:]


@pytest.mark.slow
def test_a_sheet_of_thousands_of_columns_is_a_plain_limit(tmp_path: Path) -> None:
    rows = [[f"c{place}" for place in range(2_001)], *([str(row * place) for place in range(2_001)] for row in (1, 2))]
    with (tmp_path / "a.csv").open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows(rows)
    for command in (["look"], ["load", "--into", "a.sqlite"]):
        ran = hemplit(*command, "a.csv", folder=tmp_path)
        assert (ran.code, "it has 2,001 columns, and at most 2,000 are studied" in ran.err) == (2, True)


def test_tables_of_a_database_are_sheets(tmp_path: Path) -> None:
    database = sqlite3.connect(tmp_path / "old.db")
    database.executescript(
        "CREATE TABLE boats (reg TEXT, length REAL, built INT);"
        "INSERT INTO boats VALUES ('MQ-1', 7.5, 1998), ('MQ-2', 8, NULL);"
        "CREATE TABLE empty (x); CREATE VIEW long AS SELECT * FROM boats WHERE length > 7.5; CREATE TABLE blobs (x);"
        "INSERT INTO blobs VALUES (x'00ff'); CREATE TABLE torn (x TEXT);"
        "INSERT INTO torn VALUES (CAST(x'ff41' AS TEXT));"
    )
    database.close()
    (boats,) = files.read(str(tmp_path / "old.db#boats"))
    assert cells(boats) == [["reg", "length", "built"], ["MQ-1", "7.5", "1998"], ["MQ-2", "8", ""]]
    (view,) = files.read(str(tmp_path / "old.db#long"))
    assert cells(view)[1:] == [["MQ-2", "8", ""]]
    for name, said in {
        "old.db#boat": "did you mean 'boats'?",
        "old.db#blobs": "its cells hold bytes",
        "old.db#torn": "its cells hold bytes",
        "old.db#empty": "has rows",
    }.items():
        with pytest.raises(InputError, match=re.escape(said)):
            files.read(str(tmp_path / name))
    (tmp_path / "no.sqlite").write_text("a diary", encoding="utf-8")
    with pytest.raises(InputError, match="not a SQLite database"):
        files.read(str(tmp_path / "no.sqlite"))


def test_what_was_loaded_can_be_a_sheet_again(yard: Path, tmp_path: Path) -> None:
    hemplit("load", yard / "jobs.csv", "--into", "yard.sqlite", folder=tmp_path)
    assert "11 tables, 8 views" in hemplit("look", "yard.sqlite", folder=tmp_path).out
    ran = hemplit("load", "yard.sqlite#jobs_sheet", "--into", "again.sqlite", folder=tmp_path)
    assert "Verified" in ran.out, ran.err
    ran = hemplit("prove", "again.design.toml", "--into", "again.sqlite", folder=tmp_path)
    assert "Verified" in ran.out, ran.err
