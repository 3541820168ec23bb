"""Next month's file is added to what is loaded: known things keep their ids, and nothing is silent."""

from __future__ import annotations

import json
import os
import random
import signal
import sqlite3
import subprocess
import sys
import time
from contextlib import closing
from functools import partial
from pathlib import Path
from types import SimpleNamespace

import pytest
import xlsxwriter

from conftest import Ran, hemplit, same_cells

HEADER = "Job,Boat Reg,Boat,Owner,Berth,Status,Hours,Rate,Cost"
OWNERS = ["Elske Visser", "Aldo Brandt", "Ines Sund", "Gerrit Tamsin", "Nuala Keel"]


def job(number: int, boat: int, **other: str) -> str:
    chance = random.Random(number)
    hours, rate, status = chance.randrange(1, 9), chance.choice([20, 30, 40]), chance.choice(["open", "done", "paid"])
    cells = {
        "Job": str(number),
        "Boat Reg": f"MQ-{boat:02}",
        "Boat": f"Tern of Wick {boat * 37}",
        "Owner": OWNERS[boat % 5],
        "Berth": f"B{boat % 6}",
        "Status": status,
        "Hours": str(hours),
        "Rate": str(rate),
        "Cost": str(hours * rate),
    }
    return ",".join((cells | {name.replace("_", " "): cell for name, cell in other.items()}).values())


