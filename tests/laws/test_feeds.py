"""What several sheets speak of and none lists stands in one table, whatever they say of it and whoever says it next."""

from __future__ import annotations

import json
import sqlite3
from pathlib import Path
from random import Random

import pytest

from conftest import Ran, hemplit, same_cells
from feeds import halves
from hemplit.core.design.check import check
from hemplit.core.tables.split import split
from hemplit.design_file.read import from_toml
from hemplit.design_file.write import to_toml
from hemplit.flow import proving, reading, studying
from worlds import world

NAMES = (
    "Teal Heron Knot Gull Avocet Rail Swift Eider Smew Scaup Plover Curlew Dunlin Godwit Ruff Stint Tern Auk".split()
)
#: What is known of a boat, by what a sheet calls it.
BOATS = [
    {"Name": name, "Length m": f"{6 + at * 0.7:.1f}", "Owner": f"{'ABCDEF'[at % 6]}. {NAMES[-1 - at % 7]}", "Rig": rig}
    for at, (name, rig) in enumerate(zip(NAMES, ["sloop", "ketch", "yawl"] * 6, strict=True))
]
REGS = [f"PZ-{211 + 37 * at}" for at in range(len(NAMES))]
STATES = ["waiting", "in work", "done", "lost"]


class Sheet:
    """A sheet of records that speak of boats, under headers of its own, in one place of a row or in two."""

    def __init__(self, name: str, reg: str, said: dict[str, str], most: int, other: str = "") -> None:
        self.name, self.reg, self.said, self.most, self.other = name, reg, said, most, other
        self.number = f"{name[:-1].title()} No"
        self.rows: list[list[str]] = []

    def grow(self, random: Random, boats: list[int], rows: int) -> list[list[str]]:
        """So many rows more."""
        new = []
        for _ in range(rows):
            at, beside = random.choice(boats), random.choice(boats)
            cells = [BOATS[at][what] for what in self.said]
            number = f"{self.number[0]}-{100 + len(self.rows) + len(new)}"
            others = [REGS[beside]] if self.other else []
            state, minutes = random.choice(STATES[: self.most]), str(random.randint(100, 900))
            new.append([number, REGS[at], *cells, *others, state, minutes])
        self.rows += new
        return new

    def write(self, folder: Path, rows: list[list[str]], file: str) -> None:
        others = [self.other] if self.other else []
        lines = [[self.number, self.reg, *self.said.values(), *others, "Status", "Minutes"], *rows]
        (folder / file).write_text("".join(",".join(line) + "\n" for line in lines))


def sheets() -> list[Sheet]:
    return [
        Sheet("jobs", "Boat Reg", {"Name": "Boat", "Length m": "Length m", "Owner": "Owner"}, 3),
        Sheet("lifts", "Reg", {"Name": "Boat Name", "Rig": "Rig"}, 4),
        Sheet("visits", "Boat Reg", {"Name": "Boat"}, 4),
        Sheet("tows", "Boat Reg", {"Name": "Boat"}, 4, "Towed By Reg"),
    ]


def contents(database: Path) -> dict[str, list[tuple[object, ...]]]:
    """What is said of boats, and in which table it stands."""
    with sqlite3.connect(database) as connection:
        tables = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
        assert {"boats", "statuses"} == {name for name in tables if "boat" in name or "status" in name}
        query = "SELECT boat_reg, boats.name, length_m, rigs.name FROM boats LEFT JOIN rigs USING (rig_id)"
        counts = {name: list(connection.execute(f"SELECT count(*) FROM {name}")) for name in tables - {"hemplit_loads"}}
        counts.pop("hemplit_held", None)
        return {**counts, "said": sorted(connection.execute(query), key=str)}


