"""How long a sheet takes to become a relation, beside the bare reading of the same file by the library beneath.

    python benchmarks/read_sheet.py                      200,000 x 28 as CSV, 20,000 and 100,000 x 28 as workbooks
    python benchmarks/read_sheet.py --rows 1048575       the full height of a spreadsheet

Each ratio is of two readings that ran one after the other in this run; the median of the pairs is shown.
"""

from __future__ import annotations

import argparse
import statistics
import tempfile
import time
from pathlib import Path
from typing import TYPE_CHECKING

import pyarrow.csv
import python_calamine
import xlsxwriter

from hemplit import files
from hemplit.core.shape import shape
from sheet import sheet, write

if TYPE_CHECKING:
    from collections.abc import Callable


def seconds(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def write_workbook(path: Path, rows: int, columns: int) -> None:
    """As spreadsheet programs write it, with each text once in a part of its own."""
    with xlsxwriter.Workbook(path) as book:
        page = book.add_worksheet("Jobs")
        table = sheet(rows, columns)
        page.write_row(0, 0, table.column_names)
        cells = [column.to_pylist() for column in table.columns]
        for row in range(rows):
            page.write_row(row + 1, 0, [str(one[row]) if hasattr(one[row], "year") else one[row] for one in cells])


def bare_workbook(path: Path) -> object:
    book = python_calamine.CalamineWorkbook.from_path(path)
    return book.get_sheet_by_name(book.sheet_names[0]).to_python(skip_empty_area=False)


def show(name: str, path: Path, bare: Callable[[], object], ours: Callable[[], object], pairs: int) -> None:
    times = [(seconds(bare), seconds(ours)) for _ in range(pairs)]
    ratio = statistics.median(two / one for one, two in times)
    one, two = (statistics.median(part) for part in zip(*times, strict=True))
    print(f"{name:<28}{path.stat().st_size / 1e6:>8.1f} MB{one:>10.2f}{two:>10.2f}{ratio:>8.2f}")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--rows", type=int, default=200_000)
    parser.add_argument("--workbook-rows", type=int, nargs="+", default=[20_000, 100_000])
    parser.add_argument("--columns", type=int, default=28)
    parser.add_argument("--pairs", type=int, default=5)
    given = parser.parse_args()
    print(f"{'':<28}{'size':>11}{'bare':>10}{'ours':>10}{'ratio':>8}")
    with tempfile.TemporaryDirectory() as folder:
        text, book = Path(folder) / "jobs.csv", Path(folder) / "jobs.xlsx"
        write(text, given.rows, given.columns)
        show(
            f"CSV to relation {given.rows:,}",
            text,
            lambda: pyarrow.csv.read_csv(text),
            lambda: [shape(grid) for grid in files.read(str(text))],
            given.pairs,
        )
        for rows in given.workbook_rows:
            write_workbook(book, rows, given.columns)
            show(
                f"workbook to grid {rows:,}",
                book,
                lambda: bare_workbook(book),
                lambda: files.read(str(book)),
                given.pairs,
            )
            show(
                f"workbook to relation {rows:,}",
                book,
                lambda: bare_workbook(book),
                lambda: [shape(grid) for grid in files.read(str(book))],
                given.pairs,
            )


if __name__ == "__main__":
    main()
