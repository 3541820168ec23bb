"""How long ``hemplit load`` takes on a generated sheet, as a ratio to the ``sqlite3`` shell's ``.import`` of that file.

Both run in turn, so that a machine that is slower for a while is so for both; the ratio of each pair is what counts.
"""

from __future__ import annotations

import argparse
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from sheet import write


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=10_000)
    parser.add_argument("--columns", type=int, default=20)
    parser.add_argument("--pairs", type=int, default=5)
    given = parser.parse_args()
    shell = shutil.which("sqlite3")
    with tempfile.TemporaryDirectory() as folder:
        flat = Path(folder) / "lines.csv"
        write(flat, given.rows, given.columns)
        print(f"{given.rows:,} x {given.columns}, {flat.stat().st_size / 1e6:.1f} MB as CSV, {given.pairs} pairs")
        loads, imports = [], []
        for _ in range(given.pairs):
            loads.append(
                timed([sys.executable, "-m", "hemplit", "load", str(flat), "--into", f"{folder}/t.sqlite", "--replace"])
            )
            if shell:
                (Path(folder) / "i.sqlite").unlink(missing_ok=True)
                imports.append(timed([shell, f"{folder}/i.sqlite", ".mode csv", f".import {flat} flat"]))
        print(
            f"hemplit load        median {statistics.median(loads):6.2f} s  (from {min(loads):.2f} to {max(loads):.2f})"
        )
        if imports:
            ratios = [load / plain for load, plain in zip(loads, imports, strict=True)]
            print(f"sqlite3 .import     median {statistics.median(imports):6.2f} s")
            spread = f"from {min(ratios):.2f} to {max(ratios):.2f}"
            print(f"ratio               median {statistics.median(ratios):6.2f}    ({spread})")
        else:
            print("no ratio: the sqlite3 shell is not on this machine")


def timed(command: list[str], folder: str | None = None) -> float:
    """Seconds of the whole process."""
    start = time.perf_counter()
    subprocess.run(command, cwd=folder, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    return time.perf_counter() - start


if __name__ == "__main__":
    main()
