"""Feeds mutated files to every reader: whatever comes in, a grid or one clear line must come out.

    python scripts/fuzz.py --seconds 60            all formats
    python scripts/fuzz.py --seconds 600 --seed 7  another run of mutations

Each file starts as a valid sheet; bytes are changed, cut, doubled and put in from a list of what breaks readers. What
is read is shaped, too, within a minute and two gigabytes. The first that breaks something is kept, and its seed said.
"""

from __future__ import annotations

import argparse
import contextlib
import csv
import io
import sys
import tempfile
import time
import traceback
from pathlib import Path
from random import Random
from typing import TYPE_CHECKING

import pyarrow as pa
import pyarrow.parquet
import xlsxwriter

from hemplit import files
from hemplit.core.shape import shape
from hemplit.errors import HemplitError

if TYPE_CHECKING:
    from collections.abc import Callable

#: No file may take more time, nor more megabytes.
MOST_SECONDS, MOST_MEMORY = 60, 2048
BREAKERS = [
    b'"', b'""', b"\n", b"\r", b"\r\n\r\n", b"\x00", b"\xff", b"\xef\xbb\xbf", b"\xff\xfe", b",", b";" * 40, b"\t",
    b"<c r=", b"</row>", b"&#x0;", b"r:id", b"1048576", b"XFD", b"-1", b"9" * 30, b"NaN", b"PK\x03\x04", b"\x80" * 9,
]  # fmt: skip
ROWS = [["Job No", "Boat", "Day", "Hours", "Part 1", "Qty 1", "Part 2", "Qty 2", "Crew"]] + [
    [str(4000 + row), "Teal,\n grey", f"{row % 28 + 1:02}/03/2026", f"{row / 4:.2f}", "rope", "2", "", "", "Ann, Ben"]
    for row in range(40)
]


def text_sheet(random: Random) -> bytes:
    out = io.StringIO(newline="")
    csv.writer(out, delimiter=random.choice(",;\t|")).writerows(ROWS)
    return out.getvalue().encode(random.choice(["utf-8", "utf-8-sig", "utf-16", "cp1252"]))


def workbook(_: Random) -> bytes:
    out = io.BytesIO()
    with xlsxwriter.Workbook(out) as book:
        sheet = book.add_worksheet("Jobs")
        zeros = book.add_format({"num_format": "00000"})
        for row, cells in enumerate(ROWS):
            sheet.write_row(row, 0, cells)
            sheet.write_number(row, len(cells), row, zeros)
        sheet.merge_range(50, 0, 52, 3, "merged")
        sheet.write_formula(54, 0, "=1/0", None, "#DIV/0!")
    return out.getvalue()


def parquet(_: Random) -> bytes:
    out = io.BytesIO()
    columns = {name: [row[at] for row in ROWS[1:]] for at, name in enumerate(ROWS[0])}
    pyarrow.parquet.write_table(pa.table(columns), out)
    return out.getvalue()


def saved(ending: str) -> Callable[[Random], bytes]:
    return lambda _: (Path(__file__).parents[1] / "tests/workbooks" / f"yard{ending}").read_bytes()


MAKERS = {
    ".csv": text_sheet, ".xlsx": workbook, ".xls": saved(".xls"), ".ods": saved(".ods"), ".parquet": parquet,
}  # fmt: skip


def mutated(content: bytes, random: Random) -> bytes:
    """The content with one to six changes, sometimes none."""
    changed = bytearray(content)
    for _ in range(random.randint(0, 6)):
        at = random.randrange(len(changed) + 1)
        match random.randrange(6):
            case 0:
                changed[at:at] = random.choice(BREAKERS)
            case 1:
                del changed[at : at + random.randint(1, 200)]
            case 2:
                changed[at:at] = changed[at : at + random.randint(1, 500)]
            case 3 if at < len(changed):
                changed[at] = random.randrange(256)
            case 4:
                del changed[at:]
            case _:
                changed[at : at + 4] = random.choice(BREAKERS)
    return bytes(changed)


def inside_of(content: bytes, random: Random) -> bytes:
    """A workbook of which one part inside is mutated, so that it is a valid archive of odd XML."""
    import zipfile

    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as whole, zipfile.ZipFile(out, "w") as copy:
        names = whole.namelist()
        odd = random.choice(names)
        for name in names:
            part = whole.read(name)
            copy.writestr(name, mutated(part, random) if name == odd else part)
    return out.getvalue()


def attempt(seed: int, endings: list[str], folder: Path) -> str:
    """What came of one file: read, refused, or the traceback."""
    random = Random(seed)
    ending = random.choice(endings)
    content = MAKERS[ending](random)
    odd = (
        inside_of(content, random)
        if ending in (".xlsx", ".ods") and random.random() < 0.6
        else mutated(content, random)
    )
    path = folder / f"sheet{ending}"
    path.write_bytes(odd)
    try:
        for grid in files.read(str(path)):
            with contextlib.suppress(HemplitError):  # a sheet need not hold a table
                shape(grid)
    except HemplitError as refused:
        return "refused" if str(refused).count("\n") == 0 else f"{refused!s} has more than one line"
    except Exception:  # noqa: BLE001 (whatever it is, it is what is looked for)
        return traceback.format_exc()
    return "read"


def too_much(seconds: float) -> str:
    """What a file took more of than any may; empty if nothing."""
    import resource

    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    if seconds > MOST_SECONDS or memory > MOST_MEMORY:
        return f"it took {seconds:.1f} s, and {memory:,.0f} MB"
    return ""


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--seconds", type=float, default=20)
    parser.add_argument("--seed", type=int, default=0)
    parser.add_argument("--formats", nargs="+", choices=MAKERS, default=list(MAKERS))
    given = parser.parse_args()
    end = time.monotonic() + given.seconds
    counts = {"read": 0, "refused": 0}
    seed = given.seed * 1_000_000
    with tempfile.TemporaryDirectory() as folder:
        while time.monotonic() < end:
            start = time.monotonic()
            came = attempt(seed, given.formats, Path(folder))
            came = too_much(time.monotonic() - start) or came
            if came not in counts:
                print(f"seed {seed}:\n{came}", file=sys.stderr)
                return 1
            counts[came] += 1
            seed += 1
    print(f"{counts['read']:,} files read and {counts['refused']:,} refused with one line, none broke anything")
    return 0


if __name__ == "__main__":
    sys.exit(main())
