"""The few cells for which a column, or a list, stands beside a thing and not with it, are told with what others say."""

from __future__ import annotations

import csv
import json
from random import Random
from typing import TYPE_CHECKING, Any

import pytest

from conftest import flat, hemplit
from hemplit.core.design import resolve
from hemplit.core.model.design import Purpose
from hemplit.flow import reading, studying
from worlds import World, world

if TYPE_CHECKING:
    from pathlib import Path

HEADER = ["Job", "Owner", "Phone 1", "Phone 2", "Quay", "Work", "Hours"]
#: What each owner has; the works and hours have nothing to do with them.
OWNERS = {
    "Berg": ("101", "191", "A"),
    "Aas": ("102", "", "B"),
    "Falk": ("103", "193", "A"),
    "Dahl": ("104", "194", "C"),
}
WORKS = ["hull", "rig", "paint"]


def jobs(**typos: str) -> list[list[str]]:
    """Jobs in the cells A2 to G21; ``typos`` are what stands in a cell instead, by its address."""
    names = [*OWNERS]
    lines = [
        [f"J{100 + at}", names[at % 4], *OWNERS[names[at % 4]], WORKS[at * at % 7 % 3], str(2 + at * 5 % 11)]
        for at in range(20)
    ]
    for cell, text in typos.items():
        lines[int(cell[1:]) - 2]["ABCDEFG".index(cell[0])] = text
    return lines


def drafted(folder: Path, header: list[str], lines: list[list[str]]) -> dict[str, Any]:
    """The draft of a sheet."""
    with (folder / "may.csv").open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows([header, *lines])
    ran = hemplit("draft", "may.csv", "--json", folder=folder)
    assert ran.code == 0, ran.err
    return dict(json.loads(ran.out))


def told(folder: Path, lines: list[list[str]], *leave_out: str) -> list[dict[str, Any]]:
    """What the draft of some jobs tells; the columns ``leave_out`` are not there."""
    kept = [at for at, header in enumerate(HEADER) if header not in leave_out]
    some = [[line[at] for at in kept] for line in [HEADER, *lines]]
    return list(drafted(folder, some[0], some[1:])["exceptions"])


def test_a_cell_that_keeps_a_column_from_its_thing_is_told(tmp_path: Path) -> None:
    (one,) = told(tmp_path, jobs(E8="C"), "Phone 1", "Phone 2")  # the column of the quay, without the phones
    assert (one["table"], one["column"], one["would_go_to"]) == ("jobs", "quay", "owners")
    assert (one["left"], one["right"], one["rows"], one["share"]) == (["Owner"], "Quay", 1, 0.05)
    assert one["breaches"] == [{"place": "C8", "value": "C", "agreed": "A", "slip": False}]


@pytest.mark.parametrize(
    ("typo", "text", "said", "agreed"),
    [("D4", "139", "103, 139", "103, 193"), ("C4", "", "193", "103, 193"), ("D5", "", "104", "104, 194")],
)
def test_a_list_that_a_thing_would_have_once_is_told_with_the_cell_that_differs(
    tmp_path: Path, typo: str, text: str, said: str, agreed: str
) -> None:
    (one,) = told(tmp_path, jobs(**{typo: text}))
    assert (one["table"], one["column"], one["would_go_to"], one["right"]) == ("job_phones", None, "owners", "Phone")
    assert one["breaches"] == [{"place": typo, "value": said, "agreed": agreed, "slip": False}]


@pytest.mark.parametrize(
    ("headers", "berths", "left", "thing"),
    [
        (
            ["Skipper First Name", "Skipper Last Name", "Skipper Mobile"],
            "",
            "Skipper First Name+Skipper Last Name",
            None,
        ),
        (["Berth", "Wind", "Berth Depth"], "N0 N1 N2", "Berth", None),
        (["Berth", "Wind", "Berth Depth"], "East West Outer", "Berth", "berths"),  # that of a depth is no berth
        (["Berth", "Wind", "Depth"], "N0 N1 N2", "", None),  # nothing says whose it is
    ],
)
def test_what_one_cell_keeps_from_having_a_table_at_all_is_told(
    tmp_path: Path, headers: list[str], berths: str, left: str, thing: str | None
) -> None:
    said = [("Ann", "Berg", "0171 22"), ("Ben", "Falk", "0171 33"), ("Cas", "Aas", "0171 88")]
    lines = [[f"J{100 + at}", *said[at % 3], str(at * at % 7)] for at in range(18)]
    if berths:
        lines = [[line[0], berths.split()[at % 3], str(at * at * 3 % 11), *line[3:]] for at, line in enumerate(lines)]
    lines[7][3] = "0172 33"
    found = drafted(tmp_path, ["Job", *headers, "Hours"], lines)["exceptions"]
    told = [("+".join(one["left"]), one["would_go_to"]) for one in found if one["right"] == headers[2]]
    assert told == ([(left, thing)] if left else [])


