"""Each folder under ``cases`` holds a sheet and the tables that a good designer would make of it.

The sheet is drafted, loaded, proven, compared cell for cell with the view, and its tables with those expected. A case
may say by which ``name`` the sheet goes, and where steps change cells, ``given_back.csv`` is what the view gives.
"""

from __future__ import annotations

import csv
import json
import shutil
import tomllib
from pathlib import Path

import pytest

from conftest import hemplit, same_cells
from hemplit.flow import designs, reading, studying

CASES = sorted(path for path in (Path(__file__).parent / "cases").iterdir() if path.is_dir())


@pytest.mark.parametrize("case", CASES, ids=lambda path: path.name)
def test_a_sheet_becomes_the_tables_expected(case: Path, tmp_path: Path) -> None:
    expected = tomllib.loads((case / "tables.toml").read_text(encoding="utf-8"))
    sheet = tmp_path / f"{expected.pop('name', 'sheet')}.csv"
    shutil.copy(case / "sheet.csv", sheet)
    ran = hemplit("load", sheet, "--into", tmp_path / "yard.sqlite", "--json", folder=tmp_path)
    assert ran.code == 0, ran.err
    loaded = json.loads(ran.out)
    assert loaded["proven"]
    tables = {table["name"]: table for table in loaded["tables"]}
    assert set(tables) == set(expected)
    for name, wanted in expected.items():
        table = tables[name]
        found = {
            "key": table["key"],
            "columns": table["columns"],
            "refers": sorted(reference["table"] for reference in table["references"]),
            "rows": table["rows"],
            "unique": table["unique"],
        }
        assert {part: found[part] for part in wanted} == wanted, name
    sheets = reading.read([str(sheet)])
    drafted = designs.row_counts(studying.draft(sheets), sheets)
    assert drafted == {name: tables[name]["rows"] for name in drafted}
    given_back = case / "given_back.csv"
    assert same_cells(given_back if given_back.exists() else sheet, tmp_path / "yard.sqlite", f"{sheet.stem}_sheet")


@pytest.mark.parametrize("number", range(len(CASES)), ids=lambda number: CASES[number].name)
def test_a_header_without_a_word_is_no_reason_to_stop(number: int, tmp_path: Path) -> None:
    """A star stands over the first column or over another, the next in each case, and no column is lost for that."""
    with (CASES[number] / "sheet.csv").open(encoding="utf-8", newline="") as file:
        header, *rows = csv.reader(file)
    for place in {0, number % len(header)}:
        starred = [*header[:place], "*", *header[place + 1 :]]
        with (tmp_path / "yard.csv").open("w", encoding="utf-8", newline="") as file:
            csv.writer(file).writerows([starred, *rows])
        sheets = reading.read([str(tmp_path / "yard.csv")])
        design = studying.draft(sheets)
        headers = {header for table in design.tables for column in table.columns for header in column.all_headers}
        named = {step.text("name") for one in sheets.relations.values() for step in one.steps}
        assert "*" in headers | named


#: Their rows name managers who stand further down, say again what stands above, or are equal and so known by then.
WHOLE_ONLY = {"staff_by_job_title", "owners_with_ditto_marks", "events_that_may_be_equal"}


@pytest.mark.slow
@pytest.mark.parametrize("case", [one for one in CASES if one.name not in WHOLE_ONLY], ids=lambda path: path.name)
def test_the_second_half_of_a_sheet_goes_where_the_first_half_is(case: Path, tmp_path: Path) -> None:
    """By the design of the whole; no row is left out, and together they give the sheet back."""
    name = tomllib.loads((case / "tables.toml").read_text(encoding="utf-8")).get("name", "sheet")
    with (case / "sheet.csv").open(encoding="utf-8", newline="") as file:
        header, *rows = csv.reader(file)

    def write(path: Path, some: list[list[str]]) -> None:
        with path.open("w", encoding="utf-8", newline="") as file:
            csv.writer(file).writerows([header, *some])

    shutil.copy(case / "sheet.csv", tmp_path / f"{name}.csv")
    assert hemplit("draft", f"{name}.csv", "--out", "yard.design.toml", folder=tmp_path).code == 0
    write(tmp_path / f"{name}.csv", rows[: len(rows) // 2])
    write(tmp_path / "rest.csv", rows[len(rows) // 2 :])
    into = ("--into", "yard.sqlite")
    assert hemplit("load", "yard.design.toml", *into, folder=tmp_path).code == 0
    ran = hemplit("topup", "yard.design.toml", "rest.csv", *into, folder=tmp_path)
    assert (ran.code, "left out" in ran.out) == (0, False), ran.out + ran.err
    given_back = case / "given_back.csv"
    whole = given_back if given_back.exists() else case / "sheet.csv"
    assert same_cells(whole, tmp_path / "yard.sqlite", f"{name}_sheet")
