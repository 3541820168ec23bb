"""How long ``hemplit draw`` takes for more and more tables, as a ratio to a dozen of them.

Each size is drawn in turn with the dozen, so that a machine that is slower for a while is so for both.
"""

from __future__ import annotations

import argparse
import random
import statistics
import sys
import tempfile
from pathlib import Path

from load_sheet import timed

DOZEN = 12


def design_of(tables: int) -> str:
    """A design whose tables refer to others, most of them to near ones."""
    chance = random.Random(tables)
    refers: list[list[int]] = [[] for _ in range(tables)]
    for table in range(1, tables):
        refers[chance.randrange(max(0, table - 6), table)].append(table)
        if chance.random() < 0.25:
            refers[chance.randrange(table)].append(table)
    refers = [sorted(set(some)) for some in refers]
    headers = [f"Code {table}" for table in range(tables)]
    names = ", ".join(f'"{header}"' for header in headers)
    lines = [
        "format = 2",
        '[sheets.yard]\nfile = "yard.csv"',
        f'steps = [\n  {{ do = "read the header", names = [{names}] }},\n]',
    ]
    for table in range(tables):
        lines += [
            f"[tables.t{table}]",
            'sheet = "yard"',
            f'key = ["code_{table}"]',
            f"each_row = {str(not table).lower()}",
        ]
        lines += [f'columns.code_{table} = {{ from = "Code {table}", type = "text" }}']
        lines += [f'columns.to_{other} = {{ to = "t{other}" }}' for other in refers[table]]
    return "\n".join(lines) + "\n"


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--tables", type=int, nargs="+", default=[30, 60, 120])
    parser.add_argument("--pairs", type=int, default=3)
    given = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        for tables in (DOZEN, *given.tables):
            (Path(folder) / f"{tables}.toml").write_text(design_of(tables), encoding="utf-8")

        def drawn(tables: int) -> float:
            call = [sys.executable, "-m", "hemplit", "draw", f"{tables}.toml", "--out", "yard.svg"]
            return timed(call, folder)

        for tables in given.tables:
            pairs = [(drawn(DOZEN), drawn(tables)) for _ in range(given.pairs)]
            ratio = statistics.median(many / dozen for dozen, many in pairs)
            seconds = statistics.median(many for _, many in pairs)
            print(f"{tables} tables {seconds:.2f} s, {ratio:.1f} times as long as {DOZEN}")


if __name__ == "__main__":
    main()
