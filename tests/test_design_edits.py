"""A person edits the design: what it says is done, without loss, or refused with the line."""

from __future__ import annotations

import csv
import re
import sqlite3
from collections.abc import Callable
from pathlib import Path

import pytest

from conftest import hemplit, same_cells
from hemplit.design_file.write import is_edited, with_mark
from hemplit.errors import DesignError
from hemplit.flow import designs, loading, reading, studying

Edit = Callable[[str], str]


def line(text: str, table: str, column: str) -> str:
    """The line of a column in a drafted design."""
    section = text[text.index(f"[tables.{table}]") :]
    return re.search(rf"^columns\.{column} .*\n", section, re.MULTILINE)[0]  # type: ignore[index]


def rename_table(text: str) -> str:
    return text.replace("[tables.boats]", "[tables.vessels]").replace('to = "boats"', 'to = "vessels"')


def rename_columns(text: str) -> str:
    text = text.replace("columns.boat_reg ", "columns.registration ").replace('["boat_reg"]', '["registration"]')
    return text.replace("columns.labour_hours ", 'columns."Hours; worked" ')


def move_column_up(text: str) -> str:
    moved = line(text, "works", "hourly_rate")
    return text.replace(moved, "").replace(line(text, "jobs", "remarks"), line(text, "jobs", "remarks") + moved)


def choose_other_key(text: str) -> str:
    text = text.replace('key = ["owner_id"]\nunique = [["name"]]', 'key = ["name"]')
    return text.replace(line(text, "owners", "owner_id"), "")


def unique_made_up_id(text: str) -> str:
    return text.replace(
        'key = ["owner_id"]\nunique = [["name"]]', 'key = ["owner_id"]\nunique = [["owner_id"], ["name"]]'
    )


def drop_lookup(text: str) -> str:
    text = re.sub(r"\[tables\.statuses\](.|\n)*?\n\n", "", text)
    return text.replace(line(text, "jobs", "status_id"), 'columns.status = { from = "Status" }\n')


def keep_computed(text: str) -> str:
    return text.replace("store = false", "store = true")


def own_junction(text: str) -> str:
    """A table with a composite key in between: what a boat's work costs an hour."""
    text = text.replace(line(text, "works", "hourly_rate"), "")
    text = text.replace(line(text, "jobs", "work_id"), 'columns.task_id = { to = "tasks" }\n')
    return text + (
        '[tables.tasks]\nsheet = "jobs"\nkey = ["task_id"]\nunique = [["work_id", "hourly_rate"]]\n'
        'columns.task_id = { ids = "number" }\ncolumns.work_id = { to = "works" }\n'
        'columns.hourly_rate = { from = "Hourly Rate", type = "decimal", format = "0.00" }\n'
    )


def composite_reference(text: str) -> str:
    text = text.replace(line(text, "works", "hourly_rate"), "")
    works = 'columns.work_id = { to = "rates.work_id" }\ncolumns.rate = { to = "rates.rate" }\n'
    text = text.replace(line(text, "jobs", "work_id"), works)
    return text + (
        '[tables.rates]\nsheet = "jobs"\nkey = ["work_id", "rate"]\ncolumns.work_id = { to = "works" }\n'
        'columns.rate = { from = "Hourly Rate" }\n'
    )


@pytest.fixture(scope="module")
def drafted(yard: Path, tmp_path_factory: pytest.TempPathFactory) -> bytes:
    folder = tmp_path_factory.mktemp("drafted")
    (folder / "jobs.csv").write_bytes((yard / "jobs.csv").read_bytes())
    path = folder / "yard.design.toml"
    designs.save_design(studying.draft(reading.read([str(folder / "jobs.csv")])), path, over_edited=False)
    return path.read_bytes()


@pytest.fixture
def design(jobs: Path, drafted: bytes) -> Path:
    path = jobs.with_name("yard.design.toml")
    path.write_bytes(drafted)
    return path