def test_once_it_is_corrected_nothing_is_told(tmp_path: Path) -> None:
    assert told(tmp_path, jobs()) == []


@pytest.mark.parametrize("text", ["rudder, mast", "", "mast, rudder, keel"])
def test_a_list_in_a_cell_is_told_as_one(tmp_path: Path, text: str) -> None:
    marks = {"Teal": "keel, mast", "Knot": "keel", "Smew": "rudder, mast, keel", "Ruff": "mast"}
    lines = [[f"J{100 + at}", [*marks][at % 4], WORKS[at * at % 7 % 3], str(2 + at * 5 % 11)] for at in range(24)]
    lines = [[job, boat, marks[boat], *rest] for job, boat, *rest in lines]
    lines[10][2] = text
    (one,) = drafted(tmp_path, ["Job", "Boat", "Marks", "Work", "Hours"], lines)["exceptions"]
    assert (one["left"], one["right"], one["table"]) == (["Boat"], "Marks", "job_marks")
    assert one["breaches"] == [{"place": "C12", "value": text, "agreed": marks["Smew"], "slip": False}]


@pytest.mark.parametrize(("cell", "text"), [("C4", "4"), ("D4", ""), ("E4", "oar"), ("F4", "")])
def test_in_a_group_of_several_columns_the_row_and_a_cell_of_it_are_told(tmp_path: Path, cell: str, text: str) -> None:
    parts = {"Teal": ("keel", "2", "mast", "1"), "Knot": ("sail", "3", "oar", "6"), "Smew": ("keel", "1", "", "")}
    lines = [[f"J{100 + at}", [*parts][at % 3], str(2 + at * at % 11)] for at in range(24)]
    lines = [[job, boat, *parts[boat], hours] for job, boat, hours in lines]
    lines[2] = ["J102", "Teal", *parts["Teal"], "9"]
    lines[2]["ABCDEF".index(cell[0])] = text
    (one,) = drafted(tmp_path, ["Job", "Boat", "Part 1", "Qty 1", "Part 2", "Qty 2", "Hours"], lines)["exceptions"]
    assert (one["left"], one["right"], one["table"]) == (["Boat"], "Part", "job_parts")
    assert [breach["place"][1:] for breach in one["breaches"]] == ["4"]


def test_of_two_rows_neither_is_the_odd_one(tmp_path: Path) -> None:
    lines = [line for at, line in enumerate(jobs(E8="C")) if line[1] != "Falk" or at in (2, 6)]
    assert told(tmp_path, lines, "Phone 1", "Phone 2") == []


def test_a_list_that_is_kept_once_has_no_odd_row(tmp_path: Path) -> None:
    berg = [[f"J{at}", "Berg", "101", "191", "A", WORKS[at % 3], str(at)] for at in range(9)]
    others = [
        [f"J{at}", f"Owner {at}", f"3{at}", f"4{at}" if at % 2 else "", "A", WORKS[at % 3], str(at)]
        for at in range(20, 32)
    ]
    assert told(tmp_path, [*berg, *others]) == []
    assert "once = true" in (tmp_path / "may.design.toml").read_text("utf-8")


def test_the_last_of_many_rows_is_told_as_the_first(tmp_path: Path) -> None:
    lines = [[f"J{at}", *line[1:]] for at, line in enumerate(jobs() * 300)]
    lines[5_980][4] = "B"
    (one,) = told(tmp_path, lines, "Phone 1", "Phone 2")
    assert one["breaches"] == [{"place": "C5982", "value": "B", "agreed": "A", "slip": False}]


