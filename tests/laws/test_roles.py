"""Things in several places of a row: one table for all roles, each pointing under its own name, and nothing lost."""

from __future__ import annotations

from itertools import combinations
from random import Random

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import tries
from hemplit.core.design import resolve
from hemplit.core.model.design import Design, Grain
from hemplit.core.model.grid import Grid, Source
from hemplit.core.model.relation import TEXT, Column
from hemplit.core.study import shared
from hemplit.core.tables.split import split
from hemplit.files.cells import from_texts
from hemplit.flow import proving, reading, studying

DOCKS = {"W": "West Dock", "E": "East Dock", "N": "North Dock"}
ROLES = [("From", "To"), ("Launch", "Winter"), ("Old", "New")]
Columns = dict[str, list[str]]
#: Rows in which each of the values of a short list stands.
MANY = 400


def moves(random: Random, roles: tuple[str, str], rows: int) -> Columns:
    """Moves of boats from berth to berth, each berth with the dock where it lies."""
    berths = [f"{letter}{number}" for letter in DOCKS for number in range(10, 19)]
    pairs = [random.sample(berths, 2) for _ in range(rows)]
    columns: Columns = {"Move No": [str(800 + row) for row in range(rows)]}
    for place, role in enumerate(roles):
        columns[f"{role} Berth"] = [pair[place] for pair in pairs]
        columns[f"{role} Dock"] = [DOCKS[pair[place][0]] for pair in pairs]
    columns["Hours"] = [f"{random.randint(2, 30) / 4:.2f}" for _ in range(rows)]
    return columns


def drafted(columns: Columns) -> tuple[Design, reading.Sheets]:
    cells = tuple(from_texts([header, *values]) for header, values in columns.items())
    sheets = reading.shape_grids({"moves": Grid(Source("moves.csv"), cells, len(next(iter(columns.values()))) + 1)})
    return studying.draft(sheets), sheets


@given(st.integers(0, 10_000), st.sampled_from(ROLES), st.booleans())
@settings(max_examples=tries(40))
def test_two_roles_share_one_table_without_loss(seed: int, roles: tuple[str, str], blanks: bool) -> None:
    random = Random(seed)
    columns = moves(random, roles, 250)
    if blanks:  # a boat that came from elsewhere
        for row in random.sample(range(250), 40):
            columns[f"{roles[0]} Berth"][row] = columns[f"{roles[0]} Dock"][row] = ""
    design, sheets = drafted(columns)
    tables = split(design, sheets.relations)
    berths = [*columns[f"{roles[0]} Berth"], *columns[f"{roles[1]} Berth"]]
    named = {cell for cell in berths if cell}
    (table,) = [one for one in tables.tables if len(one.by_name) == 2 and one.row_count == len(named)]
    moved = tables.by_name["moves"]
    pointing = [one for one in moved.references if one.table == table.name]
    assert sorted(one.columns for one in pointing) == sorted((f"{role.lower()}_berth",) for role in roles)
    assert proving.prove_tables(design, sheets, tables).holds


@pytest.mark.parametrize("order", [("From", "Via", "To"), ("Via", "From", "To"), ("From", "To", "Via")])
def test_a_role_of_which_less_is_said_shares_the_table_of_the_others(order: tuple[str, ...]) -> None:
    """Of the berth on the way only the name stands there; whoever keeps a dock goes with the dock."""
    berths = {f"{letter}{number}": number * 0.15 for letter in DOCKS for number in range(10, 19)}
    keepers = {"W": ("Ada Moss", "0711 204"), "E": ("Jan Tan", "0711 377"), "N": ("Elske Holm", "0712 118")}
    random = Random(7)
    ways = [random.sample(sorted(berths), 3) for _ in range(80)]
    columns: Columns = {"Move No": [f"M-{row}" for row in range(80)]}
    for role in order:
        stops = [way[("From", "Via", "To").index(role)] for way in ways]
        columns[f"{role} Berth"] = stops
        if role != "Via":
            columns[f"{role} Depth"] = [f"{berths[berth]:.2f}" for berth in stops]
            columns[f"{role} Keeper"] = [keepers[berth[0]][0] for berth in stops]
            columns[f"{role} Keeper Phone"] = [keepers[berth[0]][1] for berth in stops]
    design, sheets = drafted(columns)
    tables = split(design, sheets.relations)
    assert {one.name: one.row_count for one in tables.tables} == {"moves": 80, "berths": len(berths), "keepers": 3}
    assert {one.columns for one in tables.by_name["moves"].references} == {(f"{role.lower()}_berth",) for role in order}
    assert proving.prove_tables(design, sheets, tables).holds


