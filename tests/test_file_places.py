"""Targets that are files: scripts, workbooks and folders, each read by another program than the one that wrote it."""

from __future__ import annotations

import os
import sqlite3
import subprocess
import sys
from contextlib import closing
from pathlib import Path

import csvw
import openpyxl
import psycopg
import pymysql
import pytest

from conftest import hemplit
from places import MariadbPlace, Place, PostgresqlPlace, as_text

DESIGN = "boatyard.design.toml"


@pytest.fixture(scope="module")
def boatyard(tmp_path_factory: pytest.TempPathFactory, yard: Path) -> Path:
    """The demo sheets with a design for all of them, and what it gives in a database file."""
    ran = hemplit("draft", "jobs.csv", "parts-used.csv", "crew-roster.xlsx", "haul-outs", "--out", DESIGN, folder=yard)
    assert ran.code < 2, ran.err
    assert "Verified" in hemplit("load", DESIGN, "--into", "plain.sqlite", "--replace", folder=yard).out
    return yard


def run_script(place: Place, text: str) -> None:
    """Runs a script as the database's own shell would."""
    if isinstance(place, PostgresqlPlace):
        with psycopg.connect(
            place.text.partition("#")[0], options=f"-c search_path={place.schema}", autocommit=True
        ) as one:
            one.execute(f"CREATE SCHEMA IF NOT EXISTS {place.schema}")
            one.execute(text)
    elif isinstance(place, MariadbPlace):
        flags = pymysql.constants.CLIENT.MULTI_STATEMENTS
        with closing(place.connect(client_flag=flags)) as one, one.cursor() as cursor:
            cursor.execute(text)
            while cursor.nextset():
                pass
    else:
        with closing(sqlite3.connect(place.text)) as one:
            one.executescript(text)


def word_of(place: Place) -> str:
    return type(place).__name__.removesuffix("Place").lower() or "sqlite"


def test_a_script_gives_what_a_load_gives_and_may_run_again(boatyard: Path, place: Place, tmp_path: Path) -> None:
    script = tmp_path / "yard.sql"
    ran = hemplit("load", DESIGN, "--into", script, "--dialect", word_of(place), folder=boatyard)
    assert "Verified" in ran.out, ran.err
    plain = Place(boatyard, "plain.sqlite")
    for _ in range(2):
        run_script(place, script.read_text(encoding="utf-8"))
        for name, _ in plain.listed():
            if not name.startswith("hemplit_"):
                (headers, rows), (others, told) = plain.view(name), place.view(name)
                assert (headers, sorted(map(as_text, rows))) == (others, sorted(map(as_text, told))), name
    assert "Verified" in hemplit("prove", DESIGN, "--into", script, folder=boatyard).out


FILES = ["yard.sql", "yard.xlsx", "yard/", "parquet/"]


def contents(target: str) -> dict[str, bytes]:
    """The bytes of a file, or of all files of a folder."""
    path = Path(target)
    return {one.name: one.read_bytes() for one in (path.iterdir() if path.is_dir() else [path])}


@pytest.mark.parametrize("name", FILES)
def test_it_is_proven_and_replaced_only_if_it_is_ours(name: str, boatyard: Path, tmp_path: Path) -> None:
    target, how = f"{tmp_path}/{name}", ["--parquet"] if "parquet" in name else []
    ran = hemplit("load", DESIGN, "--into", target, *how, folder=boatyard)
    assert ("Verified" in ran.out, "Not checked" in ran.err) == (True, True), ran.err
    first = contents(target)
    ran = hemplit("load", DESIGN, "--into", target, *how, folder=boatyard)
    assert (ran.code, "exists already" in ran.err, contents(target)) == (2, True, first)
    assert "Verified" in hemplit("load", DESIGN, "--into", target, "--replace", *how, folder=boatyard).out
    assert contents(target) == first
    assert [path.name for path in tmp_path.iterdir() if "left-out" not in path.name] == [Path(name).name]
    assert "Verified" in hemplit("prove", DESIGN, "--into", target, folder=boatyard).out
    ran = hemplit("topup", DESIGN, "jobs.csv", "--into", target, folder=boatyard)
    assert (ran.code, "cannot be added to" in ran.err) == (2, True), ran.err
    for file in contents(target):
        (Path(target) / file if Path(target).is_dir() else Path(target)).write_bytes(b"a diary")
    before = contents(target)
    for more in ([], ["--replace"]):
        ran = hemplit("load", DESIGN, "--into", target, *how, *more, folder=boatyard)
        assert (ran.code, contents(target)) == (2, before), ran.err
    assert "did not make" in hemplit("prove", DESIGN, "--into", target, folder=boatyard).err


