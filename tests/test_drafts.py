"""What the draft makes of things in several roles, of rows that name rows, of ranges, and of what a person wants."""

from __future__ import annotations

import json
import os
import re
import sqlite3
import subprocess
import sys
import tomllib
from pathlib import Path
from random import Random

import pytest

from conftest import Ran, hemplit, same_cells

Rows = list[list[object]]
PEOPLE = [f"{first} {last}" for first in "Nuala Oskar Elske Sile".split() for last in "Keel Visser Marsh Tan".split()]
CREW = "Ines Aldo Gerrit Lotte Karin Nuala Sile Elske".split()
PEOPLE_OF_MOVES = {("moved_by_id", "people"), ("signed_off_by_id", "people")}
BERTHS = {f"{dock[0]}{number}": dock for dock in ("West", "East", "North") for number in range(1, 9)}


def moves(random: Random) -> Rows:
    rows: Rows = [["Move No", "From Berth", "From Dock", "To Berth", "To Dock", "Moved By", "Signed Off By"]]
    for number in range(300):
        one, two = random.sample(sorted(BERTHS), 2)
        rows.append([number + 1, one, BERTHS[one], two, BERTHS[two], *random.sample(PEOPLE[:6], 2)])
    return rows


def roster(random: Random) -> Rows:
    above = [[name, random.choice(PEOPLE[:4]) if place > 1 else ""] for place, name in enumerate(PEOPLE)]
    return [
        ["Name", "Phone", "Supervisor"],
        *([name, f"0556 {random.randint(1000, 9999)}", boss] for name, boss in above),
    ]


def jobs_of_staff(random: Random) -> Rows:
    phones = [f"0556 {number}" for number in random.sample(range(1000, 9999), len(PEOPLE))]
    bosses = [random.randrange(5) for _ in PEOPLE]
    rows: Rows = [["Job No", "Staff No", "Staff Name", "Staff Phone", "Boss No", "Hours"]]
    for job in range(300):
        one = random.randrange(len(PEOPLE))
        rows.append(
            [4000 + job, f"S{one:02}", PEOPLE[one], phones[one], f"S{bosses[one]:02}", random.randint(1, 30) / 4]
        )
    return rows


def write(rows: Rows, path: Path) -> Path:
    path.write_text("".join(",".join(map(str, row)) + "\n" for row in rows), encoding="utf-8")
    return path


def references(target: Path, table: str) -> set[tuple[str, str]]:
    database = sqlite3.connect(target)
    found = {(row[3], row[2]) for row in database.execute(f'PRAGMA foreign_key_list("{table}")')}
    database.close()
    return found


@pytest.mark.parametrize(
    ("sheet", "table", "expected"),
    [
        (moves, "moves", {("from_berth", "berths"), ("to_berth", "berths"), *PEOPLE_OF_MOVES}),
        (moves, "berths", {("dock_id", "docks")}),
        (roster, "rosters", {("supervisor_id", "rosters")}),
        (jobs_of_staff, "staff", {("boss_no", "staff")}),
    ],
    ids=lambda value: getattr(value, "__name__", "") if callable(value) else "",
)  # fmt: skip
def test_one_table_for_all_roles(sheet: object, table: str, expected: set[tuple[str, str]], tmp_path: Path) -> None:
    name = {"moves": "moves.csv", "roster": "roster.csv"}.get(sheet.__name__, "jobs.csv")  # type: ignore[attr-defined]
    path = write(sheet(Random(3)), tmp_path / name)  # type: ignore[operator]
    ran = hemplit("load", name, "--into", "yard.sqlite", folder=tmp_path)
    assert (ran.code, ran.err.count("\n")) == (0, 1)
    assert references(tmp_path / "yard.sqlite", table) == expected
    assert same_cells(path, tmp_path / "yard.sqlite", f"{path.stem}_sheet")
    again = hemplit("load", "yard.design.toml", "--into", "again.sqlite", folder=tmp_path)
    assert again.code == 0


def test_a_role_that_the_table_does_not_know_is_named(tmp_path: Path) -> None:
    write(moves(Random(3)), tmp_path / "moves.csv")
    hemplit("draft", "moves.csv", folder=tmp_path)
    design = tmp_path / "moves.design.toml"
    text = design.read_text(encoding="utf-8").replace('["Moved By", "Signed Off By"]', '"Moved By"')
    design.write_text(text, encoding="utf-8")
    ran = hemplit("load", design, "--into", "yard.sqlite", folder=tmp_path)
    assert (ran.code, "no column of 'people' comes from 'Signed Off By'" in ran.err) == (2, True)


def test_classes_become_lower_limits(jobs: Path) -> None:
    assert hemplit("load", "jobs.csv", "--into", "yard.sqlite", folder=jobs.parent).code == 0
    database = sqlite3.connect(jobs.parent / "yard.sqlite")
    limits = database.execute("SELECT * FROM hull_classes ORDER BY 1").fetchall()
    database.execute("UPDATE hull_classes SET from_length_m = 3 WHERE from_length_m = ?", limits[0][:1])
    database.commit()
    database.close()
    assert [name for _, name in limits] == ["small craft", "medium craft", "large craft"]
    ran = hemplit("prove", "yard.design.toml", "--into", "yard.sqlite", folder=jobs.parent)
    assert (ran.code, "hull_classes" in ran.out) == (1, True)


@pytest.mark.parametrize(
    ("wish", "holds"),
    [
        (["--lookups", "none"], lambda tables: not any(one["purpose"] == "lookup" for one in tables.values())),
        (["--keep", "Labour Cost"], lambda tables: tables["jobs"]["columns"]["labour_cost"]["store"]),
        (["--key", "owners=Owner"], lambda tables: tables["owners"]["key"] == ["owner"]),
        (["--together", "Berth,Owner,Dock"], lambda tables: "berths" not in tables or "owners" not in tables),
        (["--apart", "Berth,Dock"], lambda tables: "berths" not in tables),
        (["--ids", "B-0001"], lambda tables: tables["owners"]["columns"]["owner_id"] == {"ids": "B-0001"}),
        (["--depth", "1"], lambda tables: "boats" in tables),
        (["--dates"], lambda tables: tables["jobs"]["columns"]["opened"]["to"] == "dates"),
    ],
    ids=lambda value: value[0] if isinstance(value, list) else "",
)  # fmt: skip
def test_a_wish_is_heard(wish: list[str], holds: object, jobs: Path) -> None:
    ran = hemplit("draft", "jobs.csv", *wish, "--json", folder=jobs.parent)
    if ran.code == 0:
        tables = tomllib.loads((jobs.parent / "jobs.design.toml").read_text(encoding="utf-8"))["tables"]
        assert holds(tables)  # type: ignore[operator]
        loaded = hemplit("load", "jobs.design.toml", "--into", "yard.sqlite", folder=jobs.parent)
        assert loaded.code == 0
        assert same_cells(jobs, jobs.parent / "yard.sqlite", "jobs_sheet")
    else:
        assert "does not determine" in ran.err
        assert wish[0] == "--together"


@pytest.mark.parametrize(
    ("wish", "said"),
    [
        (["--key", "jobs=Boat"], "'Boat' does not tell the rows of 'jobs' apart"),
        (["--key", "jetties=Boat"], "there is no table 'jetties'"),
        (["--keep", "Labour Costs"], "did you mean 'Labour Cost'?"),
        (["--together", "Boat,Work"], "does not determine"),
        (["--together", "Boat"], "does not name two columns"),
        (["--ids", "code"], "a style of ids ends in digits"),
        (["--depth", "0"], "is no number from 1 to 6"),
    ],
)
def test_a_wish_that_cannot_be_is_refused(wish: list[str], said: str, jobs: Path) -> None:
    ran = hemplit("draft", "jobs.csv", *wish, folder=jobs.parent)
    assert (ran.code, said in ran.err, ran.err.count("\n")) == (2, True, 1)
    assert not (jobs.parent / "jobs.design.toml").exists()


