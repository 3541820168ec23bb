"""Small worlds with known tables: what is drafted is lossless, close to the truth, and drafts to itself again."""

from __future__ import annotations

import sys
from pathlib import Path

import pytest

sys.path.append(str(Path(__file__).parents[2] / "benchmarks"))

from hemplit import flow
from hemplit.core import kinds, resolve
from hemplit.core.model.grid import Grid, Source
from hemplit.core.model.tables import Table
from hemplit.core.split import split
from hemplit.core.words import MEASURE, words
from hemplit.files.cells import from_texts
from judgement import drafted, score
from worlds import World, world


def grid(made: World) -> Grid:
    columns = tuple(from_texts([header, *cells]) for header, cells in zip(made.headers, made.columns, strict=True))
    return Grid(Source("yard.csv"), columns, len(made.columns[0]) + 1)


def grid_of(table: Table) -> Grid:
    columns = []
    for column in table.columns:
        texts = [kinds.show(value, column.kind) for value in column.values.to_pylist()]
        columns.append(from_texts([column.name, *(texts[code] if code >= 0 else "" for code in column.codes.tolist())]))
    return Grid(Source(f"{table.name}.csv"), tuple(columns), table.row_count + 1)


@pytest.mark.parametrize("seed", range(0, 40, 2))
@pytest.mark.parametrize("rows", [200, 1_000])
def test_a_world_is_drafted_without_loss_and_no_measure_is_a_key(seed: int, rows: int) -> None:
    sheets = flow.shape_grids({"yard": grid(world(seed, rows))})
    design = flow.draft(sheets)
    assert flow.prove_tables(design, sheets, split(design, sheets.relations)).holds
    for table in design.tables:
        for name in table.key:
            header = resolve.source(design, table, table.by_name[name])
            assert header is None or not MEASURE.intersection(words(header)) or table.purpose == "band"


def test_the_truth_comes_back() -> None:
    points = [score(made, drafted(made)).points for made in (world(seed, 2_000) for seed in range(0, 24, 2))]
    assert sum(points) / len(points) >= 92


@pytest.mark.parametrize("seed", range(0, 16, 2))
def test_a_table_of_a_design_splits_no_further(seed: int) -> None:
    sheets = flow.shape_grids({"yard": grid(world(seed, 1_000))})
    design = flow.draft(sheets)
    for table in split(design, sheets.relations).tables:
        if table.row_count > 1 and len(table.columns) > 1:
            again = flow.draft(flow.shape_grids({table.name: grid_of(table)}))
            assert len(again.tables) == 1, [one.why for one in again.tables]
