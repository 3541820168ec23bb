"""Views for people: names in the place of ids, counts of what refers to each, and the questions that a design keeps."""

from __future__ import annotations

import csv
import json
import re
from collections import Counter
from datetime import date
from pathlib import Path

import pytest

from conftest import hemplit
from hemplit.core.texts.words import snake, words
from places import Place, as_text

DESIGN = "jobs.design.toml"
BOATS = {
    "MQ-1": ("Teal", "Ada Lund"),
    "MQ-2": ("Knot", "Ines Falk"),
    "MQ-3": ("Smew", "Ada Lund"),
    "MQ-9": ("Gull", ""),
}
JOBS = [
    (f"{4000 + at}", f"2026-0{at % 4 + 3}-{at + 10}", f"MQ-{at % 3 + 1}" if at else "", at % 5 + 1, 40 + at * 7 % 4 * 5)
    for at in range(16)
]
#: Longer than the names that a server allows, once it is an average.
RATE = "Rate that the yard takes for an hour of work without material"
YES = ("no", "yes")
HEADER = f"Job No,Opened,Boat Reg,Hours,{RATE},Cost,Urgent"
SAVED = f"""
[tallies.hours_by_owner]
of = ["Hours", "average of {RATE}"]
by = "Owner"
where = "Opened >= 2026-03-11"

[tallies."cost by month"]
of = "Cost"
by = ["month of Opened"]
across = "Boat"
"""


@pytest.fixture
def drafted(tmp_path: Path) -> Path:
    """Boats, of which one has no job, and jobs, of which one has no boat."""
    boats = [["Boat Reg", "Boat", "Owner"], *([reg, *said] for reg, said in BOATS.items())]
    jobs = [HEADER.split(",")]
    jobs += [
        [number, day, reg, f"{hours}.5", f"{rate}", f"{hours * rate + rate / 2:.1f}", YES[hours % 2]]
        for number, day, reg, hours, rate in JOBS
    ]
    for name, rows in (("boats.csv", boats), ("jobs.csv", jobs)):
        with (tmp_path / name).open("w", encoding="utf-8", newline="") as file:
            csv.writer(file).writerows(rows)
    assert hemplit("draft", "jobs.csv", "boats.csv", "--out", DESIGN, folder=tmp_path).code < 2
    return tmp_path


def saved(folder: Path, text: str = SAVED) -> None:
    path = folder / DESIGN
    path.write_text(path.read_text(encoding="utf-8") + text, encoding="utf-8")


def test_names_stand_in_the_place_of_ids_and_nothing_is_left_out(drafted: Path, place: Place) -> None:
    assert hemplit("load", DESIGN, "--into", place.text, folder=drafted).code < 2
    names, rows = place.view("jobs_named")
    found = {row[names.index("job_no")]: dict(zip(names, as_text(row), strict=True)) for row in rows}
    assert len(rows) == len(JOBS)
    for number, day, reg, hours, rate in JOBS:
        told = {"opened": day, "boat_reg": reg, "boat_name": BOATS[reg][0] if reg else "", "hours": f"{hours}.5"}
        told |= {"cost": f"{hours * rate + rate / 2:g}", snake(words(RATE)): f"{rate}", "urgent": f"{hours % 2}"}
        assert found[number] == {"job_no": number, **told}
    names, rows = place.view("boats_named")
    done = Counter(reg for _, _, reg, _, _ in JOBS)
    assert names == ["boat_reg", "name", "owner", "number_of_jobs"]
    assert sorted(rows) == [[reg, name, owner, str(done[reg])] for reg, (name, owner) in sorted(BOATS.items())]