def write(folder: Path, name: str, *lines: str) -> None:
    (folder / name).write_text("\n".join([HEADER, *lines]) + "\n", encoding="utf-8")


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    write(tmp_path, "may.csv", *(job(at, at * 5 % 12) for at in range(400, 460)))
    assert hemplit("load", "may.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    return tmp_path


def topup(folder: Path, *given: str) -> Ran:
    return hemplit("topup", "yard.design.toml", *given, "--into", "yard.sqlite", folder=folder)


def prove(folder: Path) -> Ran:
    return hemplit("prove", "yard.design.toml", "--into", "yard.sqlite", folder=folder)


def rows(folder: Path, query: str) -> list[tuple[object, ...]]:
    with sqlite3.connect(folder / "yard.sqlite") as database:
        return database.execute(query).fetchall()


def said(ran: Ran) -> str:
    return " ".join(ran.out.split())


def test_berths_of_a_later_sheet_are_of_the_dock_that_heads_them(tmp_path: Path) -> None:
    """Also in a folder, where the last heading of one file heads nothing in the next."""
    sheet = "Berth,Boat,Owner\nNorth Dock,,\nA1,Teal,Keel\nA2,Smew,Lund\nSouth Dock,,\nB1,Knot,Holm\nB2,Rail,Keel\n"
    (tmp_path / "berths").mkdir()
    for month in ("2026-01", "2026-02"):
        (tmp_path / "berths" / f"{month}.csv").write_text(sheet.replace("Teal", f"Teal {month}"), encoding="utf-8")
    assert hemplit("load", "berths", "--into", "yard.sqlite", folder=tmp_path).code == 0
    later = "Berth,Boat,Owner\nEast Dock,,\nC1,Eider,Holm\nSouth Dock,,\nB3,Coot,Lund\n"
    (tmp_path / "2026-03.csv").write_text(later, encoding="utf-8")
    ran = hemplit("topup", "yard.design.toml", "2026-03.csv", "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.out + ran.err
    of_dock = 'SELECT "Berth", "Dock" FROM berths_sheet WHERE "Month" = \'2026-0{}\''
    with sqlite3.connect(tmp_path / "yard.sqlite") as database:
        assert sorted(database.execute(of_dock.format(3))) == [("B3", "South Dock"), ("C1", "East Dock")]
    (tmp_path / "berths" / "2026-02.csv").write_text(
        "Berth,Boat,Owner\nD1,Gull,Keel\nD2,Brent,Lund\nSouth Dock,,\nB1,Knot,Holm\n", encoding="utf-8"
    )
    design = tmp_path / "yard.design.toml"
    design.write_text(design.read_text(encoding="utf-8").replace(", required = true", ""), encoding="utf-8")
    ran = hemplit("load", design, "--into", "other.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.out + ran.err
    with sqlite3.connect(tmp_path / "other.sqlite") as database:
        said = dict(database.execute(of_dock.format(2)).fetchall())
    assert said == {"D1": None, "D2": None, "B1": "South Dock"}


SIDEWAYS = """Boat,{0}
Reg,{1}
Rig,{2}
Length,{3}
Owner,{4}
Launched,{5}
"""


def on_its_side(*boats: str) -> str:
    told = [boat.split() for boat in boats]
    return SIDEWAYS.format(*(",".join(values) for values in zip(*told, strict=True)))


def test_a_sheet_on_its_side_is_turned_and_so_is_the_next(tmp_path: Path) -> None:
    """Even one of a single boat, which nobody would know for one; a cell is named by where it stands."""
    first = (
        "Teal M-1 sloop 7.5 Keel 2019-05-04",
        "Smew M-2 ketch 8.2 Lund 2020-06-01",
        "Knot M-3 sloop 9.1 Keel 2018-04-02",
    )
    (tmp_path / "boats.csv").write_text(on_its_side(*first), encoding="utf-8")
    assert hemplit("load", "boats.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    (tmp_path / "more.csv").write_text(on_its_side("Rail M-4 yawl 6.5 Holm 2021-07-30"), encoding="utf-8")
    ran = topup(tmp_path, "more.csv")
    assert (ran.code, "1 new row added" in said(ran)) == (0, True), ran.out + ran.err
    lines = rows(tmp_path, "SELECT * FROM boats_sheet ORDER BY 2")
    boats = [one.split() for one in (*first, "Rail M-4 yawl 6.5 Holm 2021-07-30")]
    assert [[str(cell) for cell in line] for line in lines] == boats
    assert prove(tmp_path).code == 0
    (tmp_path / "more.csv").write_text(on_its_side("Gull M-5 yawl long Holm 2021-07-30"), encoding="utf-8")
    assert "more.csv B4: 'long' under 'Length' is no decimal" in topup(tmp_path, "more.csv").err
    design = tmp_path / "yard.design.toml"
    text = "".join(line for line in design.read_text(encoding="utf-8").splitlines(True) if "turn the sheet" not in line)
    design.write_text(text, encoding="utf-8")
    assert hemplit("load", design, "--into", "other.sqlite", folder=tmp_path).code == 2


def form(number: int, owner: str, boat: str, *parts: str) -> str:
    heads = f"Job No,J-{number},\nOwner,{owner},\nBoat,{boat},\nDate,2026-03-{number:02},\n,,\nPart,Qty,Price\n"
    return heads + "\n".join(parts) + "\n"


@pytest.mark.parametrize("first", ["forms", "forms/J-1.csv"])
def test_a_later_form_is_another_job(first: str, tmp_path: Path) -> None:
    """Though there was but one so far; what labels say of a job stands once, and so do its lines."""
    (tmp_path / "forms").mkdir()
    given = {
        1: ("Keel", "Teal", "cleat,4,2.5", "rope,3,2"),
        2: ("Lund", "Smew", "rope,6,2"),
        3: ("Keel", "Teal", "oar,2,9"),
    }
    for number, told in given.items():
        (tmp_path / ("forms" if number < 3 else "") / f"J-{number}.csv").write_text(
            form(number, *told), encoding="utf-8"
        )
    ran = hemplit("load", first, "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.out + ran.err
    for later in () if first == "forms" else ("forms/J-2.csv",):
        assert topup(tmp_path, later).code == 0
    ran = topup(tmp_path, "J-3.csv")
    assert (ran.code, "1 new row added" in said(ran)) == (0, True), ran.out + ran.err
    view = next(name for (name,) in rows(tmp_path, "SELECT name FROM sqlite_master WHERE name LIKE '%sheet'"))
    headers = {name for (name,) in rows(tmp_path, f"SELECT name FROM pragma_table_info('{view}')")}
    assert headers == {"Part", "Qty", "Price", "Job No", "Owner", "Boat", "Date"}
    lines = rows(tmp_path, f'SELECT "Job No", "Owner", "Date", "Part", "Qty" FROM {view} ORDER BY 1, 4')
    assert lines == [
        ("J-1", "Keel", "2026-03-01", "cleat", 4),
        ("J-1", "Keel", "2026-03-01", "rope", 3),
        ("J-2", "Lund", "2026-03-02", "rope", 6),
        ("J-3", "Keel", "2026-03-03", "oar", 2),
    ]
    # The owner of a job stands once above its parts.
    assert "you now edit" not in hemplit("why", "yard.design.toml", "jobs", folder=tmp_path).out
    (tmp_path / "bare.csv").write_text("Part,Qty,Price\noar,2,9\n", encoding="utf-8")
    assert "! 1 row left out, as it contradicts the design" in topup(tmp_path, "bare.csv").out
    assert rows(tmp_path, "SELECT job_no, date FROM jobs") == [(f"J-{at}", f"2026-03-{at:02}") for at in (1, 2, 3)]


@pytest.mark.parametrize("price", ["", " @ £4.50"])
def test_a_value_without_its_number_is_left_out_and_told(price: str, tmp_path: Path) -> None:
    may = f'Order,Parts\n1,"2x rope{price}, 1x mast{price}"\n2,1x oar{price}\n3,"3x rope{price}, 1x oar{price}"\n'
    (tmp_path / "may.csv").write_text(may, encoding="utf-8")
    assert hemplit("load", "may.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    june = f'Order,Parts\n4,"1x rope{price}, 5x cleat{price}"\n5,"1x oar{price}, 1x mast"\n6,mast{price}\n'
    (tmp_path / "june.csv").write_text(june if price else june.replace("1x mast", "mast"), encoding="utf-8")
    ran = topup(tmp_path, "june.csv")
    odd = f"'1x oar{price}, {'1x ' if price else ''}mast'"
    assert (ran.code, f"was not made for B3 {odd}, B4 'mast{price}' under 'Parts'" in said(ran)) == (1, True), ran.out
    assert rows(tmp_path, 'SELECT "Order", "Parts", "Quantity" FROM may_sheet')[2:] == [
        (3, "rope, oar", "3, 1"),
        (4, "rope, cleat", "1, 5"),
    ]
    assert rows(tmp_path, "SELECT sum(quantity) FROM order_parts") == [(14,)]
    (tmp_path / "july.csv").write_text("Order,Parts\n7,\n8,\n", encoding="utf-8")
    assert topup(tmp_path, "july.csv").code == 0
    assert rows(tmp_path, 'SELECT "Order" FROM may_sheet WHERE "Parts" IS NULL') == [(7,), (8,)]


@pytest.mark.parametrize(
    ("instead", "what"),
    [
        ('names = ["Owner"]', "needs labels and as many names, or a heading"),
        ('names = ["Owner", "Owner", "Boat", "Date"]', "a label or a name stands twice"),
        (
            'names = ["Job No", "Owner", "Boat", "Date"], heading = "Dock"',
            "needs labels and as many names, or a heading",
        ),
    ],
)
def test_what_a_step_for_forms_leaves_open_is_told(instead: str, what: str, tmp_path: Path) -> None:
    (tmp_path / "may.csv").write_text(form(1, "Keel", "Teal", "cleat,4,2.5", "rope,3,2"), encoding="utf-8")
    assert hemplit("draft", "may.csv", "--out", "yard.design.toml", folder=tmp_path).code == 0
    design = tmp_path / "yard.design.toml"
    text = design.read_text(encoding="utf-8").replace('names = ["Job No", "Owner", "Boat", "Date"]', instead)
    design.write_text(text, encoding="utf-8")
    ran = hemplit("load", design, "--into", "yard.sqlite", folder=tmp_path)
    assert (ran.code, what in ran.err) == (2, True), ran.err


def test_what_would_stand_in_no_row_of_a_form_is_left_out_and_told(tmp_path: Path) -> None:
    sheet = "Dock:,{0}\nKeeper:,{1}\n{2}Berth,Boat\n{3}\n,\n"
    forms = [("North", "Ann", "", "A1,Teal\nA2,Smew"), ("South", "Bo", "Printed:,2026-03-01\n", "B1,Knot")]
    (tmp_path / "may.csv").write_text("".join(sheet.format(*form) for form in forms), encoding="utf-8")
    ran = hemplit("load", "may.csv", "--into", "yard.sqlite", folder=tmp_path)
    assert (ran.code, "Printed:, 2026-03-01" in ran.out) == (0, True), ran.out + ran.err
    forms = [("West", "Cas", "", ""), ("North", "Ann", "Depth:,low\n", "A3,Gull"), ("East", "Dee", "", "C1,Rail")]
    (tmp_path / "june.csv").write_text("".join(sheet.format(*form) for form in forms), encoding="utf-8")
    ran = topup(tmp_path, "june.csv")
    assert ran.code == 1, ran.out + ran.err
    assert "a form has no lines, and is left out: A1 'Dock: West'" in said(ran)
    assert "a label is new, and is left out: A8 'Depth: low'" in said(ran)
    assert rows(tmp_path, "SELECT berth, docks.name FROM berths JOIN docks USING (dock_id)")[2:] == [
        ("B1", "South"),
        ("A3", "North"),
        ("C1", "East"),
    ]


@pytest.mark.parametrize("below", ["Closed for repair until the autumn,,", "Total,,0"])
def test_a_remark_or_a_total_is_no_line_of_a_form(below: str, tmp_path: Path) -> None:
    lines = ("A1,Teal,2\nA2,Smew,5", "B1,Knot,4", below)
    forms = [f"Dock:,D{at},\nBerth,Boat,Days\n{some}\n" for at, some in enumerate(lines)]
    (tmp_path / "may.csv").write_text("".join(forms), encoding="utf-8")
    ran = hemplit("load", "may.csv", "--into", "yard.sqlite", folder=tmp_path)
    assert (ran.code, "a form has no lines, and is left out: A8 'Dock: D2'" in said(ran)) == (1, True), ran.out
    assert rows(tmp_path, "SELECT count(*) FROM berths") == [(3,)]


def test_what_is_new_is_added_and_ids_stay(folder: Path) -> None:
    before = rows(folder, "SELECT owner_id, name FROM owners")
    lines = [*(job(at, at % 12) for at in range(460, 480)), job(480, 31, Owner="Zoe Marsh", Status="on hold")]
    write(folder, "june.csv", job(459, 459 * 5 % 12), *lines)
    ran = topup(folder, "june.csv")
    assert ran.code == 0, ran.out + ran.err
    assert "22 rows: 21 new, 1 known already" in said(ran)
    assert "owners +1 6 Zoe Marsh" in said(ran)
    assert rows(folder, "SELECT owner_id, name FROM owners")[:5] == before
    assert rows(folder, "SELECT owner_id FROM owners WHERE name = 'Zoe Marsh'") == [(6,)]
    write(folder, "all.csv", *(job(at, at * 5 % 12) for at in range(400, 460)), *lines)
    assert same_cells(folder / "all.csv", folder / "yard.sqlite", "may_sheet")
    assert (prove(folder).code, "all 81 rows" in said(prove(folder))) == (0, True)


def test_the_same_file_twice_changes_nothing(folder: Path) -> None:
    write(folder, "june.csv", job(470, 3))
    assert topup(folder, "june.csv", "june.csv").code == 0
    content = (folder / "yard.sqlite").read_bytes()
    again = topup(folder, "june.csv", "may.csv")
    assert (again.code, again.err.count("was loaded already")) == (0, 2)
    assert (folder / "yard.sqlite").read_bytes() == content
    write(folder, "june.csv", job(470, 3), job(471, 4))
    changed = topup(folder, "june.csv")
    assert ("has changed since it was loaded" in changed.err, "jobs +1 62" in said(changed)) == (True, True)


@pytest.mark.parametrize(("how", "berth", "count"), [("stop", "B3", 60), ("keep", "B3", 62), ("update", "Z9", 62)])
def test_what_contradicts_is_told_and_handled_as_asked(folder: Path, how: str, berth: str, count: int) -> None:
    write(folder, "june.csv", job(470, 3, Berth="Z9"), job(471, 4))
    content = (folder / "yard.sqlite").read_bytes()
    ran = topup(folder, "june.csv", "--conflicts", how)
    assert ran.code == 1
    assert "boats MQ-03 Berth B3 Z9" in said(ran)
    assert rows(folder, "SELECT berth FROM boats WHERE boat_reg = 'MQ-03'") == [(berth,)]
    assert rows(folder, "SELECT count(*) FROM jobs") == [(count,)]
    assert ((folder / "yard.sqlite").read_bytes() == content) == (how == "stop")
    proven = prove(folder)
    assert (proven.code, "Nothing was lost" in proven.out) == (0 if how == "stop" else 1, how == "stop"), proven.out


def test_rows_that_contradict_the_design_are_left_out_and_the_rest_goes_in(folder: Path) -> None:
    lines = [job(470, 3), job(471, 4, Job=""), job(472, 5), job(472, 6), job(473, 7, Cost="1")]
    write(folder, "june.csv", *lines)
    strict = topup(folder, "june.csv", "--strict")
    assert (strict.code, rows(folder, "SELECT count(*) FROM jobs")) == (2, [(60,)])
    ran = topup(folder, "june.csv")
    assert (ran.code, "3 rows left out" in said(ran)) == (1, True)
    left = (folder / "yard.left-out.csv").read_text(encoding="utf-8")
    assert [line.split(",")[:2] for line in left.splitlines()[1:]] == [["june.csv", f"row {row}"] for row in (3, 5, 6)]
    assert rows(folder, "SELECT count(*) FROM jobs") == [(62,)]
    assert "On purpose: 3 rows left out" in said(prove(folder))


def test_several_names_that_stand_as_one_are_told(folder: Path, tmp_path: Path) -> None:
    """In a column that had one in each cell, and in one of lists between other signs than these have."""
    write(folder, "june.csv", job(470, 3, Status="open / done"))
    ran = topup(folder, "june.csv")
    assert (ran.code, "statuses has now 'open / done', which is 'open' and 'done'" in said(ran)) == (1, True), ran.out
    crews = ['"Aas, Berg"', "Berg", '"Dahl, Aas"', '"Aas, Dahl, Berg"', "Dahl", "Aas"]
    more = {"few": ["Aas; Berg", "Dahl"], "many": ["Aas; Dahl", "Dahl", "Aas"]}
    for name, rows_ in {"crews": crews, **more}.items():
        lines = [f"{name} {at},{crew}" for at, crew in enumerate(rows_)]
        (tmp_path / f"{name}.csv").write_text("\n".join(["Job,Crew", *lines]) + "\n", encoding="utf-8")
    assert hemplit("load", "crews.csv", "--into", "crews.sqlite", folder=tmp_path).code == 0
    for name, told in {"few": "is 'Aas' and 'Berg'", "many": "several values stand as one: B2 'Aas; Dahl'"}.items():
        ran = hemplit("topup", "crews.design.toml", f"{name}.csv", "--into", "crews.sqlite", folder=tmp_path)
        assert (ran.code, told in said(ran)) == (1, True), ran.out


def test_who_is_asked_what_to_keep_is_told_of_every_row_that_is_left_out_then(folder: Path) -> None:
    """A sum that is wrong in the one row; in another a boat that has another name now, and only by a typo."""
    (known,) = rows(folder, "SELECT name FROM boats WHERE boat_reg = 'MQ-03'")[0]
    write(folder, "june.csv", job(470, 3, Boat=str(known).replace("Wick", "Wikc")), job(471, 4), job(473, 7, Cost="1"))
    asked = topup(folder, "june.csv")
    assert (asked.code, "1 row would be left out" in said(asked), "typo?" in said(asked)) == (1, True, True), asked.out
    left = next(line for line in asked.out.splitlines() if "the tables would give back" in line)
    ran = topup(folder, "june.csv", "--conflicts", "keep")
    assert "1 row left out" in said(ran) and left in ran.out, ran.out
    assert rows(folder, "SELECT count(*) FROM jobs") == [(62,)]


def test_a_new_name_that_is_like_a_known_one_is_told_with_the_line_that_corrects_it(folder: Path) -> None:
    write(folder, "june.csv", job(470, 3), job(471, 40, Owner="Elske Viser"))
    ran = topup(folder, "june.csv")
    assert (ran.code, "owners has now 'Elske Viser', which is like 'Elske Visser'" in said(ran)) == (1, True)
    assert 'instead = "Elske Visser", of = "Elske Viser"' in said(ran)


def test_a_dry_run_says_all_and_writes_nothing(folder: Path) -> None:
    write(folder, "june.csv", job(470, 30))
    content = (folder / "yard.sqlite").read_bytes()
    ran = topup(folder, "june.csv", "--dry-run", "--json")
    told = json.loads(ran.out)
    assert {one["name"]: one["new"] for one in told["tables"]} | {"jobs": 1, "boats": 1} == {
        one["name"]: one["new"] for one in told["tables"]
    }
    assert (told["written"], (folder / "yard.sqlite").read_bytes() == content) == (False, True)


def test_a_column_that_is_new_is_left_out_when_asked(folder: Path) -> None:
    (folder / "june.csv").write_text(f"{HEADER},Crane\n{job(470, 3)},A\n", encoding="utf-8")
    ran = topup(folder, "june.csv", "--leave-out", "Crane")
    assert (ran.code, "1 new row added" in said(ran)) == (0, True), ran.out + ran.err
    proven = prove(folder)
    assert (proven.code, "left out by the design" in said(proven)) == (0, True), proven.out


def test_a_dry_run_of_a_load_shows_the_tables_and_writes_nothing(folder: Path) -> None:
    before = sorted(path.name for path in folder.iterdir())
    for given in ("may.csv", "yard.design.toml"):
        ran = hemplit("load", given, "--into", "other.sqlite", "--dry-run", folder=folder)
        assert (ran.code, "Verified: all 60 rows" in said(ran), "Nothing was written" in ran.err) == (0, True, True)
    assert sorted(path.name for path in folder.iterdir()) == before


def test_a_sheet_that_grows_is_added_to_and_proven(folder: Path) -> None:
    lines = [job(at, at * 5 % 12) for at in range(400, 460)]
    for last in (465, 470):
        write(folder, "may.csv", *lines, *(job(at, at % 14) for at in range(460, last)))
        assert topup(folder, "may.csv").code == 0
    assert (prove(folder).code, rows(folder, "SELECT count(*) FROM jobs")) == (0, [(70,)])


@pytest.mark.slow
def test_watching_adds_what_is_saved_until_it_is_stopped(folder: Path) -> None:
    command = [sys.executable, "-m", "hemplit", "topup", "yard.design.toml", ".", "--into", "yard.sqlite", "--watch"]
    # Where the tests run in the background, their children would ignore Ctrl-C.
    heed = {"preexec_fn": partial(signal.signal, signal.SIGINT, signal.SIG_DFL)} if os.name == "posix" else {}
    running = subprocess.Popen(command, cwd=folder, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, **heed)
    try:
        for number, name in ((470, "june.csv"), (471, "july.csv")):
            write(folder, name, job(number, 3))
            for _ in range(200):
                if rows(folder, f"SELECT count(*) FROM jobs WHERE job = {number}") == [(1,)]:
                    break
                time.sleep(0.1)
            assert rows(folder, f"SELECT count(*) FROM jobs WHERE job = {number}") == [(1,)]
        time.sleep(0.5)
        running.send_signal(signal.SIGINT)
        assert running.wait(30) == 0
    finally:
        running.kill()
        running.wait()


@pytest.mark.slow
def test_watching_tries_again_what_could_not_be_added(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Somebody else writes into the database, and the sheet does not change again; he has done after the first look."""
    write(folder, "june.csv", job(470, 3))
    other = sqlite3.connect(folder / "yard.sqlite", isolation_level=None)
    other.execute("BEGIN EXCLUSIVE")
    looks = iter((1, 0))

    def passing(seconds: float) -> None:
        left = next(looks, None)
        if left is None:
            raise KeyboardInterrupt
        if left == 1:
            other.close()

    monkeypatch.setattr("hemplit.cli.topup.time", SimpleNamespace(sleep=passing))
    ran = topup(folder, "june.csv", "--watch")
    assert (ran.code, ran.err.count("database is locked")) == (0, 1), ran.err
    assert rows(folder, "SELECT count(*) FROM jobs") == [(61,)]


def test_of_a_folder_only_what_was_not_loaded_is_taken(tmp_path: Path) -> None:
    months = tmp_path / "months"
    months.mkdir()
    for month, first in (("2026-04", 400), ("2026-05", 430)):
        write(months, f"{month}.csv", *(job(at, at * 5 % 12) for at in range(first, first + 30)))
    assert hemplit("load", "months", "--into", "yard.sqlite", folder=tmp_path).code == 0
    write(months, "2026-06.csv", *(job(at, at * 5 % 12) for at in range(460, 480)))
    proof = prove(tmp_path)
    assert (proof.code, "2026-06.csv not read, as it is not loaded yet" in said(proof)) == (1, True), proof.out
    ran = topup(tmp_path, "months")
    assert (ran.code, ran.err.count("was loaded already")) == (0, 2), ran.out + ran.err
    assert rows(tmp_path, "SELECT count(*) FROM jobs") == [(80,)]
    assert (prove(tmp_path).code, "all 80 rows" in said(prove(tmp_path))) == (0, True), prove(tmp_path).out
    # A file that is saved again with the same cells is no other; one with another cell is.
    may = months / "2026-05.csv"
    may.write_bytes(may.read_bytes().replace(b"\n", b"\r\n"))
    proof = prove(tmp_path)
    assert (proof.code, "2026-05.csv was saved again since it was loaded" in proof.err) == (0, True), proof.out
    may.write_bytes(may.read_bytes().replace(b"430,", b"899,"))
    assert "NOT verified" in prove(tmp_path).out


def test_the_proof_knows_what_was_added_and_who_changed_it(folder: Path) -> None:
    write(folder, "june.csv", job(470, 3), job(471, 4))
    topup(folder, "june.csv")
    with sqlite3.connect(folder / "yard.sqlite") as database:
        database.execute("UPDATE jobs SET hours = 99 WHERE job = 471")
    assert (prove(folder).code, "jobs.hours [471]" in said(prove(folder))) == (1, True)
    (folder / "june.csv").unlink()
    gone = prove(folder)
    assert (gone.code, "june.csv: it was added on" in said(gone), "no longer there" in said(gone)) == (1, True, True)


@pytest.mark.parametrize(
    ("name", "lines", "wanted"),
    [
        ("june.csv", ["Rope,Metres", "hemp,20"], "its columns are those of no sheet of the design ('may')"),
        ("june.csv", [HEADER + ",Crane", job(470, 3) + ",A"], "june.csv: its column 'Crane' is new"),
        (
            "june.csv",
            [HEADER.replace("Berth", "Place"), job(470, 3)],
            "it has no column 'Berth', and a new one 'Place'",
        ),
        ("june.csv", [HEADER[:-5], job(470, 3).rsplit(",", 1)[0]], "it has no column 'Cost'; put it back, with blank"),
        ("june.csv", [HEADER, job(470, 3, Hours="about 3")], "june.csv G2: 'about 3' under 'Hours'"),
        ("june.csv", [HEADER], "june.csv: there is a header and no row below it"),
        ("nowhere.csv", None, "there is no such file"),
    ],
)
def test_what_cannot_be_added_is_refused_in_a_line(
    folder: Path, name: str, lines: list[str] | None, wanted: str
) -> None:
    if lines is not None:
        (folder / name).write_text("\n".join(lines) + "\n", encoding="utf-8")
    content = (folder / "yard.sqlite").read_bytes()
    ran = topup(folder, name)
    assert (ran.code, wanted in ran.err, len(ran.err.splitlines())) == (2, True, 1), ran.err
    assert (folder / "yard.sqlite").read_bytes() == content


def test_sheets_that_belong_together_are_added_together(tmp_path: Path) -> None:
    (tmp_path / "boats.csv").write_text("Reg,Boat\n" + "".join(f"MQ-{at},Tern {at}\n" for at in range(10, 30)))
    (tmp_path / "lifts.csv").write_text(
        "Lift,Reg,Tonnes\n" + "".join(f"{at},MQ-{at % 20 + 10},{at % 7}\n" for at in range(1, 60))
    )
    assert hemplit("load", "boats.csv", "lifts.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    (tmp_path / "more-lifts.csv").write_text("Lift,Reg,Tonnes\n60,MQ-77,5\n61,MQ-12,3\n")
    (tmp_path / "more-boats.csv").write_text("Reg,Boat\nMQ-77,Knot\n")
    ran = topup(tmp_path, "more-lifts.csv", "more-boats.csv")
    assert ran.code == 0, ran.out + ran.err
    assert rows(tmp_path, "SELECT count(*) FROM lifts JOIN boats USING (reg)") == [(61,)]
    (tmp_path / "odd.csv").write_text("Lift,Reg,Tonnes\n62,MQ-99,5\n")
    odd = topup(tmp_path, "odd.csv")
    assert (odd.code, "MQ-99" in odd.out) == (1, True), odd.out + odd.err


@pytest.mark.slow
def test_a_topup_that_is_killed_leaves_the_old_state_or_the_new_one(folder: Path) -> None:
    write(folder, "june.csv", *(job(at, at % 60) for at in range(460, 2_000)))
    command = [sys.executable, "-m", "hemplit", "topup", "yard.design.toml", "june.csv", "--into", "yard.sqlite"]
    content = (folder / "yard.sqlite").read_bytes()
    started = time.monotonic()
    subprocess.run(command, cwd=folder, check=True, capture_output=True)
    whole = time.monotonic() - started
    new = rows(folder, "SELECT count(*) FROM jobs")
    chance = random.Random(4)
    for _ in range(10):
        (folder / "yard.sqlite").write_bytes(content)
        running = subprocess.Popen(command, cwd=folder, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        time.sleep(chance.uniform(0.2, 1.0) * whole)
        running.send_signal(signal.SIGKILL if hasattr(signal, "SIGKILL") else signal.SIGTERM)
        running.wait()
        assert rows(folder, "SELECT count(*) FROM jobs") in ([(60,)], new)
        assert prove(folder).code == 0


CREWS = ("Ann", "Cid", "Eve")


@pytest.fixture
def crews(tmp_path: Path) -> Path:
    """Jobs with a list of people each and a cost that is hours times rate, loaded."""
    lines = [f'{at},"{CREWS[at % 3]}, {CREWS[(at + 1) % 3]}",{at % 8 + 1},{at % 5 + 20}' for at in range(400, 460)]
    write_crews(tmp_path, "may.csv", *lines)
    assert hemplit("load", "may.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    return tmp_path


def write_crews(folder: Path, name: str, *lines: str) -> None:
    """Writes jobs; the cost is worked out where a line does not say it."""
    full = [line if line.endswith("!") else f"{line},{_cost(line)}" for line in lines]
    text = "\n".join(["Job,Crew,Hours,Rate,Cost", *(line.rstrip("!") for line in full)])
    (folder / name).write_text(text + "\n", encoding="utf-8")


def _cost(line: str) -> int:
    hours, rate = line.rsplit(",", 2)[1:]
    return int(hours) * int(rate)


def test_a_new_row_whose_key_is_lower_than_all_that_are_held_is_added_and_proven(crews: Path) -> None:
    write_crews(crews, "june.csv", '300,"Ann, Eve",6,30', '470,"Cid, Ann",1,40')
    ran = topup(crews, "june.csv")
    assert (ran.code, "Verified: 2 new rows" in ran.out) == (0, True), ran.out + ran.err
    assert prove(crews).code == 0


def test_a_known_row_that_computes_to_something_else_is_left_out_and_told(crews: Path) -> None:
    write_crews(crews, "june.csv", '401,"Eve, Ann",2,21,9999!', '470,"Cid, Ann",1,40')
    ran = topup(crews, "june.csv")
    assert ("1 row left out" in ran.out, "'9999'" in ran.out) == (True, True), ran.out + ran.err
    assert rows(crews, "SELECT count(*) FROM jobs") == [(61,)]


@pytest.mark.parametrize(("crew", "conflicts"), [("Eve", "keep"), ("Eve", "update"), ("Eve, Ann, Cid", "keep")])
def test_another_list_of_a_known_row_is_never_mixed_with_the_list_that_is_held(
    crews: Path, crew: str, conflicts: str
) -> None:
    content = (crews / "yard.sqlite").read_bytes()
    write_crews(crews, "june.csv", f'401,"{crew}",2,21', '470,"Cid, Ann",1,40')
    stopped = topup(crews, "june.csv")
    assert (stopped.code, "no such entry" in stopped.out) == (1, True), stopped.out + stopped.err
    assert (crews / "yard.sqlite").read_bytes() == content
    ran = topup(crews, "june.csv", "--conflicts", conflicts)
    assert ("401 has other entries under" in ran.out, "1 new row added" in ran.out) == (True, True), ran.out + ran.err
    assert prove(crews).code == 0


def test_a_list_of_a_known_row_becomes_longer_only_where_the_sheet_is_to_be_believed(crews: Path) -> None:
    write_crews(crews, "june.csv", '401,"Eve, Ann, Cid",2,21', '470,"Cid, Ann",1,40')
    ran = topup(crews, "june.csv", "--conflicts", "update")
    assert ("1 cell of known rows" in ran.out, "2 rows: 1 new" in ran.out) == (True, True), ran.out + ran.err
    assert rows(crews, 'SELECT "Crew" FROM may_sheet WHERE "Job" = 401') == [("Eve, Ann, Cid",)]
    assert "Verified: all 61 rows can be rebuilt" in prove(crews).out


def test_files_that_grow_in_turn_are_proven_whatever_ids_their_things_got(folder: Path) -> None:
    """A row of June came before the last one of May, so that no order of the files gives the ids that were given."""
    may = (folder / "may.csv").read_text(encoding="utf-8").splitlines()[1:]
    june = [job(500, 31, Owner="Zoe Marsh"), job(501, 1)]
    write(folder, "june.csv", *june)
    assert topup(folder, "june.csv").code == 0
    write(folder, "may.csv", *may, job(460, 32, Owner="Hedda Moor"))
    assert topup(folder, "may.csv").code == 0
    write(folder, "june.csv", *june, job(502, 33, Owner="Bram Lund"))
    assert topup(folder, "june.csv").code == 0
    ran = prove(folder)
    assert ran.code == 0, ran.out
    assert "all 64 rows can be rebuilt" in said(ran)
    with sqlite3.connect(folder / "yard.sqlite") as database:
        database.execute("UPDATE boats SET owner_id = 1 WHERE boat_reg = 'MQ-33'")
    ran = prove(folder)
    assert (ran.code, "boats, MQ-33: Owner: expected Bram Lund, found" in said(ran)) == (1, True), ran.out
    with sqlite3.connect(folder / "yard.sqlite") as database:
        owner = "SELECT owner_id FROM owners WHERE name = 'Bram Lund'"
        database.execute(f"UPDATE boats SET owner_id = ({owner}) WHERE boat_reg = 'MQ-33'")
        database.execute("INSERT INTO owners VALUES (99, 'Somebody Else')")
    ran = prove(folder)
    assert (ran.code, "table owners: expected no such row, found Somebody Else" in said(ran)) == (1, True), ran.out


@pytest.mark.parametrize("numbered", [True, False], ids=["by number", "by name"])
def test_new_rows_name_held_rows_of_their_own_table(numbered: bool, tmp_path: Path) -> None:
    """Next month's crew is led by people of this month, by others that are new, and by one whom nobody knows."""

    def number(name: str) -> str:
        return f"C{int(name.split()[-1]):02}" if name else ""

    def crew(name: str, *people: tuple[str, str]) -> None:
        lines = [f"{number(one)},{one},{number(above)}" if numbered else f"{one},{above}" for one, above in people]
        header = f"{'Crew No,' if numbered else ''}Name,Supervisor"
        (tmp_path / name).write_text("\n".join([header, *lines]) + "\n", encoding="utf-8")

    first = [(f"Visser {at}", f"Visser {1 + at % 3}" if at > 3 else "") for at in range(1, 9)]
    crew("crew.csv", *first)
    assert hemplit("load", "crew.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    more = [("Moor 20", "Visser 2"), ("Moor 21", "Moor 20"), ("Moor 22", "Nobody 99")]
    crew("more.csv", first[2], *more)
    ran = topup(tmp_path, "more.csv")
    assert (ran.code, "99', which" in said(ran), "2 new, 1 known" in said(ran)) == (1, True, True), ran.out
    wanted = {(name, (number(above) if numbered else above) or None) for name, above in (*first, *more[:2])}
    assert {*rows(tmp_path, "SELECT Name, Supervisor FROM crew_sheet")} == wanted
    assert "Verified: all 10 rows" in said(prove(tmp_path))


def test_a_list_by_number_names_its_own_rows_and_one_that_is_not_in_it(tmp_path: Path) -> None:
    """The people have numbers, their supervisors stand there by name, and one of these has left."""
    header = "Crew No,Name,Phone,Supervisor"
    first = [(100 + at, f"Visser {at}", f"Visser {1 + at % 3}" if at > 3 else "") for at in range(1, 9)]
    first.append((109, "Moor 9", "Nobody 99"))
    more = [(110, "Moor 10", "Moor 9"), (111, "Moor 11", "Nobody 99"), (112, "Moor 12", "Moor 11")]
    for name, people in (("crew.csv", first), ("more.csv", more)):
        lines = [f"{number},{who},0711 {number},{above}" for number, who, above in people]
        (tmp_path / name).write_text("\n".join([header, *lines, ""]), encoding="utf-8")
    ran = hemplit("load", "crew.csv", "--into", "yard.sqlite", folder=tmp_path)
    assert "which crews does not list: D10" in said(ran), ran.err
    assert "3 new" in said(topup(tmp_path, "more.csv"))
    led = {*rows(tmp_path, "SELECT crew_no, supervisor_crew_no FROM crews")}
    numbers = {name: number for number, name, _ in (*first, *more)}
    assert led == {(number, numbers.get(above)) for number, _, above in (*first, *more)}
    assert "Verified: all 12 rows" in said(prove(tmp_path))


def test_a_row_whose_cell_does_not_fit_is_left_out_and_the_rest_goes_in(folder: Path) -> None:
    write(folder, "june.csv", job(470, 3), job(471, 4, Hours="ca. 4", Cost="?"), job(472, 5, Hours="n.b."))
    ran = topup(folder, "june.csv", "--strict")
    assert (ran.code, ran.err.splitlines()[0]) == (2, "hemplit: 3 problems, and nothing was written")
    assert rows(folder, "SELECT count(*) FROM jobs") == [(60,)]
    write(folder, "july.csv", job(471, 4, Hours="ca. 4"), job(459, 3, Berth="Z9"))
    ran = topup(folder, "july.csv")
    assert "1 row would be left out" in said(ran) and "Nothing was written" in said(ran), ran.out + ran.err
    assert not (folder / "yard.left-out.csv").exists()
    ran = topup(folder, "june.csv")
    assert (ran.code, "2 rows left out" in said(ran)) == (1, True), ran.out + ran.err
    assert "june.csv G3: 'ca. 4' under 'Hours' is no whole number" in said(ran)
    kept = (folder / "yard.left-out.csv").read_text(encoding="utf-8").splitlines()
    assert [line.split(",")[1] for line in kept] == ["row", "row 3", "row 4"] and "ca. 4" in kept[1]
    assert rows(folder, "SELECT job FROM jobs WHERE job > 459") == [(470,)]
    assert "Verified: all 61 rows" in said(prove(folder))


def start(folder: Path, *lines: str) -> None:
    """Loads a first month."""
    (folder / "may.csv").write_text("\n".join(lines) + "\n", encoding="utf-8")
    assert hemplit("load", "may.csv", "--into", "yard.sqlite", folder=folder).code == 0


#: Who can do what and speaks what: everything beside everything.
RIGGERS = {"Ines": ("Hythe", "splicing welding", "Dutch"), "Aldo": ("Looe", "rigging", "Danish English")}
RIGGERS |= {"Gerrit": ("Orford", "caulking rigging", "Dutch English"), "Lotte": ("Looe", "welding", "English")}
RIGGERS |= {"Karin": ("Hythe", "rigging", "Dutch"), "Sile": ("Looe", "splicing caulking", "Frisian Danish")}
RIGGERS |= {"Elske": ("Hythe", "rigging welding splicing", "Dutch Frisian"), "Piran": ("Orford", "caulking", "English")}
RIGGERS |= {"Jonne": ("Looe", "welding splicing", "Danish English Frisian"), "Nuala": ("Hythe", "splicing", "Danish")}


def riggers(folder: Path, name: str, **said: tuple[str, str, str]) -> None:
    lines = [
        f"{who},{town},{work},{tongue}"
        for who, (town, works, tongues) in said.items()
        for work in works.split()
        for tongue in tongues.split()
    ]
    (folder / name).write_text("\n".join(["Rigger,Town,Work,Tongue", *lines]) + "\n", encoding="utf-8")


@pytest.mark.parametrize("how", ["stop", "keep", "update"])
def test_independent_lists_are_added_whole_or_left_out(how: str, tmp_path: Path) -> None:
    riggers(tmp_path, "may.csv", **RIGGERS)
    assert hemplit("load", "may.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    riggers(tmp_path, "june.csv", Tomas=("Looe", "sewing welding", "Dutch"), Lotte=RIGGERS["Lotte"])
    ran = topup(tmp_path, "june.csv")
    assert (ran.code, "3 rows: 2 new, 1 known already" in ran.out) == (0, True), ran.out + ran.err
    moved = ("Orford", *RIGGERS["Sile"][1:])
    riggers(tmp_path, "july.csv", Aldo=("Looe", "sewing", "English"), Sile=moved, Jule=("Looe", "welding", "Dutch"))
    with (tmp_path / "july.csv").open("a", encoding="utf-8") as file:
        file.write("Wim,Looe,sewing,Dutch\nWim,Looe,welding,Danish\n")
    ran = topup(tmp_path, "july.csv", "--conflicts", how)
    said = " ".join(ran.out.split())
    assert "is one of 2 rows of Rigger 'Wim', and each 'Work' with each 'Tongue' would be 4 (2 rows)" in said
    assert ("Aldo has other entries under 'Work' than are held" in said) == (how != "stop")
    assert ("'Town' of Sile is 'Orford', and 'Looe' is held (4 rows)" in said) == (how == "keep")
    towns = {"stop": [("Looe",)], "keep": [("Looe",)], "update": [("Orford",)]}
    assert rows(tmp_path, "SELECT town FROM riggers WHERE name = 'Sile'") == towns[how]
    there = {"stop": [], "keep": [("Jule",)], "update": [("Jule",)]}
    assert rows(tmp_path, "SELECT name FROM riggers WHERE name IN ('Jule', 'Wim')") == there[how]
    assert rows(tmp_path, "SELECT * FROM may_sheet WHERE Rigger = 'Aldo' AND Work = 'sewing'") == []
    assert "Verified" in prove(tmp_path).out


def test_a_row_that_says_again_what_is_to_be_said_once_is_left_out_and_the_rest_goes_in(tmp_path: Path) -> None:
    """A new boat with the hull number of another one, named in two rows."""
    header = "Job,Boat Reg,Boat,Hull No,Hours"
    boats = [f"MQ-{at:02},Tern {chr(65 + at)},H{100 + at}" for at in range(14)]
    jobs = [f"{400 + at},{boats[at * 5 % 14]},{at % 8 + 1}" for at in range(40)]
    start(tmp_path, header, *jobs)
    new = ["450,MQ-77,Knot,H900,3", "451,MQ-78,Smew,H101,3", "452,MQ-01,Tern B,H101,5", "453,MQ-78,Smew,H101,4"]
    (tmp_path / "june.csv").write_text("\n".join([header, *new]) + "\n", encoding="utf-8")
    ran = topup(tmp_path, "june.csv")
    assert "june.csv has Hull No 'H101' in row 3 and again in row 4, and no two boats may have the same" in ran.out
    assert "june.csv row 3: Hull No 'H101' would stand in two rows of boats, MQ-01 and MQ-78 (2 rows)" in ran.out
    assert rows(tmp_path, "SELECT job FROM jobs WHERE job >= 450") == [(450,)]
    assert "Verified" in prove(tmp_path).out


def test_a_blank_of_a_known_row_that_is_filled_later_is_no_less_a_contradiction(tmp_path: Path) -> None:
    """And of two equal records of a sheet without a key, of which one is held, the other is new."""
    header = "Day,Boat Reg,Berth,Hours"
    boats = [f"MQ-{at:02},{'' if at == 4 else f'B{at}'}" for at in range(9)]
    lines = [f"2026-05-{at % 28 + 1:02},{boats[at % 9]},{at % 4}" for at in range(45)]
    start(tmp_path, header, *lines)
    (tmp_path / "june.csv").write_text("\n".join([header, lines[0], lines[0]]) + "\n", encoding="utf-8")
    ran = topup(tmp_path, "june.csv")
    assert (ran.code, "2 rows: 1 new, 1 known already" in ran.out) == (0, True), ran.out + ran.err
    (tmp_path / "july.csv").write_text(f"{header}\n2026-07-01,MQ-04,B4,2\n", encoding="utf-8")
    ran = topup(tmp_path, "july.csv")
    assert (ran.code, "boats MQ-04 Berth blank B4" in " ".join(ran.out.split())) == (1, True), ran.out
    assert "there are contradictions" in ran.out


def test_what_is_not_taken_leaves_no_things_behind(folder: Path) -> None:
    """A known boat is said to be another owner's, who is new; that is not taken, and he is not kept."""
    owners = rows(folder, "SELECT * FROM owners")
    write(folder, "june.csv", job(470, 3, Owner="Elske Mrash"), job(471, 14))
    assert "Verified" in topup(folder, "june.csv", "--conflicts", "keep").out
    assert rows(folder, "SELECT * FROM owners") == owners
    assert "Verified" in prove(folder).out


def test_things_without_a_name_are_known_by_all_that_is_said_of_them(tmp_path: Path) -> None:
    header = "Job,Owner,Owner Phone,Owner Town,Hours"
    owners = ["Nuala Keel,0556 1,Hythe", "Oskar Visser,0556 2,Looe", ",0556 9,Orford", "Sile Tan,0556 3,Looe"]
    lines = [f"{400 + at},{owners[at % 4]},{at % 7 + 1}" for at in range(40)]
    start(tmp_path, header, *lines)
    (tmp_path / "june.csv").write_text(f"{header}\n450,,0556 8,Hythe,4\n451,{owners[2]},3\n", encoding="utf-8")
    ran = topup(tmp_path, "june.csv")
    assert (ran.code, "2 rows: 2 new" in ran.out) == (0, True), ran.out + ran.err
    assert rows(tmp_path, "SELECT count(*) FROM owners") == [(5,)]


def test_months_side_by_side_are_added_with_those_that_have_come(tmp_path: Path) -> None:
    """A quarter's hours of each dock; then all months again with April, then May and June alone, then half a month."""
    docks = {"North": "Vik", "South": "Brun", "East": "Vik"}

    def write_hours(name: str, months: str, *without: str) -> None:
        headers = [f"{month} {what}" for month in months.split() for what in ("Plan", "Done")]
        headers = [header for header in headers if header not in without]
        lines = [
            ",".join(
                [
                    dock,
                    foreman,
                    *(
                        "" if dock == "East" and "Feb" in one else f"{len(dock + one) * at}"
                        for at, one in enumerate(headers, 3)
                    ),
                ]
            )
            for dock, foreman in docks.items()
        ]
        (tmp_path / name).write_text(
            "\n".join([",".join(["Dock", "Foreman", *headers]), *lines]) + "\n", encoding="utf-8"
        )

    write_hours("hours.csv", "Jan Feb Mar")
    assert hemplit("load", "hours.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    for name, months in (("april.csv", "Jan Feb Mar Apr"), ("summer.csv", "May Jun")):
        write_hours(name, months)
        ran = topup(tmp_path, name)
        assert (ran.code, "Verified: 0" in ran.out, "Verified" in ran.out) == (0, False, True), ran.out + ran.err
    # A month is the same one under its whole name.
    april = (tmp_path / "april.csv").read_text(encoding="utf-8")
    (tmp_path / "whole.csv").write_text(april.replace("Jan ", "January "), encoding="utf-8")
    ran = topup(tmp_path, "whole.csv")
    assert (ran.code, "no new rows in docks, plans, months, dock_months" in ran.out) == (0, True), ran.out + ran.err
    (tmp_path / "called.csv").write_text(april.replace("Apr ", "April "), encoding="utf-8")
    ran = topup(tmp_path, "called.csv", "--dry-run")
    assert (ran.code, "months has now 'April', which may be 'Apr'" in ran.out) == (1, True), ran.out + ran.err
    held = "SELECT count(*), count(DISTINCT month_id), count(DISTINCT dock) FROM dock_months"
    assert rows(tmp_path, held) == [(17, 6, 3)]
    assert prove(tmp_path).code == 0
    write_hours("half.csv", "Jan Feb Mar", "Feb Done")
    ran = topup(tmp_path, "half.csv")
    assert (ran.code, "it has no column 'Feb Done'" in ran.err) == (2, True), ran.out + ran.err
    write_hours("hours.csv", "Jan Feb Mar Apr")
    ran = hemplit("load", "yard.design.toml", "--into", "all.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.err
    with sqlite3.connect(tmp_path / "all.sqlite") as database:
        assert database.execute("SELECT count(*) FROM dock_months").fetchone() == (11,)
    # What a month no longer says, which it has said, is a contradiction.
    docks["West"] = "Moe"
    write_hours("gone.csv", "Jan Feb")
    lines = (tmp_path / "gone.csv").read_text(encoding="utf-8").splitlines()
    lines[1] = ",".join([*lines[1].split(",")[:4], "", ""])
    (tmp_path / "gone.csv").write_text("\n".join(lines) + "\n", encoding="utf-8")
    ran = topup(tmp_path, "gone.csv")
    assert (ran.code, "no such entry" in ran.out) == (1, True), ran.out + ran.err


def test_entries_of_rows_that_two_columns_tell_apart_are_told_and_named_by_names(tmp_path: Path) -> None:
    header = "Race,Date,Boat,Crew,Place"
    crews = ["Aas, Dahl", "Lund, Vik", "Aas, Lund", "Dahl", "Vik, Moe, Aas"]
    races = [
        f'R{at // 3},2026-06-0{at // 3 + 1},{boat},"{crews[at % 5]}",{at % 3 + 1}'
        for at, boat in enumerate(["Smew", "Teal", "Knot", "Teal", "Knot", "Smew", "Knot", "Smew", "Teal"])
    ]
    more = ['R3,2026-06-09,Ruff,"Aas, Vik",1', 'R3,2026-06-09,Smew,"Moe",2', races[1].replace("Vik", "Moe")]
    for name, some in (("may.csv", races), ("june.csv", more[:2]), ("odd.csv", more)):
        (tmp_path / name).write_text("\n".join([header, *some]) + "\n", encoding="utf-8")
    assert hemplit("load", "may.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    assert topup(tmp_path, "june.csv").code == 0
    assert prove(tmp_path).code == 0
    view = next(
        name for (name,) in rows(tmp_path, "SELECT name FROM sqlite_master") if str(name).endswith("crews_named")
    )
    held = rows(tmp_path, f"SELECT race, boat, crew FROM {view} WHERE race IN ('R0', 'R3') ORDER BY 1, 2, position")
    assert held[:2] == [("R0", "Knot", "Aas"), ("R0", "Knot", "Lund")] and held[-1] == ("R3", "Smew", "Moe")
    ran = topup(tmp_path, "odd.csv")
    assert (ran.code, "R0, Teal, 2" in ran.out, "no such entry" in ran.out) == (1, True, False), ran.out


def test_a_fourth_part_side_by_side_goes_where_the_three_are(tmp_path: Path) -> None:
    header = ["Job", *(f"{what} {at}" for at in range(1, 5) for what in ("Part", "Qty"))]
    jobs = [["J1", "cleat", "2", "rope", "4", "anode", "1"], ["J2", "rope", "1"], ["J3", "winch", "1", "cleat", "9"]]
    more = [["J4", "tar", "2", "rope", "4", "anode", "1", "cleat", "7"], ["J5", "rope", "1"]]
    for name, width, some in (("may.csv", 7, jobs), ("june.csv", 9, more)):
        lines = [",".join([*row, *[""] * (width - len(row))]) for row in [header[:width], *some]]
        (tmp_path / name).write_text("\n".join(lines) + "\n", encoding="utf-8")
    assert hemplit("load", "may.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    assert topup(tmp_path, "june.csv").code == 0
    assert rows(tmp_path, "SELECT count(*), sum(qty) FROM job_parts") == [(11, 33)]
    assert prove(tmp_path).code == 0


@pytest.mark.parametrize("header", ["JOB NO,BOAT,OWNER,HOURS", "job_no,Boat,Owner ,Hours", "Hours,Owner,Boat,Job No."])
def test_headers_in_another_writing_are_the_same(header: str, tmp_path: Path) -> None:
    jobs = ["1,Teal,Falk,3", "2,Knot,Keel,4", "3,Teal,Falk,2", "4,Smew,Lund,5", "5,Knot,Keel,1"]
    (tmp_path / "jobs.csv").write_text("\n".join(["Job No,Boat,Owner,Hours", *jobs]) + "\n", encoding="utf-8")
    assert hemplit("load", "jobs.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    later = [row.split(",") for row in ("6,Teal,Falk,7", "7,Ruff,Rask,2")]
    if header.startswith("Hours"):
        later = [row[::-1] for row in later]
    (tmp_path / "may.csv").write_text("\n".join([header, *map(",".join, later)]) + "\n", encoding="utf-8")
    ran = topup(tmp_path, "may.csv")
    assert ran.code == 0 and "2 rows: 2 new" in ran.out, ran.out + ran.err
    assert rows(tmp_path, "SELECT job_no, hours FROM jobs WHERE job_no > 5") == [(6, 7), (7, 2)]
    assert prove(tmp_path).code == 0


def test_what_comes_twice_is_told_by_the_names_that_the_sheet_has(tmp_path: Path) -> None:
    """Not by the ids of the race and the boat, which nobody has seen."""
    races = [f"{name},2026-05-0{at}" for at, name in enumerate(["Spring Cup", "Night Race", "Summer Cup"], 1)]
    boats = ["Teal", "Knot", "Smew", "Ruff", "Rail"]
    entries = [f"{races[at // 4]},{boats[at % 4 + at // 8]},{at * 7 % 11}" for at in range(12)]
    start(tmp_path, "Race,Race Day,Boat,Fee", *entries)
    new = ["Autumn Cup,2026-06-04,Teal,3", "Autumn Cup,2026-06-04,Teal,4"]
    (tmp_path / "june.csv").write_text("\n".join(["Race,Race Day,Boat,Fee", *new]) + "\n", encoding="utf-8")
    ran = topup(tmp_path, "june.csv")
    said = "june.csv has Race 'Autumn Cup', Boat 'Teal' in row 2 and again in row 3"
    assert said in " ".join(ran.out.split()), ran.out + ran.err


CASES = Path(__file__).parent / "cases"


@pytest.mark.parametrize(
    ("case", "name", "now", "next_time", "table"),
    [
        ("fees_of_a_month", "fees", "2026-10", "2026-11", "fees"),
        ("leave_of_crews_in_a_year", "leave", "2026", "2027", "leaves"),
        ("hours_of_jobs_in_a_week", "hours", "41,", "42,", "hours"),
        ("days_of_a_week_side_by_side", "timesheet", "2026-10-09", "2026-10-16", "timesheets"),
        ("stock_counted_on_a_day", "stock", "2026-10-31", "2026-11-30", "stock"),
        ("lines_of_one_delivery_note", "packing", "DN-881,2026-10-04", "DN-890,2026-11-02", "packings"),
        ("washes_with_crews_that_came_once", "washes", "2026-10-0", "2026-11-0", "washes"),
        ("items_of_one_invoice", "invoice", "9001,2026-10-04", "9002,2026-11-04", "invoice"),
        ("tasks_on_one_boat", "tasks", "Teal", "Knot", "tasks"),
    ],
)
def test_the_same_things_come_again_next_time(
    case: str, name: str, now: str, next_time: str, table: str, tmp_path: Path
) -> None:
    """All rows of the next period, document or day are new, no thing is, and no row says otherwise than one held."""
    sheet = (CASES / case / "sheet.csv").read_text(encoding="utf-8")
    (tmp_path / f"{name}.csv").write_text(sheet, encoding="utf-8")
    (tmp_path / "next.csv").write_text(sheet.replace(now, next_time), encoding="utf-8")
    into = ("--into", "yard.sqlite")
    assert hemplit("load", f"{name}.csv", *into, folder=tmp_path).code == 0
    before = dict(counts(tmp_path))
    ran = topup(tmp_path, "next.csv")
    rows_of_sheet = len(sheet.splitlines()) - 1
    assert (ran.code, f"{rows_of_sheet} rows: {rows_of_sheet} new" in ran.out) == (0, True), ran.out + ran.err
    again = {one: 2 * count for one, count in before.items() if one.startswith((table, table[:-2]))}
    if case == "lines_of_one_delivery_note":
        again["delivery_notes"] = 2
    assert dict(counts(tmp_path)) == before | again
    assert "Verified" in prove(tmp_path).out


def counts(folder: Path) -> list[tuple[str, int]]:
    named = rows(folder, "SELECT name FROM hemplit_objects WHERE kind = 'table'")
    return [(str(name), int(str(rows(folder, f'SELECT count(*) FROM "{name}"')[0][0]))) for (name,) in named]


@pytest.mark.parametrize("price, large", [("3,75", "1.200"), ("3.75", "1,200")])
def test_marks_between_thousands_mean_what_they_would_have_meant_in_the_first_month(
    price: str, large: str, tmp_path: Path
) -> None:
    """Which the decimal marks say that it has; what would be a fraction of a whole number is told, as ever."""
    start(tmp_path, "Job;Metres;Price;Fee", *(f"{at};{at * 7};{price};{at} €" for at in range(101, 109)))
    later = f"201;{large};{price};{large} €\n202;1.2;{price};9 €\n"
    (tmp_path / "june.csv").write_text(f"Job;Metres;Price;Fee\n{later}", encoding="utf-8")
    ran = topup(tmp_path, "june.csv")
    assert "B3: '1.2' under 'Metres' is no whole number" in said(ran), ran.out + ran.err
    assert rows(tmp_path, "SELECT job, metres, price, fee FROM jobs WHERE job > 200") == [(201, 1200, 3.75, 1200)]
    assert "Verified" in prove(tmp_path).out


@pytest.mark.parametrize(("mark", "hours"), [(",", "1,5"), (".", "1.5"), (",", "1.5")])
def test_a_design_reads_the_numbers_of_its_own_sheet_as_they_were_read(mark: str, hours: str, tmp_path: Path) -> None:
    """Three digits behind a decimal mark are no thousands once they are read, side by side or beside a unit."""
    weights = [
        "1,250;2,500;1,250 kg;3,40",
        "1,125;;2,375 kg;12,00",
        "0,750;2,125;1,125 kg;8,50",
        "2,250;0,500;9,5 kg;7,99",
    ]
    cells = [f"{job};{some.replace(',', mark)};{hours};{job}.125" for job, some in enumerate(weights, 1)]
    start(tmp_path, "Job;Weight 1;Weight 2;Load;Price;Hours;Tonnes", *cells)
    query = "SELECT sum(weight), (SELECT sum(tonnes) FROM jobs) FROM job_weights"
    read = rows(tmp_path, query)
    assert read[0][0] == 10.5 and prove(tmp_path).code == 0
    again = hemplit("load", "yard.design.toml", "--into", "again.sqlite", folder=tmp_path)
    with closing(sqlite3.connect(tmp_path / "again.sqlite")) as database:
        assert again.code == 0 and database.execute(query).fetchall() == read


def test_rows_known_by_their_number_go_on_behind_those_that_are_held(tmp_path: Path) -> None:
    """A row that is known keeps its number, also where it comes among new ones and in another file."""
    header = "Date,Boat,Crew,Minutes"
    lines = [
        '2026-05-02,Teal,"Ann, Bo",90',
        "2026-05-02,Knot,Cy,45",
        '2026-05-03,Teal,"Bo, Cy",60',
        "2026-05-04,Smew,Di,5",
    ]
    start(tmp_path, header, *lines, '2026-05-06,Knot,"Di, Ann",30')
    further = ['2026-06-01,Ruff,"Ann, Ed",20', lines[2], lines[1].replace("45", "50")]
    (tmp_path / "june.csv").write_text("\n".join([header, *further]) + "\n", encoding="utf-8")
    ran = topup(tmp_path, "june.csv")
    assert (ran.code, "3 rows: 2 new, 1 known already" in ran.out) == (0, True), ran.out + ran.err
    assert rows(tmp_path, 'SELECT * FROM may_sheet WHERE "Row No" > 5') == [
        (6, "2026-06-01", "Ruff", "Ann, Ed", 20),
        (7, "2026-05-02", "Knot", "Cy", 50),
    ]
    assert "Verified" in prove(tmp_path).out


def test_times_of_day_are_met_again_as_they_are_held(tmp_path: Path) -> None:
    header = "Visit No,Boat,Day,Hour"
    lines = [
        f"{at},{'Teal Knot Smew'.split()[at % 3]},2026-09-{at:02},{at % 24:02}:{at * 7 % 60:02}" for at in range(1, 20)
    ]
    start(tmp_path, header, *lines)
    further = [lines[4], lines[5].replace("06:42", "06:43"), "30,Ruff,2026-10-01,00:00", "31,Teal,2026-10-01,23:59"]
    (tmp_path / "june.csv").write_text("\n".join([header, *further]) + "\n", encoding="utf-8")
    assert "visits 6 Hour 06:42 06:43" in said(topup(tmp_path, "june.csv"))
    ran = topup(tmp_path, "june.csv", "--conflicts", "update")
    assert (ran.code, "2 new" in ran.out) == (1, True), ran.out + ran.err
    kept = rows(tmp_path, 'SELECT "Hour" FROM may_sheet WHERE "Visit No" IN (5, 6, 30, 31) ORDER BY "Visit No"')
    assert [hour for (hour,) in kept] == ["05:35", "06:43", "00:00", "23:59"]


@pytest.mark.parametrize("column", ["status = { from = 'Status', type = 'text' }", "status_id = { to = 'statuses' }"])
def test_a_rule_may_allow_what_has_not_come_so_far(column: str, tmp_path: Path) -> None:
    """In a column of texts the database is given all that it allows; what is named by a number is checked before."""
    header = "Job,Boat,Status"
    start(
        tmp_path,
        header,
        *(f"{at},{'Teal Knot Smew'.split()[at % 3]},{'open done'.split()[at % 2]}" for at in range(12)),
    )
    name = column.split()[0]
    listed = "\n[tables.statuses]\nsheet = 'may'\npurpose = 'lookup'\nkey = ['status_id']\n"
    listed += "columns.status_id = { ids = 'number' }\ncolumns.name = { from = 'Status', type = 'text' }\n"
    lines = [
        "format = 2",
        "[sheets.may]",
        "file = 'may.csv'",
        "steps = [{ do = 'read the header', names = ['Job', 'Boat', 'Status'] }]",
        "[tables.jobs]",
        "sheet = 'may'",
        "each_row = true",
        "key = ['job']",
        f"rules = [{{ columns = ['{name}'], rule = 'allowed', values = ['open', 'done', 'lost'] }}]",
        "columns.job = { from = 'Job', type = 'whole number' }",
        "columns.boat = { from = 'Boat', type = 'text' }",
        f"columns.{column}",
        listed if name == "status_id" else "",
    ]
    (tmp_path / "yard.design.toml").write_text("\n".join(lines), encoding="utf-8")
    assert hemplit("load", "yard.design.toml", "--into", "yard.sqlite", "--replace", folder=tmp_path).code == 0
    (tmp_path / "june.csv").write_text(f"{header}\n20,Teal,lost\n21,Knot,gone\n", encoding="utf-8")
    ran = topup(tmp_path, "june.csv")
    assert (ran.code, "Status 'gone' is not one of open, done, lost" in ran.out) == (1, True), ran.out + ran.err
    assert rows(tmp_path, "SELECT job FROM jobs WHERE job > 12") == [(20,)]
    assert "Verified" in prove(tmp_path).out


#: What was asked of each boat, month by month; a cheap dinghy pays the same each time.
FEES = "Boat Reg,Boat,Fee,Paid\n" + "\n".join(f"MQ-{at},Tern {at},{20 + at % 3}.50,yes" for at in range(9)) + "\n"


def test_months_that_say_the_same_are_months_all_the_same(tmp_path: Path) -> None:
    """Equal files of a folder are each of the month for which they are named, also when one comes later."""
    (tmp_path / "fees").mkdir()
    for month in ("2026-04", "2026-05"):
        (tmp_path / "fees" / f"fees-{month}.csv").write_text(FEES, encoding="utf-8")
    assert hemplit("load", "fees", "--into", "yard.sqlite", folder=tmp_path).code == 0
    (tmp_path / "fees" / "fees-2026-06.csv").write_text(FEES, encoding="utf-8")
    ran = topup(tmp_path, "fees")
    assert (ran.code, "fees-2026-06.csv 9 rows: 9 new" in said(ran)) == (0, True), ran.out + ran.err
    assert rows(tmp_path, "SELECT month, count(*) FROM fees GROUP BY month") == [
        ("2026-04", 9),
        ("2026-05", 9),
        ("2026-06", 9),
    ]
    assert "Verified" in prove(tmp_path).out
    assert "there is nothing new" in said(topup(tmp_path, "fees"))


def test_the_month_in_the_name_of_a_file_is_told_and_kept_when_asked(tmp_path: Path) -> None:
    (tmp_path / "fees-2026-04.csv").write_text(FEES, encoding="utf-8")
    (tmp_path / "fees-2026-05.csv").write_text(FEES.replace("20.50", "21.00"), encoding="utf-8")
    (tmp_path / "fees-2026-06.csv").write_text(FEES, encoding="utf-8")
    assert hemplit("load", "fees-2026-04.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    told = topup(tmp_path, "fees-2026-05.csv")
    assert "named for 2026-05, fees-2026-04.csv for 2026-04, and no column says when: 9 known rows count" in told.err
    design = (tmp_path / "yard.design.toml").read_text(encoding="utf-8")
    proposed = '# { do = "add column from file name"'
    assert proposed in design
    (tmp_path / "yard.design.toml").write_text(design.replace(proposed, proposed[2:]), encoding="utf-8")
    assert hemplit("draft", "fees-2026-04.csv", "--out", "yard.design.toml", "--update", folder=tmp_path).code == 0
    assert hemplit("load", "yard.design.toml", "--into", "yard.sqlite", "--replace", folder=tmp_path).code == 0
    ran = topup(tmp_path, "fees-2026-05.csv", "fees-2026-06.csv")
    assert (ran.code, ran.err) == (0, ""), ran.out + ran.err
    assert rows(tmp_path, "SELECT count(*), count(DISTINCT month), count(DISTINCT boat_reg) FROM fees") == [(27, 3, 9)]
    assert "Verified" in prove(tmp_path).out


def test_a_month_that_comes_in_a_workbook_of_its_own_is_named_as_its_worksheet_is(tmp_path: Path) -> None:
    """Whatever the file is called; a workbook of other worksheets is named as its file is."""
    fees = [line.split(",") for line in FEES.splitlines()]

    def write_workbook(name: str, *worksheets: str) -> None:
        book = xlsxwriter.Workbook(tmp_path / name)
        for worksheet in worksheets:
            made = book.add_worksheet(worksheet)
            for row, cells in enumerate(fees):
                made.write_row(row, 0, cells)
        book.close()

    write_workbook("fees.xlsx", "April", "May")
    assert hemplit("load", "fees.xlsx", "--into", "yard.sqlite", folder=tmp_path).code == 0
    write_workbook("new.xlsx", "June")
    write_workbook("July.xlsx", "Sheet1")
    ran = topup(tmp_path, "new.xlsx", "July.xlsx")
    assert ran.code == 0, ran.out + ran.err
    months = rows(tmp_path, "SELECT months.name, count(*) FROM fees JOIN months USING (month_id) GROUP BY month_id")
    assert months == [("April", 9), ("May", 9), ("June", 9), ("July", 9)]
    assert "Verified" in prove(tmp_path).out


def test_rows_that_the_sheet_numbers_itself_keep_their_numbers(tmp_path: Path) -> None:
    header = "Row No,Boat,Hours"
    start(tmp_path, header, *(f"{at},{'Teal Knot Smew'.split()[at % 3]},{at % 4}" for at in range(1, 9)))
    (tmp_path / "june.csv").write_text(f"{header}\n8,Smew,0\n21,Ruff,2\n22,Teal,5\n", encoding="utf-8")
    ran = topup(tmp_path, "june.csv")
    assert (ran.code, "3 rows: 2 new, 1 known already" in ran.out) == (0, True), ran.out + ran.err
    assert rows(tmp_path, 'SELECT "Row No", "Boat" FROM may_sheet WHERE "Row No" > 8') == [(21, "Ruff"), (22, "Teal")]
    assert "Verified" in prove(tmp_path).out


def test_a_row_with_more_parts_than_amounts_is_left_out_and_the_rest_goes_in(tmp_path: Path) -> None:
    header, month = (
        "Job,Parts,Amounts",
        ["1,rope; cleat,12; 2", "2,brush,1", "3,cleat; brush; rope,4; 2; 8", "4,rope,8"],
    )
    odd = [header, *month, "5,brush; rope,1"]
    (tmp_path / "odd.csv").write_text("\n".join(odd) + "\n", encoding="utf-8")
    look = hemplit("look", "odd.csv", folder=tmp_path)
    assert "'Amounts' holds as many values as 'Parts' in each row but for some (1): C6 '1'" in said(look), look.out
    start(tmp_path, header, *month)
    assert rows(tmp_path, "SELECT amount FROM job_parts WHERE job = 3 ORDER BY position") == [(4,), (2,), (8,)]
    (tmp_path / "june.csv").write_text("\n".join([header, "5,brush; rope,1", "6,rope; brush,3; 5"]) + "\n")
    ran = topup(tmp_path, "june.csv")
    assert (ran.code, "1 row left out" in said(ran)) == (1, True), ran.out + ran.err
    assert "B2 'brush; rope' has 2 of 'Parts', and C2 '1' has 1 of 'Amounts'" in said(ran), ran.out
    assert rows(tmp_path, "SELECT job, amount FROM job_parts WHERE job > 4 ORDER BY position") == [(6, 3), (6, 5)]
    assert "Verified: all 5 rows" in said(prove(tmp_path))