def test_what_comes_again_and_again_is_meant(tmp_path: Path) -> None:
    lines = [*jobs(), *([f"J{200 + at}", *line[1:]] for at, line in enumerate(jobs() * 20))]
    moved = [at for at, line in enumerate(lines) if line[1] == "Falk"][-6:]
    for at in moved:
        lines[at][4] = "C"
    assert told(tmp_path, lines, "Phone 1", "Phone 2") == []
    for at in moved[1:]:
        lines[at][4] = "A"
    assert len(told(tmp_path, lines, "Phone 1", "Phone 2")) == 1


def test_it_is_read_below_a_draft_and_a_load_and_among_the_reasons(tmp_path: Path) -> None:
    told(tmp_path, jobs(D8="139"))
    lines = (
        "may.csv, Phone: Owner → Phone holds except in 1 row (5.0%)",
        "D8 says '103, 139', the other rows of this Owner say '103, 193'",
        "If it is a typo, correct it and draft again: then Phone is kept once for each Owner",
    )
    design = hemplit("draft", "may.csv", "--replace", folder=tmp_path)
    loaded = hemplit("load", "may.csv", "--into", "yard.sqlite", folder=tmp_path)
    assert (design.code, loaded.code) == (0, 0)
    assert all(line in ran.out for line in lines for ran in (design, loaded)), design.out + loaded.out
    asked = hemplit("why", "may.design.toml", "job_phones", "--width", "200", folder=tmp_path)
    assert "'Owner' would determine it, but D8 says '103, 139', the other" in asked.out
    # Of a design that a person has read nothing is said again.
    again = hemplit("load", "may.design.toml", "--into", "other.sqlite", folder=tmp_path)
    assert "holds except" not in again.out


def test_a_second_order_of_a_customer_is_no_exception_and_a_second_name_is(tmp_path: Path) -> None:
    named = [("Berg", "Saltby"), ("Falk", "Tarnby"), ("Aas", "Wick"), ("Dahl", "Marlow"), ("Eid", "Saltby")]
    orders = [
        [f"A{500 + at}", f"2026-09-{3 + at:02d}", *named[at], part, str(1 + (at * 7 + len(part) * at) % 5)]
        for at in range(5)
        for part in ("rope", "cleat", "block", "buoy", "rope")
    ]
    again = ["A506", "2026-09-22", *named[1], "rope", "3"]
    header = ["Order No", "Order Date", "Customer", "Town", "Part", "Qty"]
    assert drafted(tmp_path, header, [*orders, again])["exceptions"] == []
    owners = [("W1", "Berg", "101"), ("W2", "Falk", "102"), ("W3", "Aas", "103"), ("W4", "Dahl", "104")]
    done = [[f"J{100 + at}", *owners[at % 4], WORKS[at * at % 7 % 3], str(2 + at * 5 % 11)] for at in range(24)]
    done[9][2] = "Falk and Sons"
    (one,) = drafted(tmp_path, ["Job", "Owner No", "Owner", "Phone", "Work", "Hours"], done)["exceptions"]
    assert (one["left"], one["right"]) == (["Owner No"], "Owner")


@pytest.mark.parametrize(
    ("headers", "cells", "is_told"),
    [
        (("Owner No", "Owner", "Phone"), ("W5", "Falk", "102"), True),
        (("Owner No", "Owner", "Phone"), ("W5", "Falk", "109"), False),  # two of one name
        (("Owner No", "Owner"), ("W5", "Falk"), False),  # nor do we know here that it is one
        (("Owner No", "Owner", "Phone"), ("W5", "Falk", ""), False),
        (("Part", "Price", "Weight"), ("oar", "8.9", "3"), False),  # what is no code may be another of the sort
    ],
)
def test_a_code_typed_otherwise_is_told_where_all_else_is_said_of_another(
    tmp_path: Path, headers: tuple[str, ...], cells: tuple[str, ...], is_told: bool
) -> None:
    things = [("W1", "Berg", "101"), ("W2", "Falk", "" if cells[-1] == "" else "102"), ("W3", "Aas", "103")]
    things = [("rope", "2.4", "7"), ("cleat", "8.9", "3"), ("buoy", "31", "9")] if cells[0] == "oar" else things
    lines = [[f"J{100 + at}", *things[at % 3][: len(cells)], WORKS[at * at % 7 % 3]] for at in range(24)]
    lines[10][1 : 1 + len(cells)] = cells
    found = drafted(tmp_path, ["Job", *headers, "Work"], lines)["exceptions"]
    told = [(one["left"], one["right"], one["breaches"][0]["place"], one["would_go_to"]) for one in found]
    assert told == ([([*headers[1:]], headers[0], "B12", None)] if is_told else [])


