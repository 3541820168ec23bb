"""What people do with totals: read them, save and draw them, learn the statement, and ask what cannot be asked."""

from __future__ import annotations

import csv
import shlex
import sqlite3
from contextlib import closing
from pathlib import Path
from random import Random

import openpyxl
import pytest

from conftest import hemplit

DESIGN, HELD = "yard.design.toml", "yard.sqlite"
MONTHS = ("--of", "Labour Cost, number of jobs", "--by", "month of Opened", "--across", "Status")


@pytest.fixture(scope="module")
def held(tmp_path_factory: pytest.TempPathFactory, yard: Path) -> Path:
    folder = tmp_path_factory.mktemp("tallies")
    for name in ("jobs.csv", "parts-used.csv", "crew-roster.xlsx"):
        (folder / name).write_bytes((yard / name).read_bytes())
    assert hemplit("draft", "jobs.csv", "parts-used.csv", "crew-roster.xlsx", "--out", DESIGN, folder=folder).code < 2
    assert hemplit("load", DESIGN, "--into", HELD, folder=folder).code < 2
    return folder


def tally(folder: Path, *words: str, code: int = 0) -> str:
    ran = hemplit("tally", DESIGN, "--into", HELD, *words, folder=folder)
    assert ran.code == code, ran.out + ran.err
    return ran.out + ran.err


def test_the_statement_is_what_was_asked(held: Path) -> None:
    text = tally(held, "--of", "average of Labour Cost", "--by", "Owner", "--where", "Status = done", "--sql")
    tally(held, "--of", "average of Labour Cost", "--by", "Owner", "--where", "Status = done", "--out", "cost.csv")
    assert text.startswith("-- average of Labour Cost by Owner: each row of jobs counts once.")
    with closing(sqlite3.connect(held / HELD)) as connection:
        found = {name or "(none)": round(number, 4) for name, number in connection.execute(text)}
    with (held / "cost.csv").open(encoding="utf-8", newline="") as file:
        header, *rows = csv.reader(file)
    assert header == ["Owner", "average of Labour Cost"]
    assert found == {name: pytest.approx(float(number), abs=1e-4) for name, number in rows[:-1]}
    assert rows[-1][0] == "total"


def test_rows_and_columns_have_their_totals(held: Path) -> None:
    tally(held, *MONTHS, "--out", "months.xlsx")
    header, *rows = openpyxl.load_workbook(held / "months.xlsx").active.iter_rows(values_only=True)
    for measure in ("Labour Cost", "number of jobs"):
        places = [at for at, name in enumerate(header) if name.startswith(measure) and not name.endswith("total")]
        whole = header.index(f"{measure}, total")
        for row in rows:
            assert sum(row[at] or 0 for at in places) == pytest.approx(row[whole])
        assert sum(row[whole] for row in rows[:-1]) == pytest.approx(rows[-1][whole])
    assert rows[-1][header.index("number of jobs, total")] == 400


@pytest.mark.slow
@pytest.mark.parametrize(("ending", "begins"), [("png", b"\x89PNG"), ("svg", b"<?xml"), ("pdf", b"%PDF")])
def test_a_picture_is_the_same_every_time(held: Path, ending: str, begins: bytes) -> None:
    drawn = []
    for words in (MONTHS, MONTHS, ("--of", "Labour Cost", "--by", "Owner")):
        tally(held, *words, "--out", f"chart.{ending}")
        drawn.append((held / f"chart.{ending}").read_bytes())
    assert drawn[0].startswith(begins)
    assert drawn[0] == drawn[1] != drawn[2]


@pytest.mark.parametrize(
    ("header", "is_added"), [("Phone", False), ("Invoice No", False), ("Year", False), ("Phone Cost", True)]
)
def test_telephones_years_and_numbers_of_things_are_not_added_up(tmp_path: Path, header: str, is_added: bool) -> None:
    owners = ("Berg", "Falk", "Aas")
    lines = [f"J{100 + at},{owners[at % 3]},{2018 + at * at * 7 % 11}" for at in range(12)]
    (tmp_path / "jobs.csv").write_text("\n".join([f"Job,Owner,{header}", *lines]), "utf-8")
    loaded = hemplit("load", "jobs.csv", "--into", "yard.sqlite", "--width", "200", folder=tmp_path).out
    assert ("number of jobs" in loaded.replace("'", ""), header in loaded.split("Next")[1]) == (not is_added, is_added)


def test_what_can_be_asked_is_suggested_and_answered(held: Path) -> None:
    suggested = [line.strip().removeprefix("Next ") for line in tally(held, "--width", "200").splitlines()]
    assert 3 <= len(suggested) <= 5
    loaded = hemplit("load", DESIGN, "--into", HELD, "--replace", "--width", "200", folder=held).out
    assert suggested[0] in loaded
    for line in suggested:
        ran = hemplit(*shlex.split(line)[1:], folder=held)
        assert ran.code == 0 and "say the same" in ran.out, line


