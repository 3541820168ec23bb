"""Input that is wrong: one line that says where and what to do, exit code 2, and nothing half-written."""

from __future__ import annotations

import csv
import os
import sqlite3
import subprocess
import sys
from pathlib import Path

import pytest

from conftest import hemplit
from hemplit.demo.sheets import ROSTER

CSV_NAMED_AS = "Job No,Boat\n1,Teal\n"
WRONG: dict[str, tuple[bytes | None, str]] = {
    "missing.csv": (None, "there is no such file"),
    "empty.csv": (b"", "the file is empty"),
    "header.csv": (b"Job No,Boat\n", "no row below it"),
    "blank.csv": (b"\n\n\n", "the sheet is empty"),
    "text.xlsx": (CSV_NAMED_AS.encode(), "this is not a workbook"),
    "picture.csv": (b"\x89PNG\r\n\x1a\n", "this is a picture"),
    "half.csv": ("Boat,Berth\nTeal,N1\n".encode("utf-16")[:-1], "not text in UTF-16"),
    "bytes.csv": (bytes(range(256)), "this is not text"),
    "columns.csv": (b"," * 20_000 + b"\n\n1\n", "it has 20,001 cells"),
    "quote.csv": (b'a,b\n1,"2\n3,4\n', "quotes do not close"),
    "notes.doc": (b"hello", "is not a kind of file that is read"),
}


@pytest.mark.parametrize("name", WRONG)
def test_a_wrong_file_is_one_line(name: str, tmp_path: Path) -> None:
    content, expected = WRONG[name]
    if content is not None:
        (tmp_path / name).write_bytes(content)
    ran = hemplit("load", name, "--into", "out.sqlite", folder=tmp_path)
    assert ran.code == 2
    assert ran.out == ""
    assert ran.err.startswith(f"hemplit: {name}")
    assert expected in ran.err
    assert ran.err.count("\n") == 1
    assert sorted(path.name for path in tmp_path.iterdir()) == ([name] if content is not None else [])


def test_a_folder_without_sheets(tmp_path: Path) -> None:
    (tmp_path / "jobs.csv").mkdir()
    ran = hemplit("look", "jobs.csv", folder=tmp_path)
    assert (ran.code, ran.err) == (
        2,
        "hemplit: jobs.csv: there is no sheet of that name; "
        "these are read: .csv, .tsv, .txt, .tab, .xlsx, .xlsm, .ods, .xls, .parquet\n",
    )