def columns_of(target: Path) -> dict[str, list[str]]:
    database = sqlite3.connect(target)
    tables = [row[0] for row in database.execute("SELECT name FROM sqlite_master WHERE type = 'table'")]
    found = {table: [row[1] for row in database.execute(f'PRAGMA table_info("{table}")')] for table in tables}
    database.close()
    return found


@pytest.mark.parametrize(
    ("edit", "table", "columns"),
    [
        (rename_table, "vessels", ["boat_reg", "name", "length_m", "owner_id", "berth"]),
        (rename_columns, "boats", ["registration", "name", "length_m", "owner_id", "berth"]),
        (move_column_up, "works", ["work_id", "name"]),
        (choose_other_key, "owners", ["name", "phone", "town_id"]),
        (unique_made_up_id, "owners", ["owner_id", "name", "phone", "town_id"]),
        (drop_lookup, "jobs", ["job_no", "opened", "boat_reg", "work_id", "status", "labour_hours", "urgent", "remarks"]),
        (keep_computed, "jobs", ["job_no", "opened", "boat_reg", "work_id", "status_id", "labour_hours", "labour_cost", "urgent", "remarks"]),
        (own_junction, "tasks", ["task_id", "work_id", "hourly_rate"]),
        (composite_reference, "rates", ["work_id", "rate"]),
    ],
    ids=lambda value: getattr(value, "__name__", ""),
)  # fmt: skip
def test_an_edit_is_done_without_loss(edit: Edit, table: str, columns: list[str], design: Path, jobs: Path) -> None:
    text = design.read_text(encoding="utf-8")
    edited = edit(text)
    assert edited != text
    design.write_text(edited, encoding="utf-8")
    ran = hemplit("load", design, "--into", "yard.sqlite", folder=jobs.parent)
    assert (ran.code, ran.err) == (0, "")
    assert columns_of(jobs.parent / "yard.sqlite")[table] == columns
    assert same_cells(jobs, jobs.parent / "yard.sqlite", "jobs_sheet")


#: What goes with a deleted section, and the columns that jobs, or what else had referred to it, then has besides.
STRUCK = {
    "statuses": ("jobs", {"status"}),
    "owners": ("boats", {"owner", "owner_phone", "town_id"}),
    "boats": ("jobs", {"boat_reg", "boat", "length_m", "hull_class", "owner_id", "berth"}),
    "hull_classes": ("boats", {"hull_class"}),
    "works": ("jobs", {"work", "hourly_rate"}),
    "crews": ("job_crews", {"crew"}),
    "job_crews": ("jobs", {"crew"}),
}


@pytest.mark.parametrize("table", STRUCK)
def test_a_deleted_section_sends_its_columns_home(table: str, design: Path, jobs: Path) -> None:
    home, expected = STRUCK[table]
    text = design.read_text(encoding="utf-8")
    edited = re.sub(rf"\[tables\.{table}\]\n(?:.+\n)+", "", text)
    assert edited != text
    design.write_text(edited, encoding="utf-8")
    ran = hemplit("load", design, "--into", "yard.sqlite", folder=jobs.parent)
    assert (ran.code, "no such table any more" in ran.err or "not taken out" in ran.err) == (0, True), ran.err
    held = columns_of(jobs.parent / "yard.sqlite")
    assert table not in held and expected <= {*held[home]}
    assert same_cells(jobs, jobs.parent / "yard.sqlite", "jobs_sheet")


def test_what_headings_say_goes_home_from_a_deleted_section(tmp_path: Path) -> None:
    sheet = "Berth,Boat,Owner\nNorth Dock,,\nA1,Teal,Keel\nA2,Smew,Lund\nSouth Dock,,\nB1,Knot,Holm\nB2,Rail,Keel\n"
    (tmp_path / "berths.csv").write_text(sheet, encoding="utf-8")
    hemplit("draft", "berths.csv", folder=tmp_path)
    design = tmp_path / "berths.design.toml"
    text = design.read_text(encoding="utf-8")
    assert "[tables.docks]" in text
    design.write_text(re.sub(r"\[tables\.docks\](.|\n)*?\n\n", "", text), encoding="utf-8")
    assert hemplit("load", design, "--into", "yard.sqlite", folder=tmp_path).code == 0
    assert columns_of(tmp_path / "yard.sqlite")["berths"][-1] == "dock"


