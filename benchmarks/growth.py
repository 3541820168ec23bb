"""How ``hemplit load`` grows: seconds and memory of the whole process by rows, by columns, and by what these hold.

    python benchmarks/growth.py            up to 100,000 rows and 200 columns, about three minutes
    python benchmarks/growth.py --full     up to 5,000,000 rows and 400 columns, about half an hour

Times are of one run each; what counts is how they grow from line to line.
"""

from __future__ import annotations

import argparse
import re
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np

import sheet
from wide_sheets import write

#: What the columns hold: three hidden groups of things, numbers by chance, each cell another, always the same.
SORTS = ("correlated", "decimals", "mixed", "unique", "constant")
SEED, PAUSE = 5, 0.02


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--full", action="store_true")
    given = parser.parse_args()
    heights = [1_000, 10_000, 100_000] + ([1_000_000, 5_000_000] if given.full else [])
    widths = [10, 50, 100, 200] + ([400] if given.full else [])
    with tempfile.TemporaryDirectory() as folder:
        flat = Path(folder) / "lines.csv"
        print("| rows of order lines, 28 columns | seconds | per million cells | peak |\n|---:|---:|---:|---:|")
        for rows in heights:
            sheet.write(flat, rows, 28)
            show(f"{rows:,}", rows * 28, flat)
        print("\n| columns, 2,000 rows | hold | seconds | per million cells | peak |\n|---:|---|---:|---:|---:|")
        for sort in SORTS:
            for columns in widths:
                write_sort(flat, sort, columns)
                show(f"{columns} | {sort}", 2_000 * columns, flat)
        print("\n| distinct values, 100,000 rows x 10 | seconds | per million cells | peak |\n|---:|---:|---:|---:|")
        for distinct in (2, 100, 10_000, 100_000):
            numbers = np.random.default_rng(SEED).integers(0, distinct, (100_000, 10))
            header = ",".join(f"Size {place}" for place in range(10))
            np.savetxt(flat, numbers, fmt="%d", delimiter=",", header=header, comments="")
            show(f"{distinct:,}", 1_000_000, flat)


def write_sort(path: Path, sort: str, columns: int) -> None:
    """A sheet of 2,000 rows whose columns hold things of that sort."""
    if sort not in ("unique", "constant"):
        write(path, sort, columns, 2_000)
        return
    cells = [
        ",".join(f"{sort} {row if sort == 'unique' else 0} {place}" for place in range(columns)) for row in range(2_000)
    ]
    path.write_text("\n".join([",".join(f"Part {place}" for place in range(columns)), *cells, ""]), encoding="utf-8")


def show(what: str, cells: int, flat: Path) -> None:
    """A line of a table: how long a load takes, and the most memory that it has at once."""
    target = flat.with_suffix(".sqlite")
    command = [sys.executable, "-m", "hemplit", "load", str(flat), "--into", str(target), "--replace"]
    start, most = time.perf_counter(), 0
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    while process.poll() is None:
        most = max(most, memory(process.pid))
        time.sleep(PAUSE)
    took = time.perf_counter() - start
    ended = f" (ended with {process.returncode})" if process.returncode > 1 else ""
    print(f"| {what} | {took:.1f}{ended} | {took * 1e6 / cells:.2f} | {most / 1024:,.0f} MB |", flush=True)


def memory(process: int) -> int:
    """The most kilobytes that a process had so far, as Linux says."""
    try:
        status = Path(f"/proc/{process}/status").read_text(encoding="ascii")
    except OSError:  # it has ended by then
        return 0
    found = re.search(r"VmHWM:\s+(\d+)", status)
    return int(found[1]) if found else 0


if __name__ == "__main__":
    main()
