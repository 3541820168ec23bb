"""Whatever a person wishes of a draft, nothing is lost by it, and the names are names that any database takes."""

from __future__ import annotations

import re
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import flat, tries
from hemplit.core.design.check import check
from hemplit.core.draft.wishes import NO_WISHES, Wishes
from hemplit.core.model.design import Design, Grain
from hemplit.core.model.grid import Grid, Source
from hemplit.core.tables.split import split
from hemplit.design_file.read import from_toml
from hemplit.design_file.write import to_toml
from hemplit.files.cells import from_texts
from hemplit.flow import proving, reading, studying
from worlds import world

NAME = re.compile(r"[a-z_][a-z0-9_]*")
LISTS = ("none", "some", "many")


def sheets_of(seed: int, rows: int = 400) -> reading.Sheets:
    return reading.shape_grids({"yard": flat(world(seed, rows))})


def lookups(design: Design) -> set[str]:
    """The headers of which only a list is kept."""
    listed = (table for table in design.tables if table.purpose == "lookup")
    return {str(column.source) for table in listed for column in table.columns if column.source}


@pytest.mark.parametrize("seed", range(0, 20, 2))
def test_more_lists_are_made_as_more_are_wished_for(seed: int) -> None:
    sheets = sheets_of(seed)
    designs = [studying.draft(sheets, wishes=replace(NO_WISHES, lookups=wish)) for wish in LISTS]
    none, some, many = map(lookups, designs)
    assert not none and some <= many
    for design in designs:
        assert proving.prove_tables(design, sheets, split(design, sheets.relations)).holds


@pytest.mark.slow
@settings(max_examples=tries(25))
@given(st.data())
def test_every_wish_is_granted_without_loss(data: st.DataObject) -> None:
    sheets = sheets_of(data.draw(st.integers(0, 15)) * 2)
    headers = sheets.relations["yard"].names
    two = st.lists(st.sampled_from(headers), min_size=2, max_size=2, unique=True).map(tuple)
    wishes = Wishes(
        lookups=data.draw(st.sampled_from(LISTS)),
        apart=tuple(data.draw(st.lists(two, max_size=2))),
        ids=data.draw(st.sampled_from(["number", "W-0001", "7"])),
        depth=data.draw(st.sampled_from([1, 2])),
        dates=data.draw(st.booleans()),
    )
    design = studying.draft(sheets, wishes=wishes)
    check(design)
    assert from_toml(to_toml(design), "yard.design.toml").by_name.keys() == design.by_name.keys()
    for table in design.tables:
        if any(column.part for column in table.columns):  # a date decides no other
            continue
        decided = {header for column in table.columns for header in column.headers}
        leads = {header for name in table.key for header in table.by_name[name].headers}
        for one, other in wishes.apart:
            assert table.grain is Grain.ROW or not ({one, other} <= decided and leads & {one, other})
    assert proving.prove_tables(design, sheets, split(design, sheets.relations)).holds


WORDS = st.sampled_from(
    [
        "Order",
        "select",
        "Größe",
        "Берег",
        "№",
        "42",
        "a-b",
        "table",
        "⛵",
        "Boat",
        "boat",
        "BOAT ",
        "%",
        "group",
        "x" * 90,
    ]
)
headers_of_any_sort = st.lists(
    st.lists(WORDS | st.text(min_size=1, max_size=8), min_size=1, max_size=3).map(" ".join), min_size=1, max_size=6
)


@settings(max_examples=tries(60))
@given(headers_of_any_sort, st.integers(2, 30))
def test_names_are_names_whatever_the_headers(headers: list[str], rows: int) -> None:
    texts = [[f"{place}{row % (place + 2)}" for row in range(rows)] for place in range(len(headers))]
    columns = tuple(from_texts([header, *cells]) for header, cells in zip(headers, texts, strict=True))
    if not any(header.strip() for header in headers):
        return
    design = studying.draft(reading.shape_grids({"yard": Grid(Source("yard.csv"), columns, rows + 1)}))
    names = [table.name for table in design.tables]
    assert len(set(names)) == len(names) and all(map(NAME.fullmatch, names))
    for table in design.tables:
        own = [column.name for column in table.columns]
        assert len(set(own)) == len(own) and all(map(NAME.fullmatch, own)), own
