"""Repeating groups: what was written below, beside or in one cell comes out as the rows that it was written from."""

from __future__ import annotations

from collections.abc import Sequence

from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import shown, tries
from hemplit.core.model.grid import Grid, Source
from hemplit.core.shape import heads, lists, shape, sideways
from hemplit.core.tables.split import split
from hemplit.files.cells import from_texts
from hemplit.flow import proving, reading, studying

BOATS = ["Kittiwake", "Dunlin", "Heron", "Smew"]
PARTS = ["cleat", "shackle", "anode", "rope", "winch", "fender"]
CREW = ["Nuala", "Oskar", "Berit", "Jan", "Ida", "Per"]
Job = tuple[str, list[tuple[str, int]], list[str]]

lines = st.lists(st.tuples(st.sampled_from(PARTS), st.integers(1, 9)), min_size=1, max_size=4)
crews = st.lists(st.sampled_from(CREW), min_size=1, max_size=4, unique=True)
jobs = st.lists(st.tuples(st.sampled_from(BOATS), lines, crews), min_size=12, max_size=30)
groups = jobs.filter(lambda some: sum(len(parts) > 1 for _, parts, _ in some) > 5)
several = jobs.filter(lambda some: sum(len(crew) > 1 for *_, crew in some) > 5)


def grid(header: Sequence[str], rows: Sequence[Sequence[object]]) -> Grid:
    columns = zip(header, *rows, strict=True)
    return Grid(Source("jobs.csv"), tuple(from_texts(list(map(str, column))) for column in columns), len(rows) + 1)


def acts(given_grid: Grid) -> list[str]:
    return [step.act for step in shape(given_grid)[0].relation.steps if not step.proposed]


def is_proven(given_grid: Grid) -> bool:
    sheets = reading.shape_grids({"jobs": given_grid})
    design = studying.draft(sheets)
    return proving.prove_tables(design, sheets, split(design, sheets.relations)).holds


@given(groups)
@settings(max_examples=tries(60))
def test_what_runs_down_is_repeated(made: list[Job]) -> None:
    rows = [
        [str(700 + number), boat, part, quantity] if line == 0 else ["", "", part, quantity]
        for number, (boat, parts, _) in enumerate(made)
        for line, (part, quantity) in enumerate(parts)
    ]
    sheet = grid(["Job No", "Boat", "Part", "Qty"], rows)
    whole = [
        [str(700 + number), boat, part, str(quantity)]
        for number, (boat, parts, _) in enumerate(made)
        for part, quantity in parts
    ]
    assert heads.ACT in acts(sheet)
    assert shown(shape(sheet)[0].relation) == whole
    assert is_proven(sheet)


@given(groups, st.sampled_from(["Part {}", "Part{}", "{}. Part", "Part #{}"]))
@settings(max_examples=tries(60))
def test_what_runs_sideways_is_stood_up(made: list[Job], style: str) -> None:
    width = max(len(parts) for _, parts, _ in made)
    header = ["Job No", "Boat"]
    for place in range(1, width + 1):
        header += [style.format(place), style.format(place).replace("Part", "Qty")]
    rows = []
    for number, (boat, parts, _) in enumerate(made):
        cells = [cell for part, quantity in parts for cell in (part, str(quantity))]
        rows.append([str(700 + number), boat, *cells, *[""] * (2 * width - len(cells))])
    sheet = grid(header, rows)
    assert sideways.ACT in acts(sheet)
    ((_, child),) = shape(sheet)[0].children
    stood = sorted((row["Job No"], row["Part"], row["Qty"]) for row in named(child.names, shown(child)))
    assert stood == sorted(
        (str(700 + number), part, str(quantity))
        for number, (_, parts, _) in enumerate(made)
        for part, quantity in parts
    )
    assert is_proven(sheet)


@given(several, st.sampled_from([", ", "; ", " / ", " | ", "\n"]))
@settings(max_examples=tries(60))
def test_what_stands_in_one_cell_is_taken_apart(made: list[Job], between: str) -> None:
    rows = [[str(700 + number), boat, between.join(crew)] for number, (boat, _, crew) in enumerate(made)]
    sheet = grid(["Job No", "Boat", "Crew"], rows)
    if lists.ACT not in acts(sheet):
        # Names that never change places may be one name; and then they stay.
        assert shown(shape(sheet)[0].relation) == rows
        return
    ((_, child),) = shape(sheet)[0].children
    found: dict[str, list[str]] = {}
    for row in named(child.names, shown(child)):
        found.setdefault(row["Job No"], []).append(row["Crew"])
    assert found == {str(700 + number): crew for number, (*_, crew) in enumerate(made)}
    assert is_proven(sheet)


@given(groups, st.sampled_from([", ", "; ", " | ", "\n"]), st.sampled_from(["{}", "{}.5"]))
@settings(max_examples=tries(60))
def test_amounts_in_a_cell_stand_beside_the_parts_in_another(made: list[Job], between: str, written: str) -> None:
    said = [[(part, written.format(many)) for part, many in parts] for _, parts, _ in made]
    rows = [
        [str(700 + number), boat, *map(between.join, zip(*some, strict=True))]
        for number, ((boat, *_), some) in enumerate(zip(made, said, strict=True))
    ]
    sheet = grid(["Job No", "Boat", "Parts", "Amounts"], rows)
    (step,) = (step for step in shape(sheet)[0].relation.steps if step.act == lists.ACT)
    if len(set(map(len, said))) > 1:
        assert step.texts("alongside") == ("Amounts",)
        ((_, child),) = shape(sheet)[0].children
        assert [(row["Job No"], row["Parts"], row["Amounts"]) for row in named(child.names, shown(child))] == [
            (str(700 + number), *one) for number, some in enumerate(said) for one in some
        ]
    assert is_proven(sheet)


def named(names: Sequence[str], rows: Sequence[Sequence[str]]) -> list[dict[str, str]]:
    return [dict(zip(names, row, strict=True)) for row in rows]


@given(
    st.lists(st.sampled_from(["Ostend, Belgium", "Saltby, Norland", "Marlow, Estmark", "Wick, Norland"]), min_size=20)
)
def test_a_comma_makes_no_list(towns: list[str]) -> None:
    rows = [[str(700 + number), town, "1,250.00"] for number, town in enumerate(towns)]
    assert lists.ACT not in acts(grid(["Job No", "Home Port", "Price"], rows))
