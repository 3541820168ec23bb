"""The commands on the demo sheets, as a person runs them."""

from __future__ import annotations

import json
import shutil
import sqlite3
import subprocess
import sysconfig
from pathlib import Path

import pytest

from conftest import hemplit, same_cells

ROOT = Path(__file__).parent.parent


def test_the_whole_way(jobs: Path) -> None:
    folder = jobs.parent
    looked = hemplit("look", "jobs.csv", folder=folder)
    assert looked.code == 0
    assert "400 rows × 18 columns" in looked.out
    assert "Labour Cost = Labour Hours × Hourly Rate" in looked.out
    drafted = hemplit("draft", "jobs.csv", folder=folder)
    assert drafted.code == 0
    assert "jobs.design.toml" in drafted.err
    loaded = hemplit("load", "jobs.design.toml", "--into", "yard.sqlite", "--details", folder=folder)
    assert (loaded.code, loaded.err) == (0, "")
    assert "all 7,619 cells: 6,819 stored · 800 calculated · 0 changed · 0 left out" in " ".join(loaded.out.split())
    assert same_cells(jobs, folder / "yard.sqlite", "jobs_sheet")
    assert hemplit("prove", "jobs.design.toml", "--into", "yard.sqlite", folder=folder).code == 0


def test_what_a_designer_would_draw(jobs: Path) -> None:
    ran = hemplit("load", "jobs.csv", "--into", "yard.sqlite", "--json", folder=jobs.parent)
    loaded = json.loads(ran.out)
    assert loaded["proven"] is True
    tables = {table["name"]: table for table in loaded["tables"]}
    assert {name: table["rows"] for name, table in tables.items()} == {
        "jobs": 400, "boats": 64, "owners": 37, "berths": 35, "works": 11,
        "hull_classes": 3, "towns": 7, "docks": 3, "statuses": 4, "job_crews": 725, "crews": 14,
    }  # fmt: skip
    assert tables["boats"]["key"] == ["boat_reg"]
    assert tables["owners"]["key"] == ["owner_id"]
    points = {name: sorted(reference["table"] for reference in table["references"]) for name, table in tables.items()}
    assert points["jobs"] == ["boats", "statuses", "works"]
    assert points["boats"] == ["berths", "owners"]


def test_keys_and_references_are_enforced(jobs: Path) -> None:
    hemplit("load", "jobs.csv", "--into", "yard.sqlite", folder=jobs.parent)
    database = sqlite3.connect(jobs.parent / "yard.sqlite")
    database.execute("PRAGMA foreign_keys = ON")
    for refused in (
        "UPDATE jobs SET boat_reg = 'MQ-0' WHERE job_no = 4001",
        "INSERT INTO boats SELECT * FROM boats LIMIT 1",
        "UPDATE owners SET name = NULL",
        "UPDATE owners SET name = (SELECT MIN(name) FROM owners)",
        "UPDATE jobs SET urgent = 7 WHERE job_no = 4001",
    ):
        with pytest.raises(sqlite3.IntegrityError):
            database.execute(refused)
    indexed = {
        row[0] for row in database.execute("SELECT tbl_name FROM sqlite_master WHERE type = 'index' AND sql > ''")
    }
    assert {"jobs", "boats", "berths", "owners"} <= indexed
    database.close()


