"""Lists, and columns side by side, that belong to a thing of which several rows speak: they are taken out once."""

from __future__ import annotations

import csv
import json
import re
import sqlite3
from dataclasses import replace
from random import Random
from typing import TYPE_CHECKING

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import Ran, hemplit, tries
from hemplit.core.kinds import shown_at
from hemplit.core.model.grid import GridColumn
from hemplit.core.proof.compare import check_cells
from hemplit.core.shape import replay
from hemplit.flow.reading import read

if TYPE_CHECKING:
    from pathlib import Path

    from hemplit.core.model.grid import Grid
    from hemplit.core.model.relation import Relation
    from hemplit.core.shape import Shaped

HEADER = ["Order", "Owner", "Quay", "Phone 1", "Phone 2", "Part", "Marks"]
#: What is said of each owner: the quay and two phones, of which one may be blank; and the marks of each part.
OWNERS = {
    "Berg": ("3 Quay", "101", "191"),
    "Aas": ("9 Quay", "102", ""),
    "Falk": ("1 Quay", "103", "193"),
    "Dahl": ("7 Quay", "104", ""),
}
MARKS = {"cleat": "brass, small", "rope": "hemp", "block": "brass, hemp, large", "shackle": "steel, small"}
SPOKEN = "Berg Aas Falk Berg Dahl Aas Dahl Falk Berg Falk Aas Dahl".split()


def line(order: int, owner: str, part: str, **other: str) -> list[str]:
    """An order; ``other`` is what stands there instead."""
    said = dict(zip(HEADER, [str(order), owner, *OWNERS[owner], part, MARKS[part]], strict=True))
    return [*(said | other).values()]