def test_of_two_deleted_sections_each_sends_its_own_columns_home(design: Path, jobs: Path) -> None:
    text = design.read_text(encoding="utf-8")
    for table in ("docks", "statuses"):
        text = re.sub(rf"\[tables\.{table}\]\n(?:.+\n)+", "", text)
    design.write_text(text, encoding="utf-8")
    ran = hemplit("load", design, "--into", "yard.sqlite", folder=jobs.parent)
    assert ran.code == 0, ran.err
    held = columns_of(jobs.parent / "yard.sqlite")
    assert ("dock" in held["berths"], "dock" in held["jobs"], "status" in held["jobs"]) == (True, False, True)


def test_a_struck_step_takes_along_what_hangs_on_it(design: Path, jobs: Path) -> None:
    lines = design.read_text(encoding="utf-8").splitlines()
    design.write_text("\n".join(one for one in lines if "split lists into rows" not in one) + "\n", encoding="utf-8")
    ran = hemplit("load", design, "--into", "yard.sqlite", folder=jobs.parent)
    assert (ran.code, ran.err) == (0, "'Crew' is not taken out of 'jobs' any more, and stands there as it is\n")
    held = columns_of(jobs.parent / "yard.sqlite")
    assert "crew" in held["jobs"] and not {"crews", "job_crews"} & {*held}
    assert same_cells(jobs, jobs.parent / "yard.sqlite", "jobs_sheet")


def test_a_column_left_out_stands_in_the_ledger(design: Path, jobs: Path) -> None:
    text = design.read_text(encoding="utf-8")
    text = text.replace(line(text, "jobs", "remarks"), "").replace("\n]\n", '\n]\nleave_out = ["Remarks"]\n', 1)
    design.write_text(text, encoding="utf-8")
    ran = hemplit("load", design, "--into", "yard.sqlite", "--details", folder=jobs.parent)
    assert ran.code == 0
    assert "all 7,619 cells: 6,419 stored · 800 calculated · 0 changed · 400 left out" in " ".join(ran.out.split())
    assert "400 cells left out by the design" in " ".join(ran.out.split())
    assert "Nothing was lost" not in ran.out
    assert "400 left out: leave_out in the design: Remarks" in ran.out


@pytest.mark.parametrize("name", ["listed", "ranges", "many", "one"])
@pytest.mark.parametrize("table", ["jobs", "hull_classes", "boats"])
def test_a_table_may_have_any_name(name: str, table: str, design: Path, jobs: Path) -> None:
    """Those too that the views give to what they join."""
    text = design.read_text(encoding="utf-8").replace(f"[tables.{table}]", f"[tables.{name}]")
    text = text.replace(f'to = "{table}"', f'to = "{name}"').replace(f'range = "{table}"', f'range = "{name}"')
    design.write_text(text, encoding="utf-8")
    ran = hemplit("load", design, "--into", "yard.sqlite", folder=jobs.parent)
    assert (ran.code, ran.err) == (0, "")
    assert same_cells(jobs, jobs.parent / "yard.sqlite", "jobs_sheet")


def test_a_table_named_like_an_alias_keeps_the_lists_apart(tmp_path: Path) -> None:
    """Where header and column are called the same, a name that means two things would mean the nearer one."""
    crews = ["Ann, Ben", "Cas", "Ben, Cas, Ann", "Ann, Cas", "Ben"]
    rows = "".join(f'{job},Boat {job % 4},"{crews[job % 5]}"\n' for job in range(1, 31))
    (tmp_path / "jobs.csv").write_text(f"Job,Boat,Crew\n{rows}", encoding="utf-8")
    hemplit("draft", "jobs.csv", folder=tmp_path)
    path = tmp_path / "jobs.design.toml"
    text = (
        path.read_text(encoding="utf-8")
        .replace("[tables.jobs]", "[tables.listed]")
        .replace('to = "jobs"', 'to = "listed"')
    )
    path.write_text(text, encoding="utf-8")
    assert hemplit("load", path, "--into", "yard.sqlite", folder=tmp_path).code == 0
    assert same_cells(tmp_path / "jobs.csv", tmp_path / "yard.sqlite", "jobs_sheet")


