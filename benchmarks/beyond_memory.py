"""How long files that are larger than memory take inside an engine, and how much memory, for so many million rows.

    python benchmarks/beyond_memory.py                              1 and 4 million rows of 28 columns, by DuckDB
    python benchmarks/beyond_memory.py --millions 5 20 --memory 2GB
    python benchmarks/beyond_memory.py --engine postgresql --address postgresql://postgres@127.0.0.1/test
    python benchmarks/beyond_memory.py --engine mariadb --address mariadb://root@127.0.0.1/test

Peak is the most memory that the whole process had, engine and all. Times are of one run each; what counts is the time
per row from line to line.
"""

from __future__ import annotations

import argparse
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.parquet

from growth import memory
from hemplit.targets.mariadb import MariadbTarget
from hemplit.targets.postgresql import PostgresqlTarget
from hemplit.targets.sql.server import ServerTarget

SEED, PIECE, PAUSE = 11, 500_000, 0.05
BOATS, OWNERS, BERTHS, PARTS, MAKERS, TOWNS = 200_000, 60_000, 4_000, 9_000, 300, 800


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--millions", type=int, nargs="+", default=[1, 4])
    parser.add_argument("--engine", default="duckdb")
    parser.add_argument("--memory", default="1500MB", help="how much the engine may take")
    parser.add_argument("--address", default="", help="of the database in which the table 'flat' is made")
    parser.add_argument("--folder", type=Path, help="where to work; else a temporary folder")
    given = parser.parse_args()
    print("| rows, 28 columns | file | seconds | microseconds a row | peak |\n|---:|---:|---:|---:|---:|")
    with tempfile.TemporaryDirectory(dir=given.folder) as folder:
        for millions in given.millions:
            flat = Path(folder).absolute() / "lines.parquet"
            write(flat, millions * 1_000_000)
            run(flat, millions, given)


def run(flat: Path, millions: int, given: argparse.Namespace) -> None:
    """A line of the table: one load."""
    source, target = str(flat), f"{flat.parent}/normal/"
    if given.address:
        in_schemas = given.engine == "postgresql"
        source = f"{given.address}#{'public.' * in_schemas}flat"
        target = f"{given.address}{'#flat_normal' * in_schemas}"
        put(flat, PostgresqlTarget(f"{given.address}#public") if in_schemas else MariadbTarget(given.address))
    command = [sys.executable, "-m", "hemplit", "load", source, "--into", target, "--replace"]
    command += ["--engine", given.engine, *(["--memory", given.memory] if not given.address else [])]

    start, most = time.perf_counter(), 0
    with (flat.parent / "said.txt").open("w") as said:
        process = subprocess.Popen(command, stdout=said, stderr=said, cwd=flat.parent)
        while process.poll() is None:
            most = max(most, memory(process.pid))
            time.sleep(PAUSE)
    took = time.perf_counter() - start
    ended = f" (ended with {process.returncode})" if process.returncode else ""
    size = f"{flat.stat().st_size / 1e6:,.0f} MB"
    print(f"| {millions * 1_000_000:,} | {size} | {took:.0f}{ended} | {took / millions:.1f} | {most / 1024:,.0f} MB |")
    print((flat.parent / "said.txt").read_text() if process.returncode else "", end="", flush=True)


def put(flat: Path, target: ServerTarget) -> None:
    """The file as a table of a server."""
    sorts = {"int64": "bigint", "double": "numeric(14, 2)", "string": "text", "date32[day]": "date"}
    file = pyarrow.parquet.ParquetFile(flat)
    columns = ", ".join(f"{target.dialect.quote(field.name)} {sorts[str(field.type)]}" for field in file.schema_arrow)
    with target.opened() as session:
        session.run("DROP TABLE IF EXISTS flat")
        session.run(f"CREATE TABLE flat ({columns})")
        for batch in file.iter_batches(PIECE):
            session.put("flat", pa.Table.from_batches([batch]))


def write(path: Path, rows: int) -> None:
    """Order lines with boats, owners, berths, parts and jobs in them, in pieces, so that any number fits."""
    random = np.random.default_rng(SEED)
    owner_of, berth_of = random.integers(0, OWNERS, BOATS), random.integers(0, BERTHS, BOATS)
    town_of, maker_of = random.integers(0, TOWNS, OWNERS), random.integers(0, MAKERS, PARTS)
    dock_of, price_of = random.integers(0, 40, BERTHS), random.integers(95, 90_000, PARTS) / 100
    notes = random.integers(0, 300, (4, OWNERS))
    first_job, writer = 0, None
    for start in range(0, rows, PIECE):
        count = min(PIECE, rows - start)
        jobs = np.sort(random.integers(0, max(count // 4, 1), count))
        new = np.append(0, np.flatnonzero(np.diff(jobs)) + 1)
        line = np.arange(count) - np.repeat(new, np.diff(np.append(new, count))) + 1
        boat = random.integers(0, BOATS, jobs.max() + 1)[jobs]
        owner, berth, part = owner_of[boat], berth_of[boat], random.integers(0, PARTS, count)
        quantity = random.integers(1, 12, count)
        day = np.datetime64("2021-01-04") + random.integers(0, 1800, jobs.max() + 1)[jobs]
        made = {
            "Job No": pa.array(100_000 + first_job + jobs),
            "Line No": pa.array(line),
            "Boat Reg": coded("MQ-", boat, BOATS),
            "Boat": coded("Boat of number ", boat, BOATS),
            "Owner": coded("Owner of number ", owner, OWNERS),
            "Owner Town": coded("Town ", town_of[owner], TOWNS),
            "Berth": coded("B", berth, BERTHS),
            "Dock": coded("Dock ", dock_of[berth], 40),
            "Part": coded("P-", part, PARTS),
            "Part Description": coded("a part described as ", part, PARTS),
            "Maker": coded("Maker ", maker_of[part], MAKERS),
            "Quantity": pa.array(quantity),
            "Price": pa.array(price_of[part]),
            "Line Total": pa.array(np.round(quantity * price_of[part], 2)),
            "Day": pa.array(day),
            "Status": pa.array(np.array(["open", "done", "invoiced", "waiting"])).take(
                pa.array(random.integers(0, 4, jobs.max() + 1)[jobs])
            ),
        }
        for extra in range(12):
            if extra % 3 == 0:
                made[f"Measure {extra}"] = pa.array(random.integers(0, 5000, count))
            elif extra % 3 == 1:
                made[f"Category {extra}"] = coded("kind ", random.integers(0, 12, count), 12)
            else:
                made[f"Owner Note {extra}"] = coded("note ", notes[extra // 3][owner], 300)
        first_job += int(jobs.max()) + 1
        table = pa.table(made)
        writer = writer or pyarrow.parquet.ParquetWriter(path, table.schema)
        writer.write_table(table)
    assert writer is not None
    writer.close()


def coded(prefix: str, numbers: np.ndarray, size: int) -> pa.Array:
    return pa.array([f"{prefix}{number}" for number in range(size)]).take(pa.array(numbers))


if __name__ == "__main__":
    main()