SCHEMA = "PRAGMA writable_schema = ON; UPDATE sqlite_master SET sql = replace(sql, {}, {}) WHERE name = '{}'"
CHANGES = {
    "a cell": ("UPDATE boats SET length_m = 99 WHERE boat_reg = (SELECT MIN(boat_reg) FROM boats)", "boats.length_m"),
    "a blank": ("UPDATE jobs SET remarks = NULL WHERE job_no = 4002", "jobs.remarks [4002]: expected keel bolts"),
    "a blank filled": ("UPDATE jobs SET remarks = 'x' WHERE job_no = 4003", "jobs.remarks [4003]: expected a blank"),
    "bytes for a text": ("UPDATE jobs SET remarks = CAST(remarks AS BLOB) WHERE job_no = 4002", "found bytes"),
    "bytes that are no text": (
        "UPDATE jobs SET remarks = CAST(x'ff41' AS TEXT) WHERE job_no = 4002",
        "found bytes FF41",
    ),
    "a row less": ("DELETE FROM jobs WHERE job_no = 4007", "jobs [4007]: expected a row, found no row"),
    "a row more": ("INSERT INTO statuses SELECT 99, 'lost'", "statuses [99]: expected no row, found a row"),
    "a view less": ("DROP VIEW jobs_sheet", "view jobs_sheet: expected a view, found nothing"),
    "a table less": ("DROP TABLE statuses", "table statuses: expected a table, found nothing"),
    "a table renamed": ("ALTER TABLE statuses RENAME TO states", "table statuses: expected a table, found nothing"),
    "a column more": ("ALTER TABLE statuses ADD COLUMN remark TEXT", "table statuses: expected"),
    "a view for a table": (
        "ALTER TABLE statuses RENAME TO s; CREATE VIEW statuses AS SELECT * FROM s",
        "table statuses: expected a table, found a view",
    ),
    "another view": ("DROP VIEW jobs_sheet; CREATE VIEW jobs_sheet AS SELECT * FROM jobs", "view jobs_sheet: expected"),
    "an index less": ("DROP INDEX ix_jobs_status_id", "index ix_jobs_status_id: expected a index, found nothing"),
    "an index more": ("CREATE INDEX mine ON jobs (remarks)", "index mine on jobs: expected nothing"),
    "a trigger": ("CREATE TRIGGER t AFTER INSERT ON jobs BEGIN SELECT 1; END", "trigger t on jobs: expected nothing"),
    "no reference": (SCHEMA.format("'REFERENCES berths (berth)'", "'REFERENCES owners (owner_id)'", "boats"), "berths"),
    "no NOT NULL": (SCHEMA.format("' NOT NULL'", "''", "owners"), "table owners: expected"),
    "another type": (SCHEMA.format("'length_m DECIMAL REAL'", "'length_m BLOB'", "boats"), "length_m DECIMAL REAL"),
    "another collation": (SCHEMA.format("'phone TEXT'", "'phone TEXT COLLATE NOCASE'", "owners"), "COLLATE NOCASE"),
    "no key": (SCHEMA.format("'PRIMARY KEY (owner_id)'", "'CHECK (1)'", "owners"), "table owners: expected"),
}


@pytest.mark.parametrize("change", CHANGES)
def test_whatever_is_changed_in_a_target_is_named(change: str, tmp_path: Path, loaded_yard: Path) -> None:
    folder = Path(shutil.copytree(loaded_yard, tmp_path / "yard"))
    statements, expected = CHANGES[change]
    database = sqlite3.connect(folder / "yard.sqlite", isolation_level=None)
    database.executescript(statements)
    database.close()
    ran = hemplit("prove", "yard.design.toml", "--into", "yard.sqlite", folder=folder)
    assert (ran.code, ran.err) == (1, "")
    assert expected in " ".join(ran.out.split())
    assert "NOT verified" in ran.out
    if change == "bytes that are no text":
        asked = ("--of", "number of jobs", "--by", "Remarks")
        shown = hemplit("tally", "yard.design.toml", "--into", "yard.sqlite", *asked, folder=folder)
        assert "bytes FF41" in shown.out, shown.err


@pytest.fixture(scope="module")
def loaded_yard(tmp_path_factory: pytest.TempPathFactory, yard: Path) -> Path:
    """A folder with the job sheet, its design, and the database."""
    folder = tmp_path_factory.mktemp("loaded")
    shutil.copy(yard / "jobs.csv", folder)
    assert hemplit("load", "jobs.csv", "--into", "yard.sqlite", folder=folder).code == 0
    return folder


