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
from hemplit.flow import reading, studying

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