def test_a_saved_question_is_a_view_that_says_what_tally_says(drafted: Path, place: Place) -> None:
    saved(drafted)
    loaded = hemplit("load", DESIGN, "--into", place.text, "--width", "200", folder=drafted)
    assert loaded.code < 2 and "view cost by month adds up Cost by month of Opened, Boat" in loaded.out
    words = ("--of", f"Hours, average of {RATE}", "--by", "Owner", "--where", "Opened >= 2026-03-11")
    ran = hemplit("tally", DESIGN, "--into", place.text, *words, "--out", "said.csv", folder=drafted)
    assert ran.code == 0, ran.out + ran.err
    with (drafted / "said.csv").open(encoding="utf-8", newline="") as file:
        header, *rows = csv.reader(file)
    names, found = place.view("hours_by_owner")
    assert [name[:20] for name in names] == [name[:20] for name in header]
    assert {name or "(none)": (float(hours), pytest.approx(float(rate), abs=1e-3)) for name, hours, rate in found} == {
        name: (float(hours), float(rate)) for name, hours, rate in rows[:-1]
    }
    asked = " ".join(hemplit("tally", DESIGN, "--into", place.text, folder=drafted).out.split())
    assert "hours_by_owner hemplit tally" in asked and "--where 'Opened >= 2026-03-11'" in asked


def test_the_proof_compares_saved_questions_with_the_sheets(drafted: Path) -> None:
    saved(drafted)
    place = Place(drafted)
    ran = hemplit("load", DESIGN, "--into", place.text, "--details", "--width", "200", folder=drafted)
    assert ran.code < 2 and "the totals of cost by month are those of the sheets" in ran.out
    with (drafted / "jobs.csv").open("a", encoding="utf-8", newline="") as file:
        csv.writer(file).writerow(["4100", "2026-06-30", "MQ-9", "2.5", "40", "100.0", "yes"])
    assert hemplit("topup", DESIGN, "jobs.csv", "--into", place.text, folder=drafted).code < 2
    assert "Verified" in hemplit("prove", DESIGN, "--into", place.text, folder=drafted).out
    assert ["2026-06", "Gull", "100"] in place.view("cost by month")[1]
    place.run("UPDATE jobs SET hours = hours + 1 WHERE job_no = 4003")
    said = hemplit("prove", DESIGN, "--into", place.text, "--width", "200", folder=drafted)
    assert said.code == 1 and "hours_by_owner, Hours" in said.out


def test_sheets_that_contradict_each_other_are_not_added_up(drafted: Path) -> None:
    saved(drafted)
    place = Place(drafted)
    assert hemplit("load", DESIGN, "--into", place.text, folder=drafted).code < 2
    (drafted / "later.csv").write_text(f"{HEADER}\n4003,2026-06-13,MQ-1,9.5,45,427.5,yes\n", encoding="utf-8")
    ran = hemplit("topup", DESIGN, "later.csv", "--into", place.text, "--conflicts", "update", folder=drafted)
    assert ran.code < 2, ran.out + ran.err
    assert "Verified" in hemplit("prove", DESIGN, "--into", place.text, folder=drafted).out
    ran = hemplit("tally", DESIGN, "--into", place.text, "--of", "Hours", folder=drafted)
    assert ran.code == 0 and "later.csv says something else of rows that were known" in " ".join(ran.out.split())


REFUSED = {
    '[tallies.x]\nof = "Huors"': "Huors: no sheet and no table has such a column; did you mean 'Hours'?",
    '[tallies.x]\nof = ["Hours", "number of boats"]': "it counts rows of jobs and of boats, which one view cannot",
    '[tallies.x]\nof = "Hours"\nby = ["Boat", "Boat"]': "it asks for 'Boat' twice",
    '[tallies.x]\nby = "Boat"': "it does not say what to add up",
    '[tallies.x]\nof = "Hours"\nfrom = "jobs"': "'from' is no setting of a design",
    '[tallies.BOATS]\nof = "Hours"': "'BOATS' is the same name to a database",
    '[tallies.jobs_sheet]\nof = "Hours"': "a view that gives a sheet back is called so",
    '[tallies.hemplit_x]\nof = "Hours"': "names that begin with 'hemplit_' are kept",
    '[tallies.x]\nof = "Hours"\nwhere = "Boat"': "this is no condition",
    '[tallies]\nx = "Hours"': "there is no [tallies.NAME]",
}


