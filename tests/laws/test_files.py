"""Readers: every cell comes back with its place, whatever is in it."""

from __future__ import annotations

import csv
import math
from dataclasses import replace
from datetime import datetime
from pathlib import Path
from tempfile import mkdtemp

import pytest
import xlsxwriter
from hypothesis import HealthCheck, example, given, settings
from hypothesis import strategies as st

from conftest import cells, tries
from hemplit import files
from hemplit.errors import InputError
from hemplit.files.cells import from_few, from_pieces, piece
from hemplit.files.together import together

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


LINES = st.sampled_from(["4,Teal,2", "5;6,Tern", "a,b,c,d", ",,", "", "Möwe,1,x", '"a,b",2,3', "7,8,9\r"])
ALIKE = st.lists(
    st.tuples(
        st.sampled_from(["Lift,Boat,Hours\n"] * 9 + ["Lift,Hours,Boat\n", "Lift,Boat\n", "\ufeffLift,Boat,Hours\n"]),
        st.lists(LINES | st.just("6,Smew,3"), max_size=5).map("\n".join),
        st.sampled_from(["\n", ""]),
    ).map("".join),
    min_size=2,
    max_size=4,
)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=tries(300))
@given(ALIKE)
@example(["Lift,Boat,Hours\n1,Teal,2\nx", "Lift,Boat,Hours\n2,Tern,4\n"])
@example(["7,8,9\n1,Teal,2\n", "7,8,9\n2,Tern,4\n"])
@example(["Lift;Boat;Rig,No\n1,2\n3,4\n", "Lift;Boat;Rig,No\n1;Teal;x,2\n2;Tern;y,4\n"])
@example(["\ufeffLift,Boat,Hours\n1,Teal,2\n"] * 2)
@example(['Lift,Boat,Hours\n1,Teal,"2\n', 'Lift,Boat,Hours\n1,Teal,2"\n'])
def test_small_files_of_a_folder_are_read_at_once_as_one_by_one(tmp_path: Path, texts: list[str]) -> None:
    folder = Path(mkdtemp(dir=tmp_path))
    for place, text in enumerate(texts):
        (folder / f"{place}.csv").write_bytes(text.encode())
    try:
        alone = [files.read(str(path))[0] for path in sorted(folder.iterdir())]
    except InputError:
        with pytest.raises(InputError):
            files.read(str(folder))
        return
    apart = together(f"{folder}/*.csv", alone)
    read = files.read(str(folder))
    for one, other in zip(read, apart, strict=True):
        assert replace(one, columns=()) == replace(other, columns=())
        assert [column.codes.tolist() for column in one.columns] == [column.codes.tolist() for column in other.columns]
        assert all(mine.texts.equals(its.texts) for mine, its in zip(one.columns, other.columns, strict=True))


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


VALUES = st.lists(
    st.one_of(
        st.sampled_from(["", "Teal", "7", 0.0, -0.0, 1.0, 2.5, 1e16, 1e300, math.inf, True, False]),
        st.datetimes(),
        st.dates(),
        st.times(),
        st.timedeltas(),
        st.floats(),
    ),
    min_size=1,
)


@given(VALUES)
def test_a_few_values_are_the_same_column_as_many(values: list[object]) -> None:
    few, many = from_few(values), from_pieces([piece(values[:1]), piece(values[1:])])
    assert few.codes.tolist() == many.codes.tolist() and few.texts.equals(many.texts)
