"""Whatever forms look like, each cell of a sheet of them is in its rows, or a name of a column, or told as left out."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from conftest import shown
from hemplit.core.model.account import Fate
from hemplit.core.model.grid import Grid, Source
from hemplit.core.shape import shape
from hemplit.core.shape.tops import bare
from hemplit.errors import InputError
from hemplit.files.cells import from_texts

LABELS, HEADER = ("Job No", "Owner", "Day", "Dock"), ("Part", "Qty", "Price")
WIDTH = 5
#: Titles, remarks, and what may look like a label or a total.
BESIDE = ("", "Mole Quay", "Mind the tide", "Printed: 2026-03-01", "Depth: low", "Total")


@st.composite
def forms(draw: st.DrawFn) -> list[list[str]]:
    """A sheet of one to four forms, each with other values, so that every value stands in one cell."""
    rows: list[list[str]] = []
    colon, apart = draw(st.sampled_from(["", ":"])), draw(st.booleans())
    labels = draw(st.permutations(LABELS))[: draw(st.integers(1, 4))]
    for number in range(draw(st.integers(1, 4))):
        said = [(f"{label}{colon}", f"{label[:2]}-{number}{place}") for place, label in enumerate(labels)]
        said = [(label, value if draw(st.integers(0, 9)) else "") for label, value in said]
        before = [[text] for text in draw(st.lists(st.sampled_from(BESIDE), max_size=2))]
        heads = [[*pair] for pair in said]
        if apart and len(said) > 1:
            heads = [[*said[0], "", *said[1]], *([*pair] for pair in said[2:])]
        lines = [
            [f"part {number}{at}", str(10 * number + at), f"{at}.5{number}"] for at in range(draw(st.integers(0, 3)))
        ]
        after = [[text] for text in draw(st.lists(st.sampled_from(BESIDE), max_size=1))]
        rows += [*before, *heads, *([HEADER] if draw(st.integers(0, 9)) else []), *lines, *after]
    return [[*row, *[""] * (WIDTH - len(row))] for row in rows]


@given(forms())
def test_nothing_of_a_form_gets_lost(lines: list[list[str]]) -> None:
    grid = Grid(Source("forms.csv"), tuple(from_texts(list(column)) for column in zip(*lines, strict=True)), len(lines))
    try:
        tables = shape(grid)
    except InputError:
        return  # nothing is read, and nothing is lost
    held: set[str] = set()
    names = ""
    for table in tables:
        for relation in (table.relation, *(child for _, child in table.children)):
            held.update(text for row in shown(relation) for text in row)
            names += "\n".join(relation.names)
            for part in relation.account:
                rows = part.rows.tolist() if part.fate is Fate.LEFT_OUT and part.named else ()
                held.update(lines[row][place] for row in rows for place in part.positions)
    for line in lines:
        for text in filter(None, line):
            label, _, value = text.partition(": ")
            assert text in held or bare(text) in names or (label in names and value in held), text
