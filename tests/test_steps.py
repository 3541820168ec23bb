"""Steps are rules: on a sheet that has grown or changed each finds anew what it is about, or refuses, and tells."""

from __future__ import annotations

import json
import re
import sqlite3
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from conftest import Ran, hemplit, tries
from hemplit.core.model.grid import EMPTY, Grid
from hemplit.core.shape import replay, shape
from hemplit.errors import HemplitError
from hemplit.files.cells import from_texts
from test_shapes import CASES
from test_shapes import grid as grid_of

MONTH = "Jobs in April\n\nJob,Boat,Hours\n1,Teal,2\n2,Smew,3\n3,Knot,4\n4,Teal,1\nTotal,,10\n"
NEXT = (
    "Jobs in May\nfor the office\n\nJob,Boat,Hours\n1,Teal,2\n2,Smew,3\n3,Knot,4\n4,Teal,1\n5,Smew,5\n6,Rail,2\n"
    "Total,,17\n"
)


def next_month(first: str, second: str, folder: Path, edit: tuple[str, str] = ("", "")) -> Ran:
    """Drafts a design on one sheet and loads another by it."""
    sheet = folder / "jobs.csv"
    sheet.write_text(first, encoding="utf-8")
    assert hemplit("draft", "jobs.csv", "--replace", folder=folder).code == 0
    design = folder / "jobs.design.toml"
    text = design.read_text(encoding="utf-8")
    assert edit[0] in text
    design.write_text(text.replace(*edit, 1), encoding="utf-8")
    sheet.write_text(second, encoding="utf-8")
    (folder / "jobs.sqlite").unlink(missing_ok=True)
    return hemplit("load", "jobs.design.toml", "--into", "jobs.sqlite", folder=folder)


def jobs_in(folder: Path) -> list[int]:
    connection = sqlite3.connect(folder / "jobs.sqlite")
    found = [job for (job,) in connection.execute("SELECT Job FROM jobs_sheet")]
    connection.close()
    return found


def test_a_sheet_that_has_grown_is_loaded_whole(tmp_path: Path) -> None:
    ran = next_month(MONTH, NEXT, tmp_path)
    assert (ran.code, ran.err) == (0, "")
    assert jobs_in(tmp_path) == [1, 2, 3, 4, 5, 6]
    assert "left out: row 11 (skip total rows): Total, 17" in ran.out
    assert "Nothing was lost" not in ran.out


def test_numbers_of_things_come_in_either_writing(tmp_path: Path) -> None:
    """A program writes 12 where all are filled, and 12.0 where one is blank; the step is told that reads both."""
    plain = "job_id,boat_no,hours\n" + "".join(f"{job},{job % 3 + 1},2.5\n" for job in range(901, 909))
    pointed = "job_id,boat_no,hours\n909.0,1.0,2.5\n910.0,2,3.5\n"
    ran = next_month(plain, plain + pointed.partition("\n")[2], tmp_path)
    step = re.search(r"write a step ({.*job_id.*})", ran.err)
    assert ran.code == 2 and step, ran.err
    steps = f"\n  {step[1]},\n  {step[1].replace('job_id', 'boat_no')},\n]"
    assert next_month(plain, plain + pointed.partition("\n")[2], tmp_path, ("\n]", steps)).code == 0
    both = next_month(pointed, plain, tmp_path)
    assert (both.code, "Verified" in both.out) == (0, True), both.err
    assert "was not made for A4 '911.5'" in next_month(pointed, f"{pointed}911.5,2.0,1.5\n", tmp_path).err


TOLD = {
    "one total more": (
        NEXT.replace("4,Teal,1\n", "4,Teal,1\nSUBTOTAL,,10\n"),
        "skip total rows: 1 when drafted, 2 now: row 12 'Total, 17', row 9 'SUBTOTAL, 10'",
        [1, 2, 3, 4, 5, 6],
    ),
    "no total": (NEXT.replace("Total,,17\n", ""), "skip total rows: 1 when drafted, 0 now", [1, 2, 3, 4, 5, 6]),
    "headers that nobody asked for": (
        NEXT.replace("3,Knot", "Job,Boat,Hours\n3,Knot"),
        "skip repeated headers: none when drafted, 1 now: row 7 'Job, Boat, Hours'",
        None,
    ),
}


