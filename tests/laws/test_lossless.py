"""Whatever the sheet, the drafted tables give it back, the ledger adds up, and the design survives its file."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import tries
from hemplit.core.design.check import check
from hemplit.core.model.design import Design
from hemplit.core.model.grid import Grid, Source
from hemplit.core.shape import replay, shape
from hemplit.core.tables.split import split
from hemplit.design_file.read import from_toml
from hemplit.design_file.write import is_edited, to_toml
from hemplit.files.cells import from_texts
from hemplit.flow import proving, reading, studying

HEADERS = [
    "Job No",
    "Boat Reg",
    "Boat",
    "Owner",
    "Hours",
    "Rate",
    "Cost",
    "Day",
    "",
    "Status",
    "Boat",
    "Берег ⛵",
    'x"y;',
]
codes = st.sampled_from(["A1", "A2", "B7", "007", ""])
names = st.sampled_from(["Teal", "Smew", "Knot II", "tired keel, check", "", "Yes", "No"])
numbers = st.sampled_from(["1", "2", "2.5", "2.50", "10", "-3", ""])
days = st.sampled_from(["2026-03-01", "2026-02-30", "01/03/2026", "14/03/2026", ""])
columns = st.lists(st.sampled_from([codes, names, numbers, days]), min_size=1, max_size=7)


@st.composite
def grids(draw: st.DrawFn) -> Grid:
    """A sheet whose rows repeat, with blanks, blank rows and headers of all sorts."""
    kinds = draw(columns)
    headers = draw(st.permutations(HEADERS))[: len(kinds)]
    pool = draw(st.lists(st.tuples(*kinds), min_size=1, max_size=6))
    rows = [headers if any(headers) else ["Boat"] * len(kinds)]
    rows += draw(st.lists(st.sampled_from(pool), min_size=1, max_size=25).filter(lambda some: any(map(any, some))))
    texts = [[row[index] for row in rows] for index in range(len(kinds))]
    return Grid(Source("yard.csv"), tuple(from_texts(column) for column in texts), len(rows))


def drafted(grid: Grid) -> Design:
    return studying.draft(reading.shape_grids({"yard": grid}))


def without_reasons(design: Design) -> Design:
    sheets = tuple(
        replace(sheet, steps=tuple(replace(step, why="") for step in sheet.steps if not step.proposed))
        for sheet in design.sheets
    )
    tables = tuple(
        replace(
            table,
            why="",
            columns=tuple(
                replace(column, why="", kind=None if column.is_made else column.kind) for column in table.columns
            ),
            rules=tuple(replace(rule, why="") for rule in table.rules if not rule.proposed),
        )
        for table in design.tables
    )
    return Design(sheets, tables, design.trail)


@pytest.mark.slow
@settings(max_examples=tries(300))
@given(grids())
def test_every_draft_is_sound_and_lossless(grid: Grid) -> None:
    sheets = reading.shape_grids({"yard": grid})
    design = studying.draft(sheets)
    check(design)
    proof = proving.prove_tables(design, sheets, split(design, sheets.relations))
    assert not [one for one in proof.checks if one.different]
    assert all(one.adds_up for one in proof.ledgers)
    assert proof.ledgers[0].cells == grid.row_count * len(grid.columns)


@pytest.mark.slow
@settings(max_examples=tries(150))
@given(grids(), grids())
def test_sheets_that_are_drafted_together_are_lossless(one: Grid, other: Grid) -> None:
    """Whatever they have in common; nothing is invented by it, and the design that is saved says the same."""
    sheets = reading.shape_grids({"yard": one, "dock": other})
    design = studying.draft(sheets)
    check(design)
    assert proving.prove_tables(design, sheets, split(design, sheets.relations)).holds
    again = from_toml(to_toml(design), "yard.design.toml")
    assert proving.prove_tables(again, sheets, split(again, sheets.relations)).holds


@settings(max_examples=tries(60))
@given(st.data())
def test_sheets_that_tell_of_the_same_things_are_lossless(data: st.DataObject) -> None:
    """Whatever one of them lacks, leaves blank or says otherwise; the table of the things has each of them once."""
    things = [f"MQ-{number:02}" for number in range(24)]
    lists = [data.draw(st.lists(st.sampled_from(things), min_size=18, unique=True)) for _ in "ab"]
    said = {thing: f"berth {number * 7 % 11}" for number, thing in enumerate(things)}
    odd = st.sampled_from(["", "berth 12", *[None] * 8])
    grids = {}
    for name, listed in zip(("yard", "dock"), lists, strict=True):
        berths = [given if (given := data.draw(odd)) is not None else said[thing] for thing in listed]
        columns = ["Reg", *listed], ["Berth", *berths], [name, *(f"{name[0]}{at}" for at in range(len(listed)))]
        grids[name] = Grid(Source(f"{name}.csv"), tuple(map(from_texts, columns)), len(listed) + 1)
    sheets = reading.shape_grids(grids)
    design = studying.draft(sheets)
    check(design)
    again = from_toml(to_toml(design), "yard.design.toml")
    for one in (design, again):
        tables = split(one, sheets.relations)
        assert proving.prove_tables(one, sheets, tables).holds
        united = next((sheet for sheet in one.sheets if sheet.unites), None)
        if united is not None:
            assert tables.by_name[one.base_of(united.name).name].row_count == len({*lists[0], *lists[1]})


@given(grids())
def test_a_design_file_says_all_of_the_design(grid: Grid) -> None:
    design = drafted(grid)
    text = to_toml(design)
    assert not is_edited(text)
    assert is_edited(text.replace("format = 2", "format = 2 "))
    assert without_reasons(from_toml(text, "yard.design.toml")) == without_reasons(design)
    assert to_toml(drafted(grid)) == text


@given(grids())
def test_replaying_the_steps_gives_the_same_relation(grid: Grid) -> None:
    for found in shape(grid):
        relations = {"": found.relation, **dict(found.children)}
        kinds = {(part, one.name): one.kind for part, relation in relations.items() for one in relation.columns}
        replayed = replay(grid, found.relation.steps, kinds)
        again = {"": replayed.relation, **dict(replayed.children)}
        assert list(again) == list(relations)
        for part, relation in relations.items():
            assert again[part].names == relation.names
            for one, two in zip(again[part].columns, relation.columns, strict=True):
                assert one.values.equals(two.values)
                assert one.codes.tolist() == two.codes.tolist()
