"""Cells that somebody forgot to fill come back from the rest of the sheet, and blanks that mean none stay."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from random import Random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import hemplit, shown, tries
from hemplit.core.model.grid import Grid, Source
from hemplit.core.model.relation import Step
from hemplit.core.shape import gaps, replay, shape, siblings
from hemplit.files.cells import from_texts

HEADER = ["Job No", "Boat Reg", "Boat", "Berth", "Insurer", "Work", "Hours"]
BOATS = [
    ("N-100", "Teal", "West 1", "Seaguard"),
    ("N-117", "Smew", "East 4", ""),
    ("N-134", "Knot", "West 2", "Tideline"),
    ("N-151", "Heron", "East 4", "Seaguard"),
    ("N-168", "Gannet", "North 9", ""),
    ("N-185", "Dunlin", "West 1", "Anchorage"),
]
WORKS = ["hull scrape", "rigging check", "painting"]
BOAT_COLUMNS = range(1, 5)
Rows = list[list[str]]


def jobs(random: Random, count: int = 200) -> Rows:
    """Jobs on six boats, two of which have no insurer."""
    rows = []
    for number in range(count):
        boat = BOATS[number % len(BOATS)] if number < 12 else random.choice(BOATS)
        rows.append([str(4000 + number), *boat, random.choice(WORKS), f"{random.randint(1, 60) / 4:.2f}"])
    return rows


def grid(rows: Rows, header: list[str] = HEADER) -> Grid:
    columns = zip(header, *rows, strict=True)
    return Grid(Source("jobs.csv"), tuple(from_texts(list(column)) for column in columns), len(rows) + 1)


def with_gaps(rows: Rows, cells: set[tuple[int, int]]) -> Rows:
    return [["" if (row, place) in cells else cell for place, cell in enumerate(line)] for row, line in enumerate(rows)]


#: Boats without an insurer leave blanks on purpose, so that column is another matter.
gap = st.tuples(st.integers(0, 199), st.sampled_from(BOAT_COLUMNS[:-1]))


@given(st.integers(0, 10_000), st.sets(gap, min_size=1, max_size=5))
@settings(max_examples=tries(60))
def test_what_the_rest_of_the_row_says_is_filled_in(seed: int, cells: set[tuple[int, int]]) -> None:
    rows = jobs(Random(seed))
    # With the registration or the name left, the boat is known.
    chosen = {(row, place) for row, place in cells if place > 2 or {(row, 1), (row, 2)} - cells}
    # Several of them beside the blanks of boats without an insurer seem to have a cause.
    chosen -= set(sorted(cell for cell in chosen if not rows[cell[0]][4])[1:])
    sheet = grid(with_gaps(rows, chosen))
    (found,) = shape(sheet)
    assert shown(found.relation) == shown(shape(grid(rows))[0].relation)
    assert shown(replay(sheet, found.relation.steps, {}).relation) == shown(found.relation)
    own = [(row, place) for row, place in chosen if rows[row][place]]
    changed = sum(int((column.changed != 0).sum()) for column in found.relation.columns if column.changed is not None)
    assert changed == len(own)


@given(st.integers(0, 10_000), st.integers(0, 199), st.sampled_from([5, 6]))
@settings(max_examples=tries(30))
def test_a_blank_that_nothing_decides_stays(seed: int, row: int, place: int) -> None:
    rows = with_gaps(jobs(Random(seed)), {(row, place)})
    (found,) = shape(grid(rows))
    assert not any(step.act == gaps.ACT for step in found.relation.steps)
    assert shown(found.relation)[row][place] == ""


def test_where_others_are_blank_on_purpose_a_gap_is_only_proposed() -> None:
    rows = jobs(Random(4))
    row = next(place for place, line in enumerate(rows) if line[4] == "Seaguard")
    (found,) = shape(grid(with_gaps(rows, {(row, 4)})))
    (step,) = [step for step in found.relation.steps if step.act == gaps.ACT]
    assert step.proposed
    assert shown(found.relation)[row][4] == ""


@pytest.mark.parametrize("boat", ["Dunlin", "Petrel"])
def test_where_a_thing_is_told_of_nowhere_else_no_other_one_fills_its_gap(boat: str) -> None:
    """Each crew stays at one yard, but with a boat that came once it may be at another."""
    rows = [[line[0], line[2], line[3], f"crew of {line[3]}", line[6]] for line in jobs(Random(9))]
    rows[100][1:4] = [boat, "", "crew of West 1"]
    header = [HEADER[0], "Boat", "Boat Yard", "Crew", "Hours"]
    (found,) = shape(grid(rows, header))
    assert shown(found.relation)[100][2] == ("West 1" if boat == "Dunlin" else "")


CAUSES = {
    "beside other blanks": lambda line, row: ["", ""] if row in (3, 50, 90) else line[3:5],
    "all rows of an owner": lambda line, row: ["" if line[5] == "towing" else line[3], line[4]],
    "half of the rows of a boat": lambda line, row: ["" if line[2] == "Rail" and row % 2 else line[3], line[4]],
}


@pytest.mark.parametrize("cause", CAUSES)
def test_a_blank_that_has_a_cause_stays(cause: str) -> None:
    rows = [[*line[:4], "Seaguard", *line[5:]] for line in jobs(Random(6))]
    for row in (11, 71, 130, 180):
        rows[row][1:6] = ["N-199", "Rail", "East 7", "Tideline", rows[row][5]]
    for row in (20, 60, 100):
        rows[row][5] = "towing"
    odd = [[*line[:3], *CAUSES[cause](line, row), *line[5:]] for row, line in enumerate(rows)]
    assert odd != rows
    (found,) = shape(grid(odd))
    assert shown(found.relation) == odd


def test_a_description_names_what_it_describes() -> None:
    """Without a registration, the boat of a row is the only one with this berth and insurer."""
    rows = [[line[0], *line[2:]] for line in jobs(Random(1))]
    names = [boat[1] for boat in BOATS]
    place = next(row for row, line in enumerate(rows) if line[1] == "Knot")
    twin = next(row for row, line in enumerate(rows) if line[1] == "Gannet")
    (found,) = shape(grid(with_gaps(rows, {(place, 1), (twin, 1)}), [HEADER[0], *HEADER[2:]]))
    cells = [line[1] for line in shown(found.relation)]
    assert cells[place] == "Knot"
    assert cells[twin] in ("", "Gannet") and set(cells) - {""} == set(names)


def test_most_blanks_mean_something() -> None:
    """A column with many blanks leaves them by intention, and twenty rows prove nothing."""
    rows = jobs(Random(2))
    many = {(row, 3) for row in range(0, 200, 10)}
    assert not any(step.act == gaps.ACT for step in shape(grid(with_gaps(rows, many)))[0].relation.steps)
    few = with_gaps(rows[:20], {(3, 3)})
    assert not any(step.act == gaps.ACT for step in shape(grid(few))[0].relation.steps)


@pytest.mark.parametrize("strike", [False, True])
def test_a_filled_gap_is_a_line_that_can_be_struck(strike: bool, tmp_path: Path) -> None:
    rows = with_gaps(jobs(Random(3)), {(7, 3), (40, 2)})
    (tmp_path / "jobs.csv").write_text("\n".join(",".join(row) for row in [HEADER, *rows]) + "\n")
    drafted = hemplit("draft", "jobs.csv", folder=tmp_path)
    design = tmp_path / "jobs.design.toml"
    lines = [line for line in design.read_text().splitlines() if gaps.ACT in line]
    assert drafted.code == 0 and len(lines) == 2 and "D9: rows of the same 'Boat Reg' say it" in "".join(lines)
    if strike:
        design.write_text("\n".join(line for line in design.read_text().splitlines() if gaps.ACT not in line) + "\n")
    ran = hemplit("load", "jobs.design.toml", "--into", "yard.sqlite", "--details", folder=tmp_path)
    assert ran.code == (2 if strike else 0)
    assert ", but '" in ran.err if strike else "2 changed: fill blanks" in ran.out


@given(st.integers(0, 10_000), st.lists(st.integers(0, 199), min_size=1, max_size=3, unique=True), st.data())
@settings(max_examples=tries(60))
def test_a_slip_that_is_right_elsewhere_is_corrected_in_its_row(
    seed: int, places: list[int], data: st.DataObject
) -> None:
    """Heron XII and Heron XVII are two boats; in the rows of the one that say the other the registration tells."""
    names = {"Heron": "Heron XII", "Knot": "Heron XVII", "Teal": "Teal", "Smew": "Smee"}
    rows = [[names.get(cell, cell) for cell in line] for line in jobs(Random(seed))]
    wrong = {"Heron XII": ["Heron XVII", "Heron XI"], "Heron XVII": ["Heron XII"], "Teal": ["Tel", "Tael"]}
    dirty = [list(line) for line in rows]
    for place in places:
        if rows[place][2] in wrong:
            dirty[place][2] = data.draw(st.sampled_from(wrong[rows[place][2]]))
    sheet = grid(dirty)
    (found,) = shape(sheet)
    mended = replay(sheet, taken(found.relation.steps), {}).relation
    assert [line[2] for line in shown(mended)] == [line[2] for line in rows]
    assert len(mended.by_name["Boat"].values) == len({line[2] for line in rows})
    assert all(step.proposed for step in found.relation.steps if step.act == siblings.ACT)


def taken(steps: tuple[Step, ...]) -> list[Step]:
    """The steps with the slips done that they propose."""
    return [replace(step, proposed=step.proposed and step.act != siblings.ACT) for step in steps]


def test_what_is_no_slip_is_left_to_a_person() -> None:
    """A boat that moved to another berth, and a berth that differs in a digit, are perhaps right."""
    rows = jobs(Random(5))
    for place, berth in ((150, "North 9"), (160, "West 11")):
        rows[place][1:5] = [*BOATS[0][:2], berth, BOATS[0][3]]
    (found,) = shape(grid(rows))
    assert [line[3] for line in shown(found.relation)] == [line[3] for line in rows]


PARTS = {"fender IV": "61.20", "fender VI": "177.10", "winch IX": "45.80", "stay XV": "12.35"}


def deliveries(random: Random) -> Rows:
    """Parts that nothing tells but their price; three pieces of another one have the price of a common one."""
    names = [*PARTS, *random.choices(list(PARTS), k=233), *["fender V"] * 3]
    prices = PARTS | {"fender V": PARTS["fender IV"]}
    return [[str(6000 + place), prices[name], name, str(random.randint(1, 40))] for place, name in enumerate(names)]


@given(st.integers(0, 10_000), st.integers(4, 236))
@settings(max_examples=tries(30))
def test_a_price_tells_a_part_from_one_of_another_price_only(seed: int, place: int) -> None:
    header = ["Delivery No", "Part Price", "Part Name", "Pieces"]
    rows = deliveries(Random(seed))
    swapped = {"fender IV": "fender VI", "fender VI": "fender IV"}
    dirty = [list(line) for line in rows]
    dirty[place][2] = swapped.get(rows[place][2], rows[place][2])
    for given_rows in (rows, dirty):
        found = shape(grid(given_rows, header))[0].relation
        told = replay(grid(given_rows, header), taken(found.steps), {}).relation
        assert [line[2] for line in shown(told)] == [line[2] for line in rows]


def test_two_boats_that_are_described_alike_stay_two() -> None:
    random = Random(8)
    boats = {
        f"{name} {number}": (f"{4 + place}.5", random.choice(["red", "grey", "blue"]), f"B{place}")
        for place, (name, number) in enumerate([("Petrel", "II"), ("Knot", "IV"), ("Teal", "IX"), ("Rail", "XI")])
    }
    boats["Petrel VI"] = boats["Petrel II"]
    names = [*random.choices(list(boats)[:4], k=396), *["Petrel VI"] * 4]
    rows = [[str(900 + place), name, *boats[name], str(random.randint(1, 50))] for place, name in enumerate(names)]
    told = shape(grid(rows, ["Job No", "Boat", "Length", "Colour", "Berth", "Pieces"]))[0].relation
    assert shown(told) == rows
