"""Which sheets lie on their side, and that turning one twice changes nothing."""

from __future__ import annotations

import csv
import io

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hemplit.core.model.grid import Grid, Range, Source
from hemplit.core.shape.turned import lies_on_its_side, turned
from hemplit.files.cells import from_texts

SIDE = "Boat,Tarn 24,Tarn 28\nLength,7.2,8.5\nBuilt,2019-05-04,2020-06-01\nEngine,Bolt D1,Hale 2G\nKeel,fin,bilge\n"


def grid(lines: list[list[str]], merged: tuple[Range, ...] = ()) -> Grid:
    columns = tuple(from_texts(list(column)) for column in zip(*lines, strict=True))
    return Grid(Source("yard.csv"), columns, len(lines), merged)


@pytest.mark.parametrize(
    ("sheet", "lies"),
    [
        (SIDE, True),
        (SIDE.replace("fin,bilge", "fin,"), True),
        # Words for a blank in some rows, and periods over the columns, are no reason.
        ("Boat,Length,Weight\nTeal,7.5,1200\nSmew,n/a,n/a\nKnot,9.1,1400\nRail,tbc,tbc\n", False),
        ("Shift,Mon,Tue,Wed\nEarly,Ann,Bo,Ann\nLate,Cas,Ann,Bo\nHours,8,8,9\nFee,20,30,25\n", False),
        ("Sum,2024,2025\nPlace,Looe,Fowey\nKeeper,Ann,Bo\nFee,20,30\nHours,2,5\n", False),
        # A column of its own sort each, and names or things that come twice.
        ("Boat,Length,Keel\nTeal,7.5,fin\nSmew,8.2,bilge\nKnot,9.1,fin\nRail,6.4,fin\n", False),
        (SIDE.replace("Tarn 28", "Tarn 24"), False),
        (SIDE.replace("Keel", "Engine"), False),
        (SIDE.replace("Keel,fin,bilge\n", ""), False),
    ],
)
def test_what_lies_on_its_side(sheet: str, lies: bool) -> None:
    lines = list(csv.reader(io.StringIO(sheet)))
    assert lies_on_its_side(grid(lines)) is lies
    upright = [list(column) for column in zip(*lines, strict=True)]
    assert not (lies and lies_on_its_side(grid(upright)))


@given(
    st.integers(1, 5).flatmap(
        lambda width: st.lists(st.lists(st.sampled_from(["", "a", "b"]), min_size=width, max_size=width), min_size=1)
    )
)
def test_a_cell_keeps_its_text_and_its_address(lines: list[list[str]]) -> None:
    given_grid = grid(lines, (Range(0, 0, len(lines) - 1, 0),))
    once = turned(given_grid)
    for row, cells in enumerate(lines):
        for place, text in enumerate(cells):
            assert once.columns[row].text(place) == text
            assert once.source.address(place, row) == given_grid.source.address(row, place)
    assert once.merged == (Range(0, 0, 0, len(lines) - 1),)
    again = turned(once)
    assert (again.source, again.merged, again.row_count) == (given_grid.source, given_grid.merged, len(lines))
    assert [[column.text(row) for column in again.columns] for row in range(again.row_count)] == lines
