"""How good drafts are: small worlds with known tables are flattened and drafted, and scored against the truth.

    python benchmarks/judgement.py                    the seeds to work with
    python benchmarks/judgement.py --judge            the seeds that nobody looks at
    python benchmarks/judgement.py --slips 0.002      with so many of the words mistyped
    python benchmarks/judgement.py --rows 200 --show 3    what went wrong with the three worst
    python benchmarks/judgement.py --cases FOLDER     also the sheets of a folder with scorers, and the bars for them
    python benchmarks/judgement.py --cases FOLDER --short    of these only the small sheets

Of 100 points 50 are for columns in the right table, 20 for keys, 20 for references, 10 for no nonsense tables. A lookup
counts as its column where it is referred to: whether a status gets a table of its own is a matter of taste.
"""

from __future__ import annotations

import argparse
import statistics
import sys
from dataclasses import dataclass, replace
from pathlib import Path
from random import Random
from typing import TYPE_CHECKING

from cases import measured
from hemplit.core.design import resolve
from hemplit.core.model.grid import Grid, Source
from hemplit.files.cells import from_texts
from hemplit.flow import reading, studying
from worlds import world

if TYPE_CHECKING:
    from hemplit.core.model.design import ColumnPlan, Design, TablePlan
    from worlds import Thing, World


@dataclass(frozen=True)
class Score:
    """Points and what they were lost for."""

    points: float
    faults: tuple[str, ...]


def drafted(made: World) -> Design:
    columns = tuple(from_texts([header, *cells]) for header, cells in zip(made.headers, made.columns, strict=True))
    grid = Grid(Source("yard.csv"), columns, len(made.columns[0]) + 1)
    return studying.draft(reading.shape_grids({"yard": grid}))


def with_slips(made: World, share: float, seed: int) -> World:
    """The same world, with letters doubled, lost or swapped in a share of the cells of words."""
    random = Random(seed)
    columns = []
    for cells in made.columns:
        words = sum(cell.replace(" ", "").isalpha() for cell in cells[:50]) > 25
        columns.append([_slip(random, cell) if words and random.random() < share else cell for cell in cells])
    return replace(made, columns=tuple(columns))


def _slip(random: Random, text: str) -> str:
    if len(text) < 4:
        return text
    at = random.randrange(1, len(text) - 1)
    before, here, after, rest = text[:at], text[at], text[at + 1], text[at + 2 :]
    return random.choice(
        [before + after + here + rest, before + after + rest, before + here + here + after + rest, text.upper()]
    )


def homes(design: Design) -> dict[str, str]:
    """The table in which each header lives; a lookup counts as the table that refers to it."""
    referring: dict[str, str] = {}
    for table in design.tables:
        for reference in resolve.references(design, table):
            referring.setdefault(reference.table, table.name)
    found = {}
    for table in design.tables:
        home = referring.get(table.name, table.name) if table.purpose in ("lookup", "range") else table.name
        for column in table.columns:
            for header in column.headers:
                found[header] = home
    return found


def score(made: World, design: Design) -> Score:
    faults: list[str] = []
    home = homes(design)
    best = _matched(made, home)
    columns = [header for thing in made.tables for header in thing.columns]
    wrong = [
        f"'{header}' is in {home.get(header)} and belongs with {thing.name}"
        for thing in made.tables
        for header in thing.columns
        if home.get(header) != best.get(thing.name)
    ]
    keys = [(thing, _key_fault(thing, design, best)) for thing in made.tables]
    references = [(thing, to) for thing in made.tables for to in thing.refers]
    refers = {(table.name, one.table) for table in design.tables for one in resolve.references(design, table)}
    lost = [(one, two) for one, two in references if (best.get(one.name), best.get(two)) not in refers]
    nonsense = [
        table.name
        for table in design.tables
        if table.purpose not in ("lookup", "range") and table.name not in best.values()
    ]
    faults += wrong
    faults += [fault for _, fault in keys if fault]
    faults += [f"{one.name} does not refer to {two}" for one, two in lost]
    faults += [f"{name} is no table of this world" for name in nonsense]
    points = (
        50 * (1 - len(wrong) / len(columns))
        + 20 * (1 - sum(bool(fault) for _, fault in keys) / len(keys))
        + 20 * (1 - len(lost) / max(len(references), 1))
        + 10 * max(0.0, 1 - len(nonsense) / len(made.tables))
    )
    return Score(points, tuple(faults))


def _matched(made: World, home: dict[str, str]) -> dict[str, str]:
    """The drafted table for each of the truth, each once, the best agreement first."""
    overlaps = []
    drafted_columns: dict[str, set[str]] = {}
    for header, table in home.items():
        drafted_columns.setdefault(table, set()).add(header)
    for thing in made.tables:
        for table, headers in drafted_columns.items():
            both = len(headers.intersection(thing.columns))
            if both:
                overlaps.append((both / len(headers.union(thing.columns)), thing.name, table))
    best: dict[str, str] = {}
    for _, thing, table in sorted(overlaps, key=lambda one: (-one[0], one[1], one[2])):
        if thing not in best and table not in best.values():
            best[thing] = table
    return best


def _key_fault(thing: Thing, design: Design, best: dict[str, str]) -> str:
    table: TablePlan | None = design.by_name.get(best.get(thing.name, ""))
    if table is None:
        return f"{thing.name} has no table"
    made_up = any(column.ids for column in table.columns)
    if not thing.coded:
        return "" if made_up else f"{thing.name} has no code, and {table.key} is its key"
    key = {_said_by(design, table, table.by_name[name]) for name in table.key}
    return "" if key == set(thing.key) else f"the key of {thing.name} is {thing.key} and not {table.key}"


def _said_by(design: Design, table: TablePlan, column: ColumnPlan) -> str | None:
    """The header for a column of a key; for a made-up id that of what names the thing."""
    pointed = resolve.target(design, table, column)
    if pointed is None or pointed.column.ids is None:
        return resolve.source(design, table, column)
    named = (pointed.table.by_name[name] for name in resolve.identity(pointed.table))
    return next((one.source for one in named if one.source), None)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--rows", type=int, nargs="+", default=[200, 2_000, 20_000])
    parser.add_argument("--worlds", type=int, default=30)
    parser.add_argument("--judge", action="store_true")
    parser.add_argument("--slips", type=float, default=0.0)
    parser.add_argument("--show", type=int, default=0)
    parser.add_argument("--cases", type=Path, metavar="FOLDER")
    parser.add_argument("--short", action="store_true")
    given = parser.parse_args()
    print(f"{'rows':>8}{'mean':>8}{'median':>8}{'worst':>8}")
    for rows in given.rows:
        scores = []
        for number in range(given.worlds):
            seed = 2 * number + given.judge
            made = with_slips(world(seed, rows), given.slips, seed)
            scores.append((score(made, drafted(made)), seed))
        points = [one.points for one, _ in scores]
        print(f"{rows:>8,}{statistics.mean(points):>8.1f}{statistics.median(points):>8.1f}{min(points):>8.1f}")
        for one, seed in sorted(scores, key=lambda pair: pair[0].points)[: given.show]:
            print(f"  seed {seed}: {one.points:.1f}")
            for fault in one.faults:
                print(f"    {fault}")
    if given.cases and not measured(given.cases, ("small",) if given.short else ("small", "real", "harm")):
        sys.exit(1)


if __name__ == "__main__":
    main()
