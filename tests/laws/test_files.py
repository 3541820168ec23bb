"""Readers: every cell comes back with its place, whatever is in it."""

from __future__ import annotations

import csv
from datetime import datetime
from pathlib import Path

import pytest
import xlsxwriter
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from conftest import cells
from hemplit import files

CELLS = st.text(st.characters(codec="utf-8", exclude_characters="\x00\r", exclude_categories=("Cs",)), max_size=6)
SHEETS = st.integers(2, 4).flatmap(
    lambda width: st.lists(st.lists(CELLS | st.just('a\n,"b'), min_size=width, max_size=width), min_size=1, max_size=8)
)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(SHEETS, st.sampled_from(["\n", "\r\n"]))
def test_delimited_text_comes_back(tmp_path: Path, rows: list[list[str]], ending: str) -> None:
    path = tmp_path / "sheet.csv"
    rows = [["first", *row[1:]] for row in rows]
    header = [f"h{index}" for index in range(len(rows[0]))]
    with path.open("w", encoding="utf-8", newline="") as file:
        csv.writer(file, lineterminator=ending).writerows([header, *rows])
    (grid,) = files.read(str(path))
    assert cells(grid) == [header, *rows]


@pytest.mark.parametrize("delimiter", ",;\t|")
def test_the_usual_delimiters_are_told_apart(delimiter: str, tmp_path: Path) -> None:
    path = tmp_path / "sheet.txt"
    with path.open("w", encoding="utf-8-sig", newline="") as file:
        csv.writer(file, delimiter=delimiter).writerows([["Boat", "Length, m", "Note"], ["Möwe", "3,5", "a;b|c"]])
    (grid,) = files.read(str(path))
    assert cells(grid) == [["Boat", "Length, m", "Note"], ["Möwe", "3,5", "a;b|c"]]


def test_a_workbook_comes_back(tmp_path: Path) -> None:
    path = tmp_path / "book.xlsx"
    with xlsxwriter.Workbook(path) as book:
        day = book.add_format({"num_format": "dd/mm/yyyy"})
        book.add_worksheet("Empty")
        sheet = book.add_worksheet("Crew")
        sheet.write_row(1, 1, ["Name", "Since", "Hours", "Rate", "Ready"])
        sheet.write_row(2, 1, ["Ines", None, 7, 2.5, True])
        sheet.write_datetime(2, 2, datetime(2026, 3, 1), day)
        sheet.write_row(4, 1, ["007"])
    (grid,) = files.read(str(path))
    assert grid.source.title == "book.xlsx [Crew]"
    assert cells(grid) == [
        ["", "", "", "", "", ""],
        ["", "Name", "Since", "Hours", "Rate", "Ready"],
        ["", "Ines", "2026-03-01", "7", "2.5", "TRUE"],
        ["", "", "", "", "", ""],
        ["", "007", "", "", "", ""],
    ]