def fees(random: Random) -> Rows:
    rows: Rows = [["Fee No", "Boat", "Amount", "By Card", "Card Ref", "Cheque Ref", "Grade"]]
    for number in range(1, 201):
        card = random.random() < 0.5
        paid = ["yes", f"C{number + 3000}", ""] if card else ["no", "", f"Q{number + 7000}"]
        rows.append(
            [number, f"Teal {number % 40}", random.randint(1, 900) / 4, *paid, random.choice(["A1", "B2", "C3"])]
        )
    return rows


def test_rules_are_offered_and_kept(tmp_path: Path) -> None:
    sheet = write(fees(Random(5)), tmp_path / "fees.csv")
    drafted = json.loads(hemplit("draft", "fees.csv", "--json", folder=tmp_path).out)
    rules = {(rule["rule"], *rule["columns"]): rule["proposed"] for rule in drafted["tables"][0]["rules"]}
    assert rules == {
        ("filled_only_if", "card_ref", "by_card"): False,
        ("filled_only_if", "cheque_ref", "by_card"): False,
        ("one_filled", "card_ref", "cheque_ref"): False,
        ("allowed", "grade"): True,
        ("min", "amount"): True,
        ("pattern", "card_ref"): True,
        ("pattern", "cheque_ref"): True,
    }
    design = tmp_path / "fees.design.toml"
    design.write_text(design.read_text(encoding="utf-8").replace("# { columns", "  { columns"), encoding="utf-8")
    assert hemplit("load", design, "--into", "yard.sqlite", folder=tmp_path).code == 0
    database = sqlite3.connect(tmp_path / "yard.sqlite")
    for broken in ("amount = -1", "grade = 'D4'", "card_ref = 'C1', cheque_ref = 'Q1'", "by_card = 1 - by_card"):
        with pytest.raises(sqlite3.IntegrityError):
            database.execute(f"UPDATE fees SET {broken} WHERE fee_no = 7")
    database.close()
    rule = "must be filled exactly where"
    for was, is_now, said in ((",A1\n", ",Z9\n", "'Z9' is not one of"), (",yes,", ",no,", rule), (".25,", ".25,", "")):
        text = sheet.read_text(encoding="utf-8")
        sheet.write_text(text.replace(was, is_now, 1), encoding="utf-8")
        ran = hemplit("load", design, "--into", "again.sqlite", "--replace", folder=tmp_path)
        assert (ran.code, said in ran.err) == (2 if said else 0, True), ran.err
        sheet.write_text(text, encoding="utf-8")


def edited_with_a_column_more(jobs: Path) -> Path:
    """A design in which a table was renamed and a step struck, and a sheet that has a column more since then."""
    hemplit("draft", "jobs.csv", folder=jobs.parent)
    design = jobs.with_name("jobs.design.toml")
    edited = design.read_text(encoding="utf-8").replace("[tables.works]", "# what is done\n[tables.tasks]")
    edited = edited.replace('to = "works"', 'to = "tasks"')
    design.write_text("\n".join(line for line in edited.splitlines() if "split lists into rows" not in line) + "\n")
    header, *rows = jobs.read_text(encoding="utf-8").splitlines()
    more = [f"{header},Slipway", *(f"{row},'{place % 3},5'" for place, row in enumerate(rows))]
    jobs.write_text("\n".join(more).replace("'", '"') + "\n", encoding="utf-8")
    return design


def test_a_draft_over_an_edited_design_tells_what_is_new_and_writes_nothing(jobs: Path) -> None:
    design = edited_with_a_column_more(jobs)
    text = design.read_text(encoding="utf-8")
    told = json.loads(hemplit("draft", "jobs.csv", "--json", folder=jobs.parent).out)
    assert [(one["table"], one["name"]) for one in told["added"]] == [("jobs", "slipway")]
    assert told["renamed"] == [{"drafted": "works", "table": "tasks"}]
    assert told["otherwise"] == []
    safe = {(one["after"]["do"], one["proposed"]) for one in told["steps"]}
    assert safe == {("read the header", False), ("read numbers", False), ("split lists into rows", True)}
    assert (told["copy"], design.read_text(encoding="utf-8")) == (None, text)
    ran = hemplit("draft", "jobs.csv", folder=jobs.parent)
    assert "You renamed works to tasks" in ran.out and "with --update" in ran.out


def test_an_update_writes_what_is_new_keeps_what_was_decided_and_a_copy(jobs: Path) -> None:
    design = edited_with_a_column_more(jobs)
    text = design.read_text(encoding="utf-8")
    folder = jobs.parent
    told = json.loads(hemplit("draft", "jobs.csv", "--update", "--json", folder=folder).out)
    assert Path(folder / told["copy"]).read_text(encoding="utf-8") == text
    lines = design.read_text(encoding="utf-8").splitlines()
    new = [line for line in lines if line not in text.splitlines()]
    assert len([line for line in text.splitlines() if line not in lines]) == 1  # the names of the header
    assert [line.startswith("# { do") for line in new if "split lists into rows" in line] == [True]
    assert sum("Slipway" in line for line in new) == 3 and "# what is done" in lines
    assert hemplit("load", design, "--into", "yard.sqlite", folder=folder).code == 0
    again = json.loads(hemplit("draft", "jobs.csv", "--update", "--json", folder=folder).out)
    assert (again["added"], again["steps"], again["copy"]) == ([], [], None)


BOATS = [(name, number) for name in ("Otter", "Stoat", "Puffin", "Badger") for number in ("I", "II", "III", "IV")]


RACES = """Race No,Boat,Skipper,Skipper Phone,Mate,Mate Phone,Crew 1,Crew 2,Place
1,Teal,Ada Moss,0711 204,Jan Tan,0711 377,Elske Holm,Bo Finch,2
1,Smew,Cy Marsh,0712 120,Di Reed,0712 121,Eo Lund,,1
1,Heron,Fay Quill,0712 123,Gil Roe,0711 299,Hal Sto,Ivo Teal,3
2,Teal,Ada Moss,0711 204,Elske Holm,0712 118,Bo Finch,,1
2,Smew,Di Reed,0712 121,Cy Marsh,0712 120,Eo Lund,,3
2,Heron,Fay Quill,0712 123,Hal Sto,0711 298,Gil Roe,Ivo Teal,2
3,Teal,Jan Tan,0711 377,Ada Moss,0711 204,Bo Finch,Elske Holm,3
3,Smew,Cy Marsh,0712 120,Eo Lund,0712 122,Di Reed,,2
3,Heron,Gil Roe,0711 299,Fay Quill,0712 123,Hal Sto,,1
"""


@pytest.mark.parametrize("crew", [True, False], ids=["with a crew of several", "without"])
def test_a_mate_whom_no_two_entries_share_so_far_is_no_key_of_them(crew: bool, tmp_path: Path) -> None:
    """Nor is every skipper the mate of some entry, though each was one."""
    lines = [line.split(",") for line in RACES.splitlines()]
    text = "\n".join(",".join(line if crew else line[:6] + line[8:]) for line in lines)
    (tmp_path / "races.csv").write_text(text + "\n", encoding="utf-8")
    assert hemplit("draft", "races.csv", folder=tmp_path).code == 0
    design = tomllib.loads((tmp_path / "races.design.toml").read_text(encoding="utf-8"))
    races = design["tables"]["races"]
    assert "mate" not in races["key"], races
    assert "to" not in races["columns"].get("skipper", {}) or races["columns"]["skipper"]["to"] != "races"