def test_a_truncated_workbook(tmp_path: Path, yard: Path) -> None:
    whole = (yard / ROSTER).read_bytes()
    (tmp_path / "cut.xlsx").write_bytes(whole[: len(whole) // 2])
    ran = hemplit("load", "cut.xlsx", "--into", "out.sqlite", folder=tmp_path)
    assert ran.code == 2
    assert "the workbook is damaged" in ran.err
    assert ran.err.count("\n") == 1
    assert not (tmp_path / "out.sqlite").exists()


ODD_SHEETS = {
    "twins.csv": "Boat,Boat,boat,\nTeal,N1,a,\nSmew,N2,b,x\n",
    "names.csv": '"a""b",semi;colon,select,⛵,order,x\'y,%(z)s:1,[br]\n1,2,3,4,5,6,7,[red]x\n2,2,4,5,6,7,8,é\n',
    "three_hundred.csv": ",".join(f"Column {n}" for n in range(300)) + "\n" + ",".join(["1"] * 300) + "\n",
    "gaps.csv": 'Boat,Note\n\nTeal,"two\nlines"\n,\nTeal,"a, b"\n',
    "one.csv": "Boat\nTeal\nTeal\n",
    "mark.csv": "\ufeffBoot;Größe\nMöwe;3,5\nEnte;4,0\n",
}


@pytest.mark.parametrize("name", ODD_SHEETS)
def test_an_odd_sheet_is_loaded_and_proven(name: str, tmp_path: Path) -> None:
    (tmp_path / name).write_text(ODD_SHEETS[name], encoding="utf-8", newline="")
    ran = hemplit("load", name, "--into", "out.sqlite", folder=tmp_path)
    *notes, last = ran.err.splitlines()
    assert (ran.code, last) == (0, "The design is in out.design.toml.")
    assert len(notes) == (2 if name == "three_hundred.csv" else 0)  # what is not looked for is said
    assert "Verified:" in ran.out
    again = hemplit("prove", "out.design.toml", "--into", "out.sqlite", folder=tmp_path)
    assert again.code == 0


@pytest.mark.parametrize(
    ("arguments", "expected"),
    [
        (["mend"], "invalid choice: 'mend'"),
        (["load", "jobs.csv"], "required: --into"),
        (["load", "jobs.csv", "--into", "jobs.txt"], "this is no place for tables"),
        (["load", "jobs.csv", "--into", "no/such/folder/x.sqlite"], "its folder does not exist"),
        (["load", "x.toml", "jobs.csv", "--into", "x.sqlite"], "give the design alone"),
        (["prove", "none.design.toml", "--into", "x.sqlite"], "there is no such file; look for it in"),
        (["prove", "jobs.csv", "--into", "x.sqlite"], "this is a sheet, and a design is wanted here"),
        (["dependencies", "jobs.csv", "--depth", "many"], "'many' is not a number"),
    ],
)
def test_a_wrong_call_is_one_line(arguments: list[str], expected: str, jobs: Path) -> None:
    ran = hemplit(*arguments, folder=jobs.parent)
    assert ran.code == 2
    assert expected in ran.err
    assert ran.err.count("\n") == 1
    assert not list(jobs.parent.glob("*.sqlite"))


def test_without_a_command_it_says_what_to_do_first(tmp_path: Path) -> None:
    ran = hemplit(folder=tmp_path)
    assert (ran.code, ran.err, "hemplit look FILE" in ran.out) == (0, "", True)


def test_headers_that_a_database_takes_for_one_are_told_apart(tmp_path: Path) -> None:
    (tmp_path / "twins.csv").write_text(ODD_SHEETS["twins.csv"], encoding="utf-8")
    hemplit("load", "twins.csv", "--into", "out.sqlite", folder=tmp_path)
    connection = sqlite3.connect(tmp_path / "out.sqlite")
    names = [row[1] for row in connection.execute("PRAGMA table_info(twins_sheet)")]
    connection.close()
    assert names[:3] == ["Boat", "Boat (2)", "boat (3)"]


def test_all_problems_are_told_in_one_run_and_in_the_words_of_the_sheet(jobs: Path) -> None:
    """A month's sheet is wrong in five cells and has a line of totals; then a design is wrong in two lines."""
    folder = jobs.parent
    assert hemplit("draft", "jobs.csv", folder=folder).code == 0
    lines = list(csv.reader(jobs.read_text(encoding="utf-8").splitlines()))
    for row, column, text in ((4, 3, "Odd"), (33, 6, "Nobody"), (9, 9, "Z9"), (60, 0, lines[59][0]), (20, 0, "")):
        lines[row][column] = text
    lines.append(["", *lines[1][1:11], "Sum total", *lines[1][12:]])
    with jobs.open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows(lines)
    ran = hemplit("load", "jobs.design.toml", "--into", "yard.sqlite", folder=folder)
    said = ran.err.splitlines()
    assert (ran.code, said[0]) == (2, f"hemplit: {len(said) - 1} problems, and nothing was written")
    for wanted in (
        f"row 5: Boat Reg '{lines[4][2]}' has Boat 'Odd', but '",
        f"row 34: Boat Reg '{lines[33][2]}' has Owner 'Nobody', but '",
        f"row 10: Boat Reg '{lines[9][2]}' has Berth 'Z9', but '",
        "row 21: Job No is blank, and it is in the key",
        "row 402: Job No is blank, and 'Sum total' looks like a line of totals",
        f"jobs.csv has Job No '{lines[59][0]}' in row 60 and again in row 61",
    ):
        assert sum(wanted in line for line in said) == 1, (wanted, ran.err)
    assert not (folder / "yard.sqlite").exists()
    # A cell that does not fit is told with all of these.
    lines[24][1] = "31/02/2026"
    with jobs.open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows(lines)
    again = hemplit("load", "jobs.design.toml", "--into", "yard.sqlite", folder=folder).err.splitlines()
    assert "B25: '31/02/2026' under 'Opened' is no date" in again[1], again
    assert {line.split(" ", 3)[-1] for line in said[1:]} <= {line.split(" ", 3)[-1] for line in again[2:]}
    design = folder / "jobs.design.toml"
    text = design.read_text(encoding="utf-8").replace('key = ["boat_reg"]', 'key = ["reg"]')
    design.write_text(text.replace('key = ["work_id"]', 'key = ["work"]'), encoding="utf-8")
    ran = hemplit("load", "jobs.design.toml", "--into", "yard.sqlite", folder=folder)
    assert (ran.code, ran.err.count("the table has no column"), ran.err.count(" line ")) == (2, 2, 2)


def test_a_person_says_which_cells_are_the_table(tmp_path: Path) -> None:
    lines = [
        "Lifts,,",
        "Lift,Boat,Tonnes",
        "1,Teal,4",
        "2,Knot,6",
        ",,",
        "Cranes,,",
        "Crane,Reach,Tonnes",
        "A,12,20",
        "B,9,15",
    ]
    (tmp_path / "lifts.csv").write_text("\n".join(lines) + "\n", encoding="utf-8")
    ran = hemplit("load", "lifts.csv", "--area", "A7:C9", "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.err
    ran = hemplit("load", "yard.design.toml", "--into", "yard.sqlite", "--replace", folder=tmp_path)
    assert ran.code == 0, ran.err
    with sqlite3.connect(tmp_path / "yard.sqlite") as database:
        assert database.execute("SELECT * FROM lifts_sheet").fetchall() == [("A", 12, 20), ("B", 9, 15)]
    for command, area, said in (
        (("look", "lifts.csv"), "A9", "--area A9: this is no range of cells"),
        (("draft", "lifts.csv"), "X1:Z9", "lifts.csv: nothing stands in X1:Z9"),
        (("load", "yard.design.toml", "--into", "yard.sqlite"), "A1:C4", "a design says itself which cells"),
        (("dependencies", "lifts.csv", "--as-is"), "A1:C4", "with --as-is all cells are taken"),
    ):
        ran = hemplit(*command, "--area", area, folder=tmp_path)
        assert (ran.code, said in ran.err, ran.err.count("\n")) == (2, True, 1), ran.err


def test_a_shell_completes_commands_and_options() -> None:
    for line, said in (("hemplit dr", {"draft", "draw"}), ("hemplit prove x.toml --de", {"--details"})):
        asked = {"_ARGCOMPLETE": "1", "COMP_LINE": line, "COMP_POINT": str(len(line)), "_ARGCOMPLETE_IFS": "\n"}
        run = [sys.executable, "-c", "import os; os.dup2(1, 8); from hemplit.cli.main import run; run()"]
        ran = subprocess.run(run, env={**os.environ, **asked}, capture_output=True, text=True, check=False)
        assert {word.strip() for word in ran.stdout.split("\n")} == said, ran


def test_a_worksheet_of_a_file_that_has_none_is_refused(jobs: Path) -> None:
    ran = hemplit("look", "jobs.csv#Crew", folder=jobs.parent)
    said = "hemplit: jobs.csv#Crew: there are no sheets in it to choose from; leave #Crew out\n"
    assert (ran.code, ran.err) == (2, said)