def test_nothing_is_overwritten_unasked(jobs: Path) -> None:
    folder = jobs.parent
    assert hemplit("load", "jobs.csv", "--into", "yard.sqlite", folder=folder).code == 0
    before = (folder / "yard.sqlite").read_bytes()
    refused = hemplit("load", "jobs.csv", "--into", "yard.sqlite", folder=folder)
    assert (refused.code, "--replace" in refused.err) == (2, True)
    design = folder / "yard.design.toml"
    assert hemplit("draft", "jobs.csv", "--out", design, folder=folder).code == 0
    design.write_text(design.read_text(encoding="utf-8").replace('"entity"', '"lookup"', 1), encoding="utf-8")
    edited = design.read_bytes()
    refused = hemplit("load", "jobs.csv", "--into", "yard.sqlite", "--replace", folder=folder)
    assert (refused.code, "somebody has edited this design" in refused.err) == (2, True)
    told = hemplit("draft", "jobs.csv", "--out", design, folder=folder)
    assert (told.code, "so it was kept" in told.out, design.read_bytes()) == (0, True, edited)
    assert (folder / "yard.sqlite").read_bytes() == before
    assert hemplit("draft", "jobs.csv", "--out", design, "--replace", folder=folder).code == 0


def test_a_failing_load_leaves_the_old_target(jobs: Path) -> None:
    folder = jobs.parent
    hemplit("load", "jobs.csv", "--into", "yard.sqlite", folder=folder)
    before = (folder / "yard.sqlite").read_bytes()
    jobs.write_text(jobs.read_text(encoding="utf-8").replace("4002,", "4001,", 1), encoding="utf-8")
    ran = hemplit("load", "yard.design.toml", "--into", "yard.sqlite", "--replace", folder=folder)
    assert ran.code == 2
    assert "and no two jobs may have the same" in ran.err
    assert "row 2 and again in row 3" in ran.err
    assert (folder / "yard.sqlite").read_bytes() == before
    assert not list(folder.glob("*.unfinished"))


def test_dependencies_as_json(jobs: Path) -> None:
    ran = hemplit("dependencies", "jobs.csv", "--depth", "1", "--json", folder=jobs.parent)
    found = json.loads(ran.out)
    pairs = {(tuple(one["left"]), one["right"]) for one in found["dependencies"]}
    assert (("Berth",), "Dock") in pairs
    assert (("Dock",), "Berth") not in pairs
    assert found["keys"] == [["Job No"]]


def test_as_is_takes_texts_unchanged(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("Amount,Boat\n2.5,Teal\n2.50,Smew\n,x\n", encoding="utf-8")
    as_is = json.loads(hemplit("dependencies", "a.csv", "--as-is", "--json", folder=tmp_path).out)
    shaped = json.loads(hemplit("dependencies", "a.csv", "--json", folder=tmp_path).out)
    assert ["Amount"] in as_is["keys"]
    assert ["Amount"] not in shaped["keys"]


@pytest.mark.slow
def test_the_demo_is_the_same_every_time(tmp_path: Path) -> None:
    ran = hemplit("demo", "one", folder=tmp_path)
    assert ran.code == 0
    assert ran.out.count("Verified:") == 2
    hemplit("demo", "two", folder=tmp_path)
    for path in sorted((tmp_path / "one").rglob("*")):
        if path.is_file():
            assert path.read_bytes() == (tmp_path / "two" / path.relative_to(tmp_path / "one")).read_bytes(), path


@pytest.mark.parametrize("command", ["look", "dependencies", "draft", "load", "prove", "demo"])
def test_help_shows_an_example(command: str, tmp_path: Path) -> None:
    ran = hemplit(command, "--help", folder=tmp_path)
    assert ran.code == 0
    assert f"example:\n  hemplit {command} " in ran.out


def test_the_program_as_it_is_installed(tmp_path: Path) -> None:
    program = Path(sysconfig.get_path("scripts"), f"hemplit{sysconfig.get_config_var('EXE') or ''}")
    ran = subprocess.run([program, "demo", "yard"], cwd=tmp_path, capture_output=True, encoding="utf-8", check=False)
    assert (ran.returncode, "Verified:" in ran.stdout) == (0, True)
    assert same_cells(tmp_path / "yard" / "jobs.csv", tmp_path / "yard" / "boatyard.sqlite", "jobs_sheet")
    wrong = subprocess.run([program, "look", "none.csv"], capture_output=True, encoding="utf-8", check=False)
    assert (wrong.returncode, wrong.stdout, wrong.stderr.count("\n")) == (2, "", 1)