def test_a_reference_may_be_named_by_a_quotation_mark(design: Path, jobs: Path) -> None:
    text = design.read_text(encoding="utf-8").replace("columns.boat_reg     =", 'columns."\\"" =', 1)
    assert 'columns."\\"" = {' in text
    design.write_text(text, encoding="utf-8")
    ran = hemplit("load", design, "--into", "yard.sqlite", folder=jobs.parent)
    assert (ran.code, ran.err) == (0, "")


def test_a_role_may_be_told_by_the_name_beside_its_code(tmp_path: Path) -> None:
    given = Path(__file__).parent / "cases" / "sellers_to_buyers_by_iso" / "sheet.csv"
    (tmp_path / "exports.csv").write_bytes(given.read_bytes())
    hemplit("draft", "exports.csv", folder=tmp_path)
    design = tmp_path / "exports.design.toml"
    text = design.read_text(encoding="utf-8")
    by_code = line(text, "exports", "seller_iso")
    design.write_text(text.replace(by_code, by_code.replace('"Seller ISO"', '"Seller"')), encoding="utf-8")
    ran = hemplit("load", design, "--into", "yard.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.err
    assert same_cells(given, tmp_path / "yard.sqlite", "exports_sheet")


def test_an_id_may_be_made_up_for_what_a_list_hangs_on(design: Path, jobs: Path) -> None:
    text = design.read_text(encoding="utf-8")
    made = 'key = ["job_id"]\nunique = [["job_no"]]\ncolumns.job_id = { ids = "number" }\nrules = ['
    design.write_text(text.replace('key = ["job_no"]\nrules = [', made, 1), encoding="utf-8")
    ran = hemplit("load", design, "--into", "yard.sqlite", folder=jobs.parent)
    assert (ran.code, ran.err) == (0, "")
    connection = sqlite3.connect(jobs.parent / "yard.sqlite")
    told = "SELECT jobs.job_no, crews.name FROM job_crews JOIN jobs ON jobs.job_id = job_crews.job_no"
    told += " JOIN crews USING (crew_id) ORDER BY 1, position"
    lists: dict[str, list[str]] = {}
    for number, name in connection.execute(told):
        lists.setdefault(str(number), []).append(name)
    connection.close()
    with jobs.open(encoding="utf-8", newline="") as file:
        assert lists == {row["Job No"]: row["Crew"].split(", ") for row in csv.DictReader(file) if row["Crew"]}


FAULTS: dict[str, tuple[Edit, str]] = {
    "no TOML": (lambda text: text.replace("format = 2", "format = "), "no text in quotes, number, true"),
    "unknown word": (lambda text: text.replace("purpose", "porpoise", 1), "did you mean 'purpose'?"),
    "unknown column word": (lambda text: text.replace('{ from = "Crew"', '{ format = "Crew"'), "has from, to, or ids alone"),
    "unknown kind": (lambda text: text.replace('"whole number"', '"whole"', 1), "unknown type 'whole'"),
    "unknown form": (lambda text: text.replace("YYYY-MM-DD", "DD-MMM", 1), "'DD-MMM' is not a format of type 'date'"),
    "unknown step": (lambda text: text.replace("read the header", "guess the header"), "unknown step"),
    "missing header": (lambda text: text.replace('from = "Crew"', 'from = "Crews"'), "did you mean 'Crew'?"),
    "header used twice": (lambda text: text.replace('from = "Opened"', 'from = "Remarks"'), "'Remarks' is used twice"),
    "header nowhere": (lambda text: text.replace(line(text, "jobs", "remarks"), ""), "jobs.csv has a column 'Remarks' that no table takes"),
    "missing table": (lambda text: text.replace("[tables.boats]", "[tables.vessels]"), "there is no table 'boats'"),
    "missing key column": (lambda text: text.replace('["boat_reg"]', '["boat_rig"]'), "did you mean 'boat_reg'?"),
    "circle": (
        lambda text: text.replace(line(text, "towns", "name"), line(text, "towns", "name") + 'columns.o = { to = "owners" }\n'),
        "the references run in a circle: owners → towns → owners",
    ),
    "unreachable": (lambda text: text.replace(line(text, "jobs", "work_id"), ""), "no reference leads from 'jobs' to it"),
    "computed from nothing": (lambda text: text.replace(line(text, "works", "hourly_rate"), ""), "it is computed from 'Hourly Rate'"),
    "id of too many digits": (
        lambda text: text.replace('owner_id   = { ids = "number" }', 'owner_id   = { ids = "B-' + "9" * 5000 + '" }')
        .replace('owner_id = { ids = "number" }', 'owner_id = { ids = "B-' + "9" * 5000 + '" }'), "is not a style of ids"),
    "key that repeats": (lambda text: text.replace('key = ["job_no"]', 'key = ["opened"]'), "and no two jobs may have the same"),
    "key that is blank": (lambda text: text.replace('key = ["job_no"]', 'key = ["remarks"]'), "is blank"),
    "kind that does not fit": (lambda text: text.replace('"Crew", type = "text"', '"Crew", type = "decimal"'), "jobs.csv N2"),
    "required": (lambda text: text.replace('"Remarks", type', '"Remarks", required = true, type'), "is blank"),
    "name twice": (lambda text: text.replace("columns.remarks ", "columns.Opened "), "is the same name to a database"),
    "a formula that does not hold": (lambda text: text.replace("places = 2", "places = 0"), "jobs.csv Q4 says '876.38', and"),
    "another key of a band": (lambda text: text.replace('key = ["from_length_m"]', 'key = ["name"]'), "a table of bands has two"),
    "an id for a band": (
        lambda text: text.replace('key = ["from_length_m"]', 'key = ["id"]\ncolumns.id = { ids = "number" }'), "a table of bands",
    ),
    "least of a text": (
        lambda text: text.replace('key = ["job_no"]\nrules = [', 'key = ["job_no"]\nrules = [\n{ columns = ["remarks"], rule = "min", values = ["0"] },'),
        "has no smallest number",
    ),
    "its own table by no header": (lambda text: text.replace('columns.remarks      = { from = "Remarks", type = "text" }', 'columns.remarks = { to = "jobs" }'), "refers to its own table by no header"),
    "a key to its own table": (lambda text: text.replace('{ from = "Job No"', '{ to = "jobs", from = "Job No"').replace(', type = "whole number", required = true }  # tells', ', required = true }  # tells'), "cannot refer to its own table"),
    "a column without a name": (lambda text: text.replace("columns.remarks ", 'columns."" '), "'' is no name"),
    "an area of one corner": (lambda text: text.replace("steps = [", 'steps = [{ do = "read these cells", area = "A1" },', 1), "must be a range such as A4:D90"),
    "three lines of header": (lambda text: text.replace('"Remarks"] }', '"Remarks"], lines = 3 }', 1), "must be 1 or 2"),
    "a row beyond all": (lambda text: text.replace("steps = [", 'steps = [{ do = "skip this row", says = ["x"], row = 1' + "0" * 30 + " },", 1), "must be a number"),
    "an unknown separator": (lambda text: text.replace('by = "comma"', 'by = "dot"'), "'by' of step 'split lists into rows' must be one of"),
    "three things with each value": (lambda text: text.replace('by = "comma", key', 'by = "comma", with = ["A", "B", "C"], key'), "with each value 2 things can be said"),
    "an empty list": (lambda text: text.replace('into = "Crew", by = "comma", key = ["Job No"]', 'into = "Crew", by = "comma", key = []'), "must be a list of headers"),
    "no step for the header": (lambda text: "\n".join(one for one in text.splitlines() if "read the header" not in one), "step 1, 'split lists into rows', works"),
    "left out and used": (lambda text: text.replace("\n]\n", '\n]\nleave_out = ["Opened"]\n', 1), "'Opened' is left out, and tables.jobs"),
    "left out and unknown": (lambda text: text.replace("\n]\n", '\n]\nleave_out = ["Openned"]\n', 1), "did you mean 'Opened'?"),
    "no file of that pattern": (lambda text: text.replace('file = "jobs.csv"', 'file = "**a"'), "no name of a file"),
    "a number of 5,000 digits": (lambda text: text.replace("places = 2", f"places = {'9' * 5_000}"), "this is no design"),
    "5,000 lists in lists": (lambda text: f"x = {'[' * 5_000}{']' * 5_000}\n{text}", "nested deeper"),
    "a key of 20,000 parts": (lambda text: f"x{'.a' * 20_000} = 1\n{text}", "nested deeper"),
    "kept name": (lambda text: text.replace("[tables.works]", "[tables.sqlite_works]").replace('"works"', '"sqlite_works"'), "are kept"),
    "no base": (lambda text: re.sub(r"(\[tables\.job_crews\]\n(?:.+\n)*?)each_row = true\n", r"\1", text), "0 of its tables have each_row"),
    "two bases": (lambda text: text.replace('key = ["boat_reg"]', 'each_row = true\nkey = ["boat_reg"]'), "2 of its tables"),
    "down without dependency": (
        lambda text: text.replace(line(text, "jobs", "urgent"), "").replace(
            line(text, "works", "name"), line(text, "works", "name") + line(text, "jobs", "urgent")
        ),
        "jobs.csv row 11: Work 'hull scrape' has Urgent 'yes', but 'no' in row 14 and 30 more",
    ),
}  # fmt: skip


@pytest.mark.parametrize("fault", FAULTS)
def test_a_fault_in_a_design_is_named(fault: str, design: Path, jobs: Path) -> None:
    edit, expected = FAULTS[fault]
    text = design.read_text(encoding="utf-8")
    edited = edit(text)
    assert edited != text
    design.write_text(edited, encoding="utf-8")
    with pytest.raises(Exception, match=re.escape(expected)) as raised:
        loading.load_design(design, str(jobs.parent / "yard.sqlite"), replace_target=False)
    said = str(raised.value)
    assert "\n" not in said
    if isinstance(raised.value, DesignError):
        assert re.search(r"yard\.design\.toml(: this is no design.*| line \d+(: | \())", said)
    assert not (jobs.parent / "yard.sqlite").exists()


#: A design as format 1 had it, which somebody edited: a comment, a renamed table, and no step for the doubled line.
OLD_DESIGN = """\
format = 1

[sheets.lifts]
file = "lifts.csv"
steps = [
  { do = "skip blank rows", rows = [2, 5] },  # 2 without any content
  { do = "read the header", rows = [3] },  # the first row that names the columns; 1 above it set aside
  { do = "skip total rows", rows = [9] },  # the sum of 'Tonnes' agrees
  # as the crane driver writes it
  { do = "correct typos", column = "Boat Reg", instead = "MQ-01", of = "MQ-O1" },
# { do = "skip duplicate rows", rows = [8] },  # 1 that double 'Lift'
]

[tables.hoists]
sheet = "lifts"
purpose = "main"
each_row = true
key = ["hoist_id"]
columns.hoist_id = { ids = "number" }
columns.lift     = { from = "Lift", type = "whole number", required = true }
columns.boat_reg = { from = "Boat Reg", type = "text", required = true }
columns.tonnes   = { from = "Tonnes", type = "whole number", required = true }
"""
LIFTS = [
    "Lifts of the yard",
    "",
    "Lift,Boat Reg,Tonnes",
    "1,MQ-01,7",
    "",
    "2,MQ-O1,8",
    "3,MQ-03,4",
    "3,MQ-03,4",
    "Total,,23",
]


def test_a_design_of_an_older_format_is_brought_to_the_present_one_and_kept_as_it_was(tmp_path: Path) -> None:
    design = tmp_path / "lifts.design.toml"
    design.write_text(OLD_DESIGN, encoding="utf-8")
    (tmp_path / "lifts.csv").write_text("\n".join(LIFTS) + "\n", encoding="utf-8")
    load = ("load", design.name, "--into", "lifts.sqlite", "--replace")
    assert "is brought to format 2" in hemplit(*load, "--dry-run", folder=tmp_path).err
    assert design.read_text(encoding="utf-8") == OLD_DESIGN
    ran = hemplit(*load, folder=tmp_path)
    assert "it is kept as it was in lifts.before-1.toml" in ran.err
    assert (tmp_path / "lifts.before-1.toml").read_text(encoding="utf-8") == OLD_DESIGN
    new = design.read_text(encoding="utf-8")
    for kept in ("# as the crane driver writes it", 'of = "MQ-O1" }', "[tables.hoists]", "format = 2"):
        assert kept in new
    assert 'labels = ["Total"]' in new
    assert "rows = " not in new
    with sqlite3.connect(tmp_path / "lifts.sqlite") as database:
        held = database.execute("SELECT lift, boat_reg, tonnes FROM hoists").fetchall()
    assert held == [(1, "MQ-01", 7), (2, "MQ-01", 8), (3, "MQ-03", 4), (3, "MQ-03", 4)]
    # The next month has its total elsewhere, and nothing is upgraded twice.
    (tmp_path / "lifts.csv").write_text("\n".join([*LIFTS[:4], "Total,,7"]) + "\n", encoding="utf-8")
    ran = hemplit(*load, folder=tmp_path)
    assert ("Verified" in ran.out, "is brought to" in ran.err) == (True, False), ran.out + ran.err
    (tmp_path / "lifts.csv").unlink()
    design.write_text(OLD_DESIGN, encoding="utf-8")
    ran = hemplit(*load, folder=tmp_path)
    assert (ran.code, "its sheet is needed to bring it to format 2: lifts.csv: there is no such file" in ran.err) == (
        2,
        True,
    )
    # One that nobody edited is still as it was drafted, so that a draft may write over it.
    (tmp_path / "lifts.csv").write_text("\n".join(LIFTS) + "\n", encoding="utf-8")
    design.write_text(with_mark(OLD_DESIGN), encoding="utf-8")
    assert "is brought to" in hemplit(*load, folder=tmp_path).err
    assert not is_edited(design.read_text(encoding="utf-8"))
    design.write_text(OLD_DESIGN.replace("format = 1", "format = 7"), encoding="utf-8")
    assert "take a newer Hemplit for it" in hemplit(*load, folder=tmp_path).err


def test_a_table_of_names_that_were_taken_into_parts_goes_home_with_all_parts(tmp_path: Path) -> None:
    owners = ["Keel, Ann", "Tan, Bob", "Roo, Cy", "Marsh, Di"]
    lines = [f'{400 + at},"{owners[at % 4]}",0556 {1000 + at % 4},{at % 7}' for at in range(16)]
    text = "\n".join(["Job,Owner Name,Owner Phone,Hours", *lines]) + "\n"
    (tmp_path / "jobs.csv").write_text(text, encoding="utf-8")
    hemplit("draft", "jobs.csv", folder=tmp_path)
    design = tmp_path / "jobs.design.toml"
    kept = re.sub(r"\[tables\.owners\]\n(?:.+\n)+", "", design.read_text(encoding="utf-8"))
    design.write_text(kept, encoding="utf-8")
    ran = hemplit("load", design.name, "--into", "jobs.sqlite", folder=tmp_path)
    assert ran.code == 0, ran.err
    with sqlite3.connect(tmp_path / "jobs.sqlite") as database:
        first = database.execute(
            'SELECT "Owner Last Name", "Owner First Name", "Owner Phone" FROM jobs_sheet'
        ).fetchone()
    assert first == ("Keel", "Ann", "0556 1000")