def test_roles_that_agree_with_the_first_may_contradict_each_other() -> None:
    """The old maker is one of two; of a third one the home role has the country, and the new role has none."""
    countries = {"M1": "Norland", "M2": "Estmark", "M3": "Arvenia", "M4": "Norland"}
    random = Random(5)
    columns: Columns = {"Order No": [str(700 + row) for row in range(24)]}
    for role, makers in (("Old", ["M1", "M2"]), ("Home", [*countries]), ("New", [*countries])):
        named = [random.choice(makers) for _ in range(24)]
        columns[f"{role} Maker No"] = named
        columns[f"{role} Maker Country"] = ["" if (role, no) == ("New", "M3") else countries[no] for no in named]
    design, sheets = drafted(columns)
    assert proving.prove_tables(design, sheets, split(design, sheets.relations)).holds


def test_what_is_the_same_in_all_rows_stands_beside_a_blank_name_too() -> None:
    yards = ["Smew Yard", "", "Teal Yard", "Smew Yard", "Teal Yard", "Knot Yard", "Smew Yard", "Knot Yard"]
    areas = ["2.5" if yard == "Smew Yard" else "" if not yard else "8.3" for yard in yards]
    columns = {
        "Job No": [f"J-{row}" for row in range(8)],
        "Yard": yards,
        "Yard Town": ["Marlow"] * 8,
        "Yard Area": areas,
    }
    design, sheets = drafted(columns)
    assert proving.prove_tables(design, sheets, split(design, sheets.relations)).holds


def test_whoever_did_something_is_one_of_the_people() -> None:
    phones = {"Ada Moss": "0711 204", "Jan Tan": "0711 377", "Elske Holm": "0712 118", "Bo Finch": "0712 119"}
    random = Random(3)
    done = [random.sample(sorted(phones), 3) for _ in range(20)]
    columns: Columns = {"Job No": [f"J-{row}" for row in range(20)]}
    for place, role in enumerate(("Launched By", "Checked By", "Signed Off By")):
        columns[role] = [three[place] for three in done]
        if role != "Checked By":
            columns[f"{role} Phone"] = [phones[name] for name in columns[role]]
    design, _ = drafted(columns)
    assert [(table.name, [*table.by_name]) for table in design.tables if table.grain is not Grain.ROW] == [
        ("people", ["person_id", "name", "phone"])
    ]


@given(st.integers(0, 10_000))
@settings(max_examples=tries(30))
def test_a_dock_that_contradicts_another_role_keeps_the_berths_apart(seed: int) -> None:
    """A berth that lies in one dock as a start and in another as an end is not one berth, or one of them is wrong."""
    random = Random(seed)
    columns = moves(random, ("From", "To"), 250)
    columns["To Dock"] = ["Harbour Wall" if dock == "West Dock" else dock for dock in columns["To Dock"]]
    design, sheets = drafted(columns)
    assert proving.prove_tables(design, sheets, split(design, sheets.relations)).holds


@pytest.mark.parametrize("seed", range(6))
def test_a_row_that_names_a_row_points_to_it(seed: int) -> None:
    random = Random(seed)
    names = [
        f"{first} {last}" for first in "Nuala Oskar Elske Berit Jan".split() for last in "Keel Tan Holm Moss".split()
    ]
    above = ["" if place < 2 else names[random.randrange(place)] for place in range(len(names))]
    phones = [f"0556 {number}" for number in random.sample(range(1000, 9999), len(names))]
    design, sheets = drafted({"Name": names, "Phone": phones, "Supervisor": above})
    (table,) = [one for one in design.tables if one.grain is Grain.ROW]
    inward = [one for one in resolve.references(design, table) if one.table == table.name]
    assert len(inward) == 1 and "supervisor" in inward[0].columns[0]
    tables = split(design, sheets.relations)
    column = tables.by_name[table.name].by_name[inward[0].columns[0]]
    given_names = [names[code] if code >= 0 else "" for code in column.codes.tolist()]
    assert given_names == above
    assert proving.prove_tables(design, sheets, tables).holds


LISTS = st.lists(st.sets(st.integers(0, 30).map(str), min_size=2), min_size=2, max_size=5)


@given(lists=LISTS, bits=st.sampled_from([8, 64, shared.BITS]))
def test_what_lists_have_in_common_is_found_however_few_bits_tell_it(lists: list[set[str]], bits: int) -> None:
    columns = [
        Column(f"Place {at}", at, TEXT, np.resize(np.arange(len(one), dtype=np.int32), MANY), pa.array(sorted(one)))
        for at, one in enumerate(lists)
    ]
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(shared, "BITS", bits)
        found = {(one.one, one.other): one for one in shared.shared_values(columns, ())}
    named = {column.name: one for column, one in zip(columns, lists, strict=True)}
    common = {(one, other): len(named[one] & named[other]) for one, other in combinations(named, 2)}
    enough = {pair: max(2, min(len(named[name]) for name in pair) / 2) for pair in common}
    assert {pair: one.common for pair, one in found.items()} == {
        pair: many for pair, many in common.items() if many >= enough[pair]
    }
    cells = {column.name: [column.values[code].as_py() for code in column.codes] for column in columns}
    for pair, one in found.items():
        assert one.cells == sum(len({*row}) for row in zip(*(cells[name] for name in pair), strict=True))
