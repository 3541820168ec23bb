"""Files split inside an engine become the same tables as in memory, and what only late rows say is found."""

from __future__ import annotations

import csv
import json
from collections.abc import Sequence
from pathlib import Path
from random import Random

import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pyarrow import parquet

from conftest import hemplit
from hemplit.engines.fill import Fill
from hemplit.files import pieces
from hemplit.flow import in_engine
from worlds import world

pytest.importorskip("duckdb")
ROWS = 1_200
HEADER = ("Job No", "Boat Reg", "Boat", "Owner", "Opened", "Hours", "Rate", "Cost", "Part 1", "Part 2", "Status")


def line(at: int) -> list[object]:
    """A row of a sheet of jobs in which a boat decides its name and owner."""
    random = Random(at)
    boat, hours, rate = random.randrange(40), random.randint(1, 6), 40 + random.randrange(5) * 2.5
    parts = [f"part {random.randrange(9)}", f"part {random.randrange(9)}" if random.random() < 0.7 else None]
    opened = f"2026-0{random.randint(1, 9)}-1{random.randint(1, 9)}"
    told = [f"MQ-{boat}", f"Boat {boat}", f"Owner {boat % 13}", opened, hours, rate, hours * rate]
    return [4000 + at, *told, *parts, random.choice(["open", "done", "paid"])]


def written(folder: Path, rows: Sequence[Sequence[object]], name: str = "jobs.parquet") -> Path:
    """A Parquet file of small groups of rows."""
    columns = zip(*rows, strict=True)
    table = pa.table({header: pa.array(list(values)) for header, values in zip(HEADER, columns, strict=True)})
    parquet.write_table(table, folder / name, row_group_size=100)
    return folder / name


def held(folder: Path) -> dict[str, list[str]]:
    """The rows of each table in a folder, whatever the order."""
    return {file.name: sorted(map(str, parquet.read_table(file).to_pylist())) for file in folder.glob("*.parquet")}


