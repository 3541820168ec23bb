"""Files of other people are safe, the terminal is not steered by a sheet, and whatever happens ends in one line."""

from __future__ import annotations

import os
import shutil
import sqlite3
import subprocess
import sys
from pathlib import Path

import pytest

from conftest import hemplit
from hemplit.errors import STEERING
from hemplit.flow import proving, reading

PROGRAM = [sys.executable, "-m", "hemplit"]
SHEET = "Job,Boat,Hours\n1,Teal,2\n2,Smew,3\n3,Knot,4\n4,Teal,1\n"


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A folder with a small sheet."""
    (tmp_path / "jobs.csv").write_text(SHEET, encoding="utf-8")
    return tmp_path


def run(folder: Path, *statements: str) -> list[tuple[object, ...]]:
    connection = sqlite3.connect(folder / "yard.sqlite", isolation_level=None)
    rows: list[tuple[object, ...]] = []
    for statement in statements:
        rows = connection.execute(statement).fetchall()
    connection.close()
    return rows


def load(folder: Path, *more: str, into: str = "yard.sqlite") -> tuple[int, str]:
    ran = hemplit("load", "jobs.csv", "--into", into, *more, folder=folder)
    return ran.code, ran.err


def test_what_others_keep_in_a_database_stays(folder: Path) -> None:
    run(folder, "CREATE TABLE family (name TEXT)", "INSERT INTO family VALUES ('Ann')", "CREATE VIEW old AS SELECT 1")
    assert load(folder)[0] == 2
    assert load(folder, "--replace") == (0, "The design is in yard.design.toml.\n")
    assert run(folder, "SELECT name FROM family") == [("Ann",)]
    code, said = load(folder, "--replace")
    assert code == 0
    assert "Replacing what Hemplit made in yard.sqlite: jobs, jobs_sheet." in said
    assert run(folder, "SELECT name FROM family UNION ALL SELECT 1 FROM old") == [("Ann",), (1,)]
    assert hemplit("prove", "yard.design.toml", "--into", "yard.sqlite", folder=folder).code == 0


IN_THE_WAY = {
    "a table of the same name": ("CREATE TABLE jobs (x)", "it holds a table 'jobs' that Hemplit did not make"),
    "a view of the same name": ("CREATE VIEW JOBS_SHEET AS SELECT 1", "it holds a view 'JOBS_SHEET'"),
}
DEPENDING = {
    "a reference": "CREATE TABLE visits (job INTEGER REFERENCES jobs (job))",
    "a view": "CREATE VIEW mine AS SELECT * FROM jobs",
    "a trigger on another table": "CREATE TABLE a (x); CREATE TRIGGER t AFTER INSERT ON a BEGIN DELETE FROM jobs; END",
}


@pytest.mark.parametrize("case", IN_THE_WAY)
def test_what_is_in_the_way_is_never_replaced(case: str, folder: Path) -> None:
    statement, expected = IN_THE_WAY[case]
    run(folder, statement)
    before = (folder / "yard.sqlite").read_bytes()
    code, said = load(folder, "--replace")
    assert (code, expected in said) == (2, True)
    assert (folder / "yard.sqlite").read_bytes() == before


@pytest.mark.parametrize("case", DEPENDING)
def test_what_others_depend_on_is_never_replaced(case: str, folder: Path) -> None:
    assert load(folder)[0] == 0
    run(folder, *DEPENDING[case].split("; ", 1) if "TRIGGER" in DEPENDING[case] else [DEPENDING[case]])
    code, said = load(folder, "--replace")
    assert code == 2
    assert "which Hemplit did not make, depends on 'jobs'" in said
    assert len(run(folder, "SELECT * FROM jobs")) == 4


def test_only_a_database_is_written_into(folder: Path) -> None:
    (folder / "family.db").write_text("Ann, Ben and Cas\n", encoding="utf-8")
    code, said = load(folder, "--replace", into="family.db")
    assert (code, "this is not a SQLite database" in said) == (2, True)
    assert (folder / "family.db").read_text(encoding="utf-8") == "Ann, Ben and Cas\n"
    for ending in ("-wal", "-journal"):
        (folder / f"new.sqlite{ending}").write_bytes(b"old rows")
        code, said = load(folder, into="new.sqlite")
        assert (code, f"another program left new.sqlite{ending} beside it" in said) == (2, True)
        (folder / f"new.sqlite{ending}").unlink()


def test_a_database_that_somebody_writes_to_is_left_as_it_is(folder: Path) -> None:
    assert load(folder)[0] == 0
    holding = (
        "import sqlite3; connection = sqlite3.connect('yard.sqlite'); connection.execute('BEGIN IMMEDIATE');"
        "print('held', flush=True); input()"
    )
    other = subprocess.Popen(
        [sys.executable, "-c", holding], cwd=folder, stdin=subprocess.PIPE, stdout=subprocess.PIPE, encoding="utf-8"
    )
    assert other.stdout is not None
    assert other.stdout.readline() == "held\n"
    code, said = load(folder, "--replace")
    other.communicate("\n")
    assert (code, "another program is writing to it" in said) == (2, True)
    assert hemplit("prove", "yard.design.toml", "--into", "yard.sqlite", folder=folder).code == 0


@pytest.mark.slow
def test_of_loads_at_once_one_wins_and_the_others_say_so(folder: Path, yard: Path) -> None:
    shutil.copy(yard / "jobs.csv", folder)
    command = [*PROGRAM, "load", "jobs.csv", "--into", "yard.sqlite"]
    started = [
        subprocess.Popen(command, cwd=folder, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE) for _ in range(3)
    ]
    ended = [(one.communicate()[1].decode(), one.returncode) for one in started]
    assert sorted(code for _, code in ended) == [0, 2, 2]
    assert all("made this file in the meantime" in said or "exists already" in said for said, code in ended if code)
    assert hemplit("prove", "yard.design.toml", "--into", "yard.sqlite", folder=folder).code == 0
    assert not [path for path in folder.iterdir() if "unfinished" in path.name]


def test_a_link_is_written_through_and_a_planted_one_is_not_followed(folder: Path) -> None:
    (folder / "deep").mkdir()
    (folder / "yard.sqlite").symlink_to(folder / "deep" / "real.sqlite")
    (folder / "precious.txt").write_text("mine", encoding="utf-8")
    for name in ("yard.sqlite.unfinished", "yard.design.toml.unfinished"):
        (folder / name).symlink_to(folder / "precious.txt")
    assert load(folder)[0] == 0
    assert (folder / "yard.sqlite").is_symlink()
    assert load(folder, "--replace")[0] == 0
    assert (folder / "yard.sqlite").is_symlink()
    assert len(run(folder, "SELECT * FROM jobs")) == 4
    assert (folder / "precious.txt").read_text(encoding="utf-8") == "mine"


def test_no_sheet_is_overwritten(folder: Path) -> None:
    for out in ("jobs.csv", "notes.toml"):
        (folder / "notes.toml").write_text("a = 1\n", encoding="utf-8")
        assert hemplit("draft", "jobs.csv", "--out", out, "--replace", folder=folder).code == 2
    assert (folder / "notes.toml").read_text(encoding="utf-8") == "a = 1\n"
    ran = hemplit("demo", ".", folder=folder)
    assert (ran.code, "jobs.csv: this file is not the demo's" in ran.err) == (2, True)
    assert (folder / "jobs.csv").read_text(encoding="utf-8") == SHEET
    assert not (folder / "crew-roster.xlsx").exists()


def test_an_interrupt_says_which_state_is_left(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def stopped(*_: object, **__: object) -> None:
        raise KeyboardInterrupt

    monkeypatch.setattr(proving, "check_structure", stopped)
    assert load(folder) == (130, "hemplit: stopped; the new tables are loaded, but not verified\n")
    monkeypatch.setattr("hemplit.targets.rows.Written.add", stopped)
    before = (folder / "yard.sqlite").read_bytes()
    assert load(folder, "--replace")[1].endswith("hemplit: stopped; nothing was written\n")
    assert run(folder, "SELECT count(*) FROM jobs") == [(4,)]
    assert len(before) == len((folder / "yard.sqlite").read_bytes())


STEERED = "\x1b[31mred\x1b]0;title\x07\x9b2J\u202egnirts\u2066\u200f"


def test_no_sheet_steers_the_terminal(folder: Path) -> None:
    rows = "".join(f"{row},Teal{STEERED},{row % 3}{STEERED}\n" for row in range(9))
    (folder / "odd.csv").write_text(f"Job,Boat{STEERED},No{STEERED}\n{rows}", encoding="utf-8")
    for command in (
        ["look", "odd.csv"],
        ["dependencies", "odd.csv"],
        ["draft", "odd.csv"],
        ["load", "odd.design.toml", "--into", "odd.sqlite"],
        ["why", "odd.design.toml"],
        ["prove", "odd.design.toml", "--into", "odd.sqlite"],
        ["look", f"no{STEERED}.csv"],
        ["look", "odd.csv", "--json"],
        ["look", "odd.csv", f"--{STEERED}"],
    ):
        ran = hemplit(*command, folder=folder)
        assert not STEERING.search((ran.out + ran.err).replace("\n", " ")), command
    assert "\\x1b[31mred" in hemplit("look", "odd.csv", folder=folder).out


def test_what_nobody_foresaw_is_one_line_and_a_report(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(*_: object, **__: object) -> None:
        raise ZeroDivisionError("by nought")

    monkeypatch.setattr(reading, "read", broken)
    ran = hemplit("look", "jobs.csv", folder=folder)
    (report,) = folder.glob("hemplit-report-*.txt")
    assert (ran.code, ran.out) == (3, "")
    assert ran.err.startswith("hemplit: a fault of Hemplit's own (ZeroDivisionError: by nought); please send us ")
    assert ran.err.count("\n") == 1
    assert "ZeroDivisionError: by nought" in report.read_text(encoding="utf-8")


@pytest.mark.slow
@pytest.mark.skipif(not Path("/dev/full").exists(), reason="there is no full disk to write to")
def test_an_output_that_takes_nothing_is_one_line(folder: Path) -> None:
    with Path("/dev/full").open("w") as full:
        ran = subprocess.run(
            [*PROGRAM, "look", "jobs.csv"], cwd=folder, stdout=full, stderr=subprocess.PIPE, check=False
        )
    assert (ran.returncode, ran.stderr.decode().count("\n")) == (2, 1)
    assert b"the output: No space left" in ran.stderr
    head = subprocess.run(
        f"{' '.join(PROGRAM)} look jobs.csv | head -1; exit ${{PIPESTATUS[0]}}",
        shell=True,
        cwd=folder,
        executable="/bin/bash",
        capture_output=True,
        check=False,
    )
    assert (head.returncode, head.stderr) == (0, b"")
    closed = subprocess.run(
        f"{' '.join(PROGRAM)} look jobs.csv >&-", shell=True, cwd=folder, capture_output=True, check=False
    )
    assert (closed.returncode, closed.stderr.count(b"Traceback")) == (0, 0)


@pytest.mark.skipif(sys.platform == "win32", reason="names are no bytes there")
def test_odd_names_of_files_are_names(folder: Path) -> None:
    odd = os.fsencode(folder) + b"/jobs-\xff.csv"
    Path(os.fsdecode(odd)).write_text(SHEET, encoding="utf-8")
    ran = subprocess.run([*PROGRAM, "look", b"jobs-\xff.csv"], cwd=folder, capture_output=True, check=False)
    assert (ran.returncode, ran.stderr.count(b"\n")) == (2, 1)
    assert b"rename the file" in ran.stderr
    for name in ("x" * 300 + ".csv", "a\0b.csv", "**a.csv"):
        ran = hemplit("look", name, folder=folder)
        assert (ran.code, ran.err.count("\n")) == (2, 1)
    long = hemplit("load", "jobs.csv", "--into", "y" * 300 + ".sqlite", folder=folder)
    assert (long.code, long.err.count("\n")) == (2, 1)
