"""Small worlds with known tables: what is drafted is lossless, close to the truth, and drafts to itself again."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from random import Random
from statistics import mean

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from conftest import flat, tries
from hemplit.core import kinds
from hemplit.core.design import resolve
from hemplit.core.model.grid import Grid, Source
from hemplit.core.model.tables import Table
from hemplit.core.shape import CORRECTIONS
from hemplit.core.tables.split import split
from hemplit.core.texts.vocabulary import MEASURE, MOMENT
from hemplit.core.texts.words import words
from hemplit.files.cells import from_texts
from hemplit.flow import proving, reading, studying
from judgement import drafted, score, with_slips
from worlds import World, world


def grid_of(table: Table) -> Grid:
    columns = []
    for column in table.columns:
        texts = [kinds.show(value, column.kind) for value in column.values.to_pylist()]
        columns.append(from_texts([column.name, *(texts[code] if code >= 0 else "" for code in column.codes.tolist())]))
    return Grid(Source(f"{table.name}.csv"), tuple(columns), table.row_count + 1)


SEEDS = st.integers(0, 10_000)


@given(SEEDS, st.sampled_from([200, 1_000]))
def test_a_world_is_drafted_without_loss_and_no_measure_is_a_key(seed: int, rows: int) -> None:
    sheets = reading.shape_grids({"yard": flat(world(seed, rows))})
    design = studying.draft(sheets)
    assert proving.prove_tables(design, sheets, split(design, sheets.relations)).holds
    for table in design.tables:
        for name in table.key:
            header = resolve.source(design, table, table.by_name[name])
            assert header is None or not (MEASURE - MOMENT).intersection(words(header)) or table.purpose == "range"


@pytest.mark.parametrize("seed", range(1, 60, 3))
def test_nothing_is_corrected_where_nothing_is_wrong(seed: int) -> None:
    """Toggle XIX and toggle XXI are two parts, though most rows of one description speak of the first."""
    (relation,) = reading.shape_grids({"yard": flat(world(seed, 1_000))}).relations.values()
    assert not [step for step in relation.steps if step.act in CORRECTIONS and not step.proposed]


def with_blanks(made: World, share: float, seed: int) -> World:
    random = Random(seed)
    columns = (tuple("" if random.random() < share else cell for cell in column) for column in made.columns)
    return replace(made, columns=tuple(columns))


@given(SEEDS, st.sampled_from([8, 20, 40, 400]), st.sampled_from([0.003, 0.02, 0.1]))
@example(20_238, 40, 0.02)  # a dock follows from its side, and the other one's side from the dock
@example(2_171, 400, 0.003)  # a supplier has a number beside the address, and an insurer has none
def test_a_world_with_cells_left_blank_is_drafted_without_loss(seed: int, rows: int, share: float) -> None:
    sheets = reading.shape_grids({"yard": flat(with_blanks(world(seed, rows), share, seed))})
    design = studying.draft(sheets)
    assert proving.prove_tables(design, sheets, split(design, sheets.relations)).holds


def points_of(worlds: Iterable[World]) -> float:
    return mean(score(made, drafted(made)).points for made in worlds)


@pytest.mark.slow
def test_the_truth_comes_back() -> None:
    assert points_of(world(seed, 2_000) for seed in range(0, tries(48), 2)) >= 96


@pytest.mark.slow
def test_the_truth_comes_back_from_mistyped_and_forgotten_cells() -> None:
    assert points_of(with_slips(world(seed, 2_000), 0.003, seed) for seed in range(0, tries(48), 2)) >= 90
    assert points_of(with_blanks(world(seed, 2_000), 0.003, seed) for seed in range(0, tries(48), 2)) >= 90


@pytest.mark.slow
@pytest.mark.parametrize(("seed", "least"), [(8, 80), (22, 84), (40, 80)])
def test_a_code_or_a_name_that_is_blank_somewhere_names_its_things(seed: int, least: float) -> None:
    assert points_of([with_blanks(world(seed, 2_000), 0.003, seed)]) >= least


def test_two_things_without_a_name_stay_two() -> None:
    """An owner whose name is blank keeps his row, and is not taken for another one without a name."""
    towns = {"Keel": "Saltby", "Visser": "Marlow", "Holm": "Wick", "Moss": "Tarn", "Tan": "Ebbing"}
    owners = [owner for owner in towns for _ in range(40)]
    cells = [[str(700 + row), owner, towns[owner], f"Harbour {towns[owner]}"] for row, owner in enumerate(owners)]
    for row, town in ((7, "Anstey"), (150, "Merrow")):
        cells[row][1:] = ["", town, f"Harbour {town}"]
    made = World(("Job No", "Owner", "Owner Town", "Owner Harbour"), tuple(zip(*cells, strict=True)), ())
    sheets = reading.shape_grids({"yard": flat(made)})
    design = studying.draft(sheets)
    tables = split(design, sheets.relations)
    assert tables.by_name["owners"].row_count == len(towns) + 2
    assert int((tables.by_name["owners"].by_name["name"].codes < 0).sum()) == 2
    assert proving.prove_tables(design, sheets, tables).holds


@pytest.mark.parametrize("seed", range(0, 24, 2))
@pytest.mark.parametrize("rows", [200, 1_000])
def test_a_table_of_a_design_splits_no_further(seed: int, rows: int) -> None:
    sheets = reading.shape_grids({"yard": flat(world(seed, rows))})
    design = studying.draft(sheets)
    for table in split(design, sheets.relations).tables:
        if table.row_count > 1 and len(table.columns) > 1:
            again = studying.draft(reading.shape_grids({table.name: grid_of(table)}))
            assert len(again.tables) == 1, [one.why for one in again.tables]
