"""Sheets that name things of many sorts in many roles, of which some say less than others: what is drafted loads."""

from __future__ import annotations

from collections.abc import Iterator
from random import Random

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from conftest import tries
from hemplit.core.model.grid import Grid, Source
from hemplit.core.tables.split import split
from hemplit.files.cells import from_texts
from hemplit.flow import proving, reading, studying

NAMES = "Teal Smew Heron Gannet Plover Dunlin Knot Ruff Stint Avocet Curlew Whimbrel Merlin Kestrel Osprey".split()
SORTS = {
    "Boat": ("Length", "Year", "Hull"),
    "Berth": ("Depth", "Side"),
    "Owner": ("Phone", "Town", "Email"),
    "Keeper": ("Phone", "Shift"),
    "Part": ("Price", "Material", "Weight"),
    "Maker": ("Country", "Phone"),
    "Skipper": ("Licence", "Phone"),
}
ROLES = "From To Via Home Old New Main Spare First Second Winter Summer".split()
LISTS = {"Town": ("Saltby", "Marlow", "Wick"), "Shift": ("day", "night"), "Material": ("brass", "steel")}
Things = list[dict[str, str]]
Columns = dict[str, list[str]]


def said(random: Random, about: str, place: int) -> str:
    if about in LISTS:
        return random.choice(LISTS[about])
    texts = {
        "Phone": f"07{random.randint(10, 99)} {random.randint(100_000, 999_999)}",
        "Email": f"office{random.randint(0, 40)}@yard.example",
        "Licence": f"SL-{place:03d}",
        "Year": str(random.randint(1960, 2024)),
        "Price": f"{random.randint(100, 9_999) / 100:.2f}",
        "Length": f"{random.randint(40, 120) / 10}",
        "Depth": f"{random.randint(18, 40) / 10}",
        "Weight": f"{random.randint(1, 90) / 10}",
    }
    return texts.get(about, "xyz"[place % 3])


def things(random: Random, sort: str, place: int, apart: bool) -> Things:
    """Some things of a sort, with a number or without, and what is said of each.

    Where the sorts are not ``apart``, boats are called as their owners are.
    """
    ending = "aeiou"[place] if apart else ""
    about = random.sample(SORTS[sort], random.randint(0, len(SORTS[sort])))
    number = random.choice(["", f"{sort[0]}", "1"])
    return [
        {
            "": f"{random.choice('WEN')}{one + 1}" if sort == "Berth" else NAMES[one] + ending,
            **({"No": f"{number}{place}{one:02d}"} if number else {}),
            **{header: said(random, header, one) for header in about},
        }
        for one in range(random.choice([2, 3, 4, 6, 10, 15]))
    ]


def told(random: Random, sorts: dict[str, Things], rows: int) -> Iterator[tuple[str, list[str]]]:
    """The columns of a sheet that names the things of each sort in one role or several, each with some or all of it."""
    owners = {
        sort: random.choice(list(sorts)[:place]) for place, sort in enumerate(sorts) if place and random.random() < 0.5
    }
    of = {sort: [random.choice(sorts[owner]) for _ in sorts[sort]] for sort, owner in owners.items()}
    if random.random() < 0.6:
        yield "Job No", [str(700 + row) for row in range(rows)]
    if random.random() < 0.5:
        yield "Date", [f"2026-{random.randint(1, 9):02d}-{random.randint(1, 28):02d}" for _ in range(rows)]
    for sort in random.sample(list(sorts), random.randint(1, len(sorts))):
        for role in random.sample(ROLES, random.choice([1, 1, 2, 3])) if random.random() < 0.8 else [""]:
            picked = [random.randrange(len(sorts[sort])) for _ in range(rows)]
            yield from columns(random, f"{role} {sort}", [sorts[sort][one] for one in picked])
            if sort in owners and random.random() < 0.8:
                yield from columns(random, f"{role} {owners[sort]}", [of[sort][one] for one in picked])
    yield "Hours", [f"{random.randint(1, 40) / 4}" for _ in range(rows)]


def columns(random: Random, named: str, rows: Things) -> Iterator[tuple[str, list[str]]]:
    headers = [*rows[0]]
    if random.random() < 0.3:
        headers = ["", *(header for header in headers[1:] if random.random() < 0.5)]
    if random.random() < 0.2:
        random.shuffle(headers)
    for header in headers:
        yield f"{named} {header}".strip(), [row[header] for row in rows]


def chosen(random: Random, *, apart: bool) -> dict[str, Things]:
    sorts = random.sample(list(SORTS), random.randint(2, 5))
    return {sort: things(random, sort, place, apart) for place, sort in enumerate(sorts)}


def sheet(random: Random, sorts: dict[str, Things], blanks: float) -> Columns:
    found: Columns = {}
    for header, cells in told(random, sorts, random.choice([5, 8, 12, 20, 40, 80])):
        found.setdefault(header, ["" if random.random() < blanks else cell for cell in cells])
    return found


def listed(random: Random, sort: str, rows: Things, blanks: float) -> Columns:
    """A sheet that lists things of a sort, by this or that header."""
    name = random.choice([sort, "Name", f"{sort} Name"])
    headers = {header: f"{sort} {header}" if header == "No" else header or name for header in rows[0]}
    return {headers[header]: ["" if random.random() < blanks else row[header] for row in rows] for header in rows[0]}


def loads(columns_of: dict[str, Columns]) -> bool:
    """Whether sheets are split as they are drafted, and proven."""
    grids = {}
    for name, found in columns_of.items():
        cells = tuple(from_texts([header, *texts]) for header, texts in found.items())
        grids[name] = Grid(Source(f"{name}.csv"), cells, len(cells[0].codes))
    sheets = reading.shape_grids(grids)
    design = studying.draft(sheets)
    return proving.prove_tables(design, sheets, split(design, sheets.relations)).holds


@given(st.integers(0, 100_000), st.sampled_from([0, 0, 0.02, 0.1]))
@example(5, 0)  # the depth of the last role went to the one on the way
@example(40, 0)  # a phone of one role went to another
@example(105, 0)  # a part that another table refers to in a role of its own was required in all
@example(61, 0.02)  # what tells berths apart in each role did not in both
@settings(max_examples=tries(200))
def test_what_is_drafted_loads_and_nothing_is_lost(seed: int, blanks: float) -> None:
    random = Random(seed)
    assert loads({"jobs": sheet(random, chosen(random, apart=False), blanks)})


@pytest.mark.parametrize(
    ("seed", "blanks"),
    [(78, 0), (132, 0), (199, 0.02), (108, 0), (98, 0.1)],
    ids=["told in one role", "a header of two sheets", "told by another sheet first", "taken along", "in a circle"],
)
def test_what_is_drafted_of_several_sheets_loads_and_nothing_is_lost(seed: int, blanks: float) -> None:
    random = Random(seed)
    sorts = chosen(random, apart=True)
    lists = {f"{sort.lower()}s": listed(random, sort, sorts[sort], blanks) for sort in sorts if random.random() < 0.6}
    assert loads({**lists, "jobs": sheet(random, sorts, blanks), "trips": sheet(random, sorts, blanks)})