@pytest.mark.parametrize("case", TOLD)
def test_what_is_found_otherwise_is_told(case: str, tmp_path: Path) -> None:
    sheet, expected, jobs = TOLD[case]
    ran = next_month(MONTH, sheet, tmp_path)
    if jobs is None:  # the words of the header are no whole numbers, so the load says where they stand
        assert ran.code == 2
        assert "jobs.csv A7: 'Job' under 'Job'" in ran.err
        ran = next_month(MONTH, sheet, tmp_path, ("steps = [", 'steps = [\n  { do = "skip blank rows" },'))
        return
    assert ran.code == 1
    assert expected in " ".join(ran.out.split())
    assert jobs_in(tmp_path) == jobs


def test_a_step_may_be_written_by_hand(tmp_path: Path) -> None:
    plain = "Job,Boat,Hours\n1,Teal,2\n2,Smew,3\n3,Knot,4\n4,Teal,1\n"
    odd = plain + "in all,,10\n"
    assert next_month(plain, odd, tmp_path).code == 2  # 'in all' is no whole number
    rule = '{ do = "skip total rows", labels = ["In All"] },\n]'
    assert next_month(plain, odd, tmp_path, ("\n]", f"\n  {rule}")).code == 0
    assert jobs_in(tmp_path) == [1, 2, 3, 4]
    row = '{ do = "skip this row", row = 6, says = ["in all"] },\n]'
    assert next_month(plain, odd, tmp_path, ("\n]", f"\n  {row}")).code == 0
    assert jobs_in(tmp_path) == [1, 2, 3, 4]
    moved = next_month(plain, plain + "5,Rail,1\nin all,,11\n", tmp_path, ("\n]", f"\n  {row}"))
    assert moved.code == 2
    assert "row 6 says 5, Rail, 1, and the step that sets it aside was written for in all" in moved.err


MONEY = "Job,Boat,Price\n" + "".join(f'{job},Teal,"${job},250.00"\n' for job in range(1, 9))
MISFITS = {
    "5-8": MONEY,
    "12 of 15": MONEY,
    "12/03/2026": MONEY,
    "TBD 2026": MONEY,
    "€5": MONEY,
    "1,5": MONEY,
    "3 April": "Job,Boat,Day\n1,Teal,14/03/2026\n2,Smew,2026-03-15\n3,Knot,16/03/2026\n",
    "31/02/2026": "Job,Boat,Day\n1,Teal,14/03/2026\n2,Smew,2026-03-15\n3,Knot,16/03/2026\n",
    "about 3 m": "Job,Boat,Length\n1,Teal,6.5 m\n2,Smew,7 m\n3,Knot,20 ft\n",
}


@pytest.mark.parametrize("text", MISFITS)
def test_a_cell_for_which_a_step_was_not_made_is_never_forced(text: str, tmp_path: Path) -> None:
    sheet = MISFITS[text]
    ran = next_month(sheet, f'{sheet}99,Rail,"{text}"\n', tmp_path)
    row = sheet.count("\n") + 1
    assert (ran.code, ran.out) == (2, "")
    assert f"was not made for C{row} '{text}'" in ran.err
    assert not (tmp_path / "jobs.sqlite").exists()


def test_a_design_may_keep_such_cells(tmp_path: Path) -> None:
    design = ('sign = "$" }', 'sign = "$", misfits = "keep" }')
    odd = MONEY + "99,Rail,12 of 15\n"
    assert "is no decimal" in next_month(MONEY, odd, tmp_path, design).err
    text = (tmp_path / "jobs.design.toml").read_text(encoding="utf-8")
    text = text.replace('from = "Price", type = "decimal", format = "0.00"', 'from = "Price", type = "text"')
    (tmp_path / "jobs.design.toml").write_text(text, encoding="utf-8")
    ran = hemplit("load", "jobs.design.toml", "--into", "jobs.sqlite", folder=tmp_path)
    assert ran.code == 1
    assert "'Price' has cells that step 'read numbers' leaves as they are: C10 '12 of 15'" in " ".join(ran.out.split())


def test_rows_of_a_design_before_are_refused_with_the_way_out(tmp_path: Path) -> None:
    ran = next_month(MONTH, NEXT, tmp_path, ("seen = 1", "rows = [8]"))
    assert ran.code == 2
    assert "steps know no rows by their numbers" in ran.err


