"""How long many sheets take together, beside the bare reading of the same files by the library beneath.

    python benchmarks/many_sheets.py               20 sheets of 100,000 × 15, 300 worksheets, 3,000 files
    python benchmarks/many_sheets.py --rows 20000  lower sheets

The twenty sheets are records of unlike sorts that speak of the same boats, parts, makers, persons, docks and yards.
Each ratio is of two things done one after the other in this run; the median of the pairs is shown.
"""

from __future__ import annotations

import argparse
import statistics
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.csv
import python_calamine
import xlsxwriter

from hemplit import files
from hemplit.flow import reading, studying
from read_sheet import seconds

if TYPE_CHECKING:
    from collections.abc import Callable

#: What the sheets speak of: the header of its code, how codes begin, how many there are, what is told of each.
THINGS = (
    ("Boat Reg", "MQ-", 3_000, ("Boat", "Boat Rig")),
    ("Part No", "P-", 900, ("Part", "Part Unit")),
    ("Maker Code", "MK", 60, ("Maker", "Maker Town")),
    ("Worker No", "W", 400, ("Worker", "Worker Trade")),
    ("Dock", "D", 40, ("Dock Keeper", "Dock Depth")),
    ("Yard Code", "Y", 25, ("Yard", "Yard Town")),
)
SORTS = (
    "Job", "Lift", "Survey", "Order", "Delivery", "Repair", "Launch", "Trial", "Claim", "Offer",
    "Invoice", "Berthing", "Passage", "Fitting", "Varnish", "Return", "Booking", "Reading", "Transfer", "Visit",
)  # fmt: skip
SEED = 11


def records(place: int, rows: int) -> pa.Table:
    """A sheet of 15 columns: a number, three of the things with all that is told of them, and what happened."""
    random = np.random.default_rng((SEED, place))
    sort = SORTS[place]
    made: dict[str, object] = {f"{sort} No": np.arange(rows) + 1_000_000 * (place + 1)}
    for step in range(3):
        code, prefix, count, told = THINGS[(place + step * (1 + place % 2)) % len(THINGS)]
        which = random.integers(0, count, rows)
        made[code] = np.array([f"{prefix}{number + 1000}" for number in range(count)])[which]
        kind = np.random.default_rng((SEED, count)).integers(0, 12, count)
        made[told[0]] = np.array([f"{told[0]} {number}" for number in range(count)])[which]
        made[told[1]] = np.array([f"{told[1]} {one}" for one in kind])[which]
    made[f"{sort} Day"] = np.datetime64("2024-01-01") + random.integers(0, 900, rows)
    made[f"{sort} Hours"] = random.integers(1, 400, rows) / 4
    made[f"{sort} Cost"] = random.integers(1000, 900_000, rows) / 100
    made[f"{sort} Status"] = np.array(["open", "done", "waiting", "paid"])[random.integers(0, 4, rows)]
    made[f"{sort} Remark"] = np.array([f"seen {number}" for number in range(2000)])[random.integers(0, 2000, rows)]
    return pa.table({name: pa.array(values) for name, values in made.items()})


def worksheets(path: Path, count: int) -> None:
    """A workbook of so many worksheets of one layout, twenty rows each."""
    with xlsxwriter.Workbook(path) as book:
        for place in range(count):
            page = book.add_worksheet(f"Week {place + 1}")
            page.write_row(0, 0, ["Lift No", "Boat Reg", "Boat", "Hours"])
            for row in range(20):
                boat = (place * 7 + row * 3) % 50
                page.write_row(row + 1, 0, [place * 20 + row + 1, f"MQ-{boat + 1000}", f"Boat {boat}", row / 4])


def folder(path: Path, count: int) -> None:
    """A folder of so many files of one layout, twenty rows each."""
    path.mkdir()
    for place in range(count):
        lines = [
            f"{place * 20 + row + 1},MQ-{boat + 1000},Boat {boat},{row / 4}"
            for row in range(20)
            for boat in [(place * 7 + row * 3) % 50]
        ]
        (path / f"lifts-{place + 1:04}.csv").write_text("\n".join(["Lift No,Boat Reg,Boat,Hours", *lines, ""]))


def bare_files(files: list[Path]) -> None:
    for file in files:
        pyarrow.csv.read_csv(file)


def bare_worksheets(path: Path) -> None:
    book = python_calamine.CalamineWorkbook.from_path(path)
    for name in book.sheet_names:
        book.get_sheet_by_name(name).to_python()


def show(name: str, bare: Callable[[], object], ours: Callable[[], object], pairs: int) -> None:
    times = [(seconds(bare), seconds(ours)) for _ in range(pairs)]
    ratio = statistics.median(two / one for one, two in times)
    one, two = (statistics.median(part) for part in zip(*times, strict=True))
    print(f"{name:<40}{one:>10.2f}{two:>10.2f}{ratio:>8.2f}", flush=True)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--rows", type=int, default=100_000)
    parser.add_argument("--worksheets", type=int, default=300)
    parser.add_argument("--files", type=int, default=3_000)
    parser.add_argument("--pairs", type=int, default=3)
    given = parser.parse_args()
    print(f"{'':<40}{'bare s':>10}{'ours s':>10}{'ratio':>8}")
    with tempfile.TemporaryDirectory() as made:
        place = Path(made)
        twenty = []
        for number, sort in enumerate(SORTS):
            twenty.append(place / f"{sort.lower()}s.csv")
            options = pyarrow.csv.WriteOptions(quoting_style="needed")
            pyarrow.csv.write_csv(records(number, given.rows), twenty[-1], options)
        sheets = [str(path) for path in twenty]
        show(
            f"{len(sheets)} sheets of {given.rows:,} × 15, drafted",
            lambda: bare_files(twenty),
            lambda: drafted(sheets),
            given.pairs,
        )
        book = place / "weeks.xlsx"
        worksheets(book, given.worksheets)
        show(
            f"{given.worksheets:,} worksheets, read",
            lambda: bare_worksheets(book),
            lambda: files.read(str(book)),
            given.pairs,
        )
        lifts = place / "lifts"
        folder(lifts, given.files)
        paths = sorted(lifts.iterdir())
        show(
            f"{given.files:,} files of a folder, read",
            lambda: bare_files(paths),
            lambda: files.read(str(lifts)),
            given.pairs,
        )


def drafted(paths: list[str]) -> None:
    studying.draft(reading.read(paths))


if __name__ == "__main__":
    main()