LINES = ["Order No", "Order Date", "Customer No", "Customer", "Town", "Part No", "Part", "Price", "Qty"]


@pytest.mark.parametrize(
    ("header", "text", "left", "thing"),
    [
        ("Order Date", "2026-09-30", "Order No", "orders"),
        ("Customer No", "C07", "Order No", "orders"),
        ("Customer", "Berg Ltd", "Customer No", "customers"),
        ("Town", "", "Customer No", "customers"),
        ("Price", "8.4", "Part No", "parts"),
    ],
)
def test_one_odd_cell_is_told_of_the_thing_whose_it_is_and_the_lines_keep_their_key(
    tmp_path: Path, header: str, text: str, left: str, thing: str
) -> None:
    customers = [
        ("C01", "Berg", "Saltby"),
        ("C02", "Falk", "Tarnby"),
        ("C03", "Aas", "Wick"),
        ("C04", "Dahl", "Marlow"),
    ]
    parts = [
        ("P1", "rope", "2.4"),
        ("P2", "cleat", "8.9"),
        ("P3", "block", "4.5"),
        ("P4", "buoy", "31"),
        ("P5", "oar", "9"),
    ]
    random = Random(3)
    lines = [
        [str(order), f"2026-09-{day:02d}", *customer, *part, str(random.randint(1, 9))]
        for order in range(501, 512)
        for customer, day in [(random.choice(customers), random.randint(1, 28))]
        for part in random.sample(parts, random.choice([2, 3, 3]))
    ]
    # A line of an order, a customer and a part of which three lines speak at least.
    row = next(
        row
        for row, line in enumerate(lines)
        if all(sum(other[place] == line[place] for other in lines) > 2 for place in (0, 2, 5))
    )
    place = LINES.index(header)
    lines[row][place] = text
    design = drafted(tmp_path, LINES, lines)
    (one,) = design["exceptions"]
    assert (one["left"], one["right"], one["would_go_to"]) == ([left], header, thing)
    assert [breach["place"] for breach in one["breaches"]] == [f"{'ABCDEFGHI'[place]}{row + 2}"]
    assert [table["key"] for table in design["tables"] if table["each_row"]] == [["order_no", "part_no"]]


def exceptions_of(made: World) -> set[tuple[tuple[str, ...], str]]:
    sheets = reading.shape_grids({"yard": flat(made)})
    return {(one.near.left, one.near.right) for one in studying.exceptions(studying.draft(sheets), sheets)}


def with_another(made: World, seed: int) -> tuple[World, str]:
    """A world in which one cell of what is said of a thing says what others do, and the header of that; blank if no
    thing stands in three rows."""
    random = Random(seed)
    said = dict(zip(made.headers, made.columns, strict=True))
    able = [
        (header, row)
        for thing in made.tables[1:]
        for named in (thing.names or thing.key)[:1]
        for header in thing.columns
        if named in said and header in said and header not in (*thing.key, *thing.names)
        for row, name in enumerate(said[named])
        if len(set(said[header])) > 1 and list(said[named]).count(name) > 2
    ]
    if not able:
        return made, ""
    header, row = random.choice(able)
    said[header] = [*said[header]]
    said[header][row] = random.choice(sorted({*said[header]} - {said[header][row]}))
    return World(made.headers, tuple(said.values()), made.tables), header


@pytest.mark.parametrize(("seed", "header", "row", "text"), [(17, "hired", 10, ""), (15, "boat_year", 1, "2021")])
def test_what_is_only_said_of_a_thing_names_none_though_one_row_says_another(
    seed: int, header: str, row: int, text: str
) -> None:
    """Each shipwright was hired on another day, and on one line somebody forgot which."""
    made = world(seed, 20)
    said = dict(zip(made.headers, map(list, made.columns), strict=True))
    said[header][row] = text
    sheets = reading.shape_grids({"yard": flat(World(made.headers, tuple(said.values()), made.tables))})
    design = studying.draft(sheets)
    assert [header] not in [
        [resolve.header(design, one, one.by_name[name]) for name in resolve.identity(one)] for one in design.tables
    ]


