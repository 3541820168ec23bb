"""How long a total by three columns takes in SQLite, as a ratio to the statement that ``hemplit tally --sql`` prints.

Reading the sheets to compare with is no part of it. Both run in turn, so that a machine that is slower for a while is
so for both; the ratio of each pair is what counts.
"""

from __future__ import annotations

import argparse
import sqlite3
import statistics
import tempfile
import time
from collections.abc import Callable
from contextlib import closing
from pathlib import Path

from hemplit.core.model.tally import Ask
from hemplit.core.tables.split import split
from hemplit.core.tally.flat import places_of
from hemplit.core.tally.resolve import tally_of
from hemplit.flow import reading, studying
from hemplit.targets import target_for
from sheet import write


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=1_000_000)
    parser.add_argument("--columns", type=int, default=16)
    parser.add_argument("--pairs", type=int, default=5)
    parser.add_argument("--of", default="Line Total")
    parser.add_argument("--by", nargs="+", default=["Dock", "Maker", "Status"])
    given = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        flat = Path(folder) / "lines.csv"
        write(flat, given.rows, given.columns)
        print(f"{given.rows:,} x {given.columns}: {given.of} by {', '.join(given.by)}, {given.pairs} pairs")
        sheets = reading.read([str(flat)])
        design = studying.draft(sheets)
        tables = split(design, sheets.relations)
        place = target_for(f"{folder}/lines.sqlite")
        place.write(tables, over=False)
        part = tally_of(Ask((given.of,), tuple(given.by)), design, tables).parts[0]
        relations = {name: [relation] for name, relation in sheets.relations.items()}
        places = {one.title: places_of(part, one, relations) for one in part.measures}
        statement = place.tally_text(part, tables)
        print(f"{len(place.tally(part, tables, places)):,} groups")
        with closing(sqlite3.connect(f"{folder}/lines.sqlite")) as connection:
            pairs = [
                (
                    seconds(lambda: place.tally(part, tables, places)),
                    seconds(lambda: connection.execute(statement).fetchall()),
                )
                for _ in range(given.pairs)
            ]
        ratios = [ours / plain for ours, plain in pairs]
        print(f"hemplit tally       median {statistics.median(ours for ours, _ in pairs):6.2f} s")
        print(f"its statement       median {statistics.median(plain for _, plain in pairs):6.2f} s")
        spread = f"from {min(ratios):.2f} to {max(ratios):.2f}"
        print(f"ratio               median {statistics.median(ratios):6.2f}    ({spread})")


def seconds(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


if __name__ == "__main__":
    main()