@pytest.mark.parametrize("seed", range(4))
def test_sheets_that_fill_one_table_grow_in_turn(seed: int, tmp_path: Path) -> None:
    random, given = Random(seed), sheets()
    for at, sheet in enumerate(given):
        sheet.grow(random, range(2 * at, 8 + at), 40)
        sheet.write(tmp_path, sheet.rows, f"{sheet.name}.csv")
    files = [f"{sheet.name}.csv" for sheet in given]
    ran = hemplit("load", *files, "--into", "yard.sqlite", folder=tmp_path)
    assert "Verified" in ran.out, ran.out + ran.err
    again = hemplit("load", *random.sample(files, 4), "--into", "turned.sqlite", folder=tmp_path)
    assert contents(tmp_path / "yard.sqlite") == contents(tmp_path / "turned.sqlite"), again.err
    for month in range(1, 4):
        for sheet in random.sample(given, 4):
            rows = sheet.grow(random, range(4 * month, min(8 + 4 * month, len(BOATS))), 12)
            sheet.write(tmp_path, rows, f"{sheet.name}{month}.csv")
            ran = hemplit(
                "topup", "yard.design.toml", f"{sheet.name}{month}.csv", "--into", "yard.sqlite", folder=tmp_path
            )
            assert (ran.code, "Verified" in ran.out, "contradict" in ran.out) == (0, True, False), ran.out + ran.err
    assert "Verified" in hemplit("prove", "yard.design.toml", "--into", "yard.sqlite", folder=tmp_path).out
    for sheet in given:
        sheet.write(tmp_path, sheet.rows, f"{sheet.name}.csv")
        assert same_cells(tmp_path / f"{sheet.name}.csv", tmp_path / "yard.sqlite", f"{sheet.name}_sheet")
    ran = hemplit("load", "yard.design.toml", "--into", "all.sqlite", folder=tmp_path)
    assert "Verified" in ran.out, ran.out + ran.err
    assert contents(tmp_path / "yard.sqlite") == contents(tmp_path / "all.sqlite")


@pytest.fixture
def yard(tmp_path: Path) -> Path:
    """Jobs and lifts of the same boats, loaded with a design."""
    random = Random(1)
    for at, sheet in enumerate(sheets()[:2]):
        sheet.grow(random, range(2 * at, 8 + at), 40)
        sheet.write(tmp_path, sheet.rows, f"{sheet.name}.csv")
    assert "Verified" in hemplit("load", "jobs.csv", "lifts.csv", "--into", "yard.sqlite", folder=tmp_path).out
    return tmp_path


def with_line(folder: Path, name: str, instead: dict[str, str]) -> Ran:
    """A load with the design in which the parts of a column's line are others."""
    path = folder / "yard.design.toml"
    lines = path.read_text().splitlines()
    wanted = (f"columns.{name} ", *instead)
    at = next(place for place, line in enumerate(lines) if all(part in line for part in wanted))
    for old, new in instead.items():
        lines[at] = lines[at].replace(old, new, 1)
    path.write_text("\n".join(lines) + "\n")
    return hemplit("load", "yard.design.toml", "--into", "yard.sqlite", "--replace", folder=folder)


@pytest.mark.parametrize(
    ("column", "instead", "told"),
    [
        ("boat_reg", {'lifts = "Reg"': 'lift = "Reg"'}, "there is no sheet 'lift'; did you mean 'lifts'?"),
        ("boat_reg", {', lifts = "Reg"': ""}, "'boat_reg' names its rows, and has no header in sheet 'lifts'"),
        ("boat_reg", {'lifts = "Reg"': 'lifts = "Regg"'}, "lifts.csv has no column 'Regg'; did you mean 'Reg'?"),
        ("length_m", {'"Length m"': '{ jobs = "Length m", lifts = "Minutes" }'}, "'Minutes' is used twice"),
        ("length_m", {'"Length m"': "{ jobs = 3 }"}, "this must be a list of texts"),
        ("length_m", {'"Length m"': "{}"}, "this must be a header, or a list of them"),
    ],
)
def test_what_cannot_fill_a_table_is_told(column: str, instead: dict[str, str], told: str, yard: Path) -> None:
    ran = with_line(yard, column, instead)
    assert (ran.code, told in ran.err) == (2, True), ran.out + ran.err


def test_two_sheets_that_contradict_each_other_are_told_with_both_places(yard: Path) -> None:
    lines = (yard / "lifts.csv").read_text().splitlines()
    lines[3] = lines[3].replace(lines[3].split(",")[2], "Grebe")
    (yard / "lifts.csv").write_text("\n".join(lines) + "\n")
    ran = hemplit("load", "yard.design.toml", "--into", "yard.sqlite", "--replace", folder=yard)
    reg, name = lines[3].split(",")[1], NAMES[REGS.index(lines[3].split(",")[1])]
    assert f"lifts.csv row 4: Reg '{reg}' has Boat Name 'Grebe', but '{name}' in" in ran.err, ran.err


