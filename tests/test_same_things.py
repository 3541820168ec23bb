"""Sheets that tell of the same things give one table of them; what contradicts is told cell against cell, and kept."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import pytest

from conftest import Ran, hemplit, same_cells

#: Berth list and insurer's list of the same boats: two are in one of them only, and of one they say two builders.
HULLS = ["Sloop", "Cutter", "Yawl", "Ketch"]
YARD = [(f"MQ-{at:02}", f"Tern {at}", HULLS[at % 4], 1970 + at) for at in range(14)]
INSURED = [(f"MQ-{at:02}", at % 3, HULLS[at % 4], 900 + 35 * at) for at in range(2, 16)]


def write(folder: Path, name: str, header: str, rows: list[tuple[object, ...]]) -> None:
    lines = [header, *(",".join(map(str, row)) for row in rows)]
    (folder / name).write_text("\n".join(lines) + "\n", encoding="utf-8")


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    write(tmp_path, "yard.csv", "Boat Reg,Boat,Rig,Built", YARD)
    insured = [row if at != 5 else (*row[:2], "Lugger", row[3]) for at, row in enumerate(INSURED)]
    write(tmp_path, "insured.csv", "Reg,Class,Rigged As,Premium", insured)
    write(tmp_path, "jobs.csv", "Job,Boat Reg,Hours", [(70 + at, f"MQ-{at * 5 % 16:02}", at % 9) for at in range(40)])
    return tmp_path


def load(folder: Path, *given: str, sheets: str = "jobs yard insured") -> Ran:
    names = given or tuple(f"{name}.csv" for name in sheets.split())
    return hemplit("load", *names, "--into", "boats.sqlite", "--replace", folder=folder)


def rows(folder: Path, query: str) -> list[tuple[object, ...]]:
    with sqlite3.connect(folder / "boats.sqlite") as database:
        return database.execute(query).fetchall()


def said(ran: Ran) -> str:
    return " ".join(ran.out.split())


@pytest.mark.parametrize("sheets", ["jobs yard insured", "insured jobs yard"])
def test_one_table_has_what_both_sheets_say(folder: Path, sheets: str) -> None:
    ran = load(folder, sheets=sheets)
    assert ran.code == 1, ran.err
    assert "'Rigged As' of MQ-07 is 'Lugger', and 'Ketch' in yard.csv C9: C7" in said(ran)
    assert said(ran).count("correct it here") == 1
    assert "Verified: all 68 rows" in said(ran)
    assert rows(folder, "SELECT count(*), count(premium), count(built) FROM boats") == [(16, 14, 14)]
    joined = "SELECT count(*) FROM jobs JOIN boats USING (boat_reg) WHERE boat_reg IN ('MQ-00', 'MQ-15')"
    assert rows(folder, joined) == [(6,)]
    for name in ("yard", "insured", "jobs"):
        assert same_cells(folder / f"{name}.csv", folder / "boats.sqlite", f"{name}_sheet")


def test_the_design_loads_the_same_and_tells_what_is_new(folder: Path) -> None:
    load(folder)
    assert load(folder, "boats.design.toml").code == 1
    write(folder, "yard.csv", "Boat Reg,Boat,Rig,Built", [*YARD, ("MQ-77", "Knot", "Sloop", 2001)])
    assert load(folder, "boats.design.toml").code == 1
    assert rows(folder, "SELECT count(*) FROM boats") == [(17,)]
    other = [row if at != 3 else (*row[:2], "Lugger", row[3]) for at, row in enumerate(YARD)]
    write(folder, "yard.csv", "Boat Reg,Boat,Rig,Built", other)
    assert "'Rigged As' of MQ-03 is 'Ketch', and 'Lugger' in yard.csv C5" in said(load(folder, "boats.design.toml"))


def test_a_contradiction_that_no_column_keeps_is_refused_with_the_line_that_does(folder: Path) -> None:
    write(folder, "insured.csv", "Reg,Class,Rigged As,Premium", INSURED)
    assert load(folder).code == 0
    for at, (rig, line) in enumerate([("Lugger", 'unlike = "reg"'), ("", 'from = "Rigged As" }')]):
        changed = [row if row[0] != "MQ-04" else (*row[:2], rig, row[3]) for row in INSURED]
        write(folder, "insured.csv", "Reg,Class,Rigged As,Premium", changed)
        ran = load(folder, "boats.design.toml")
        assert (ran.code, "C4 of insured.csv says" in ran.err, line in ran.err) == (2, True, True), ran.err
        design = folder / "boats.design.toml"
        kept = ran.err[ran.err.index("{ from") : ran.err.index(" }") + 2]
        text = design.read_text(encoding="utf-8")
        design.write_text(text.replace("columns.reg ", f"columns.rig_{at} = {kept}\ncolumns.reg "), encoding="utf-8")
        assert load(folder, "boats.design.toml").code == 1 - at
        assert same_cells(folder / "insured.csv", folder / "boats.sqlite", "insured_sheet")
        design.write_text(text, encoding="utf-8")


def test_what_agrees_by_accident_stays_apart(tmp_path: Path) -> None:
    """Two lists that count from one, with a yes or no beside."""
    write(
        tmp_path, "sails.csv", "No,Sail,Mended", [(at + 1, f"sail {at}", "yes" if at % 2 else "no") for at in range(6)]
    )
    write(tmp_path, "ropes.csv", "No,Metres,Sound", [(at + 1, 7.5 * at, "yes" if at % 2 else "no") for at in range(6)])
    assert load(tmp_path, sheets="sails ropes").code == 0
    assert rows(tmp_path, "SELECT count(*) FROM sqlite_master WHERE sql LIKE '%REFERENCES%'") == [(0,)]


@pytest.mark.parametrize(
    ("old", "new", "wanted"),
    [
        ('unites = ["yard", "insured"]', 'unites = ["yard", "insure"]', "there is no sheet 'insure'"),
        ('unites = ["yard", "insured"]', 'unites = ["yard", "yard"]', "'yard' is united twice"),
        ('by = [["Boat Reg", "Reg"]]', 'by = [["Boat Reg", "Regs"]]', "insured.csv has no column 'Regs'"),
        ('by = [["Boat Reg", "Reg"]]', 'by = [["Boat Reg"]]', "one header for each of the 2 sheets"),
        ('[["Rig", "Rigged As"]]', '[["Built", "Rigged As"]]', "'Built' is text in one sheet and whole number"),
        ('unlike = "reg"', 'unlike = "rigged"', "'rigged' refers to no table of another sheet"),
        ('{ from = "Reg", to = "boats"', '{ from = "Reg"', "does not refer to 'boats'"),
    ],
)
def test_what_cannot_be_united_is_refused_in_a_line(folder: Path, old: str, new: str, wanted: str) -> None:
    load(folder)
    design = folder / "boats.design.toml"
    text = design.read_text(encoding="utf-8")
    assert old in text
    design.write_text(text.replace(old, new), encoding="utf-8")
    ran = load(folder, "boats.design.toml")
    assert (ran.code, wanted in ran.err) == (2, True), ran.err


def test_each_sheet_writes_its_dates_in_its_own_form(tmp_path: Path) -> None:
    days = [(at, f"2026-{at % 12 + 1:02}-{at + 13}") for at in range(14)]
    write(tmp_path, "yard.csv", "Boat Reg,Launched", [(f"MQ-{at:02}", day) for at, day in days])
    dotted = [(f"MQ-{at:02}", ".".join(reversed(day.split("-"))), at * 3) for at, day in days[1:]]
    write(tmp_path, "insured.csv", "Reg,Launched On,Premium", dotted)
    assert load(tmp_path, sheets="yard insured").code == 0
    assert rows(tmp_path, "SELECT count(*), count(launched) FROM boats") == [(14, 14)]
    assert load(tmp_path, "boats.design.toml").code == 0
    assert same_cells(tmp_path / "insured.csv", tmp_path / "boats.sqlite", "insured_sheet")
    write(tmp_path, "insured.csv", "Reg,Launched On,Premium", [*dotted, ("", "30.12.2026", 8)])
    ran = load(tmp_path, "boats.design.toml")
    assert (ran.code, "insured.csv row 15" in ran.err) == (2, True), ran.err


def test_what_a_sheet_names_in_vain_can_be_added_to_the_list(tmp_path: Path) -> None:
    """A sheet of jobs names boats, too: united with the list by its key alone, it adds those that the list has not."""
    write(tmp_path, "yard.csv", "Boat Reg,Boat", [(f"MQ-{at:02}", f"Tern {at}") for at in range(6)])
    write(tmp_path, "jobs.csv", "Job,Boat Reg,Hours", [(at + 1, f"MQ-{at * 7 % 8:02}", at % 5) for at in range(30)])
    assert load(tmp_path, sheets="yard jobs").code == 1
    design = tmp_path / "boats.design.toml"
    text = design.read_text(encoding="utf-8")
    united = '[sheets.all]\nunites = ["yard", "jobs"]\nby = [["Boat Reg", "Boat Reg"]]\n\n'
    listed = '[tables.listed]\nsheet = "yard"\neach_row = true\npurpose = "main"\nkey = ["boat_reg"]\n'
    listed += 'columns.boat_reg = { from = "Boat Reg", to = "boats" }\n\n'
    text = text.replace("[tables.boats]", f"{united}{listed}[tables.boats]").replace(
        'sheet = "yard"\npurpose', 'sheet = "all"\npurpose'
    )
    text = "\n".join(line for line in text.splitlines() if "unmatched" not in line)
    design.write_text(text.replace('from = "Boat", type = "text", required = true', 'from = "Boat"'), encoding="utf-8")
    ran = load(tmp_path, "boats.design.toml")
    assert ran.code == 0, ran.out + ran.err
    assert rows(tmp_path, "SELECT count(*), count(name) FROM boats") == [(8, 6)]
    assert rows(tmp_path, "SELECT count(*) FROM jobs JOIN boats ON boats.boat_reg = jobs.boat_reg") == [(30,)]
    assert same_cells(tmp_path / "yard.csv", tmp_path / "boats.sqlite", "yard_sheet")


def topup(folder: Path, *given: str) -> Ran:
    return hemplit("topup", "boats.design.toml", *given, "--into", "boats.sqlite", folder=folder)


def test_what_a_sheet_says_first_of_a_thing_is_filled_in_and_what_it_says_otherwise_is_kept(folder: Path) -> None:
    load(folder)
    new = [("MQ-00", 1, "Sloop", 905), ("MQ-01", 2, "Yawl", 911), ("MQ-20", 2, "Yawl", 955)]
    write(folder, "later.csv", "Reg,Class,Rigged As,Premium", [*new, INSURED[0]])
    ran = topup(folder, "later.csv")
    assert (ran.code, "4 rows: 3 new, 1 known already" in ran.out) == (1, True), ran.out + ran.err
    assert "changed, of what was there: 2 rows of boats" in ran.out
    assert "'Rigged As' of MQ-01 is 'Yawl', and 'Cutter' in another sheet: C3" in said(ran)
    assert rows(folder, "SELECT count(*), count(premium), count(built) FROM boats") == [(17, 17, 14)]
    assert rows(folder, "SELECT \"Rigged As\" FROM insured_sheet WHERE Reg = 'MQ-01'") == [("Yawl",)]
    # A blank of a row that the sheet had is no new thing to say.
    before = rows(folder, "SELECT * FROM boats")
    write(folder, "late.csv", "Reg,Class,Rigged As,Premium", [(*INSURED[1][:3], ""), ("MQ-21", 1, "Yawl", "")])
    assert "boats MQ-03 Premium 1005" in said(topup(folder, "late.csv"))
    write(folder, "late.csv", "Reg,Class,Rigged As,Premium", [("MQ-21", 1, "Yawl", "")])
    assert "Verified" in topup(folder, "late.csv").out
    write(folder, "later still.csv", "Reg,Class,Rigged As,Premium", [("MQ-21", 1, "Yawl", 960)])
    assert "boats MQ-21 Premium blank 960" in said(topup(folder, "later still.csv"))
    assert rows(folder, "SELECT * FROM boats WHERE boat_reg <> 'MQ-21'") == before
    # The yard comes first: what it says of MQ-20 now holds, and the insurer's word is kept beside.
    write(folder, "moored.csv", "Boat Reg,Boat,Rig,Built", [("MQ-20", "Knot", "Ketch", 1998)])
    ran = topup(folder, "moored.csv")
    assert (ran.code, "boats MQ-20 Rig Yawl Ketch" in said(ran)) == (1, True), ran.out
    assert "Verified" in topup(folder, "moored.csv", "--conflicts", "update").out
    assert rows(folder, "SELECT \"Rigged As\" FROM insured_sheet WHERE Reg = 'MQ-20'") == [("Yawl",)]
    assert rows(folder, "SELECT Rig FROM yard_sheet WHERE \"Boat Reg\" = 'MQ-20'") == [("Ketch",)]
    assert "Verified" in hemplit("prove", "boats.design.toml", "--into", "boats.sqlite", folder=folder).out


def test_a_row_by_which_another_sheet_would_say_something_else_is_left_out(folder: Path) -> None:
    """Where the sheets agreed, the design has no column that keeps what differs."""
    write(folder, "insured.csv", "Reg,Class,Rigged As,Premium", INSURED)
    assert load(folder).code == 0
    write(folder, "later.csv", "Reg,Class,Rigged As,Premium", [("MQ-01", 2, "Yawl", 911)])
    ran = topup(folder, "later.csv")
    assert "and 'Cutter' in another sheet: C2; add a column to tables.insured_rows that keeps it" in said(ran)
    write(folder, "moored.csv", "Boat Reg,Boat,Rig,Built", [("MQ-15", "Knot", "Sloop", 1998)])
    before = rows(folder, "SELECT * FROM insured_sheet")
    ran = topup(folder, "moored.csv", "--conflicts", "update")
    assert "'Rigged As' of MQ-15 is 'Ketch' in insured.csv, and would be 'Sloop'" in said(ran), ran.out
    assert rows(folder, "SELECT * FROM insured_sheet") == before
    assert rows(folder, "SELECT count(*) FROM yard_sheet") == [(len(YARD),)]


def test_numbers_that_no_sheet_has_make_no_things_of_rows(tmp_path: Path) -> None:
    """Rows that nothing tells apart are numbered; the first of one sheet is not the first of another."""
    told = [("MQ-1", "tarred", "Ada", "Ines"), ("MQ-1", "tarred", "Ada", "Ines"), ("MQ-2", "caulked", "Ada", "Ada")]
    told += [("MQ-3", "tarred", "Ines", "Ada"), ("MQ-2", "caulked", "Ada", "Ines")]
    write(tmp_path, "north.csv", "Boat Reg,Work,Crew,Crew", told)
    write(tmp_path, "south.csv", "Boat Reg,Work,Crew,Crew", [("MQ-4", *row[1:]) for row in told])
    ran = load(tmp_path, "north.csv", "south.csv")
    assert "Verified" in said(ran), ran.err
    listed = rows(tmp_path, "SELECT 'norths', \"table\" FROM pragma_foreign_key_list('souths')")
    assert rows(tmp_path, "SELECT count(*) FROM souths") == [(5,)] and ("norths", "norths") not in listed


def test_numbers_by_which_sheets_are_linked_name_one_thing_on_both(tmp_path: Path) -> None:
    """What the jobs say of a skipper, and what the list says of him, stand in one table."""
    skippers = {501: ("Ann Rice", "1980-03-04"), 502: ("Bo Lie", "1975-05-09"), 503: ("Cy Dahl", "1990-01-30")}
    named = [(at + 1, no, *skippers[no], f"2026-01-0{at + 1}") for at, no in enumerate([501, 502, 501, 503, 502])]
    write(tmp_path, "jobs.csv", "Job,Skipper No,Skipper Name,Born,Day", named)
    told = [(501, "KX-7", "Quay 1, Vik"), (502, "KX-9", "Mill 2, Vik"), (503, "KY-1", "High 9, Oddane")]
    write(tmp_path, "skippers.csv", "Skipper No,Licence No,Lives At", told)
    assert load(tmp_path, sheets="jobs skippers").code == 0
    held = rows(tmp_path, "SELECT skipper_no, name, licence_no FROM skippers ORDER BY 1")
    assert held == [(501, "Ann Rice", "KX-7"), (502, "Bo Lie", "KX-9"), (503, "Cy Dahl", "KY-1")]


def test_the_newer_list_is_right(tmp_path: Path) -> None:
    """Even the shorter one; of so few boats only the same header shows that both say where they lie."""
    listed = [(*row[:2], f"B{at % 3}") for at, row in enumerate(YARD[:7])]
    write(tmp_path, "yard-2025.csv", "Boat Reg,Boat,Berth", listed)
    insured = [(*row[:2], "B2" if at == 3 else row[2], at) for at, row in enumerate(listed[:6])]
    write(tmp_path, "insured-2026.csv", "Reg,Boat,Berth,Premium", insured)
    ran = load(tmp_path, sheets="yard-2025 insured-2026")
    assert "yard-2025.csv: 'Berth' of MQ-03 is 'B0', and 'B2' in insured-2026.csv C5" in said(ran)
    assert rows(tmp_path, "SELECT count(*), count(premium) FROM boats") == [(7, 6)]


JOBS = [(70 + at, f"MQ-{at * 5 % 9:02}", f"Tern {at * 5 % 9}", f"Owner {at * 5 % 9 % 4}", at % 8) for at in range(30)]
REPEATED = "Job,Boat Reg,Boat,Owner,Hours"


@pytest.fixture
def told(tmp_path: Path) -> Path:
    """A list of boats, and jobs that say more of them than the list does."""
    write(tmp_path, "jobs.csv", REPEATED, JOBS)
    write(tmp_path, "yard.csv", "Boat Reg,Berth,Length m", [(f"MQ-{at:02}", f"B{at}", 7 + at) for at in range(11)])
    return tmp_path


def test_what_the_list_lacks_and_the_jobs_say_stands_in_one_table(told: Path) -> None:
    ran = load(told, sheets="jobs yard")
    assert (ran.code, "list" in ran.out) == (0, False)
    assert rows(told, "SELECT count(*), count(owner_id), count(berth) FROM boats") == [(11, 9, 11)]
    assert rows(told, "SELECT count(*) FROM jobs JOIN boats USING (boat_reg)") == [(30,)]
    write(told, "may.csv", REPEATED, [(200, "MQ-30", "Knot", "Owner 1", 2), (201, "MQ-02", "Tern 2", "Owner 9", 2)])
    write(told, "june.csv", "Boat Reg,Berth,Length m", [("MQ-30", "B30", 9)])
    add = ["topup", "boats.design.toml", "--into", "boats.sqlite"]
    assert "1 cell of known rows says something else" in hemplit(*add, "may.csv", folder=told).out
    added = [hemplit(*add, f"{one}.csv", "--conflicts", "keep", folder=told).code for one in ("may", "june")]
    assert added == [1, 0]
    assert rows(told, "SELECT name, berth FROM boats WHERE boat_reg = 'MQ-30'") == [("Knot", "B30")]
    assert "Verified: all 44 rows" in hemplit("prove", "boats.design.toml", "--into", "boats.sqlite", folder=told).out


def test_a_boat_that_the_list_lacks_is_told_with_the_nearest(told: Path) -> None:
    write(told, "jobs.csv", REPEATED, [*JOBS, (300, "MQ-77", "Tern 7", "Owner 3", 5)])
    ran = load(told, sheets="jobs yard")
    assert (ran.code, "'MQ-77', which yard.csv does not list: B32 the nearest there is 'MQ-07'" in said(ran)) == (
        1,
        True,
    )


@pytest.mark.parametrize("header", ["Inspection No,Boat Reg,Result", "Day,Boat Reg,Result"])
def test_rows_that_speak_of_each_thing_once_so_far_are_no_list_of_them(header: str, told: Path) -> None:
    """Next month the same boats are inspected again."""
    numbers = [*range(900, 909), *range(909, 912)]
    first = [f"2026-04-{at - 889:02}" if header.startswith("Day") else str(at) for at in numbers]
    lines = [(one, f"MQ-{at % 9:02}", "good" if at % 3 else "poor") for at, one in enumerate(first)]
    write(told, "inspections.csv", header, lines[:9])
    assert load(told, sheets="jobs inspections").code == 0
    write(told, "may.csv", header, lines[9:])
    ran = hemplit("topup", "boats.design.toml", "may.csv", "--into", "boats.sqlite", folder=told)
    assert ran.code == 0, ran.out + ran.err
    assert rows(told, "SELECT count(*), count(DISTINCT boat_reg) FROM inspections JOIN boats USING (boat_reg)") == [
        (12, 9)
    ]


def test_what_happened_to_each_boat_once_is_no_second_list_of_them(tmp_path: Path) -> None:
    """Both sheets say the name and the owner of each boat, and the lifts of a day say which boat it was."""
    owners = [f"Owner {at % 4}" for at in range(10)]
    lifts = [(f"2026-04-{at + 10}", f"MQ-{at * 7 % 8:02}", f"Tern {at * 7 % 8}", owners[at * 7 % 8]) for at in range(8)]
    write(tmp_path, "lifts.csv", "Date,Boat Reg,Boat,Owner", lifts)
    boats = [(f"MQ-{at:02}", f"Tern {at}", owners[at], f"B{at}") for at in range(10)]
    write(tmp_path, "boats.csv", "Boat Reg,Boat,Owner,Berth", boats)
    assert load(tmp_path, sheets="lifts boats").code == 0
    write(tmp_path, "may.csv", "Date,Boat Reg,Boat,Owner", [("2026-05-02", "MQ-03", "Tern 3", owners[3])])
    assert hemplit("topup", "boats.design.toml", "may.csv", "--into", "boats.sqlite", folder=tmp_path).code == 0
    assert rows(tmp_path, "SELECT count(*), count(DISTINCT boat_reg) FROM lifts JOIN boats USING (boat_reg)") == [
        (9, 8)
    ]


def test_what_was_asked_of_each_boat_in_a_month_is_no_second_list_of_them(tmp_path: Path) -> None:
    """Of the boats both sheets say the name, and the fees of a month are asked of some."""
    boats = [(f"MQ-{at:02}", f"Tern {at}") for at in range(9)]
    fees = [("2026-04", *boats[at], 20 + at * 7 % 5) for at in (5, 2, 7, 0, 4, 8)]
    write(tmp_path, "fees.csv", "Month,Boat Reg,Boat,Fee", fees)
    write(tmp_path, "boats.csv", "Boat Reg,Boat,Length m", [(*boat, 7 + at) for at, boat in enumerate(boats)])
    assert load(tmp_path, sheets="fees boats").code == 0
    write(tmp_path, "may.csv", "Month,Boat Reg,Boat,Fee", [("2026-05", *row[1:]) for row in fees])
    assert hemplit("topup", "boats.design.toml", "may.csv", "--into", "boats.sqlite", folder=tmp_path).code == 0
    assert rows(
        tmp_path, "SELECT count(*), count(DISTINCT boat_reg), count(length_m) FROM fees JOIN boats USING (boat_reg)"
    ) == [(12, 6, 12)]


CREW = ["Moe Aas", "Nan Berg", "Pia Lie", "Rolf Sund", "Siri Haug"]
TRADES = ["rigger", "joiner", "painter", "rigger", "fitter"]


def test_what_plain_names_are_names_of_is_said_by_the_list(tmp_path: Path) -> None:
    """Even where three rows name a person each, and no more."""
    at = [(week * 2 + place) % 5 for week in range(6) for place in range(4)]
    hours = [(CREW[one], 1 + place // 4, 20 + place, TRADES[one]) for place, one in enumerate(at)]
    write(tmp_path, "hours.csv", "Name,Week,Hours,Trade", hours)
    write(
        tmp_path,
        "crew.csv",
        "Name,Since,Phone",
        [(one, f"201{at * at % 7}", f"0559 {70 * at % 31}") for at, one in enumerate(CREW)],
    )
    write(tmp_path, "leave.csv", "Name,From,Days", [(CREW[one], f"2026-02-0{one + 1}", one + 2) for one in (0, 3, 1)])
    assert load(tmp_path, sheets="hours crew leave").code == 0
    assert rows(tmp_path, "SELECT count(phone), count(trade) FROM crews") == [(5, 5)]
    assert rows(tmp_path, "SELECT count(*) FROM leaves JOIN crews USING (crew_id)") == [(3,)]
    assert rows(tmp_path, "SELECT count(*) FROM hours JOIN crews USING (crew_id)") == [(24,)]


def test_lists_that_refer_to_each_other_have_what_the_jobs_say_more_of_each(tmp_path: Path) -> None:
    owners = [(f"O{at}", ["Ada Bo", "Cato Eide", "Finn Grav", "Ines Juul"][at], "NS"[at % 2] + "ea") for at in range(4)]
    write(tmp_path, "owners.csv", "Owner Code,Owner,Town", owners)
    yard = [(f"MQ-{at:02}", f"Tern {at}", f"O{at % 4}") for at in range(9)]
    write(tmp_path, "yard.csv", "Boat Reg,Boat,Owner Code", yard)
    jobs = [(job[0], job[1], yard[int(job[1][3:])][2], f"055{yard[int(job[1][3:])][2]}", job[4]) for job in JOBS]
    write(tmp_path, "jobs.csv", "Job,Boat Reg,Owner Code,Owner Phone,Hours", jobs)
    assert load(tmp_path, sheets="jobs owners yard").code == 0
    assert rows(tmp_path, "SELECT count(phone) FROM owners JOIN boats USING (owner_code)") == [(9,)]
    columns = rows(tmp_path, "SELECT name FROM pragma_table_info('boats')")
    assert columns == [("boat_reg",), ("owner_code",), ("name",)]


NAMES = (
    "port aft bow stern lee luff keel mast boom rail deck hold galley bunk stem chain cleat winch block spar".split()
)
LIFTED = "Lift,Boat Reg,Boat,Weight"


@pytest.mark.parametrize(("at", "reg", "there"), [(4, "MQ-04", "jobs"), (9, "MQ-00", "boats")])
def test_what_a_sheet_says_otherwise_of_its_boats_is_told(at: int, reg: str, there: str, tmp_path: Path) -> None:
    """Each boat is lifted about once, so that only the jobs show which writing is the right one."""
    lifts = [(f"L-{at}", f"MQ-{at % 9:02}", f"Tern {at % 9}", 40 + at) for at in range(10)]
    name = lifts[at][2]
    lifts[at] = (*lifts[at][:2], name.replace("er", "re"), 44)
    write(tmp_path, "jobs.csv", REPEATED, JOBS)
    write(tmp_path, "lifts.csv", LIFTED, lifts)
    ran = load(tmp_path, sheets="jobs lifts")
    what = f"lifts.csv: 'Boat' of {reg} is '{lifts[at][2]}', and '{name}' in {there}: C{at + 2}"
    assert (ran.code, what in said(ran), said(ran).count("correct it here")) == (1, True, 1)
    write(tmp_path, "may.csv", LIFTED, [("L-90", "MQ-03", "Tren 3", 5), ("L-91", "MQ-05", "Tern 5", 5)])
    add = ["boats.design.toml", "--into", "boats.sqlite"]
    may = hemplit("topup", *add, "may.csv", folder=tmp_path)
    assert ("'Boat' of MQ-03 is 'Tren 3', and 'Tern 3' in boats: C2" in said(may)) == (there == "boats")
    proven = hemplit("prove", *add, folder=tmp_path)
    assert (what in said(proven), "of MQ-03 is 'Tren 3'" in said(proven)) == (True, there == "boats")


def test_what_is_only_called_the_same_is_not_compared(tmp_path: Path) -> None:
    lifts = [(f"L-{at}", f"MQ-{at % 9:02}", f"{NAMES[at]} side", 40 + at) for at in range(20)]
    write(tmp_path, "jobs.csv", REPEATED, JOBS)
    write(tmp_path, "lifts.csv", LIFTED, lifts)
    assert "correct it here" not in load(tmp_path, sheets="jobs lifts").out