def choose(design: Path, act: str, **edits: str) -> None:
    """Has a proposed step done, as a person does who removes its #, and edits more."""
    text = design.read_text(encoding="utf-8")
    assert f'# {{ do = "{act}"' in text
    text = text.replace(f'# {{ do = "{act}"', f'  {{ do = "{act}"')
    for old, new in edits.items():
        text = text.replace(f"tables.{old}]", f"tables.{new}]")
    design.write_text(text, encoding="utf-8")


def test_a_proposed_step_that_somebody_chose_is_taken_up_and_stays_chosen(tmp_path: Path) -> None:
    """Skills with a mark for each who has it, and skippers whose names are parted: the columns are others then."""
    skills = [
        f"{name},{'x' if at % 2 else ''},{'x' if at % 3 else ''},{'x,' if at % 4 else ','}"
        for at, name in enumerate(CREW)
    ]
    (tmp_path / "crew.csv").write_text("\n".join(["Rigger,Welding,Painting,Diving,Trade", *skills]), encoding="utf-8")
    assert hemplit("draft", "crew.csv", folder=tmp_path).code == 0
    choose(tmp_path / "crew.design.toml", "turn columns into rows")
    chosen = (tmp_path / "crew.design.toml").read_text(encoding="utf-8")
    ran = hemplit("load", "crew.design.toml", "--into", "crew.sqlite", folder=tmp_path)
    assert (ran.code, "with --update" in ran.err) == (2, True)
    ran = hemplit("draft", "crew.csv", folder=tmp_path)
    assert "with --update" in ran.out and (tmp_path / "crew.design.toml").read_text(encoding="utf-8") == chosen
    assert hemplit("draft", "crew.csv", "--update", folder=tmp_path).code == 0
    assert (tmp_path / "crew.before-1.toml").read_text(encoding="utf-8") == chosen
    ran = hemplit("draft", "crew.csv", folder=tmp_path)
    assert "nothing differently" in ran.out
    ran = hemplit("load", "crew.design.toml", "--into", "crew.sqlite", folder=tmp_path)
    assert ran.code == 0 and same_cells(tmp_path / "crew.csv", tmp_path / "crew.sqlite", "crew_sheet")


