"""How long the dependency search takes, how it grows with the rows, and its ratio to a plain levelwise search.

    python benchmarks/dependencies.py            the table that matters day to day, about two minutes
    python benchmarks/dependencies.py --full     also 1,000,000 x 28 and 100,000 x 60

Each ratio is of two searches that ran one after the other in this run; the median of three is shown.
"""

from __future__ import annotations

import argparse
import statistics
import time
from typing import TYPE_CHECKING

import numpy as np

import levelwise
from hemplit.core.columns.codes import Grouping
from hemplit.core.study.dependencies import decide
from sheet import sheet

if TYPE_CHECKING:
    from collections.abc import Callable

TIMES = 3


def order_lines(rows: int, columns: int) -> list[Grouping]:
    """The sheet of order lines with hidden boats, owners, berths, parts and jobs."""
    encoded = [column.combine_chunks().dictionary_encode() for column in sheet(rows, columns).columns]
    return [Grouping(one.indices.to_numpy().astype(np.int32), len(one.dictionary)) for one in encoded]


def small_numbers(rows: int, columns: int) -> list[Grouping]:
    """Numbers from 0 to 15 that have a little to do with one another: left sides grow to many columns."""
    random = np.random.default_rng(3)
    mixed = random.normal(size=(rows, 6)) @ random.normal(size=(6, columns)) + 0.7 * random.normal(size=(rows, columns))
    spread = (mixed - mixed.mean(axis=0)) / mixed.std(axis=0)
    return [grouped(np.clip(np.rint(spread[:, column] * 2 + 7.5), 0, 15)) for column in range(columns)]


def few_rows(rows: int, columns: int) -> list[Grouping]:
    """Mostly yes and no, and some measures: few rows, thousands of dependencies."""
    random = np.random.default_rng(1)
    sizes = [2] * (columns - 6) + [60, 30, 80, 80, 25, 45]
    return [grouped(random.integers(0, size, rows)) for size in sizes]


def grouped(values: np.ndarray) -> Grouping:
    distinct, codes = np.unique(values, return_inverse=True)
    return Grouping(codes.astype(np.int32), len(distinct))


def seconds(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def show(name: str, columns: list[Grouping], depth: int | None, against: bool) -> float:
    rows = len(columns[0].codes)
    ours, ratios = [], []
    for _ in range(TIMES):
        ours.append(seconds(lambda: decide(columns, rows, depth)))
        if against:
            plain = seconds(lambda: levelwise.decide(columns, rows, depth or len(columns)))
            ratios.append(plain / ours[-1])
    found = decide(columns, rows, depth)
    ratio = f"{statistics.median(ratios):8.1f}" if ratios else "       –"
    said = "all" if depth is None else depth
    size = f"{rows:,} x {len(columns)}"
    print(
        f"{name:<16}{size:>16}{said:>7}{statistics.median(ours):>10.2f}{ratio}"
        f"{len(found.dependencies):>14,}{len(found.keys):>8,}"
    )
    return statistics.median(ours)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--full", action="store_true", help="also the two largest tables")
    given = parser.parse_args()
    print(f"{'table':<16}{'size':>16}{'depth':>7}{'seconds':>10}{'ratio':>8}{'dependencies':>14}{'keys':>8}")
    show("order lines", order_lines(10_000, 20), 2, True)
    show("order lines", order_lines(20_000, 28), 3, True)
    half = show("order lines", order_lines(100_000, 28), 3, False)
    whole = show("order lines", order_lines(200_000, 28), 3, False)
    show("few rows", few_rows(155, 16), None, True)
    show("few rows", few_rows(155, 20), None, False)
    show("small numbers", small_numbers(2_000, 10), None, True)
    show("small numbers", small_numbers(20_000, 17), None, False)
    if given.full:
        show("order lines", order_lines(1_000_000, 28), 3, False)
        show("order lines", order_lines(100_000, 60), 3, False)
    print("ratio: time of the plain levelwise search over ours")
    print(f"growth: 200,000 rows take {whole / half:.2f} times as long as 100,000")


if __name__ == "__main__":
    main()
