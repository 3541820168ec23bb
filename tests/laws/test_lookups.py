"""A row is found by what several columns say exactly where a person would find it."""

from __future__ import annotations

from unittest.mock import patch

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hemplit.core.columns import partners as module
from hemplit.core.columns.codes import at_rows
from hemplit.core.columns.partners import Lookup, partners

NAMES = ["Teal", "Knot", "Smew", "Gull", "Rail"]
Cell = str | None
Rows = list[tuple[Cell, ...]]


def rows_of(width: int) -> st.SearchStrategy[Rows]:
    cell = st.one_of(st.none(), st.sampled_from(NAMES))
    return st.lists(st.tuples(*[cell] * width), max_size=12)


def columns(rows: Rows, width: int) -> list[module.Cells]:
    """The columns of rows as codes; the order of their values is that in which they come."""
    made = []
    for place in range(width):
        encoded = pa.array([row[place] for row in rows], pa.string()).dictionary_encode()
        codes = encoded.indices.fill_null(-1).to_numpy(zero_copy_only=False).astype(np.int32)
        made.append((codes, encoded.dictionary))
    return made


def found(row: tuple[Cell, ...], others: Rows) -> int:
    """The only row that says the same in all columns that are filled here, -1 if there is none or are several."""
    if not any(cell is not None for cell in row):
        return -1
    wanted = [place for place, cell in enumerate(row) if cell is not None]
    same = [at for at, other in enumerate(others) if all(other[place] == row[place] for place in wanted)]
    return same[0] if len(same) == 1 else -1


@given(data=st.data(), width=st.integers(1, 3), sorts=st.booleans())
def test_the_only_row_that_says_the_same_is_found(data: st.DataObject, width: int, sorts: bool) -> None:
    theirs = data.draw(rows_of(width))
    lookup_columns = columns(theirs, width)
    with patch.object(module, "FLAGS_PER_ROW", -(10**6) if sorts else 16):
        lookup = Lookup(lookup_columns)
        for _ in range(2):  # it is asked by many sheets
            own = data.draw(rows_of(width))
            assert lookup.rows(columns(own, width)).tolist() == [found(row, theirs) for row in own]


def test_capitals_zeros_and_the_order_of_words_are_no_difference_to_one_that_looks_for_what_is_alike() -> None:
    theirs = columns([("Lowe", "Ann"), ("Ray", "00041")], 2)
    own = columns([("ann, LOWE",), ("41 ray",), ("Lowe",)], 1)
    assert partners(own, theirs, alike=True).tolist() == [0, 1, -1]
    assert partners(columns([("Lowe", "Ann")], 2), theirs).tolist() == [0]


@pytest.mark.parametrize("rows", [[], [3], [0, 0, 2], [1, 3, 1]])
def test_a_column_at_some_rows_has_the_values_that_stand_there(rows: list[int]) -> None:
    (codes, values) = columns([("Teal",), (None,), ("Knot",), ("Teal",)], 1)[0]
    some, said = at_rows(codes, values, np.array(rows, dtype=np.int64))
    shown = [None if code < 0 else said[int(code)].as_py() for code in some]
    assert shown == [["Teal", None, "Knot", "Teal"][row] for row in rows]
    assert sorted(said.to_pylist()) == sorted({cell for cell in shown if cell})