def test_a_deleted_table_goes_home_to_all_its_sheets(yard: Path) -> None:
    design = yard / "yard.design.toml"
    parts = design.read_text().split("\n\n")
    design.write_text("\n\n".join(part for part in parts if "[tables.boats]" not in part and "[trail]" not in part))
    ran = hemplit("load", "yard.design.toml", "--into", "yard.sqlite", "--replace", folder=yard)
    assert ("Verified" in ran.out, "its columns are in 'lifts'" in ran.err) == (True, True), ran.out + ran.err
    for sheet in ("jobs", "lifts"):
        assert same_cells(yard / f"{sheet}.csv", yard / "yard.sqlite", f"{sheet}_sheet")


def test_a_deleted_list_leaves_its_names_where_one_sheet_said_them(yard: Path) -> None:
    design = yard / "yard.design.toml"
    design.write_text("\n\n".join(part for part in design.read_text().split("\n\n") if "[tables.rigs]" not in part))
    ran = hemplit("load", "yard.design.toml", "--into", "yard.sqlite", "--replace", folder=yard)
    assert ("Verified" in ran.out, "rigs: no such table any more" in ran.err) == (True, True), ran.out + ran.err


def test_a_new_column_of_one_sheet_comes_to_the_table_that_others_fill_too(yard: Path) -> None:
    rows = [line.split(",") for line in (yard / "lifts.csv").read_text().splitlines()]
    lines = [",".join([*row, "Flag" if not at else f"F{REGS.index(row[1]) % 4}"]) for at, row in enumerate(rows)]
    (yard / "lifts.csv").write_text("\n".join(lines) + "\n")
    design = (yard / "yard.design.toml").read_text()
    (yard / "yard.design.toml").write_text(design.replace("columns.owner ", "columns.keeper "))
    ran = hemplit("draft", "jobs.csv", "lifts.csv", "--out", "yard.design.toml", "--update", folder=yard)
    assert "new column 'Flag': boats.flag" in ran.out, ran.out
    ran = hemplit("load", "yard.design.toml", "--into", "yard.sqlite", "--replace", folder=yard)
    assert "Verified" in ran.out, ran.err
    assert 'from = { lifts = "Flag" }' in (yard / "yard.design.toml").read_text()


def drafted(folder: Path, **sheets: list[str]) -> dict[str, dict[str, str | None]]:
    """What the columns of each table refer to in the draft for sheets, given by their lines."""
    for name, lines in sheets.items():
        (folder / f"{name}.csv").write_text("\n".join(lines) + "\n")
    files = [f"{name}.csv" for name in sheets]
    ran = hemplit("draft", *files, "--out", "d.design.toml", "--json", folder=folder)
    tables = json.loads(ran.out)["tables"]
    return {table["name"]: {column["name"]: column["to"] for column in table["columns"]} for table in tables}


def test_pairs_that_are_nearly_all_there_could_be_are_no_list_of_them(tmp_path: Path) -> None:
    """Boats and docks: of sixteen pairs ten stand in the lifts, so that those of the jobs stand there by accident."""
    boats, docks = NAMES[:4], ["North", "South", "East", "West"]
    pairs = Random(2).sample([(boat, dock) for boat in boats for dock in docks], 10)
    lifts = [f"L{at},{boat},{dock},{900 + 37 * at}" for at, (boat, dock) in enumerate(pairs)]
    jobs = [f"J{at},{boats[at % 4]},{docks[at * at % 7 % 4]},{at % 7 + 1}" for at in range(14)]
    tables = drafted(tmp_path, jobs=["Job No,Boat,Dock,Hours", *jobs], lifts=["Lift No,Boat,Dock,Weight", *lifts])
    assert set(tables["jobs"].values()) == {None, "boats", "docks"}
    assert set(tables["lifts"].values()) == {None, "boats", "docks"}


