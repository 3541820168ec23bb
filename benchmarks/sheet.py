"""A sheet of order lines with hidden things in it, of any size, for the benchmarks: seeded, so always the same.

Five things are hidden: boats with owners and berths, parts with makers, and the jobs themselves; the rest are measures,
dates and remarks.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.csv

if TYPE_CHECKING:
    from pathlib import Path

SEED = 7


def sheet(rows: int, columns: int) -> pa.Table:
    """A table of at least 12 and at most 60 columns."""
    random = np.random.default_rng(SEED)
    jobs = random.integers(0, max(rows // 4, 2), rows)
    jobs.sort()
    boat_of = random.integers(0, max(rows // 100, 5), jobs.max() + 1)
    boat = boat_of[jobs]
    owner = random.integers(0, max(rows // 200, 4), boat.max() + 1)[boat]
    berth = random.integers(0, 400, boat.max() + 1)[boat]
    part = random.integers(0, 900, rows)
    maker = random.integers(0, 60, 900)[part]
    line = np.ones(rows, dtype=np.int64)
    for place in range(1, rows):
        if jobs[place] == jobs[place - 1]:
            line[place] = line[place - 1] + 1
    quantity = random.integers(1, 12, rows)
    price = random.integers(95, 90000, 900)[part] / 100
    day = np.datetime64("2021-01-04") + random.integers(0, 1800, jobs.max() + 1)[jobs]
    made: dict[str, object] = {
        "Job No": 100000 + jobs,
        "Line No": line,
        "Boat Reg": _coded("MQ-", boat),
        "Boat": _coded("Boat of number ", boat),
        "Owner": _coded("Owner of number ", owner),
        "Owner Town": _coded("Town ", random.integers(0, 80, owner.max() + 1)[owner]),
        "Berth": _coded("B", berth),
        "Dock": _coded("Dock ", random.integers(0, 9, 400)[berth]),
        "Part": _coded("P-", part),
        "Part Description": _coded("a part described as ", part),
        "Maker": _coded("Maker ", maker),
        "Quantity": quantity,
        "Price": price,
        "Line Total": np.round(quantity * price, 2),
        "Day": day,
        "Status": np.array(["open", "done", "invoiced", "waiting"])[random.integers(0, 4, jobs.max() + 1)[jobs]],
    }
    for extra in range(max(columns - len(made), 0)):
        if extra % 3 == 0:
            made[f"Measure {extra}"] = random.integers(0, 5000, rows)
        elif extra % 3 == 1:
            made[f"Category {extra}"] = _coded("kind ", random.integers(0, 12, rows))
        else:
            made[f"Owner Note {extra}"] = _coded("note ", random.integers(0, 300, owner.max() + 1)[owner])
    return pa.table({name: pa.array(values) for name, values in list(made.items())[:columns]})


def _coded(prefix: str, numbers: np.ndarray) -> np.ndarray:
    names = np.array([f"{prefix}{number}" for number in range(int(numbers.max()) + 1)])
    return names[numbers]


def write(path: Path, rows: int, columns: int) -> None:
    """The sheet as CSV."""
    pyarrow.csv.write_csv(sheet(rows, columns), path, pyarrow.csv.WriteOptions(quoting_style="needed"))