def headers_of(made: World, without: str) -> set[tuple[frozenset[str], frozenset[str]]]:
    """The headers of each table of the draft, and its key, but for one; of what refers and is made up the names."""
    design = studying.draft(reading.shape_grids({"yard": flat(made)}))
    found = set()
    for table in design.tables:
        headers = frozenset(name for column in table.columns for name in column.headers) - {without}
        key = [name for column in table.key for name in table.by_name[column].headers or (column,)]
        found |= {(headers, frozenset(key) - {without})} if headers else set()
    return found


@pytest.mark.parametrize(
    ("seed", "rows", "header", "row", "text"),
    [
        (5023, 40, "Wrks Ar", 18, "321"),  # it tells no workshops apart, of which the telephone is said
        (5043, 40, "Dock Telefon", 29, "3780 744432"),  # no second dock of that name
        (5011, 40, "Jb Dt", 38, "2025-10-90"),  # no day, and what has no other days in it names nothing
        (6029, 40, "delivery_date", 7, "2024-06-69"),  # nor is it a code
        (5014, 40, "Jb N", 17, "4303"),  # the day of two jobs, one of them by a slip, is no thing
        (5012, 60, "Shpw ID", 40, "SH071"),  # nor a name that has a code
        (5026, 60, "Sppl ID", 16, "91"),  # nor a measure that tells the same as the name
        (5079, 60, "boat", 25, "BO019"),  # nor a colour
        (5082, 40, "Surveyor Rate", 23, "248.09"),  # one surveyor is one, though a rate of his is odd
    ],
)
def test_one_cell_changes_nothing_elsewhere(seed: int, rows: int, header: str, row: int, text: str) -> None:
    made = world(seed, rows)
    said = dict(zip(made.headers, map(list, made.columns), strict=True))
    said[header][row] = text
    assert headers_of(World(made.headers, tuple(said.values()), made.tables), header) == headers_of(made, header)


@pytest.mark.parametrize(("rows", "odd", "is_one"), [(12, 1, True), (12, 3, False), (8, 1, False)])
def test_one_insurer_is_one_though_a_cell_of_many_is_odd(tmp_path: Path, rows: int, odd: int, is_one: bool) -> None:
    lines = [
        [f"J{100 + at}", "Tarn", "0171 22", "B" if at < odd else "A", str(at * at % 7), WORKS[at % 3]]
        for at in range(rows)
    ]
    tables = drafted(tmp_path, ["Job", "Insurer", "Insurer Phone", "Insurer Class", "Hours", "Work"], lines)["tables"]
    assert ("insurers" in [table["name"] for table in tables]) is is_one


def test_a_day_that_no_calendar_has_is_still_the_day_of_its_row(tmp_path: Path) -> None:
    docks = {"N1": "North", "S2": "South", "W3": "West"}
    lines = [
        [berth, dock, f"2026-05-{day:02d}", f"{(day * 7 + len(dock) * 3) % 40 / 10 + 2:.1f}"]
        for day in range(1, 11)
        for berth, dock in docks.items()
    ]
    lines[13][2] = "2026-05-45"
    tables = drafted(tmp_path, ["Berth", "Dock", "Sounded", "Depth"], lines)["tables"]
    assert [table["key"] for table in tables if table["each_row"]] == [["berth", "sounded"]]


def test_two_engines_of_one_name_are_no_engine_and_a_typo() -> None:
    """All readings of the second have its number, and no slip comes twelve times."""
    design = studying.draft(reading.shape_grids({"yard": flat(world(97, 200))}))
    engines = next(one for one in design.tables if one.purpose is Purpose.ENTITY)
    assert [resolve.header(design, engines, engines.by_name[name]) for name in engines.key] == ["Engn N"]


@pytest.mark.slow
def test_few_rows_show_one_odd_cell_and_none_where_there_is_none() -> None:
    found = asked = 0
    for seed in range(30):
        made = world(seed, 20 + seed % 3 * 10)
        assert not exceptions_of(made), seed
        other, header = with_another(made, seed)
        asked += bool(header)
        found += any(right == header for _, right in exceptions_of(other))
    assert found >= 0.85 * asked > 20, (found, asked)  # the others are corrected, or parted a table
