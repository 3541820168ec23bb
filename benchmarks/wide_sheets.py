"""How long ``hemplit load`` takes on sheets with many columns, as a ratio to the same cells in a fifth of the columns.

The work grows with pairs of columns; the ratio shows how far from the square of it. Each pair runs in turn.
"""

from __future__ import annotations

import argparse
import csv
import statistics
import sys
import tempfile
from pathlib import Path

import numpy as np

from load_sheet import timed

SEED = 3
FEWER = 5


def columns(sort: str, count: int, rows: int) -> list[list[object]]:
    """Columns that correlate in three groups, decimals by chance, or a mixture with names and small numbers."""
    random = np.random.default_rng(SEED)
    groups = [random.integers(0, size, rows) for size in (40, 60, 100)]

    def correlated(place: int) -> list[object]:
        meaning = random.integers(0, 30, 200)
        return [f"v{meaning[group]}" for group in groups[place % 3]]

    def decimals(_: int) -> list[object]:
        return list(np.round(random.random(rows) * 100, 2))

    def names(_: int) -> list[object]:
        return [f"n{number}" for number in random.integers(0, rows, rows)]

    def digits(_: int) -> list[object]:
        return list(random.integers(0, 9, rows))

    makers = {"correlated": [correlated], "decimals": [decimals], "mixed": [correlated, decimals, digits, names]}[sort]
    return [makers[place % len(makers)](place) for place in range(count)]


def write(path: Path, sort: str, count: int, rows: int) -> None:
    """The sheet as CSV."""
    made = columns(sort, count, rows)
    with path.open("w", encoding="utf-8", newline="") as file:
        csv.writer(file).writerows([[f"{sort} {place}" for place in range(count)], *zip(*made, strict=True)])


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=2_000)
    parser.add_argument("--columns", type=int, default=400)
    parser.add_argument("--pairs", type=int, default=3)
    given = parser.parse_args()
    narrow = given.columns // FEWER
    with tempfile.TemporaryDirectory() as folder:
        for sort in ("correlated", "decimals", "mixed"):
            sheets = [Path(folder) / f"{sort}{count}.csv" for count in (given.columns, narrow)]
            write(sheets[0], sort, given.columns, given.rows)
            write(sheets[1], sort, narrow, given.rows * FEWER)
            pairs = [
                [
                    timed(
                        [sys.executable, "-m", "hemplit", "load", str(sheet), "--into", f"{sheet}.sqlite", "--replace"]
                    )
                    for sheet in sheets
                ]
                for _ in range(given.pairs)
            ]
            ratio = statistics.median(wide / small for wide, small in pairs)
            wide = statistics.median(pair[0] for pair in pairs)
            print(
                f"{sort:10} {given.rows:,} x {given.columns}: {wide:5.2f} s, {ratio:.2f} times that of {narrow} columns"
            )


if __name__ == "__main__":
    main()