def test_a_correction_that_somebody_chose_splits_off_what_the_slip_kept_together(tmp_path: Path) -> None:
    """One row says Otter III of what is Otter II, which only a person may decide; a typo has come in since."""
    boats = [(f"{name} {number}", 1985 + at % 5, 40 + at * 3 % 7) for at, (name, number) in enumerate(BOATS)]
    rows = [[f"{boat},{year},{depth}", f"{at * 31 % 83}.{at % 7}"] for boat, year, depth in boats for at in range(30)]
    design, slipped = tmp_path / "reads.design.toml", next(row for row in rows if row[0].startswith("Otter II,"))
    slipped[0] = slipped[0].replace("Otter II", "Otter III")

    def own_columns() -> str:
        text = design.read_text(encoding="utf-8")
        return text.partition("[tables.reads]")[2].partition("[tables.")[0]

    def draft(*how: str) -> Ran:
        lines = ["Boat,Built,Depth,Read", *map(",".join, rows)]
        (tmp_path / "reads.csv").write_text("\n".join(lines) + "\n", encoding="utf-8")
        return hemplit("draft", "reads.csv", *how, folder=tmp_path)

    ran = draft()
    assert "'Otter III' → 'Otter II' in 'Boat'" in ran.out and "draft again with --update" in ran.out, ran.out
    assert "columns.built" in own_columns()
    choose(design, "correct from other rows")
    rows[-1][0] = rows[-1][0].replace("Badger", "Badgger")
    said = " ".join(draft().out.split())
    assert "the steps that you chose give other tables" in said and "'Built', 'Depth' would be in 'boats'" in said, said
    draft("--update")
    text = design.read_text(encoding="utf-8")
    assert (
        '  { do = "correct typos"' in text
        and "columns.built" not in text.partition("[tables.reads]")[2].partition("[tables.")[0]
    )
    assert "nothing differently" in draft().out
    ran = hemplit("load", design, "--into", "reads.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.out + ran.err
    with sqlite3.connect(tmp_path / "reads.sqlite") as database:
        assert database.execute("SELECT count(*) FROM boats").fetchone() == (len(boats),)
    text = text.replace('  { do = "correct from other rows"', '# { do = "correct from other rows"')
    design.write_text(text, encoding="utf-8")
    ran = hemplit("load", design, "--into", "reads.sqlite", "--replace", folder=tmp_path)
    assert ran.code == 2 and "row 32" in ran.err, ran.err
    assert "'Built', 'Depth' would be in 'reads'" in draft().out


def test_owners_that_somebody_says_stand_as_above_have_their_phones(tmp_path: Path) -> None:
    sheet = (
        "Owner,Phone,Boat,Berth\nMarsh,555-0101,Teal,A1\n,,Smew,A2\nKeel,555-0102,Knot,B1\n,,Eider,B2\n,,Gadwall,B3\n"
    )
    (tmp_path / "boats.csv").write_text(sheet, encoding="utf-8")
    assert "proposed: fill down" in hemplit("draft", "boats.csv", folder=tmp_path).out
    choose(tmp_path / "boats.design.toml", "fill down")
    assert hemplit("draft", "boats.csv", "--update", folder=tmp_path).code == 0
    ran = hemplit("load", "boats.design.toml", "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.err
    with sqlite3.connect(tmp_path / "yard.sqlite") as database:
        assert database.execute("SELECT name, phone FROM owners").fetchall() == [
            ("Marsh", "555-0101"),
            ("Keel", "555-0102"),
        ]
        assert database.execute("SELECT count(*) FROM boats JOIN owners USING (owner_id)").fetchone() == (5,)


def test_a_step_that_somebody_took_out_stays_out_when_another_is_taken_up(tmp_path: Path) -> None:
    """A dash is no blank here, says the person who also has the names parted."""
    rows = [f"{name} Vik,{'-' if at % 3 == 0 else at * 7}" for at, name in enumerate(CREW)]
    (tmp_path / "berths.csv").write_text("\n".join(["Skipper,Depth", *rows]), encoding="utf-8")
    assert hemplit("draft", "berths.csv", folder=tmp_path).code == 0
    design = tmp_path / "berths.design.toml"
    text = design.read_text(encoding="utf-8")
    assert '  { do = "treat as blank"' in text
    design.write_text(text.replace('  { do = "treat as', '# { do = "treat as'), encoding="utf-8")
    choose(design, "split into columns")
    assert hemplit("draft", "berths.csv", "--update", folder=tmp_path).code == 0
    text = design.read_text(encoding="utf-8")
    assert '# { do = "treat as blank"' in text and 'from = "Skipper First Name"' in text
    ran = hemplit("load", design, "--into", "berths.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.err
    with sqlite3.connect(tmp_path / "berths.sqlite") as database:
        assert database.execute("SELECT count(*) FROM berths_sheet WHERE \"Depth\" = '-'").fetchone() == (3,)


def test_a_chosen_step_comes_into_tables_that_somebody_edited(tmp_path: Path) -> None:
    berths = [f"{name} Vik,D{at}" for at, name in enumerate(CREW)]
    (tmp_path / "berths.csv").write_text("\n".join(["Skipper,Berth", *berths]), encoding="utf-8")
    assert hemplit("draft", "berths.csv", folder=tmp_path).code == 0
    choose(tmp_path / "berths.design.toml", "split into columns", berths="moorings")
    told = json.loads(hemplit("draft", "berths.csv", "--update", "--json", folder=tmp_path).out)
    assert [(one["table"], one["name"]) for one in told["added"]] == [
        ("moorings", "skipper_first_name"),
        ("moorings", "skipper_last_name"),
    ]
    assert (told["anew"], len(told["gone"]), "'Skipper'" in told["gone"][0]) == (None, 1, True)


def test_an_update_leaves_a_step_that_somebody_changed_and_proposes_the_other(tmp_path: Path) -> None:
    """A dash means "none" here, says the person who took it off the list of blanks."""
    lines = [f"{job},{'n/a' if job % 9 == 1 else '-' if job % 9 == 2 else job * 3}" for job in range(1, 40)]
    (tmp_path / "jobs.csv").write_text("\n".join(["Job No,Depth", *lines]) + "\n", encoding="utf-8")
    assert hemplit("draft", "jobs.csv", folder=tmp_path).code == 0
    design = tmp_path / "jobs.design.toml"
    text = design.read_text(encoding="utf-8")
    kept = (
        next(line for line in text.splitlines() if "treat as blank" in line).replace(', "-"', "").replace('"-", ', "")
    )
    lines_ = [kept if "treat as blank" in line else line for line in text.splitlines()]
    design.write_text("\n".join(lines_) + "\n", encoding="utf-8")
    told = json.loads(hemplit("draft", "jobs.csv", "--update", "--json", folder=tmp_path).out)
    assert [one["proposed"] for one in told["steps"]] == [True]
    lines_ = design.read_text(encoding="utf-8").splitlines()
    place = lines_.index(kept)
    assert lines_[place + 1].startswith('# { do = "treat as blank"') and '"-"' in lines_[place + 1]


def test_why(jobs: Path) -> None:
    folder = jobs.parent
    hemplit("draft", "jobs.csv", folder=folder)
    story = hemplit("why", "jobs.design.toml", folder=folder).out
    for said in (
        "400 rows × 18 columns",
        "boats out of jobs",
        "To correct the Dock of Berth N14 you now edit 22 cells (K23, K25",
    ):
        assert said in story
    table = json.loads(hemplit("why", "jobs.design.toml", "owners", "--json", folder=folder).out)
    text = (folder / "jobs.design.toml").read_text(encoding="utf-8").splitlines()
    assert text[table["line"] - 1] == "[tables.owners]"
    assert any("generated" in line for line in table["considered"])
    # Rows that leave it blank speak of no such thing.
    why = hemplit("why", "jobs.design.toml", "docks", folder=folder).out
    assert "'Dock' is unique as well: it is a name, and may change" in why
    column = hemplit("why", "jobs.design.toml", "boats.length_m", folder=folder)
    assert "'Boat Reg' determines it" in column.out
    for asked, said in (("boat", "did you mean 'boats'?"), ("boats.lenght_m", "did you mean 'length_m'?")):
        ran = hemplit("why", "jobs.design.toml", asked, folder=folder)
        assert (ran.code, said in ran.err, ran.err.count("\n")) == (2, True, 1)


def test_two_owners_of_one_name_are_kept_apart(tmp_path: Path) -> None:
    random = Random(4)
    towns = ["Saltby", "Marlow", "Wick", "Tarn"]
    numbers = random.sample(range(1000, 9999), len(PEOPLE) + 1)
    names = [PEOPLE[0], *PEOPLE]
    owners = [(name, f"0556 {number}", random.choice(towns)) for name, number in zip(names, numbers, strict=True)]
    rows: Rows = [["Job No", "Owner", "Owner Phone", "Owner Town", "Hours"]]
    rows += [[4000 + row, *(owners[row % 2] if row < 12 else random.choice(owners)), row % 9 + 1] for row in range(300)]
    path = write(rows, tmp_path / "jobs.csv")
    assert hemplit("load", "jobs.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    database = sqlite3.connect(tmp_path / "yard.sqlite")
    held = database.execute("SELECT phone FROM owners WHERE name = ? ORDER BY phone", (PEOPLE[0],)).fetchall()
    assert [phone for (phone,) in held] == sorted(phone for name, phone, _ in owners if name == PEOPLE[0])
    assert database.execute("SELECT count(*) FROM owners").fetchone() == (len(owners),)
    database.close()
    assert same_cells(path, tmp_path / "yard.sqlite", "jobs_sheet")
    why = hemplit("why", "yard.design.toml", "owners", folder=tmp_path).out
    assert "several have the same 'Owner', and 'Owner Phone' distinguishes them" in why


def test_a_thing_that_is_blank_where_what_it_refers_to_speaks_may_be_blank(tmp_path: Path) -> None:
    """Some rows name no boat and no berth, and still say a dock: the boat of that row is a blank one."""
    lines = ["Boat,Berth,Dock"]
    lines += [
        f"Teal {place % 30},W{place % 30 % 12},{'East' if place % 30 % 12 < 7 else 'West'}" for place in range(120)
    ]
    lines += [",,Fish Quay"] * 4
    (tmp_path / "visits.csv").write_text("\n".join(lines) + "\n", encoding="utf-8")
    ran = hemplit("load", "visits.csv", "--into", "yard.sqlite", "--json", folder=tmp_path)
    assert ran.code == 0, ran.err
    assert json.loads(ran.out)["proven"]


def test_the_key_of_the_rows_is_of_columns_that_stand_there(tmp_path: Path) -> None:
    """Day and rate tell the rows apart, but the day is the owner's, and stands with the owners."""
    days = {"A1": "2026-03-01", "A2": "2026-03-02", "A3": "2026-03-14"}
    rows: Rows = [["Day", "Owner", "Rate"], *([day, owner, rate] for owner, day in days.items() for rate in "KLM")]
    write(rows, tmp_path / "yard.csv")
    assert hemplit("load", "yard.csv", "--into", "yard.sqlite", folder=tmp_path).code == 0
    design = tomllib.loads((tmp_path / "yard.design.toml").read_text("utf-8"))
    assert "day" in design["tables"]["owners"]["columns"]
    assert "day" not in design["tables"]["yards"]["key"]


def test_why_speaks_of_tables_by_their_present_names_and_takes_headers(jobs: Path) -> None:
    folder = jobs.parent
    hemplit("draft", "jobs.csv", folder=folder)
    design = folder / "jobs.design.toml"
    text = design.read_text(encoding="utf-8").replace("[tables.berths]", "[tables.moorings]")
    design.write_text(text.replace('to = "berths"', 'to = "moorings"'), encoding="utf-8")
    story = hemplit("why", "jobs.design.toml", folder=folder).out
    assert "moorings out of boats: Dock" in story and "berths" not in story
    assert "it came out of boats" in hemplit("why", "jobs.design.toml", "moorings", folder=folder).out
    assert hemplit("why", "jobs.design.toml", "Owner Phone", folder=folder).out.startswith(
        "owners.phone is 'Owner Phone'"
    )
    ran = hemplit("why", "jobs.design.toml", "Ower Phone", folder=folder)
    assert (ran.code, "did you mean 'Owner Phone'?" in ran.err) == (2, True)
    design.write_text(
        re.sub(r"\[tables\.owners\]\n(?:.+\n)+", "", design.read_text(encoding="utf-8")), encoding="utf-8"
    )
    assert "Owner Phone" not in hemplit("why", "jobs.design.toml", folder=folder).out.split("Fourth normal form")[0]


def test_entries_that_name_rows_by_what_is_not_their_key_are_given_back(tmp_path: Path) -> None:
    (tmp_path / "yard.csv").write_text("Boat,Boat,Job No,Owner\nA1,A1,A1,A2\nA1,A2,B7,A1\n", encoding="utf-8")
    ran = hemplit("load", "yard.csv", "--into", "yard.sqlite", folder=tmp_path)
    assert (ran.code, "Verified" in ran.out) == (0, True), ran.out + ran.err


@pytest.mark.parametrize(
    ("name", "header", "table", "key"),
    [
        ("boats.csv", "Boat,Berth,Reg No", "boats", "reg_no"),
        ("skippers.csv", "Skipper,Berth,Licence", "skippers", "licence"),
        ("berths.csv", "Boat,Berth,Meter No", "berths", "berth"),
        ("crews.csv", "Skipper,Berth,RYA", "crews", "rya"),
        ("yard.csv", "Boat,Berth,Meter No", "meters", "meter_no"),
        ("employees.csv", "Skipper,Emp ID,Licence", "employees", "emp_id"),
        ("yard.csv", "Skipper,Emp ID,Licence", "employees", "emp_id"),
    ],
)
def test_rows_are_called_what_the_sheet_is_called_after(
    name: str, header: str, table: str, key: str, tmp_path: Path
) -> None:
    """Where a column is called so and tells them apart; and their own number is their key, wherever it stands."""
    boats = ["Teal,N1,K-7", "Knot,N2,K-8", "Smew,S1,K-9", "Ruff,S4,K-12"]
    (tmp_path / name).write_text("\n".join([header, *boats]) + "\n", encoding="utf-8")
    ran = hemplit("draft", name, "--json", "--out", "out.design.toml", folder=tmp_path)
    tables = {one["name"]: one["key"] for one in json.loads(ran.out)["tables"]}
    assert tables[table] == [key], tables


def test_why_says_no_reason_that_was_not_followed(tmp_path: Path) -> None:
    """The shed seems to hang on the boat, which is only a part of the key."""
    sheet = Path(__file__).parent / "cases" / "visits_of_riggers" / "sheet.csv"
    assert hemplit("draft", sheet, "--out", tmp_path / "visits.design.toml", folder=tmp_path).code == 0
    said = " ".join(hemplit("why", "visits.design.toml", "Shed No", folder=tmp_path).out.split())
    assert "'Boat No' determines it as well: it stands elsewhere, and may be a coincidence" in said


@pytest.mark.parametrize("seed", ["1", "2", "3"])
def test_an_address_is_of_whom_stands_before_it_in_every_run(seed: str, tmp_path: Path) -> None:
    """As near on the other side stands the plan, which has a price; the order of sets is another for each seed."""
    members = ["Ann,ann@x.example,Pro,20", "Bob,bob@x.example,Basic,8", "Cat,cat@x.example,Pro,20"]
    members += ["Dan,dan@x.example,Team,50", "Eve,eve@x.example,Basic,8"]
    (tmp_path / "members.csv").write_text("\n".join(["Member,Email,Plan,Plan Price", *members]) + "\n", "utf-8")
    command = [sys.executable, "-m", "hemplit", "draft", "members.csv", "--json"]
    environment = os.environ | {"PYTHONHASHSEED": seed}
    ran = subprocess.run(command, cwd=tmp_path, env=environment, capture_output=True, text=True, check=True)
    tables = {one["name"]: [column["name"] for column in one["columns"]] for one in json.loads(ran.stdout)["tables"]}
    assert tables == {"members": ["member_id", "name", "email", "plan_id"], "plans": ["plan_id", "name", "price"]}


def test_ten_rows_of_the_demo_give_its_tables(tmp_path: Path) -> None:
    """Each owner has one boat in them; what was noted, and that it was urgent, is still of the job."""
    assert hemplit("demo", "demo", folder=tmp_path).code == 0
    rows = (tmp_path / "demo" / "jobs.csv").read_text("utf-8").splitlines()[:11]
    (tmp_path / "ten.csv").write_text("\n".join(rows) + "\n", "utf-8")
    ran = hemplit("draft", "ten.csv", "--json", folder=tmp_path)
    tables = {one["name"]: {column["name"] for column in one["columns"]} for one in json.loads(ran.out)["tables"]}
    assert {"urgent", "remarks", "work", "boat_reg", "status_id"} <= tables["jobs"]
    assert {"owner_id", "name", "length_m"} <= tables["boats"] and {"name", "phone", "town"} <= tables["owners"]


def test_what_stands_behind_a_list_is_seen_beside_what_stands_before_it(tmp_path: Path) -> None:
    """Without the list the floor stands right behind the shed, and what was lent behind who lent it."""
    models = ["M1,Oak; brass,North,1,Club,2026-01-01,2026-06-30", "M2,Glass,North,1,,,"]
    models += ["M3,Oak,South,1,Club,2026-01-01,2026-06-30", "M4,Brass; glass,Loft,2,,,"]
    models += [
        "M5,Brass,Loft,2,Town,2026-02-01,2026-12-31",
        "M6,Oak,Loft,2,,,",
        "M7,Tin,North,1,Club,2026-01-01,2026-06-30",
    ]
    header = "Model No,Material,Shed,Floor,Lender,Lent From,Lent To"
    (tmp_path / "models.csv").write_text("\n".join([header, *models]) + "\n", "utf-8")
    ran = hemplit("draft", "models.csv", "--json", folder=tmp_path)
    tables = {one["name"]: [column["name"] for column in one["columns"]] for one in json.loads(ran.out)["tables"]}
    assert tables["sheds"] == ["shed_id", "name", "floor"], tables
    assert tables["lenders"] == ["lender_id", "name", "lent_from", "lent_to"], tables


def test_rows_that_are_known_by_mail_are_called_after_the_sheet(tmp_path: Path) -> None:
    said = ['ann@x.example,Ann,"crew, mate"', "bo@x.example,Bo,mate", 'cy@x.example,Ann,"mate, crew"']
    (tmp_path / "people.csv").write_text("\n".join(["Email,Name,Tags", *said]) + "\n", "utf-8")
    tables = json.loads(hemplit("draft", "people.csv", "--json", folder=tmp_path).out)["tables"]
    assert {one["name"]: one["key"] for one in tables}["people"] == ["email"], tables


def test_an_entry_is_known_by_its_number_and_not_by_its_kind(tmp_path: Path) -> None:
    """Both tell the boats of a berth apart so far, and two of one class may come."""
    berths = ["N1,Ann,AB-19,Sloop,AB-20,Ketch", "N2,Bo,KP-68,Yawl,,", "S1,Cy,RT-21,Sloop,RT-22,Yawl", "S2,Di,,,,"]
    header = "Berth No,Holder,Boat 1 Reg,Boat 1 Class,Boat 2 Reg,Boat 2 Class"
    (tmp_path / "berths.csv").write_text("\n".join([header, *berths]) + "\n", "utf-8")
    tables = json.loads(hemplit("draft", "berths.csv", "--json", folder=tmp_path).out)["tables"]
    assert ["berth_no", "boat_reg"] in [one["key"] for one in tables], tables


def test_two_rows_give_no_key(tmp_path: Path) -> None:
    (tmp_path / "staff.csv").write_text("Name,Certificate,Until\nSam Hill,PA1,2026\nTed Dale,PA2,2027\n", "utf-8")
    (table,) = json.loads(hemplit("draft", "staff.csv", "--json", folder=tmp_path).out)["tables"]
    assert (table["name"], table["key"]) == ("staff", ["staff_id"])


def test_a_thing_is_called_in_full_and_by_what_its_code_is_of(tmp_path: Path) -> None:
    header = "Lift No,Cust No,Customer Name,SKU,Sling,Hours"
    slings = [("S-1", "Wide"), ("S-2", "Long"), ("S-3", "Short")]
    lifts = [f"{at},C{at % 4},Owner {at % 4},{','.join(slings[at * 7 % 3])},{at % 5}" for at in range(1, 13)]
    (tmp_path / "lifts.csv").write_text("\n".join([header, *lifts]) + "\n", encoding="utf-8")
    ran = hemplit("draft", "lifts.csv", "--json", folder=tmp_path)
    tables = {one["name"]: [column["name"] for column in one["columns"]] for one in json.loads(ran.out)["tables"]}
    assert tables["customers"] == ["cust_no", "name"] and tables["slings"] == ["sku", "name"], tables


def test_a_unit_determines_only_what_it_is_called(tmp_path: Path) -> None:
    """In a short list of parts it seems to determine who delivers them."""
    header = "Part No,Part,Supplier,Supplier Mail,Unit,Unit Name"
    parts = [
        "P-10,Shackle,Marlow,sales@marlow.example,pc,piece",
        "P-11,Rope,Marlow,sales@marlow.example,m,metre",
        "P-20,Antifoul,Tarn,info@tarn.example,tin,tin of paint",
        "P-21,Thinner,Tarn,info@tarn.example,tin,tin of paint",
        "P-30,Fender,Marlow,sales@marlow.example,pc,piece",
    ]
    (tmp_path / "parts.csv").write_text("\n".join([header, *parts]) + "\n", encoding="utf-8")
    ran = hemplit("draft", "parts.csv", "--json", folder=tmp_path)
    tables = {one["name"]: [column["name"] for column in one["columns"]] for one in json.loads(ran.out)["tables"]}
    assert tables["units"] == ["unit_id", "name", "unit_name"]
    assert tables["suppliers"] == ["supplier_id", "name", "mail"]


def test_no_list_or_remark_is_the_key_of_what_is_taken_out_of_a_row(tmp_path: Path) -> None:
    repairs = [
        "Teal,Ben/Ada,glow plug; relay,starts again",
        "Knot,Ben,injector,smoke gone",
        "Smew,Cara/Ben,impeller; hose,dry now",
        "Teal,Ada/Cara,belt,charges",
    ]
    (tmp_path / "repairs.csv").write_text("\n".join(["Boat,Done By,Used,Remarks", *repairs]) + "\n", encoding="utf-8")
    ran = hemplit("draft", "repairs.csv", "--json", folder=tmp_path)
    keys = {one["name"]: one["key"] for one in json.loads(ran.out)["tables"]}
    assert keys["repairs"] == ["row_no"], keys


def test_one_who_comes_from_elsewhere_makes_no_class_of_years(tmp_path: Path) -> None:
    """The oldest of fifteen comes from another country, as one of the two at the ends does by chance."""
    born = [[f"S{at}", 1960 + at, "Sudland" if at == 0 else "Norland"] for at in range(15)]
    write([["Staff No", "Born In", "Country"], *born, ["S20", 1970, "Norland"]], tmp_path / "staff.csv")
    assert "by ranges" not in hemplit("draft", "staff.csv", folder=tmp_path).out


def test_what_is_numbered_has_no_classes_by_ranges(tmp_path: Path) -> None:
    """The first of thirty masts were varnished, and the others oiled."""
    masts: Rows = [[f"{4 + at * 7 % 31 / 10}", at % 30 + 1, "varnish" if at % 30 < 18 else "oil"] for at in range(60)]
    write([["Wear", "Mast", "Finish"], *masts], tmp_path / "masts.csv")
    assert "by ranges" not in hemplit("draft", "masts.csv", folder=tmp_path).out
    told = hemplit("why", "masts.design.toml", folder=tmp_path).out
    assert "depends on ranges" not in told, told


def test_the_year_tells_the_rows_of_one_apart_and_not_the_years_served(tmp_path: Path) -> None:
    rows: Rows = [
        [f"S-{who}", year, year - 2010 + who % 3, 900 + who + year % 7]
        for who in range(9)
        for year in range(2011, 2020)
    ]
    write([["Staff No", "Year", "Served", "Pay"], *rows], tmp_path / "pay.csv")
    drafted = json.loads(hemplit("draft", "pay.csv", "--json", folder=tmp_path).out)["tables"]
    assert [one["key"] for one in drafted] == [["staff_no", "year"]]


def test_how_many_there_are_is_no_number_of_anything(tmp_path: Path) -> None:
    """Though no two trips had as many guests so far."""
    boats = [("Teal", 6), ("Smew", 8), ("Knot", 4)]
    trips: Rows = [[*boats[at % 3], f"2026-04-{at + 1:02}", at * 3 % 8 + 1] for at in range(8)]
    write([["Boat", "No. Life Jackets", "Day", "Number of Guests"], *trips], tmp_path / "trips.csv")
    drafted = json.loads(hemplit("draft", "trips.csv", "--json", folder=tmp_path).out)["tables"]
    assert {one["name"]: one["key"] for one in drafted} == {"boats": ["boat_id"], "trips": ["trip_id"]}


def test_what_a_code_is_said_of_is_no_code(tmp_path: Path) -> None:
    """The type of an identity card and the contact who has the keys are words for things."""
    kinds, keepers = ("Passport", "Seaman's book", "Licence"), ("Eva Holm", "Ole Berg")
    crew: Rows = [[f"Hand {at}", kinds[at * at % 3], keepers[at // 4 % 2]] for at in range(12)]
    write([["Crew Member", "ID Type", "Key Contact"], *crew], tmp_path / "crew.csv")
    drafted = json.loads(hemplit("draft", "crew.csv", "--json", folder=tmp_path).out)["tables"]
    assert {("id_types", "id_type_id"), ("key_contacts", "key_contact_id")} <= {
        (one["name"], *one["key"]) for one in drafted
    }


@pytest.mark.parametrize("header", ["Phone Type", "Address Status", "Notes Category", "First Language", "Family"])
def test_a_list_is_of_what_its_header_speaks_of_last(header: str, tmp_path: Path) -> None:
    """And no line of an address, remark, or part of a name."""
    crew: Rows = [[f"Hand {at}", ("one", "another", "a third")[at * at % 3], "ab"[at // 3 % 2]] for at in range(12)]
    write([["Crew Member", header, header.split()[0] + " Name"], *crew], tmp_path / "crew.csv")
    drafted = json.loads(hemplit("draft", "crew.csv", "--json", folder=tmp_path).out)["tables"]
    lookups = [one for one in drafted if one["purpose"] == "lookup"]
    assert header.split()[-1].lower()[:3] in "".join(one["name"] for one in lookups), drafted


def test_few_rows_say_little_of_where_a_thing_stands_and_from_whom_it_came(tmp_path: Path) -> None:
    """Nor is the number at which to reach somebody the key of who it is."""
    header = (
        "Gauge,Make,Asset No,Location,Tested,Due,Certificate,Lab,Lab Mark,Keeper,Contact No,Mail,Bought From,Reading"
    )
    gauges = [
        "Dial,Tarn,A12,Loft,2026-01-12,2027-01-12,C-81,Reed,UK 1,Ada Falk,0770 11,a@falk.example,Marlow,1",
        "Dial,Tarn,A13,Loft,2026-01-12,2027-01-12,C-82,Reed,UK 1,Ben Lund,0770 22,b@lund.example,Tarn Tools,2",
        "Meter,Ohm,A20,Shed,2026-01-15,2027-01-15,C-90,Volt,UK 4,Eva Holm,0770 33,e@holm.example,Marlow,3",
        "Meter,Ohm,A20,Shed,2026-01-15,2027-01-15,C-90,Volt,UK 4,Eva Holm,0770 33,e@holm.example,Marlow,4",
        "Scale,Kilo,A31,Slip,2026-01-20,2026-07-20,C-92,Reed,UK 1,Ada Falk,0770 11,a@falk.example,Marlow,5",
        "Thermometer,Tarn,A40,Dock,2026-01-21,2027-01-21,C-93,Volt,UK 4,Cy Roe,0770 44,c@roe.example,Marlow,6",
    ]
    (tmp_path / "gauges.csv").write_text("\n".join([header, *gauges]) + "\n", encoding="utf-8")
    drafted = json.loads(hemplit("draft", "gauges.csv", "--json", folder=tmp_path).out)["tables"]
    columns = {one["name"]: [column["name"] for column in one["columns"]] for one in drafted}
    assert "locations" not in columns
    assert columns["keepers"] == ["keeper_id", "name", "contact_no", "mail"]


@pytest.mark.parametrize("header", ["Item Price", "Line Total", "Leg Length"])
def test_what_an_item_costs_numbers_no_lines(header: str, tmp_path: Path) -> None:
    """Though no two lines of an order have it alike so far."""
    lines = ["O-1,Falk,Rope,85", "O-1,Falk,Cleat,24", "O-2,Lund,Varnish,18", "O-2,Lund,Rope,85", "O-2,Lund,Cleat,24"]
    lines += ["O-3,Falk,Brush,3", "O-3,Falk,Varnish,18", "O-4,Roe,Bolt,12"]
    (tmp_path / "lines.csv").write_text(
        "\n".join([f"Order No,Customer,Part,{header}", *lines]) + "\n", encoding="utf-8"
    )
    drafted = json.loads(hemplit("draft", "lines.csv", "--json", folder=tmp_path).out)["tables"]
    assert [one["key"] for one in drafted if one["purpose"] == "main"] == [["order_no", "part_id"]]


def test_what_was_noted_on_a_day_may_be_noted_again_on_another(tmp_path: Path) -> None:
    logs = [
        "2026-01-02: called; 2026-01-05: mended",
        "2026-01-03: called",
        "2026-02-01: new seal; 2026-02-04: tried out",
    ]
    lines = [f"{at},{log}" for at, log in enumerate(logs, 1)]
    (tmp_path / "faults.csv").write_text("\n".join(["Fault,Log", *lines]) + "\n", encoding="utf-8")
    drafted = json.loads(hemplit("draft", "faults.csv", "--json", folder=tmp_path).out)["tables"]
    assert [one["key"] for one in drafted if one["purpose"] == "detail"] == [["fault", "position"]]


def test_who_came_in_where_numbers_no_lines(tmp_path: Path) -> None:
    """Though each boat came in at another place each time."""
    races = ["Spring Cup,Teal,1", "Spring Cup,Smew,2", "Spring Cup,Knot,3", "Quay Race,Smew,1", "Quay Race,Teal,2"]
    races += ["Autumn Cup,Knot,1", "Autumn Cup,Gull,2", "Autumn Cup,Teal,3"]
    (tmp_path / "races.csv").write_text("\n".join(["Race,Boat,Finish Position", *races]) + "\n", encoding="utf-8")
    drafted = json.loads(hemplit("draft", "races.csv", "--json", folder=tmp_path).out)["tables"]
    assert [one["key"] for one in drafted if one["purpose"] == "main"] == [["race_id", "boat_id"]]


def test_what_one_pupil_had_twice_is_of_the_lesson(tmp_path: Path) -> None:
    lessons = [
        "Una,Jo,Mon,30,Blue",
        "Kit,Al,Mon,45,Red",
        "Amy,Vi,Tue,30,Blue",
        "Una,Jo,Wed,30,Red",
        "Leo,Jo,Wed,45,Hall",
    ]
    (tmp_path / "lessons.csv").write_text("\n".join(["Pupil,Parent,Day,Duration,Room", *lessons]) + "\n", "utf-8")
    drafted = json.loads(hemplit("draft", "lessons.csv", "--json", folder=tmp_path).out)["tables"]
    assert [one["purpose"] for one in drafted if "duration" in [each["name"] for each in one["columns"]]] == ["main"]


def test_decimals_that_hardly_come_again_and_counts_identify_nothing(tmp_path: Path) -> None:
    """Four samples were measured twice, with all of their numbers; of so many ropes each is of one sort."""
    samples: Rows = []
    for at in [*range(34), 3, 9, 20, 27]:
        drawn = Random(at)
        samples.append([len(samples) % 11, *(f"{drawn.uniform(10, 99):.2f}" for _ in range(4))])
    write([["Bath", "Resin", "Cure", "Pull", "Bend"], *samples], tmp_path / "resins.csv")
    assert len(json.loads(hemplit("draft", "resins.csv", "--json", folder=tmp_path).out)["tables"]) == 1
    ropes: Rows = [[at % 7 + 3, "sisal" if at % 7 < 3 else "hemp", at % 5, at % 3] for at in range(14)]
    write([["Freq", "Rope", "Grade", "Coil"], *ropes], tmp_path / "ropes.csv")
    drafted = json.loads(hemplit("draft", "ropes.csv", "--json", folder=tmp_path).out)["tables"]
    assert not [one for one in drafted if one["key"] == ["freq"]], drafted


@pytest.mark.parametrize(
    ("headers", "table", "key"),
    [
        (["Job", "Sailor", "Sailor No"], "sailors", "sailor_no"),  # a code before a name, which two may have
        (["Job", "Manager", "Cost Centre", "Cost Centre Name"], "cost_centres", "cost_centre"),  # what others are of
    ],
)
def test_of_what_is_equal_the_best_names_the_thing(headers: list[str], table: str, key: str, tmp_path: Path) -> None:
    named = [["Ada Keel", "C10", "Yard"], ["Bo Tan", "C20", "Office"], ["Cy Roo", "C30", "Slip"]]
    jobs: Rows = [[700 + at, *named[at % 3][: len(headers) - 1]] for at in range(9)]
    write([headers, *jobs], tmp_path / "jobs.csv")
    assert hemplit("draft", "jobs.csv", folder=tmp_path).code == 0
    found = tomllib.loads((tmp_path / "jobs.design.toml").read_text("utf-8"))["tables"][table]
    assert (found["key"], found.get("unique", [])) == ([key], [])


def test_a_draft_says_how_many_rows_each_table_will_have(tmp_path: Path) -> None:
    """Also of places that only the second of two roles names."""
    ways = ["Ebbing Barrow", "Barrow Ebbing", "Tarn Eskport", "Quayford Tarn", "Tarn Barrow", "Ebbing Eskport"]
    write(
        [["Trip No", "From", "To"], *([at, *way.split()] for at, way in enumerate(ways, 503))], tmp_path / "trips.csv"
    )
    drafted = hemplit("draft", "trips.csv", folder=tmp_path)
    assert "from_id, to_id → places  5 rows" in drafted.out
    loaded = json.loads(hemplit("load", "trips.csv", "--into", "y.sqlite", "--json", folder=tmp_path).out)
    assert {one["name"]: one["rows"] for one in loaded["tables"]} == {"places": 5, "trips": 6}


@pytest.mark.parametrize(("rows", "tables"), [(20, {"orders", "parts"}), (70, {"orders"})])
def test_what_each_of_many_rows_has_for_itself_stays_with_them(rows: int, tables: set[str], tmp_path: Path) -> None:
    """That each part was ordered once is no accident in seventy orders."""
    lines = [f"O-{row + 1001},P-{row * 7919 % 9973:04},part {row},{row % 5 + 1}" for row in range(rows)]
    (tmp_path / "orders.csv").write_text("\n".join(["Order No,Part No,Part,Pieces", *lines]) + "\n", "utf-8")
    ran = hemplit("draft", "orders.csv", "--json", folder=tmp_path)
    assert {one["name"] for one in json.loads(ran.out)["tables"]} == tables
    if "parts" in tables:
        told = hemplit("why", "orders.design.toml", "parts", folder=tmp_path).out
        assert "No Part No came again so far; when one does, its Part need not be typed again." in told


def test_rows_with_lists_are_known_by_their_code_wherever_it_stands(tmp_path: Path) -> None:
    finds = ["bronze; iron,Heron,M-01", "paper,Lantern,M-02", "iron,Gate,M-03", "bronze; glass,Vane,M-04"]
    (tmp_path / "finds.csv").write_text("\n".join(["Materials,Title,Find No", *finds]) + "\n", "utf-8")
    ran = hemplit("draft", "finds.csv", "--json", folder=tmp_path)
    keys = {one["name"]: one["key"] for one in json.loads(ran.out)["tables"]}
    assert keys["finds"] == ["find_no"] and "find_no" in keys["find_materials"]


@pytest.mark.parametrize(
    ("headers", "lanes", "tell"),
    [
        (["Event", "Heat", "Umpire", "Lane", "Crew"], "12 123 12 12", True),
        (["Event", "Heat", "Umpire", "Lane", "Crew"], "12 123 13 12", False),  # there is a gap
        (["Event", "Heat", "Umpire", "Lane", "Crew"], "12 1224 123 12", False),  # one is there twice
        (["Event", "Heat", "Umpire", "Place", "Crew"], "12 123 12 12", False),  # two may share one
        (["Start", "Day", "Umpire", "Lane", "Crew"], "12 123 12 12", False),  # two moments are of nothing
    ],
)
def test_numbers_that_count_anew_under_two_columns_tell_lines_apart(
    headers: list[str], lanes: str, tell: bool, tmp_path: Path
) -> None:
    starts = [("09:00", "2026-05-01"), ("09:00", "2026-05-02"), ("10:00", "2026-05-01"), ("10:00", "2026-05-02")]
    heats = starts if headers[0] == "Start" else [("Gigs", 1), ("Gigs", 2), ("Skiffs", 1), ("Skiffs", 2)]
    lines = [(heat, lane) for heat, drawn in zip(heats, lanes.split(), strict=True) for lane in drawn]
    rows: Rows = [[*heat, "Roe", lane, f"Crew {number % 5}"] for number, (heat, lane) in enumerate(lines)]
    write([headers, *rows], tmp_path / "races.csv")
    drafted = json.loads(hemplit("draft", "races.csv", "--json", folder=tmp_path).out)["tables"]
    (found,) = (one["key"] for one in drafted if one["purpose"] == "main")
    assert (found == ["event_id", "heat", "lane"]) if tell else (headers[3].lower() not in found)


def test_lines_of_a_document_are_of_it_and_not_of_its_day_and_its_clerk(tmp_path: Path) -> None:
    """Though no clerk wrote two on one day so far."""
    written = [("O-1", "2026-05-01", "Kest"), ("O-2", "2026-05-01", "Harle"), ("O-3", "2026-05-02", "Kest")]
    written += [("O-4", "2026-05-02", "Harle"), ("O-5", "2026-05-03", "Kest")]
    rows: Rows = [[*order, line, "Rope Cleat Paint".split()[line % 3]] for order in written for line in range(1, 4)]
    write([["Order No", "Order Date", "Clerk", "Line", "Part"], *rows], tmp_path / "lines.csv")
    drafted = json.loads(hemplit("draft", "lines.csv", "--json", folder=tmp_path).out)["tables"]
    columns = {one["name"]: [column["name"] for column in one["columns"]] for one in drafted}
    assert columns["orders"] == ["order_no", "date", "clerk_id"]


@pytest.mark.parametrize(
    ("headers", "weeks", "key"),
    [
        (["Launch", "Tank", "Lining", "Seats", "Sounded On", "Level"], (1, 2, 3), ["launch", "tank", "sounded_on"]),
        (["Launch", "Tank", "Lining", "Seats", "Gauge", "Level"], (1, 2, 3), None),  # nothing says when
        (["Launch", "Year", "Lining", "Seats", "Sounded On", "Level"], (1, 2, 3), None),  # a year is no part of a thing
        (["Launch", "Tank", "Lining", "Seats", "Sounded On", "Level"], (), None),  # each was sounded once
    ],
)
def test_two_columns_name_what_there_is_a_row_of_at_each_time(
    headers: list[str], weeks: tuple[int, ...], key: list[str] | None, tmp_path: Path
) -> None:
    """Of that are the lining and the seats, though no two have as many."""
    places = ["2024", "2025", "2026"] if headers[1] == "Year" else ["1P", "1S", "2C"]
    things = [(launch, place) for launch in ("Aurora", "Boreas", "Cygnet") for place in places][:-1]
    rows: Rows = [
        [*thing, "Steel" if number % 4 else "Zinc", 2 * number + 3, f"2026-06-0{week}", 31 + number * 7 * week % 5]
        for number, thing in enumerate(things)
        for week in weeks or (1 + number % 2,)
        if (number, week) != (4, 2)
    ]
    if headers[4] == "Gauge":
        rows = [[*row[:4], f"{'Upper Lower Middle'.split()[int(str(row[4])[-1]) - 1]} glass", row[5]] for row in rows]
    write([headers, *rows], tmp_path / "tanks.csv")
    drafted = json.loads(hemplit("draft", "tanks.csv", "--json", folder=tmp_path).out)["tables"]
    (main,) = (one["key"] for one in drafted if one["purpose"] == "main")
    columns = [[column["name"] for column in one["columns"]] for one in drafted]
    assert ["launch", "tank", "lining_id", "seats"] in columns if key else len(main) < 3
    assert key is None or (main == key and "seats" not in {one["name"] for one in drafted})


def test_what_is_sold_on_days_of_its_own_may_be_sold_again_on_one(tmp_path: Path) -> None:
    """Most sales were of one thing only, so that nothing was looked at on each of the days."""
    sold = "1 Ann Rope 4,2 Bo Chain 9,3 Ann Cord 2,4 Bo Rope 4,5 Ann Rope 7,6 Bo Chain 3,4 Ann Cord 5,3 Bo Rope 6,"
    rows: Rows = [one.split() for one in (sold + "2 Cy Cord 1,2 Cy Chain 8,1 Cy Cord 1,1 Cy Chain 8").split(",")]
    write(
        [["Date", "Owner", "Part", "Metres"], *(["2026-05-0" + str(row[0]), *row[1:]] for row in rows)],
        tmp_path / "sales.csv",
    )
    drafted = json.loads(hemplit("draft", "sales.csv", "--json", folder=tmp_path).out)["tables"]
    assert [one["key"] for one in drafted if one["purpose"] == "main"] == [["sale_id"]]


def test_a_year_of_three_that_tell_rows_apart_tells_apart_the_gangs_of_each_year_too(tmp_path: Path) -> None:
    rows: Rows = []
    for hand in range(24):
        for year in (2023, 2024, 2025):
            for stint in range(1, 2 + (hand * year) % 3):
                gang = (hand + year * stint) % 5
                rows.append([f"H-{hand:02}", year, stint, f"G{gang}", f"Gang {gang * 7 + year % 3}", hand % 7 + stint])
    write([["Hand No", "Year", "Stint", "Gang Code", "Gang Name", "Days"], *rows], tmp_path / "hands.csv")
    drafted = json.loads(hemplit("draft", "hands.csv", "--json", folder=tmp_path).out)["tables"]
    keys = {one["name"]: one["key"] for one in drafted}
    (main,) = (one["key"] for one in drafted if one["purpose"] == "main")
    assert main == ["hand_no", "year", "stint"] and ["year", "gang_code"] in [
        sorted(key)[::-1] for key in keys.values()
    ]