@pytest.mark.parametrize("text", REFUSED)
def test_a_question_that_cannot_be_kept_is_named_with_its_line(drafted: Path, text: str) -> None:
    saved(drafted, f"\n{text}\n")
    ran = hemplit("load", DESIGN, "--into", "yard.sqlite", folder=drafted)
    assert ran.code == 2 and REFUSED[text] in ran.err and ran.err.startswith(f"hemplit: {DESIGN}")
    assert not (drafted / "yard.sqlite").exists()


def test_an_edited_design_keeps_its_questions(drafted: Path) -> None:
    saved(drafted)
    with (drafted / "boats.csv").open(encoding="utf-8", newline="") as file:
        rows = [
            [*row, word] for row, word in zip(csv.reader(file), ["Rig", "sloop", "ketch", "yawl", "sloop"], strict=True)
        ]
    with (drafted / "boats.csv").open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows(rows)
    ran = hemplit("draft", "jobs.csv", "boats.csv", "--out", DESIGN, "--update", folder=drafted)
    text = (drafted / DESIGN).read_text(encoding="utf-8")
    assert ran.code < 2 and SAVED in text and '"Rig"' in text


def test_the_dates_of_all_sheets_stand_in_one_table(drafted: Path, place: Place) -> None:
    days = ["2025-12-29", "2026-01-01", "2027-01-03", "2026-05-12"]
    lines = [f"MQ-{at % 3 + 1},{date.fromisoformat(day):%d.%m.%Y},{at}" for at, day in enumerate(days)]
    (drafted / "hauls.csv").write_text("\n".join(["Boat Reg,Hauled,Tide", *lines, ""]), encoding="utf-8")
    words = ("jobs.csv", "boats.csv", "hauls.csv", "--dates", "--out", "dated.design.toml")
    assert hemplit("draft", *words, folder=drafted).code < 2
    assert "Verified" in hemplit("load", "dated.design.toml", "--into", place.text, folder=drafted).out
    wanted = {*days, *(job[1] for job in JOBS)}

    def told() -> dict[str, list[str]]:
        names, rows = place.view("dates")
        assert names == ["date", "year", "quarter", "month", "week", "weekday"]
        return {row[0]: row[1:] for row in rows}

    assert {*told()} == wanted
    for text, parts in told().items():
        day = date.fromisoformat(text)
        numbers = (day.year, (day.month + 2) // 3, day.month, day.isocalendar().week)
        assert parts == [*map(str, numbers), f"{day:%A}"]
    for later in ("2026-05-13", "2030-02-28"):
        with (drafted / "hauls.csv").open("a", encoding="utf-8", newline="") as file:
            file.write(f"MQ-9,{date.fromisoformat(later):%d.%m.%Y},7\n")
        assert hemplit("topup", "dated.design.toml", "hauls.csv", "--into", place.text, folder=drafted).code < 2
        assert {*told()} == (wanted := wanted | {later})
        assert "Verified" in hemplit("prove", "dated.design.toml", "--into", place.text, folder=drafted).out


SLIPS = """format = 2
[sheets.jobs]
file = "slips.csv"
steps = [{ do = "read the header", names = ["Job No", "Dock", "Slip"] }]
[tables.jobs]
sheet = "jobs"
purpose = "main"
each_row = true
key = ["job_no"]
columns.job_no = { from = "Job No", type = "whole number" }
columns.slip_id = { to = "slips" }
[tables.slips]
sheet = "jobs"
key = ["slip_id"]
unique = [["dock_id", "number"]]
columns.slip_id = { ids = "number" }
columns.dock_id = { to = "docks" }
columns.number = { from = "Slip", type = "whole number" }
[tables.docks]
sheet = "jobs"
purpose = "lookup"
key = ["dock_id"]
unique = [["name"]]
columns.dock_id = { ids = "number" }
columns.name = { from = "Dock", type = "text" }
"""


def test_what_several_columns_name_is_called_by_all_of_them(tmp_path: Path) -> None:
    (tmp_path / "slips.csv").write_text("Job No,Dock,Slip\n1,West,4\n2,East,4\n3,West,4\n4,West,5\n", encoding="utf-8")
    (tmp_path / DESIGN).write_text(SLIPS, encoding="utf-8")
    place = Place(tmp_path)
    ran = hemplit("load", DESIGN, "--into", place.text, folder=tmp_path)
    assert "Verified" in ran.out, ran.err
    wanted = [["1", "West", "4"], ["2", "East", "4"], ["3", "West", "4"], ["4", "West", "5"]]
    assert place.view("jobs_named") == (["job_no", "slip_dock", "slip_number"], wanted)
    names, rows = place.view("slips_named")
    assert names == ["slip_id", "dock", "number", "number_of_jobs"]
    assert [row[1:] for row in rows] == [["West", "4", "2"], ["East", "4", "1"], ["West", "5", "1"]]


def test_what_is_named_in_two_roles_is_counted_in_each(tmp_path: Path) -> None:
    docks = {f"B{at:02}": ["West Dock", "Fish Quay", "Old Basin"][at % 3] for at in range(12)}
    moves = [(f"B{at * 5 % 12:02}", f"B{at * at % 11:02}") for at in range(60)]
    lines = [f"{300 + at},{one},{docks[one]},{two},{docks[two]}" for at, (one, two) in enumerate(moves)]
    text = "\n".join(["Move,From Berth,From Dock,To Berth,To Dock", *lines, ""])
    (tmp_path / "moves.csv").write_text(text, encoding="utf-8")
    place = Place(tmp_path)
    assert "Verified" in hemplit("load", "moves.csv", "--into", place.text, folder=tmp_path).out
    names, rows = place.view("berths_named")
    assert names == ["berth", "dock", "number_of_moves_as_from_berth", "number_of_moves_as_to_berth"]
    left, come = (Counter(move[at] for move in moves) for at in (0, 1))
    assert {*map(tuple, rows)} == {(name, dock, str(left[name]), str(come[name])) for name, dock in docks.items()}


def test_a_header_of_rows_taken_out_and_of_their_sheet_gives_back_its_own(tmp_path: Path) -> None:
    """Three boats of each job have a part, and so has the job itself."""
    names = "Teal Smew Heron Gannet Plover Dunlin Knot Ruff".split()
    parts = {name: f"{'cleat rope winch block'.split()[at % 4]}" for at, name in enumerate(names)}
    boats = [[names[(at * step + step) % 8] for step in (1, 3, 5)] for at in range(24)]
    lines = [[str(700 + at), *(text for boat in boats[at] for text in (boat, parts[boat]))] for at in range(24)]
    lines = [[*line, f"{'sail oar mast'.split()[at % 3]}", str(at % 3)] for at, line in enumerate(lines)]
    header = "Order,To Boat,To Part,Spare Boat,Spare Part,Main Boat,Main Part,Part,Part No"
    (tmp_path / "orders.csv").write_text("\n".join([header, *map(",".join, lines), ""]), encoding="utf-8")
    place = Place(tmp_path)
    ran = hemplit("load", "orders.csv", "--into", place.text, folder=tmp_path)
    assert "Verified: all 24 rows" in ran.out, ran.err
    names, rows = place.view("boats_named")
    assert {row[names.index("name")]: row[names.index("part")] for row in rows} == parts


@pytest.mark.parametrize(("target", "views"), [("out/", 0), ("out.xlsx", 0), ("out.sql", 6), ("out.sqlite", 6)])
def test_what_is_told_of_views_is_what_there_is(target: str, views: int, drafted: Path) -> None:
    saved(drafted)
    ran = hemplit("load", DESIGN, "--into", target, folder=drafted)
    told = re.findall(r"\b\w+_(?:sheet|named)\b|hours_by_owner|cost by month", ran.out)
    assert ran.code < 2 and len(told) == views, ran.out
    again = hemplit("load", DESIGN, "--into", target, "--replace", "--json", folder=drafted)
    given = json.loads(again.out)
    assert len(given["views"] + given["named_views"] + given["tallies"]) == len(told)
