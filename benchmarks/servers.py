"""How long ``hemplit load`` takes into a server, as a ratio to that server's own copying of the flat file.

The server's own way is ``\\copy`` of psql, or ``LOAD DATA`` of the mariadb client, into a table of texts without keys.
Both run in turn, so that a machine that is slower for a while is so for both; the ratio of each pair is what counts.
"""

from __future__ import annotations

import argparse
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path

from load_sheet import timed
from sheet import write

SCHEMA = "hemplit_benchmark"


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=100_000)
    parser.add_argument("--columns", type=int, default=28)
    parser.add_argument("--pairs", type=int, default=3)
    parser.add_argument("--server", choices=("postgresql", "mariadb"), default="postgresql")
    parser.add_argument("--user", default="root")
    given = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        flat = Path(folder) / "lines.csv"
        write(flat, given.rows, given.columns)
        header = flat.open(encoding="utf-8").readline().strip().split(",")
        columns = ", ".join(f"c{place} text" for place in range(len(header)))
        if given.server == "postgresql":
            shell = ["psql", "-q", "-h", "127.0.0.1", "-U", given.user, "test", "-v", "ON_ERROR_STOP=1"]
            gone = [*shell, "-c", f"SET client_min_messages = error; DROP SCHEMA IF EXISTS {SCHEMA} CASCADE"]
            clear = [*gone, "-c", f"CREATE SCHEMA {SCHEMA}"]
            begin = f"CREATE TABLE {SCHEMA}.flat ({columns})"
            plain = [*shell, "-c", begin, "-c", f"\\copy {SCHEMA}.flat from '{flat}' with (format csv, header)"]
            into = [f"postgresql://{given.user}@127.0.0.1/test", "--schema", SCHEMA]
        else:
            shell = ["mariadb", "-h", "127.0.0.1", "-u", given.user, "--local-infile=1"]
            gone = [*shell, "-e", f"DROP DATABASE IF EXISTS {SCHEMA}"]
            clear = [*shell, "-e", f"DROP DATABASE IF EXISTS {SCHEMA}; CREATE DATABASE {SCHEMA}"]
            form = "FIELDS TERMINATED BY ',' ENCLOSED BY '\"' IGNORE 1 LINES"
            copy = f"LOAD DATA LOCAL INFILE '{flat}' INTO TABLE flat {form}"
            plain = [*shell, SCHEMA, "-e", f"CREATE TABLE flat ({columns}); {copy}"]
            into = [f"mariadb://{given.user}@127.0.0.1/{SCHEMA}"]
        size = flat.stat().st_size / 1e6
        print(f"{given.rows:,} x {given.columns}, {size:.1f} MB as CSV, into {given.server}, {given.pairs} pairs")
        ratios = []
        for _ in range(given.pairs):
            subprocess.run(clear, check=True)
            load = timed([sys.executable, "-m", "hemplit", "load", str(flat), "--into", *into], folder)
            subprocess.run(clear, check=True)
            (Path(folder) / f"{SCHEMA if given.server == 'mariadb' else 'test'}.design.toml").unlink(missing_ok=True)
            copied = timed(plain)
            ratios.append(load / copied)
            print(f"load {load:6.2f} s   the server's own {copied:6.2f} s   ratio {ratios[-1]:.2f}")
        subprocess.run(gone, check=True)
        print(f"ratio median {statistics.median(ratios):.2f} (from {min(ratios):.2f} to {max(ratios):.2f})")


if __name__ == "__main__":
    main()