@pytest.mark.slow
def test_whatever_is_changed_in_a_folder_or_workbook_is_found(boatyard: Path, tmp_path: Path) -> None:
    def proven(target: str) -> bool:
        ran = hemplit("prove", DESIGN, "--into", target, folder=boatyard)
        assert ran.code < 2, ran.err
        return "NOT verified" not in ran.out

    folder = tmp_path / "yard"
    hemplit("load", DESIGN, "--into", f"{folder}/", folder=boatyard)
    for name, old, new in (
        ("jobs.csv", "4001,", "4000,"),
        ("boats.csv", '"', "'"),
        ("csv-metadata.json", '"required": true', '"required": false'),
        ("csv-metadata.json", '"boat_reg"', '"other"'),
    ):
        kept = (folder / name).read_text(encoding="utf-8")
        (folder / name).write_text(kept.replace(old, new, 1), encoding="utf-8")
        assert not proven(f"{folder}/"), name
        (folder / name).write_text(kept, encoding="utf-8")
    (folder / "more.csv").touch()
    assert not proven(f"{folder}/")
    (folder / "more.csv").unlink()
    assert proven(f"{folder}/")
    book = tmp_path / "yard.xlsx"
    hemplit("load", DESIGN, "--into", book, folder=boatyard)
    for sheet, cell, value in (
        ("boats", "B2", "Other"),
        ("Tables", "C2", 8),
        ("jobs", "A1", "other"),
        ("jobs", "A2", None),
        ("jobs", "E1", "other"),
        ("jobs", "Z1", "more"),
        ("jobs", "J1", "remarks"),  # as it was: saved again by another program, and no more
    ):
        changed = openpyxl.load_workbook(book)
        changed[sheet][cell].value = value
        changed.properties.description = "Made by Hemplit"
        changed.save(tmp_path / "changed.xlsx")
        assert proven(f"{tmp_path}/changed.xlsx") == (value == "remarks"), (sheet, cell)


def test_a_workbook_says_of_each_cell_what_it_is(boatyard: Path, tmp_path: Path) -> None:
    """Read by another program than the one that wrote it."""
    hemplit("load", DESIGN, "--into", tmp_path / "yard.xlsx", folder=boatyard)
    book = openpyxl.load_workbook(tmp_path / "yard.xlsx")
    jobs = book["jobs"]
    assert book.sheetnames[0] == "Tables"
    assert (jobs.freeze_panes, jobs.auto_filter.ref) == ("A2", "A1:J401")
    assert [cell.data_type for cell in jobs[2]][:8] == ["n", "d", "s", "n", "f", "n", "f", "n"]
    lists = {str(one.sqref): one.formula1 for one in jobs.data_validations.dataValidation}
    assert lists == {
        "C2:C401": "'boats'!$A$2:$A$65",
        "D2:D401": "'works'!$A$2:$A$12",
        "F2:F401": "'statuses'!$A$2:$A$5",
    }
    assert jobs["G2"].value.startswith('=IF(F2="","",INDEX(')
    shown = openpyxl.load_workbook(tmp_path / "yard.xlsx", data_only=True)["jobs"]
    assert [cell.value for cell in shown[1]][3:7] == ["work_id", "work_id: name", "status_id", "status_id: name"]
    assert shown["G2"].value in {"open", "done", "paid", "waiting"}


def test_the_metadata_of_a_folder_is_valid(boatyard: Path, tmp_path: Path) -> None:
    hemplit("load", DESIGN, "--into", f"{tmp_path}/yard/", folder=boatyard)
    group = csvw.TableGroup.from_file(tmp_path / "yard" / "csv-metadata.json")
    assert group.check_referential_integrity()
    assert all([*table] for table in group.tables)  # each cell is of its datatype, or this would fail


def test_whatever_is_changed_in_a_script_is_found(boatyard: Path, tmp_path: Path) -> None:
    script = tmp_path / "yard.sql"
    hemplit("load", DESIGN, "--into", script, folder=boatyard)
    text = script.read_text(encoding="utf-8")
    for old, new in {
        "'open'": "'opem'",
        "'hull scrape', 38.5": "'hull scrape', 38.4",
        "NOT NULL": "",
        "LEFT OUTER JOIN": "JOIN",
        "COMMIT": "ROLLBACK",
        "COMMIT;": "COMMIT;\n\nDROP TABLE boats;",
        "(1, 'Ferrigholm')": "(1, 'Ferrigholm'), (99, 'Wick')",
        "FOREIGN KEY(owner_id) REFERENCES owners (owner_id)": "CHECK (1)",
    }.items():
        changed = text.replace(old, new, 1)
        assert changed != text, old
        script.write_text(changed, encoding="utf-8")
        ran = hemplit("prove", DESIGN, "--into", script, folder=boatyard)
        assert (ran.code, "NOT verified" in ran.out) == (1, True), (old, ran.out)


def test_a_script_of_the_tables_alone_claims_no_rows(boatyard: Path, tmp_path: Path) -> None:
    script = tmp_path / "yard.sql"
    ran = hemplit("load", DESIGN, "--into", script, "--schema-only", folder=boatyard)
    assert ("INSERT" in script.read_text(encoding="utf-8"), "holds no rows" in ran.err) == (False, True), ran.err
    assert "as stored" not in hemplit("prove", DESIGN, "--into", script, folder=boatyard).out


@pytest.mark.skipif(sys.platform == "win32", reason="Windows has no such limit")
@pytest.mark.parametrize("name", FILES)
def test_a_full_disk_leaves_what_was_there(name: str, boatyard: Path, tmp_path: Path) -> None:
    target, how = f"{tmp_path}/{name}", ["--parquet"] if "parquet" in name else []
    hemplit("load", DESIGN, "--into", target, *how, folder=boatyard)
    before = contents(target)
    # No file may have more than 8 kB, as on a disk that is nearly full.
    limited = ["bash", "-c", 'ulimit -f 8; exec "$@"', "bash", sys.executable, "-m", "hemplit"]
    command = [*limited, "load", DESIGN, "--into", target, *how, "--replace"]
    # Nor may what Python compiles be cut off, which is for all processes.
    env = {**os.environ, "PYTHONDONTWRITEBYTECODE": "1"}
    ran = subprocess.run(command, cwd=boatyard, capture_output=True, text=True, check=False, env=env)
    assert (ran.returncode, "cannot be written" in ran.stderr, contents(target)) == (2, True, before), ran.stderr
    assert [path.name for path in tmp_path.iterdir() if "left-out" not in path.name] == [Path(name).name]