def test_many_rows_that_were_left_out_stand_in_a_file(tmp_path: Path) -> None:
    lines = "".join(f"{job},Teal,{job % 3},grey,boat\n" for job in range(1, 9))
    (tmp_path / "jobs.csv").write_text(
        "Job,Boat,Hours\n1,Teal,2\n2,Smew,3\n" + "".join(f"{job},Knot,4\n" for job in range(20, 40)) + lines,
        encoding="utf-8",
    )
    ran = hemplit("load", "jobs.csv", "--into", "jobs.sqlite", folder=tmp_path)
    assert ran.code == 1
    assert "and 3 more rows; all are in jobs.left-out.csv" in ran.out
    left = (tmp_path / "jobs.left-out.csv").read_text(encoding="utf-8").splitlines()
    assert left[1] == "jobs.csv,row 24,skip lines that are too long,1,Teal,1,grey,boat"
    assert len(left) == 9


def test_each_changed_cell_is_told(tmp_path: Path) -> None:
    (tmp_path / "jobs.csv").write_text(
        'Job,Boat,Crew,Price,Part 1,Qty 1,Part 2,Qty 2\n1,Teal,"Ann,Ben",$5,rope,1,n/a,n/a\n'
        '2,Teal ,Ben,"$1,200",tar,2,rope,3\n3,Smew,"Ann, Ben",$7,tar,2,n/a,n/a\n4,Smew,"Cas, Ann",$9,rope,2,,\n',
        encoding="utf-8",
    )
    (sheet, *_) = json.loads(hemplit("look", "jobs.csv", "--json", folder=tmp_path).out)["sheets"]
    told = {(one["row"], one["column"]): (one["before"], one["after"], one["step"]) for one in sheet["changes"]}
    assert told[3, "Boat"] == ("Teal ", "Teal", "trim spaces")
    assert told[3, "Price"] == ("$1,200", "1200", "read numbers")
    assert told[2, "Crew"] == ("Ann,Ben", "Ann,Ben", "split lists into rows")
    assert told[2, "Part 2"] == ("n/a", "", "treat as blank")
    loaded = json.loads(hemplit("load", "jobs.csv", "--into", "j.sqlite", "--json", folder=tmp_path).out)
    (account,) = loaded["ledgers"]
    by = {one["reason"]: one["cells"] for one in account["changes"]}
    assert by == {"trim spaces": 1, "read numbers": 4, "split lists into rows": 1, "treat as blank": 4}
    assert next(one for one in loaded["sheets"] if one["sheet"] == "jobs")["changes"] == sheet["changes"]


def test_a_part_of_a_cell_that_is_left_out_is_in_the_account(tmp_path: Path) -> None:
    sheet = "Job,Boat,Feed\n1,Teal,2 kg\n2,Smew,2 lb\n3,Knot,3 kg\n4,Teal,5 lb\n"
    text = next_month(sheet, sheet, tmp_path)
    assert text.code == 0
    design = (tmp_path / "jobs.design.toml").read_text(encoding="utf-8")
    line = next(line for line in design.splitlines() if 'from = "Feed Unit"' in line)
    design = design.replace(line + "\n", "").replace("\n]\n", '\n]\nleave_out = ["Feed Unit"]\n', 1)
    if "[tables.feed_units]" in design:
        start = design.index("[tables.feed_units]")
        design = design[: design.rindex("\n\n", 0, start)] + design[design.index("\n\n", start) :]
        to = next(line for line in design.splitlines() if 'to = "feed_units"' in line)
        design = design.replace(to + "\n", "")
    (tmp_path / "jobs.design.toml").write_text(design, encoding="utf-8")
    ran = hemplit("load", "jobs.design.toml", "--into", "j2.sqlite", "--details", folder=tmp_path)
    assert ran.code == 0, ran.err
    assert "4 left out: leave_out in the design: Feed Unit, a part of the cell" in ran.out
    assert "Nothing was lost" not in ran.out


def with_row_again(grid: Grid, row: int, at: int) -> Grid:
    """The sheet with one of its rows a second time at another place, its first filled cell another one."""
    columns = []
    first = next(place for place, column in enumerate(grid.columns) if column.codes[row] != EMPTY)
    for place, column in enumerate(grid.columns):
        texts = [column.text(one) for one in range(grid.row_count)]
        again = f"{texts[row]}9" if place == first else texts[row]
        columns.append(from_texts([*texts[:at], again, *texts[at:]]))
    merged = tuple(one for one in grid.merged if one.bottom < at)
    long = tuple(one + (one >= at) for one in grid.too_long)
    return Grid(grid.source, tuple(columns), grid.row_count + 1, merged, long)