REFUSED = {
    ("--of", "Labour Cost", "--by", "Crew"): "a row of jobs counts once in 'Labour Cost', and may have several 'Crew'",
    ("--of", "Labour Csot"): "did you mean 'Labour Cost'?",
    ("--of", "Labour Cost", "--by", "job_no"): "several tables have a column 'job_no'; say which: ",
    ("--of", "Remarks"): "'Remarks' holds texts, which cannot be added up",
    ("--of", "Job No"): "is no amount",
    ("--of", "Labour Cost", "--by", "month of Owner"): "'Owner' holds no dates, so it has no month",
    ("--of", "Labour Cost", "--where", "Opened > soon"): "'soon' is no date; write a date like YYYY-MM-DD",
    ("--of", "Labour Cost", "--where", "Owner"): "this is no condition",
    ("--of", "Labour Cost", "--out", "cost.doc"): "no table and no picture ends so",
    ("--by", "Owner"): "it is not said what to add up",
}


@pytest.mark.parametrize("words", REFUSED, ids=" ".join)
def test_what_cannot_be_asked_is_said_to_be_so(held: Path, words: tuple[str, ...]) -> None:
    said = tally(held, *words, code=2)
    assert REFUSED[words] in said and said.count("\n") == 1


def test_a_role_is_never_taken_for_another(tmp_path: Path) -> None:
    """The dock that a boat leaves is not the dock that it goes to, whichever sheet the boats' moves are counted in."""
    random = Random(1)
    docks = {f"B{at:02}": ["West Dock", "Fish Quay", "Old Basin"][at % 3] for at in range(12)}
    moves = [(f"{300 + at}", *random.sample([*docks], 2), f"{at % 4 + 1}") for at in range(60)]
    with (tmp_path / "moves.csv").open("w", encoding="utf-8", newline="") as file:
        rows = ([number, one, docks[one], two, docks[two], hours] for number, one, two, hours in moves)
        csv.writer(file).writerows([["Move", "From Berth", "From Dock", "To Berth", "To Dock", "Hours"], *rows])
    assert hemplit("load", "moves.csv", "--into", HELD, folder=tmp_path).code < 2
    for header, at in (("From Dock", 1), ("To Dock", 2)):
        words = ("--of", "Hours", "--by", header, "--out", "hours.csv")
        ran = hemplit("tally", DESIGN, "--into", HELD, *words, folder=tmp_path)
        assert ran.code == 0 and "say the same" in ran.out
        with (tmp_path / "hours.csv").open(encoding="utf-8", newline="") as file:
            _, *rows = csv.reader(file)
        wanted: dict[str, int] = {}
        for move in moves:
            wanted[docks[move[at]]] = wanted.get(docks[move[at]], 0) + int(move[3])
        assert {name: int(hours) for name, hours in rows[:-1]} == wanted
    for name in ("berths.berth", "docks.name"):
        ran = hemplit("tally", DESIGN, "--into", HELD, "--of", "Hours", "--by", name, folder=tmp_path)
        assert (ran.code, "several ways from moves" in ran.err) == (2, True)
    ran = hemplit("tally", DESIGN, "--into", HELD, "--of", "berths", "--by", "From Dock", folder=tmp_path)
    assert ran.code == 0 and "not compared with the sheets" in ran.out


def test_what_another_sheet_names_in_a_role_is_not_what_this_one_names(tmp_path: Path) -> None:
    random = Random(1)
    berths = [f"B{at:02}" for at in range(12)]
    sheets = {
        "moves": (
            "Move,From Berth,To Berth,Hours",
            [(at, *random.sample(berths, 2), at % 4) for at in range(300, 360)],
        ),
        "berths": ("Berth,Dock,Metres", [(berth, f"Dock {at % 3}", at + 10) for at, berth in enumerate(berths)]),
        "visits": ("Visit,Berth,Nights", [(at, random.choice(berths), at % 5 + 1) for at in range(900, 940)]),
    }
    for name, (header, rows) in sheets.items():
        with (tmp_path / f"{name}.csv").open("w", encoding="utf-8", newline="") as file:
            csv.writer(file).writerows([header.split(","), *rows])
    assert hemplit("load", *(f"{name}.csv" for name in sheets), "--into", HELD, folder=tmp_path).code < 2
    for of, by, said in (
        ("Nights", "Dock", "say the same"),
        ("Hours", "From Berth", "say the same"),
        ("Nights", "From Berth", "nothing leads from visits, whose rows count in 'Nights', to 'From Berth'"),
        ("Hours", "Dock", "there are several ways from moves to 'Dock' (from_berth or to_berth)"),
    ):
        assert said in tally(tmp_path, "--of", of, "--by", by, code=0 if said == "say the same" else 2)