def may() -> list[list[str]]:
    parts = [*MARKS]
    return [line(100 + at, owner, parts[(at * 3 + at // 4) % 4]) for at, owner in enumerate(SPOKEN)]


def write(path: Path, lines: list[list[str]]) -> None:
    with path.open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows([HEADER, *lines])


def rows(folder: Path, query: str) -> list[tuple[object, ...]]:
    with sqlite3.connect(folder / "yard.sqlite") as database:
        return database.execute(query).fetchall()


def given_back(folder: Path, sheet: str = "may") -> list[list[str]]:
    """What the view gives back, as the sheet writes it."""
    return [["" if cell is None else str(cell) for cell in row] for row in rows(folder, f"SELECT * FROM {sheet}_sheet")]


@pytest.fixture
def yard(tmp_path: Path) -> Path:
    """The orders of May, loaded."""
    write(tmp_path / "may.csv", may())
    ran = hemplit("load", "may.csv", "--into", "yard.sqlite", folder=tmp_path)
    assert (ran.code, "Verified: all 12 rows" in ran.out) == (0, True), ran.out + ran.err
    return tmp_path


def topup(folder: Path, *lines: list[str], how: str = "stop") -> Ran:
    write(folder / "june.csv", [*lines])
    return hemplit("topup", "yard.design.toml", "june.csv", "--into", "yard.sqlite", "--conflicts", how, folder=folder)


def test_what_a_thing_has_is_told_once_for_it_and_not_on_each_row(yard: Path) -> None:
    phones = "SELECT name, phone FROM owner_phones JOIN owners USING (owner_id) ORDER BY owner_id, position"
    said = [(owner, int(one)) for owner, (_, *both) in OWNERS.items() for one in both if one]
    assert rows(yard, phones) == said
    marks = "SELECT p.name, m.name FROM part_marks JOIN parts p USING (part_id) JOIN marks m USING (mark_id)"
    assert sorted(rows(yard, marks)) == sorted((part, one) for part, all_ in MARKS.items() for one in all_.split(", "))
    assert given_back(yard) == may()
    assert hemplit("prove", "yard.design.toml", "--into", "yard.sqlite", folder=yard).code == 0
    story = hemplit("why", "yard.design.toml", "--page", "yard.html", folder=yard)
    page = (yard / "yard.html").read_text(encoding="utf-8")
    before = page.partition("Before: may.csv, Phone")[2].partition("</tr>")[0]
    named = re.findall(r"<th[^>]*>([^<]+)", before)
    assert named == ["Owner", "Phone 1", "Phone 2"], story.err
    assert [page.count(f'<td class="again">{cell}</td>') for cell in ("101", "191", "hemp")] == [1, 1, 1]
    story = hemplit("why", "yard.design.toml", folder=yard).out
    assert "'Phone' held several values in a row, the same for each 'Owner'" in " ".join(story.split())


#: Sheets, the table with the rows that belong to a thing, how many it has, and its key.
THINGS = {
    # No other member has a child of that name, and yet it is no name of the member.
    "Member,Street,Child 1,Child 1 Born,Child 2,Child 2 Born,Event,Date": (
        [
            "Berg,3 Quay,Ida,2015,Ole,2018",
            "Aas,9 Quay,Mia,2016,,",
            "Falk,1 Quay,Liv,2014,Tom,2012",
            "Dahl,7 Quay,Eva,2017,,",
        ],
        ["Regatta,2026-06-01", "Picnic,2026-07-04", "Night sail,2026-08-12"],
        ("member_children", 6, ["member_id", "position"]),
    ),
    # Nobody is known by the first name and the town, though no two of one first name live in one.
    "Town,First Name,Last Name,Skills,Event,Date": (
        [
            "Saltby,Ann,Berg,keel; mast",
            "Marlow,Ben,Holm,rig",
            "Wick,Ben,Berg,hull; rig; mast",
            "Saltby,Di,Dahl,sail; keel",
            "Wick,Ann,Holm,hull; sail",
        ],
        ["Regatta,2026-06-01", "Picnic,2026-07-04", "Night sail,2026-08-12"],
        ("person_skills", 10, ["person_id", "position"]),
    ),
    # Of these nothing else is said, so that they have no table.
    "First Name,Last Name,Skills,Event,Date": (
        ["Ann,Berg,keel; mast", "Ben,Falk,rig", "Cas,Aas,hull; rig; mast", "Di,Dahl,sail; keel", "Ann,Holm,hull; sail"],
        ["Regatta,2026-06-01", "Picnic,2026-07-04", "Night sail,2026-08-12"],
        ("yard_skills", 28, ["row_no", "skill_id"]),
    ),
    "Trip,Skipper,Stops,Passenger,Fare": (
        ["North Loop,Aas,Skerry; Light; Cove", "Bay Run,Berg,Cove; Pier", "Outer Isles,Aas,Light; Outer; Skerry"],
        ["Mia,12", "Tom,12", "Ida,8"],
        ("trip_stops", 8, ["trip_id", "stop_id"]),
    ),
}


@pytest.mark.parametrize("header", THINGS)
def test_what_belongs_to_a_thing_of_few_rows_is_told_once(header: str, tmp_path: Path) -> None:
    things, rest, (name, count, key) = THINGS[header]
    lines = [f"{one},{other}" for one in things for other in rest][:-1]
    (tmp_path / "yard.csv").write_text("\n".join([header, *lines]) + "\n", encoding="utf-8")
    ran = hemplit("load", "yard.csv", "--into", "yard.sqlite", "--json", folder=tmp_path)
    made = {table["name"]: table for table in json.loads(ran.out)["tables"]}
    assert ran.code == 0 and (made[name]["rows"], made[name]["key"]) == (count, key), ran.err or made


def test_the_skills_of_people_whom_another_sheet_lists_by_first_and_last_name_are_told_once(tmp_path: Path) -> None:
    (tmp_path / "people.csv").write_text(
        "First Name,Last Name,Born\nAnn,Berg,1971\nBen,Falk,1980\nCas,Aas,1975\nAnn,Holm,1990\nEve,Lund,1999\n", "utf-8"
    )
    skills = {
        "Ann,Berg": "Saltby,keel; mast",
        "Ben,Falk": "Marlow,rig",
        "Cas,Aas": "Wick,rig; mast",
        "Ann,Holm": "Wick,hull",
    }
    lines = [f"J{at},{[*skills][at % 4]},{[*skills.values()][at % 4]},{at * at % 7}" for at in range(100, 108)]
    header = "Job,First Name,Last Name,Town,Skills,Hours"
    (tmp_path / "jobs.csv").write_text("\n".join([header, *lines]) + "\n", "utf-8")
    ran = hemplit("load", "people.csv", "jobs.csv", "--into", "yard.sqlite", "--json", folder=tmp_path)
    made = {table["name"]: (table["rows"], table["key"]) for table in json.loads(ran.out)["tables"]}
    assert (ran.code, made["person_skills"]) == (0, (6, ["person_id", "skill_id"])), ran.err or made
    (tmp_path / "more.csv").write_text(
        f"{header}\nJ200,Eve,Lund,Tarnby,oar; sail,2\nJ201,Ben,Falk,Marlow,rig,3\n", "utf-8"
    )
    added = hemplit("topup", "yard.design.toml", "more.csv", "--into", "yard.sqlite", folder=tmp_path)
    with sqlite3.connect(tmp_path / "yard.sqlite") as held:
        skilled = held.execute("SELECT last_name FROM person_skills JOIN people USING (person_id) WHERE born = 1999")
        assert (added.code, skilled.fetchall()) == (0, [("Lund",), ("Lund",)]), added.out + added.err


def test_a_first_name_and_a_town_name_nobody(tmp_path: Path) -> None:
    towns = {"Ann,Berg": "Saltby", "Ben,Falk": "Marlow", "Cas,Aas": "Wick", "Di,Dahl": "Tarnby", "Ann,Holm": "Wick"}
    random = Random(6)
    said = [(random.choice([*towns]), random.randint(2, 9)) for _ in range(24)]
    lines = [f"J{100 + at},{name},{hours},{towns[name]}" for at, (name, hours) in enumerate(said)]
    (tmp_path / "jobs.csv").write_text("\n".join(["Job,First Name,Last Name,Hours,Town", *lines]) + "\n", "utf-8")
    ran = hemplit("draft", "jobs.csv", "--json", folder=tmp_path)
    assert not any("first_name" in table["key"] for table in json.loads(ran.out)["tables"])


def test_of_two_people_of_one_first_name_only_the_one_whom_nobody_lists_is_told(tmp_path: Path) -> None:
    people = "First Name,Last Name,Born\nAnn,Berg,1971\nBen,Falk,1980\nCas,Aas,1975\nEve,Lund,1999\n"
    (tmp_path / "people.csv").write_text(people, "utf-8")
    said = ["Ann,Berg,Saltby,keel; mast", "Ben,Falk,Marlow,rig", "Cas,Aas,Wick,rig; mast", "Ann,Holm,Wick,hull"]
    lines = [f"J{at},{said[at % 4]},{at * at % 7}" for at in range(100, 120)]
    (tmp_path / "jobs.csv").write_text(
        "\n".join(["Job,First Name,Last Name,Town,Skills,Hours", *lines]) + "\n", "utf-8"
    )
    ran = hemplit("load", "people.csv", "jobs.csv", "--into", "yard.sqlite", "--width", "200", folder=tmp_path)
    told = [line.strip() for line in ran.out.splitlines() if "does not list" in line]
    where = "B5, B9, B13, B17, B21"
    assert told == [f"! jobs.csv: 'First Name' + 'Last Name' says 'Ann, Holm', which people does not list: {where}"]


def test_a_list_that_differs_between_the_rows_of_a_thing_stays_with_the_rows(tmp_path: Path) -> None:
    write(tmp_path / "may.csv", [*may(), line(200, "Berg", "rope", **{"Phone 2": "199"})])
    assert hemplit("load", "may.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    assert rows(tmp_path, "SELECT count(*) FROM order_phones") == [
        (sum(bool(one) for row in may() for one in row[3:5]) + 2,)
    ]


@pytest.mark.parametrize(
    ("owner", "phone", "said"), [("Berg", "199", "E2 '191', and then E14 '199'"), ("Aas", "9", "E3 '', ")]
)
def test_a_row_that_says_something_else_of_a_thing_is_named(yard: Path, owner: str, phone: str, said: str) -> None:
    write(yard / "may.csv", [*may(), line(200, owner, "rope", **{"Phone 2": phone})])
    ran = hemplit("load", "yard.design.toml", "--into", "other.sqlite", folder=yard)
    assert (ran.code, f"'Phone 2' of Owner '{owner}' is {said}" in ran.err) == (2, True), ran.err
    assert not (yard / "other.sqlite").exists()


def test_a_further_sheet_speaks_of_known_things_and_of_new_ones(yard: Path) -> None:
    lund = {"Quay": "2 Quay", "Phone 1": "105", "Phone 2": "195", "Owner": "Lund"}
    june = [line(200, "Berg", "rope"), *(line(at, "Aas", "cleat", **lund) for at in (201, 202))]
    ran = topup(yard, *june)
    assert (ran.code, "3 rows: 3 new" in ran.out) == (0, True), ran.out + ran.err
    assert rows(yard, "SELECT count(*), max(phone) FROM owner_phones") == [(8, 195)]
    assert given_back(yard) == [*may(), *june]
    assert hemplit("prove", "yard.design.toml", "--into", "yard.sqlite", folder=yard).code == 0


@pytest.mark.parametrize("how", ["stop", "keep", "update"])
def test_another_phone_of_a_known_owner_stops_stays_out_or_replaces(yard: Path, how: str) -> None:
    june = [line(at, "Berg", "rope", **{"Phone 2": "199"}) for at in (200, 201)]
    ran = topup(yard, *june, how=how)
    assert ran.code == 1 and "1 cell of known rows" in ran.out, ran.out + ran.err
    held = {"stop": 191, "keep": 191, "update": 199}[how]
    assert rows(yard, "SELECT phone FROM owner_phones WHERE owner_id = 1 AND position = 2") == [(held,)]
    assert ("Changed cells: 2 keep what is held" in ran.out) == (how == "keep")
    count = 12 if how == "stop" else 14
    assert [row[4] for row in given_back(yard) if row[1] == "Berg"] == [str(held)] * (count - 9)
    assert "Verified" in hemplit("prove", "yard.design.toml", "--into", "yard.sqlite", folder=yard).out


def test_a_list_becomes_longer_only_where_the_sheet_is_to_be_believed_and_never_shorter(yard: Path) -> None:
    longer, shorter = line(200, "Aas", "rope", **{"Phone 2": "192"}), line(201, "Berg", "rope", **{"Phone 2": ""})
    ran = topup(yard, longer, shorter, how="keep")
    assert "2 rows left out" in ran.out and given_back(yard) == may(), ran.out + ran.err
    ran = topup(yard, longer, shorter, how="update")
    assert ("1 row left out" in ran.out, "Berg has other entries under" in ran.out) == (True, True), ran.out + ran.err
    assert [row[4] for row in given_back(yard) if row[1] == "Aas"] == ["192"] * 4


@pytest.mark.parametrize("blank", ["Order", "Part"])
def test_what_a_row_that_is_left_out_was_the_first_to_tell_is_not_lost(yard: Path, blank: str) -> None:
    """Of a new owner and of a new part the first row is left out, as something is blank in it."""
    lund = {"Owner": "Lund", "Quay": "2 Quay", "Phone 1": "105", "Phone 2": "195", "Marks": "oak, small"}
    odd, *good = (line(at, "Aas", "cleat", **lund, Part="peg") for at in (200, 202, 203))
    odd[HEADER.index(blank)] = ""
    ran = topup(yard, odd, line(204, "Berg", "rope"), *good)
    assert "1 row left out" in ran.out and f"row 2: {blank} is blank" in ran.out, ran.out + ran.err
    assert sorted(given_back(yard)[12:]) == sorted([*good, line(204, "Berg", "rope")])
    assert "Verified" in hemplit("prove", "yard.design.toml", "--into", "yard.sqlite", folder=yard).out


def test_every_cell_that_a_step_changed_is_named_in_each_row_that_says_it(tmp_path: Path) -> None:
    marks = {part: said.replace(", ", " ,") for part, said in MARKS.items()}
    lines = [[*one[:4], one[4] or "n/a", one[5], marks[one[5]]] for one in may()]
    write(tmp_path / "may.csv", lines)
    ran = hemplit("load", "may.csv", "--into", "yard.sqlite", "--json", folder=tmp_path)
    told = json.loads(ran.out)
    assert (ran.code, told["proven"]) == (0, True), ran.err
    named = [(one["row"], one["column"], one["after"]) for sheet in told["sheets"] for one in sheet["changes"]]
    blank = [(at, "Phone 2", "") for at, row in enumerate(lines, 2) if row[4] == "n/a"]
    # What only stood between the values is no loss.
    joined = [(at, "Marks", row[6]) for at, row in enumerate(lines, 2) if "," in row[6]]
    assert sorted(named) == sorted(blank + joined)


def test_a_phone_that_somebody_forgot_in_one_row_is_filled_and_named_there(tmp_path: Path) -> None:
    owners, parts = [*OWNERS], [*MARKS]
    lines = [line(300 + at, owners[at % 4], parts[(at * 3 + at // 4) % 4]) for at in range(60)]
    lines[40][3] = ""
    write(tmp_path / "may.csv", lines)
    ran = hemplit("load", "may.csv", "--into", "yard.sqlite", "--json", folder=tmp_path)
    (change,) = (one for sheet in json.loads(ran.out)["sheets"] for one in sheet["changes"])
    assert (change["row"], change["column"], change["after"]) == (42, "Phone 1", "101"), ran.err
    assert rows(tmp_path, "SELECT count(*) FROM owner_phones") == [(6,)]


#: People and boats stand in sheets of their own, and each job repeats who owns its boat.
BOOK = {
    "people": "Name,Phone,Town;Ann,55-101,Looe;Ben,55-102,Looe;Cas,55-103,Fowey;Dora,55-104,Fowey;Eli,55-105,Polruan;"
    "Fay,55-106,Looe",
    "boats": "Boat Reg,Boat,Rig;B-101,Teal,sloop;B-102,Knot,ketch;B-103,Plover,sloop;B-104,Rail,cutter;B-105,Smew,yawl",
    "jobs": "Job No,Boat Reg,Owners,Hours;17,B-101,Ann/Ben,3;18,B-102,Cas,5;19,B-101,Ann/Ben,2;20,B-103,Dora/Eli,4;"
    "21,B-102,Cas,6;22,B-104,Fay,3;23,B-103,Dora/Eli,1;24,B-101,Ann/Ben,2;25,B-104,Fay,2;26,B-102,Cas,2",
    "june": "Job No,Boat Reg,Owners,Hours;27,B-105,Eli/Ann,3;28,B-101,Ann/Ben,5;29,B-105,Eli/Ann,2",
    "july": "Job No,Boat Reg,Owners,Hours;30,B-101,Ann/Ben/Cas,3;31,B-103,Dora,5;32,B-104,,5",
}


def test_names_in_one_cell_that_stand_in_another_sheet_belong_to_what_a_third_one_lists(tmp_path: Path) -> None:
    for name, text in BOOK.items():
        (tmp_path / f"{name}.csv").write_text(text.replace(";", "\n") + "\n", encoding="utf-8")
    sheets = ("people.csv", "boats.csv", "jobs.csv")
    ran = hemplit("load", *sheets, "--into", "yard.sqlite", "--json", folder=tmp_path)
    made = {table["name"]: table for table in json.loads(ran.out)["tables"]}
    assert ran.code == 0 and [*made] == ["people", "boats", "jobs", "boat_owners"], ran.err or made
    assert [one["table"] for one in made["boat_owners"]["references"]] == ["boats", "people"]
    back = "SELECT * FROM jobs_sheet ORDER BY 1"
    given = [[*map(str, row)] for row in rows(tmp_path, back)]
    assert given == [line.split(",") for line in BOOK["jobs"].split(";")[1:]]

    def further(month: str, how: str) -> Ran:
        call = ("topup", "yard.design.toml", f"{month}.csv", "--into", "yard.sqlite", "--conflicts", how)
        return hemplit(*call, folder=tmp_path)

    # Of a boat that nobody told of so far the owners are new; others than are held are told, and none are mixed.
    assert further("june", "stop").code == 0
    assert "3 cells of known rows" in further("july", "stop").out
    ran = further("july", "keep")
    assert "3 rows left out" in ran.out and len(rows(tmp_path, back)) == 13, ran.out + ran.err
    assert "Verified" in hemplit("prove", "yard.design.toml", "--into", "yard.sqlite", folder=tmp_path).out


def test_what_another_sheet_says_of_the_owners_comes_to_their_one_table(tmp_path: Path) -> None:
    write(tmp_path / "may.csv", may())
    clubs = "\n".join(["Owner,Club", *(f"{owner},{club}" for owner, club in zip(OWNERS, "NSNL", strict=True)), "Moe,S"])
    (tmp_path / "owners.csv").write_text(clubs + "\n", encoding="utf-8")
    ran = hemplit("load", "may.csv", "owners.csv", "--into", "yard.sqlite", "--json", folder=tmp_path)
    made = {table["name"]: table for table in json.loads(ran.out)["tables"]}
    assert ran.code == 0 and {*made["owners"]["columns"]} == {"owner_id", "name", "quay", "club"}, ran.err
    assert [one["table"] for one in made["owner_phones"]["references"]] == ["owners"]
    assert given_back(tmp_path) == may()


@pytest.mark.parametrize(
    ("listed", "split"), [("rope cleat oar hook", True), ("rope cleat oar hook rope/cleat", False)]
)
def test_a_name_that_is_listed_as_a_whole_is_no_list(listed: str, split: bool, tmp_path: Path) -> None:
    (tmp_path / "parts.csv").write_text("\n".join(["Part", *listed.split()]) + "\n", encoding="utf-8")
    lines = ["Job,Part,Hours", "1,rope/cleat,3", "2,oar/hook,2", "3,rope/cleat,4"]
    (tmp_path / "jobs.csv").write_text("\n".join(lines) + "\n", encoding="utf-8")
    hemplit("draft", "parts.csv", "jobs.csv", "--out", "yard.design.toml", folder=tmp_path)
    assert ("split lists" in (tmp_path / "yard.design.toml").read_text(encoding="utf-8")) == split


def test_a_further_sheet_is_the_one_whose_columns_it_has_also_where_lists_are_taken_out(tmp_path: Path) -> None:
    """The boats have most of the columns that are left of the jobs."""
    boats = ["Boat,Rig,Length", "Teal,sloop,7", "Knot,ketch,9", "Rail,yawl,8"]
    header, jobs = (
        "Job No,Boat,Phone 1,Phone 2,Crew,Rig",
        "1,Teal,11,12,Ann | Ben,sloop;2,Knot,13,,Ben,ketch;3,Rail,14,15,Ann,yawl",
    )
    for name, lines in {
        "boats": boats,
        "may": [header, *jobs.split(";"), "4,Teal,11,12,Ben | Ann,sloop"],
        "june": [header, "5,Knot,13,,Ben,ketch"],
    }.items():
        (tmp_path / f"{name}.csv").write_text("\n".join(lines) + "\n", encoding="utf-8")
    assert hemplit("load", "boats.csv", "may.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    ran = hemplit("topup", "yard.design.toml", "june.csv", "--into", "yard.sqlite", folder=tmp_path)
    assert (ran.code, "Verified: 1 new row added" in ran.out) == (0, True), ran.out + ran.err


def test_who_wants_it_on_each_row_edits_the_step_and_drafts_again(yard: Path) -> None:
    path = yard / "yard.design.toml"
    design = path.read_text(encoding="utf-8")
    path.write_text(design.replace('key = ["Owner"], once = true', 'key = ["Order"]'), encoding="utf-8")
    drafted = hemplit("draft", "may.csv", "--out", path.name, "--update", folder=yard)
    assert "the steps that you chose give other tables" in drafted.out, drafted.out + drafted.err
    ran = hemplit("load", path.name, "--into", "yard.sqlite", "--replace", folder=yard)
    filled = sum(bool(cell) for row in may() for cell in row[3:5])
    assert (ran.code, rows(yard, "SELECT count(*) FROM order_phones")) == (0, [(filled,)]), ran.err
    assert given_back(yard) == may()


def test_what_the_design_leaves_out_of_a_thing_is_accounted_for_in_every_row(yard: Path) -> None:
    path = yard / "yard.design.toml"
    design = path.read_text(encoding="utf-8").replace('part = "Phone"', 'part = "Phone"\nleave_out = ["Phone"]')
    path.write_text(re.sub(r"(?m)^columns.phone .*\n", "", design), encoding="utf-8")
    ran = hemplit("load", path.name, "--into", "other.sqlite", folder=yard)
    filled = sum(bool(cell) for row in may() for cell in row[3:5])
    assert (ran.code, f"{filled} leave_out in the design: Phone" in ran.out) == (0, True), ran.out + ran.err


@pytest.fixture(scope="module")
def shaped(tmp_path_factory: pytest.TempPathFactory) -> tuple[Grid, Shaped]:
    path = tmp_path_factory.mktemp("yard") / "may.csv"
    write(path, may())
    sheets = read([str(path)])
    grid = sheets.grids["may"]
    return grid, replay(grid, sheets.relations["may"].steps, {})


def entries(relation: Relation) -> list[tuple[object, ...]]:
    """Each entry of a thing with each row of the sheet that tells of it."""
    told, places = relation.told_in()
    cells = [[shown_at(column, row) for column in relation.columns] for row in told.tolist()]
    return sorted((place, *one) for place, one in zip(places.tolist(), cells, strict=True))


@given(st.sets(st.integers(1, len(SPOKEN)), max_size=len(SPOKEN) - 1))
def test_without_some_rows_things_have_what_the_other_rows_say(shaped: tuple[Grid, Shaped], rows: set[int]) -> None:
    grid, whole = shaped
    left = replay(grid, whole.relation.steps, {}, [(row, "left out") for row in rows])
    for (_, child), (_, other) in zip(whole.children, left.children, strict=True):
        child = child.without(np.array(sorted(rows), dtype=np.int64))
        assert entries(child) == entries(other)
        assert check_cells(grid, child).different == 0


@pytest.mark.parametrize("row", range(1, len(SPOKEN) + 1))
def test_a_cell_that_is_not_as_it_is_told_is_found_in_whatever_row_it_stands(
    shaped: tuple[Grid, Shaped], row: int
) -> None:
    grid, whole = shaped
    phones = next(child for name, child in whole.children if name == "Phone")
    column = grid.columns[HEADER.index("Phone 1")]
    codes = column.codes.copy()
    codes[row] = codes[1 if codes[row] != codes[1] else 2]
    columns = (*grid.columns[:3], GridColumn(codes, column.texts), *grid.columns[4:])
    check = check_cells(replace(grid, columns=columns), phones)
    assert (check.different, check.differences[0].place) == (1, f"D{row + 1}")


@settings(max_examples=tries(60))
@given(
    st.lists(st.tuples(st.integers(0, 4), st.integers(0, 3)), min_size=4, max_size=24),
    st.lists(
        st.tuples(st.integers(0, 3), st.integers(0, 3), st.sampled_from(["", "a", "a, b", "b, c", "c"])),
        min_size=5,
        max_size=5,
    ),
    st.lists(st.tuples(st.integers(0, 23), st.integers(1, 6), st.sampled_from(["", "7", "a, b", "z"])), max_size=2),
)
def test_whosever_it_is_each_sheet_comes_back_as_it_was(
    tmp_path_factory: pytest.TempPathFactory,
    spoken: list[tuple[int, int]],
    said: list[tuple[int, int, str]],
    slips: list[tuple[int, int, str]],
) -> None:
    folder = tmp_path_factory.mktemp("yard")
    parts = [*MARKS]
    lines = []
    for at, (owner, part) in enumerate(spoken):
        first, second, marks = said[owner]
        phones = [f"10{first}", f"10{second}" if second else ""]
        lines.append(
            [str(100 + at), f"Owner {owner}", f"{owner} Quay", *phones, parts[part], marks or MARKS[parts[part]]]
        )
    for row, column, text in slips:
        lines[row % len(lines)][column] = text
    write(folder / "may.csv", lines)
    ran = hemplit("load", "may.csv", "--into", "yard.sqlite", folder=folder)
    assert ran.code <= 1 and "Verified" in ran.out, ran.out + ran.err
    if "Changed cells" not in ran.out:
        assert sorted(given_back(folder)) == sorted(lines)