def test_numbers_that_only_count_name_other_things_in_each_sheet(tmp_path: Path) -> None:
    lifts = [f"L{at},{at % 6 + 1},{'North South East'.split()[at % 6 % 3]}" for at in range(30)]
    hires = [f"H{at},{at % 5 + 1},{'red green'.split()[at % 5 % 2]}" for at in range(30)]
    tables = drafted(
        tmp_path, lifts=["Lift No,Crane No,Crane Yard", *lifts], hires=["Hire No,Bay No,Bay Paint", *hires]
    )
    assert {"cranes", "bays"} <= tables.keys()


def test_a_name_a_letter_off_another_sheets_is_told(tmp_path: Path) -> None:
    """Each sheet may say what the other does not; what is nearly the same is probably a slip."""
    lines = {name: [f"{name} No,Status,Hours"] for name in ("jobs", "lifts")}
    for at in range(24):
        lines["jobs"].append(f"J{at},{['waiting', 'in work', 'finished'][at % 3]},{at % 5}")
        lines["lifts"].append(f"L{at},{['waiting', 'finished', 'postponed', 'finihsed'][at % 4]},{at % 5}")
    drafted(tmp_path, **lines)
    ran = hemplit("load", "d.design.toml", "--into", "d.sqlite", folder=tmp_path)
    assert "'Status' says 'finihsed', of which jobs.csv says nothing" in ran.out, ran.out
    assert "the nearest there is 'finished'" in ran.out
    assert "postponed" not in ran.out


def test_what_one_place_of_a_row_never_says_contradicts_nothing(tmp_path: Path) -> None:
    """Of the boat that tows only the number is said, and later its name."""
    head = "Tow No,Boat Reg,Boat,Towed By Reg"
    pairs = [(0, 1), (1, 2), (2, 3), (4, 0), (3, 1), (1, 0), (2, 5), (0, 3)]
    tows = [f"T{at},{REGS[one]},{NAMES[one]},{REGS[by]}" for at, (one, by) in enumerate(pairs)]
    drafted(tmp_path, tows=[head, *tows])
    design = (tmp_path / "d.design.toml").read_text()
    for old, new in {
        '= { to = "boats"': '= { from = "Boat Reg", to = "boats"',
        'from = "Towed By Reg", type = "text"': 'from = "Towed By Reg", to = "boats"',
        'from = "Boat Reg", type': 'from = ["Boat Reg", "Towed By Reg"], type',
        'from = "Boat", type = "text", required = true': 'from = "Boat", type = "text"',
    }.items():
        assert design.count(old) == 1, (old, design)
        design = design.replace(old, new)
    (tmp_path / "d.design.toml").write_text(design)
    assert "Verified" in hemplit("load", "d.design.toml", "--into", "d.sqlite", folder=tmp_path).out
    (tmp_path / "more.csv").write_text(f"{head}\nT30,{REGS[5]},{NAMES[5]},{REGS[0]}\n")
    ran = hemplit("topup", "d.design.toml", "more.csv", "--into", "d.sqlite", folder=tmp_path)
    assert ("Verified" in ran.out, "something else now" in ran.out) == (True, False), ran.out + ran.err


def test_a_blank_that_was_said_is_not_filled_in_silence(yard: Path) -> None:
    rows = [line.split(",") for line in (yard / "lifts.csv").read_text().splitlines()]
    reg = rows[1][1]
    blank = [",".join([*row[:3], "", *row[4:]] if row[1] == reg else row) for row in rows]
    (yard / "lifts.csv").write_text("\n".join(blank) + "\n")
    assert "Verified" in hemplit("load", "yard.design.toml", "--into", "yard.sqlite", "--replace", folder=yard).out
    (yard / "more.csv").write_text(",".join(rows[0]) + "\n" + ",".join(["L-999", *rows[1][1:]]) + "\n")
    ran = hemplit("topup", "yard.design.toml", "more.csv", "--into", "yard.sqlite", folder=yard)
    assert (ran.code, "something else now" in ran.out) == (1, True), ran.out