@pytest.fixture
def in_small_pieces(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(in_engine, "SAMPLE", 200)
    monkeypatch.setattr(pieces, "ROWS", 170)
    monkeypatch.setattr(pieces, "RUNS", 4)


@settings(max_examples=40)
@given(seed=st.integers(0, 10_000), rows=st.sampled_from([12, 60, 400]))
def test_an_engine_makes_the_same_tables_as_memory(
    seed: int, rows: int, tmp_path_factory: pytest.TempPathFactory
) -> None:
    folder = tmp_path_factory.mktemp("lake")
    made = world(seed, rows)
    with (folder / "yard.csv").open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows([made.headers, *zip(*made.columns, strict=True)])
    inside = hemplit("load", "yard.csv", "--into", "one/", "--engine", "duckdb", folder=folder)
    beside = hemplit("load", "yard.csv", "--into", "two/", "--parquet", folder=folder)
    assert inside.err.count("hemplit:") == 0, inside.err
    tables, others = held(folder / "one"), held(folder / "two")
    if "Changed cells" not in beside.out:  # an engine corrects nothing
        assert tables == others
        described = [json.loads((folder / name / "tables.json").read_text(encoding="utf-8")) for name in ("one", "two")]
        assert described[0] == described[1]
    assert inside.code == 0 and "Verified" in inside.out


@pytest.mark.usefixtures("in_small_pieces")
def test_a_sample_and_pieces_make_the_same_tables_as_all_rows_at_once(tmp_path: Path) -> None:
    written(tmp_path, [line(at) for at in range(ROWS)])
    ran = hemplit("load", "jobs.parquet", "--into", "lake/", "--engine", "duckdb", folder=tmp_path)
    assert ran.code == 0, ran.err
    assert "Drafted from 200 of 1,200 rows, and verified on all of them." in ran.err
    hemplit("load", "jobs.parquet", "--into", "memory/", "--parquet", folder=tmp_path)
    assert held(tmp_path / "lake") == held(tmp_path / "memory")
    parts = tmp_path / "months"
    parts.mkdir()
    written(parts, [line(at) for at in range(500)], "april.parquet")
    written(parts, [line(at) for at in range(500, ROWS)], "may.parquet")
    hemplit("load", "months", "--into", "both/", "--engine", "duckdb", folder=tmp_path)
    assert [*map(len, held(tmp_path / "both").values())] == [*map(len, held(tmp_path / "lake").values())]


LATE = 170  # no run of the sample has this row
CHANGES: dict[str, tuple[dict[str, object], str]] = {
    "a boat that has another owner": ({"Owner": "Somebody Else"}, "do not all say the same under 'Owner'"),
    "a text among numbers": ({"Hours": "about 5"}, "'about 5' under 'Hours' is no whole number"),
    "a number that is there twice": ({"Job No": 4000 + LATE - 1}, "rows have the same 'Job No'"),
    "a blank key": ({"Job No": None}, "'Job No' is blank"),
    "a sum that does not agree": ({"Cost": 1.5}, "'Cost' is not what its formula gives"),
    "a blank where none was": ({"Status": None}, "'Status' is blank"),
}


@pytest.mark.usefixtures("in_small_pieces")
@pytest.mark.parametrize("change", CHANGES)
def test_what_one_late_row_says_against_the_draft_is_told_with_the_row_and_nothing_is_lost(
    change: str, tmp_path: Path
) -> None:
    cells, said = CHANGES[change]
    rows = [line(at) for at in range(ROWS)]
    for header, value in cells.items():
        rows[LATE][HEADER.index(header)] = value
    if change == "a text among numbers":
        rows = [[str(cell) if at == HEADER.index("Hours") else cell for at, cell in enumerate(row)] for row in rows]
    written(tmp_path, rows)
    ran = hemplit("load", "jobs.parquet", "--into", "lake/", "--engine", "duckdb", "--json", folder=tmp_path)
    assert ran.code == 1, ran.err
    told = json.loads(ran.out)["told"]
    assert any(said in one["what"] and f"row {LATE + 2}" in one["places"] for one in told), told
    hemplit("load", "jobs.parquet", "--into", "memory/", "--parquet", folder=tmp_path)
    stored = {str(cell) for file in (tmp_path / "lake").glob("*.parquet") for column in parquet.read_table(file).columns
              for cell in column.to_pylist()}  # fmt: skip
    assert {str(cell) for cell in cells.values()} <= stored | {"1.5"}


@pytest.mark.usefixtures("in_small_pieces")
def test_a_design_that_somebody_edited_is_kept_and_late_rows_that_contradict_it_are_refused(tmp_path: Path) -> None:
    rows = [line(at) for at in range(ROWS)]
    written(tmp_path, rows)
    hemplit("load", "jobs.parquet", "--into", "lake/", "--engine", "duckdb", folder=tmp_path)
    design = tmp_path / "lake.design.toml"
    text = design.read_text(encoding="utf-8").replace("[tables.boats]", "[tables.hulls]").replace('"boats"', '"hulls"')
    design.write_text(text, encoding="utf-8")
    call = ("load", "lake.design.toml", "--into", "mine/", "--engine", "duckdb")
    assert hemplit(*call, folder=tmp_path).code == 0
    assert (tmp_path / "mine" / "hulls.parquet").exists() and design.read_text(encoding="utf-8") == text
    rows[LATE][HEADER.index("Owner")] = "Somebody Else"
    written(tmp_path, rows)
    ran = hemplit(*call, "--replace", folder=tmp_path)
    assert ran.code == 2 and "line " in ran.err and "(tables.hulls.columns." in ran.err, ran.err
    assert f"row {LATE + 2} and row " in ran.err and "do not all say the same under 'Owner'" in ran.err
    step = '  { do = "skip duplicate rows", key = ["Job No"] },\n]\n'
    whole = text.replace("\n]\n", f"\n{step}", 1)
    design.write_text(whole, encoding="utf-8")
    ran = hemplit(*call, "--replace", folder=tmp_path)
    assert ran.code == 2 and "an engine cannot do the step 'skip duplicate rows'" in ran.err, ran.err


@pytest.mark.usefixtures("in_small_pieces")
def test_rows_that_get_lost_on_the_way_are_found_and_nothing_is_written(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    written(tmp_path, [line(at) for at in range(ROWS)])
    whole = Fill.rows
    monkeypatch.setattr(Fill, "rows", lambda fill, plan: f"SELECT * FROM ({whole(fill, plan)}) AS found LIMIT 30")
    ran = hemplit("load", "jobs.parquet", "--into", "lake/", "--engine", "duckdb", folder=tmp_path)
    assert ran.code == 2 and "NOT verified: " in ran.err
    assert [path.name for path in tmp_path.iterdir()] == ["jobs.parquet"]


@pytest.mark.parametrize(
    ("call", "said"),
    [
        ("jobs.parquet --into lake/ --engine duck", "there is no such engine; did you mean 'duckdb'?"),
        ("jobs.parquet --into lake.sqlite --engine duckdb", "an engine writes a folder of Parquet files"),
        ("jobs.parquet jobs.parquet --into lake/ --engine duckdb", "an engine takes one sheet"),
        ("jobs.parquet --into lake/ --engine duckdb --area A1:B2", "--area: an engine does not take it"),
        ("jobs.parquet --into lake/ --engine duckdb --memory much", "--memory much: this is no amount"),
        ("jobs.parquet --into lake/ --memory 4GB", "only an engine keeps to it"),
        ("none.parquet --into lake/ --engine duckdb", "there is no such file"),
        ("jobs.xlsx --into lake/ --engine duckdb", "an engine reads .parquet, .csv, .tsv, .tab"),
        ("torn.csv --into lake/ --engine duckdb", "torn.csv: it cannot be read"),
        ("two --into lake/ --engine duckdb", "it has other columns than"),
    ],
)
def test_what_an_engine_cannot_do_is_said_in_a_line(call: str, said: str, tmp_path: Path) -> None:
    written(tmp_path, [line(at) for at in range(30)])
    (tmp_path / "jobs.xlsx").write_bytes(b"PK")
    (tmp_path / "torn.csv").write_text("Job No,Boat\n1,Teal\n2\n", encoding="utf-8")
    (tmp_path / "two").mkdir()
    for name, header in (("a", "Job No"), ("b", "Boat")):
        (tmp_path / "two" / f"{name}.csv").write_text(f"{header},Hours\n1,2\n", encoding="utf-8")
    before = sorted(tmp_path.rglob("*"))
    ran = hemplit("load", *call.split(), folder=tmp_path)
    assert ran.code == 2 and said in ran.err and ran.err.count("\n") == 1, ran.err
    assert sorted(tmp_path.rglob("*")) == before