@pytest.mark.slow
@pytest.mark.parametrize("name", CASES)
@settings(max_examples=tries(15), suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(data=st.data())
def test_no_row_is_lost_in_a_sheet_that_has_grown(name: str, data: st.DataObject) -> None:
    case = CASES[name]
    before = grid_of(case.sheet, case.merged)
    for found in shape(before):
        rows = sorted(set(found.relation.grid_rows.tolist()))
        at = data.draw(st.sampled_from(rows)) + data.draw(st.integers(0, 1))
        grown = with_row_again(before, data.draw(st.sampled_from(rows)), at)
        try:
            again = replay(grown, found.relation.steps, {}).relation
        except HemplitError:
            continue  # it refuses, and nothing is lost
        named = {row for one in again.account if one.named for row in one.rows.tolist()}
        assert {at, *(row + (row >= at) for row in rows)} <= {*again.grid_rows.tolist(), *named}


def test_another_file_in_a_folder_has_its_own_total(tmp_path: Path) -> None:
    month = "Job,Boat,Hours\n{0}1,Teal,2\n{0}2,Smew,3\n{0}3,Knot,4\nTotal,,9\n"
    (tmp_path / "jobs").mkdir()
    for number in (4, 5):
        (tmp_path / "jobs" / f"2026-{number:02}.csv").write_text(month.format(number), encoding="utf-8")
    assert hemplit("load", "jobs", "--into", "a.sqlite", folder=tmp_path).code == 0
    (tmp_path / "jobs" / "2026-06.csv").write_text(month.format(6), encoding="utf-8")
    assert hemplit("load", "a.design.toml", "--into", "b.sqlite", folder=tmp_path).code == 0
    (tmp_path / "jobs" / "2026-07.csv").write_text(month.format(7).replace("Total,,9\n", ""), encoding="utf-8")
    ran = hemplit("load", "a.design.toml", "--into", "c.sqlite", folder=tmp_path)
    assert ran.code == 1
    assert "skip total rows: 1 in each file when drafted, 0 in 2026-07.csv now" in " ".join(ran.out.split())
    connection = sqlite3.connect(tmp_path / "c.sqlite")
    assert connection.execute("SELECT count(*), count(DISTINCT Month) FROM jobs_sheet").fetchone() == (12, 4)
    connection.close()


@pytest.mark.parametrize(
    ("sheet", "name", "instead", "second"),
    [
        ('1,"Falk, Ben",Lee 2,"Aas, Ada",Pier 3,"Berg, Bo",Lee', '"Owner First Name"', '"Dock"', "column 'Dock'"),
        (
            "1,Ada;Bo,oar;sail 2,Bo;Cato,sail;mast 3,Ada;Dina,oar;rope 4,Cato;Ada,oar;mast 5,Bo;Dina,rope;oar",
            'into = "Parts"',
            'into = "Crew"',
            "sheet 'Crew'",
        ),
        (
            "1,Teal,R1 2,Knot,R2 3,Smew,R3 4,Ruff,R4 5,Teal,R1 6,Knto,R2 7,Smew,R3 8,Ruff,R4",
            '"Owner as written"',
            '"Dock"',
            "column",
        ),
    ],
    ids=["parts", "lists", "beside"],
)
def test_a_step_that_makes_a_second_column_of_one_name_is_refused(
    sheet: str, name: str, instead: str, second: str, tmp_path: Path
) -> None:
    headers = "Job,Crew,Parts" if "Crew" in second else "Job,Owner,Dock"
    lines = re.sub(r" (?=\d)", "\n", sheet)
    (tmp_path / "jobs.csv").write_text(f"{headers}\n{lines}\n", encoding="utf-8")
    hemplit("draft", "jobs.csv", folder=tmp_path)
    path = tmp_path / "jobs.design.toml"
    text = path.read_text(encoding="utf-8")
    assert name in text, text
    path.write_text(text.replace(name, instead, 1), encoding="utf-8")
    ran = hemplit("load", "jobs.design.toml", "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 2 and f"makes a second {second}" in ran.err and not (tmp_path / "yard.sqlite").exists(), ran.err
