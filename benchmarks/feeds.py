"""How well two sheets that speak of the same things, of which neither lists them, come to fill one table for each.

    python benchmarks/feeds.py                 100 worlds, of the seeds to work with
    python benchmarks/feeds.py --judge         the seeds that nobody looks at
    python benchmarks/feeds.py --show 5        what went wrong in the first five worlds that are not right

A made-up sheet is cut into two, each with some of the rows and some of the columns, the second in half of the worlds in
another language. Printed is, of the things that both name and that got a table in either, the share that has one table
in all; how many tables hold two sorts of things; and how many sheets are given back cell for cell.
"""

from __future__ import annotations

import argparse
from random import Random
from typing import TYPE_CHECKING

from hemplit.core.model.design import Grain
from hemplit.core.model.grid import Grid, Source
from hemplit.core.tables.split import split
from hemplit.files.cells import from_texts
from hemplit.flow import proving, reading, studying
from worlds import GERMAN, Thing, World, world

if TYPE_CHECKING:
    from hemplit.core.model.design import Design

ROWS = 160


def halves(made: World, random: Random) -> tuple[dict[str, Grid], dict[str, str]]:
    """The two sheets, and what the headers of the first are called in the second."""
    other = dict(zip(made.headers, made.headers, strict=True))
    if random.random() < 0.5:
        other = {one: " ".join(GERMAN.get(part, part) for part in one.split()) for one in made.headers}
    count = len(made.columns[0])
    grids = {}
    for name, rows in (("jobs", range(0, count * 3 // 5)), ("visits", range(count * 2 // 5, count))):
        said = [
            at
            for at, header in enumerate(made.headers)
            if any(header in (*thing.key, *thing.names) for thing in made.tables) or random.random() < 0.7
        ]
        headers = [made.headers[at] if name == "jobs" else other[made.headers[at]] for at in said]
        cells = [[made.columns[at][row] for row in rows] for at in said]
        columns = tuple(from_texts([header, *column]) for header, column in zip(headers, cells, strict=True))
        grids[name] = Grid(Source(f"{name}.csv"), columns, len(rows) + 1)
    return grids, other


def home(design: Design, sheet: str, header: str) -> str:
    """The table of things in which a header stands; blank if it stands in that of the sheet's rows."""
    found = [
        table.name
        for table, column, one in design.headers_of(sheet)
        if one == header and column.to is None and table.grain is Grain.VALUE
    ]
    return found[0] if found else ""


def names_of(thing: Thing) -> tuple[str, ...]:
    """The headers of which one alone names a thing."""
    return tuple(one[0] for one in (thing.key, thing.names) if len(one) == 1)


def scored(seed: int) -> tuple[int, int, int, int, list[str]]:
    """Of one world: things in one table, things in all, tables of two sorts, sheets given back; and what is wrong."""
    made = world(seed, ROWS)
    grids, other = halves(made, Random(seed))
    sheets = reading.shape_grids(grids)
    design = studying.draft(sheets)
    tables = split(design, sheets.relations)
    given = sum(ledger.adds_up for ledger in proving.prove_tables(design, sheets, tables).ledgers)
    together = asked = 0
    faults = []
    owners: dict[str, set[str]] = {}
    for thing in made.tables[1:]:
        if thing.roles or not names_of(thing):
            continue
        homes = [[home(design, "jobs", one), home(design, "visits", other[one])] for one in names_of(thing)]
        for pair in homes:
            for table in filter(None, pair):
                owners.setdefault(table, set()).add(thing.name)
        if any(any(pair) for pair in homes):
            asked += 1
            is_one = any(one and one == two for one, two in homes)
            together += is_one
            faults += [] if is_one else [f"{thing.name}: {homes}"]
    mixed = [f"{table}: {' and '.join(sorted(names))}" for table, names in owners.items() if len(names) > 1]
    return together, asked, len(mixed), given, faults + mixed


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--judge", action="store_true")
    parser.add_argument("--show", type=int, default=0)
    given = parser.parse_args()
    seeds = range(1000, 1100) if given.judge else range(100)
    found = [(seed, *scored(seed)) for seed in seeds]
    for seed, *_, faults in [one for one in found if one[-1]][: given.show]:
        print(f"{seed}: {'; '.join(faults)}")
    together, asked, mixed, back = (sum(one[at] for one in found) for at in (1, 2, 3, 4))
    print(f"{len(found)} worlds: {together} of {asked} things have one table ({together / asked:.3f});")
    print(f"{mixed} tables hold two sorts of things; {back} of {2 * len(found)} sheets are given back")


if __name__ == "__main__":
    main()