def test_what_two_sheets_say_otherwise_stays_in_a_column_of_each(tmp_path: Path) -> None:
    jobs = [f"J{at},{REGS[at % 6]},{NAMES[at % 6]},{at % 5}" for at in range(24)]
    lifts = [f"L{at},{REGS[at % 6]},{'Grebe' if at % 6 == 2 else NAMES[at % 6]},{900 + at}" for at in range(24)]
    tables = drafted(
        tmp_path, jobs=["Job No,Boat Reg,Boat,Hours", *jobs], lifts=["Lift No,Boat Reg,Boat,Kilos", *lifts]
    )
    assert (len(tables["boats"]), "boats" in tables["lifts"].values()) == (3, True)
    assert "Verified" in hemplit("load", "d.design.toml", "--into", "d.sqlite", folder=tmp_path).out
    for sheet in ("jobs", "lifts"):
        assert same_cells(tmp_path / f"{sheet}.csv", tmp_path / "d.sqlite", f"{sheet}_sheet")


def test_a_few_rows_that_name_two_known_things_refer_to_both(tmp_path: Path) -> None:
    jobs = [f"J{at},{REGS[at % 10]},{NAMES[at % 10]},{at % 10 + 5}.5,{at % 5}" for at in range(40)]
    pairs = Random(4).sample([(one, two) for one in range(10) for two in range(10) if one != two], 12)
    lines = [f"T{at},{REGS[one]},{REGS[two]},{20 + at * at % 7}" for at, (one, two) in enumerate([*pairs, (11, 0)])]
    head = "Tow No,Boat Reg,By Boat Reg,Minutes"
    tables = drafted(tmp_path, jobs=["Job No,Boat Reg,Boat,Length m,Hours", *jobs], tows=[head, *lines])
    assert list(tables["tows"].values()).count("boats") == 2, tables
    ran = hemplit("load", "d.design.toml", "--into", "d.sqlite", folder=tmp_path)
    assert ("Verified" in ran.out, f"says '{REGS[11]}', of which jobs.csv says nothing" in ran.out) == (True, True), (
        ran.out
    )
    assert same_cells(tmp_path / "tows.csv", tmp_path / "d.sqlite", "tows_sheet")


def test_a_berth_of_a_boat_is_not_the_berth_of_a_job(tmp_path: Path) -> None:
    """Only the lifts say where a boat lies; the jobs name berths, too, and for another reason."""
    berths = [f"B{at:02}" for at in range(5)]
    sides = "North South East West Quay".split()
    jobs = [f"J{at},{REGS[at % 6]},{NAMES[at % 6]},{berths[at * at % 7 % 5]}" for at in range(30)]
    jobs = [f"{line},{sides[berths.index(line[-3:])]},{line.split(',')[1][-1]}.5,red" for line in jobs]
    lifts = [f"L{at},{REGS[at % 6]},{NAMES[at % 6]},{berths[at % 6 % 5]},{sides[at % 6 % 5]}" for at in range(30)]
    head = "Boat Reg,Boat,Berth Code,Berth Side"
    drafted(tmp_path, jobs=[f"Job No,{head},Boat Length,Boat Paint", *jobs], lifts=[f"Lift No,{head}", *lifts])
    ran = hemplit("load", "d.design.toml", "--into", "d.sqlite", folder=tmp_path)
    assert "Verified" in ran.out, ran.out + ran.err
    design = (tmp_path / "d.design.toml").read_text()
    assert '{ from = { lifts = "Berth Code" }, to = "berths"' in design, design
    for sheet in ("jobs", "lifts"):
        assert same_cells(tmp_path / f"{sheet}.csv", tmp_path / "d.sqlite", f"{sheet}_sheet")


@pytest.mark.parametrize("seed", [3, 4, 5, 9, 14, 20, 23, 29, 41, 43, 55, 58])
def test_a_draft_of_sheets_cut_out_of_one_can_be_loaded(seed: int) -> None:
    """Two or three sheets with some of the rows and columns of one, under its headers or others, lose nothing."""
    random, rows = Random(seed), Random(seed).choice([12, 30, 60, 160])
    grids, _ = halves(world(seed, rows), random)
    if random.random() < 0.5:
        again, _ = halves(world(seed, rows), Random(seed + 7))
        grids["more"] = again["visits"]
    sheets = reading.shape_grids(grids)
    design = studying.draft(sheets)
    check(design)
    written = from_toml(to_toml(design), "yard.design.toml")
    shown = [
        [(column.headers, column.elsewhere, column.to) for table in one.tables for column in table.columns]
        for one in (design, written)
    ]
    assert shown[0] == shown[1]
    assert proving.prove_tables(design, sheets, split(design, sheets.relations)).holds
