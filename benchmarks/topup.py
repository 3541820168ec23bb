"""How long ``hemplit topup`` of a thousand rows takes, as a ratio to loading the sheet to which they are added.

Both run in turn, and each pair on a copy of the same files, so that a slow machine is slow for both.
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
    parser.add_argument("--rows", type=int, default=1_000_000)
    parser.add_argument("--more", type=int, default=1_000)
    parser.add_argument("--columns", type=int, default=28)
    parser.add_argument("--pairs", type=int, default=3)
    given = parser.parse_args()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        write(folder / "all.csv", given.rows + given.more, given.columns)
        with (folder / "all.csv").open(encoding="utf-8") as lines:
            header = next(lines)
            (folder / "lines.csv").write_text(header + "".join(next(lines) for _ in range(given.rows)), "utf-8")
            (folder / "more.csv").write_text(header + "".join(lines), "utf-8")
        loads, topups = [], []
        for _ in range(given.pairs):
            loads.append(timed("load", "lines.csv", "--into", "lines.sqlite", "--replace", folder=folder))
            shutil.copy(folder / "lines.sqlite", folder / "more.sqlite")
            topups.append(timed("topup", "lines.design.toml", "more.csv", "--into", "more.sqlite", folder=folder))
        pairs = [one / other for one, other in zip(topups, loads, strict=True)]
        print(f"{given.more:,} rows into {given.rows:,} x {given.columns}, {given.pairs} pairs")
        print(f"hemplit load   median {statistics.median(loads):6.2f} s")
        print(f"hemplit topup  median {statistics.median(topups):6.2f} s")
        print(f"ratio          median {statistics.median(pairs):6.3f}  (from {min(pairs):.3f} to {max(pairs):.3f})")


def timed(*arguments: str, folder: Path) -> float:
    started = time.perf_counter()
    subprocess.run([sys.executable, "-m", "hemplit", *arguments], cwd=folder, check=True, capture_output=True)
    return time.perf_counter() - started


if __name__ == "__main__":
    main()
