"""What is noted of sheets that are loaded, whether it is still so, and the rows that were left out."""

from __future__ import annotations

import csv
import datetime
import io
import os
from functools import lru_cache
from hashlib import blake2b, file_digest
from pathlib import Path
from typing import TYPE_CHECKING

from hemplit.core.model.loads import Load
from hemplit.core.model.proof import HANDFUL, Check, Difference
from hemplit.core.shape.names import period_in
from hemplit.disk import write_whole
from hemplit.errors import TargetError
from hemplit.files import is_address

if TYPE_CHECKING:
    from collections.abc import Callable, Hashable, Iterable, Sequence

    from hemplit.core.model.grid import Grid
    from hemplit.core.model.proof import Ledger, LeftOutRow
    from hemplit.core.model.tables import Tables
    from hemplit.flow.reading import Sheets
    from hemplit.targets.contract import Target

LEFT_OUT_ENDING = ".left-out.csv"


def mark_of(file: Path) -> str:
    """A hash of the content of a file; while the file is not saved anew it is asked only once.

    BLAKE2 (RFC 7693) takes half the time of SHA-256.
    """
    state = file.stat()
    return _mark(str(file.absolute()), state.st_mtime_ns, state.st_size)


@lru_cache(maxsize=4096)
def _mark(path: str, _saved: int, _size: int) -> str:
    with Path(path).open("rb") as file:
        return file_digest(file, blake2b).hexdigest()


def now() -> str:
    """The moment, to the second, in universal time."""
    return datetime.datetime.now(datetime.UTC).strftime("%Y-%m-%d %H:%M:%S")


def seen_from(folder: Path | None, file: Path) -> str:
    """The path of a file from a folder; its whole path from nowhere, or if it is on another drive."""
    if folder is None:
        return file.absolute().as_posix()
    try:
        return Path(os.path.relpath(file.absolute(), folder)).as_posix()
    except ValueError:
        return file.absolute().as_posix()


def left_out_of(ledgers: Iterable[Ledger], beside: Callable[[str], Path]) -> Path | None:
    """The file beside a target with all rows that were left out, which it writes if there are more than a handful."""
    rows = [(ledger.sheet, row) for ledger in ledgers for row in ledger.rows]
    return write_left_out(rows, beside(LEFT_OUT_ENDING)) if len(rows) > HANDFUL else None


def write_left_out(rows: Iterable[tuple[str, LeftOutRow]], path: Path) -> Path:
    """Writes rows that were left out, with the title of their sheet, into a file."""
    lines = [["sheet", "row", "left out by"], *([sheet, row.place, row.step, *row.texts] for sheet, row in rows)]
    text = io.StringIO(newline="")
    csv.writer(text).writerows(lines)
    try:
        write_whole(path, text.getvalue())
    except OSError as error:
        hint = "close it in other programs"
        raise TargetError(str(path), f"it cannot be written ({error.strerror})", hint) from error
    return path


def known_by(mark: str, file: Path) -> tuple[str, str]:
    """By what a file is known: where two months say the same, each is named for its own."""
    return mark, period_in(file.name)


def loads_of(sheets: Sheets, tables: Tables, target: Target) -> list[Load]:
    """What is noted of the sheets that are loaded: each file by itself."""
    counts = {table.name: table.row_count for table in tables.tables}
    loads = []
    for name, grid in sheets.grids.items():
        for file in files_of(grid):
            rows = sheets.relations[name].row_count
            mark = mark_of(file) if file.is_file() else ""
            load = Load(seen_from(target.folder, file), grid.source.sheet or "", name, mark, rows, "", counts=counts)
            loads.append(load)
    return loads


def files_of(grid: Grid) -> list[Path]:
    """The files in which the cells of a grid stand; none for a table of a server."""
    source = grid.source
    if is_address(source.path):
        return []
    return [Path(path) for path, _ in source.parts] if source.parts and source.sheet is None else [Path(source.path)]


def check_loads(wanted: Sequence[Load], held: Sequence[Load]) -> Check:
    """Whether what is noted of the loads is as it was written, and speaks of these files.

    One that has been saved again since then is compared by its cells, as all are.
    """
    found = [Difference(f"hemplit_loads, {one.file}", "as it was written", "another") for one in held if not one.sealed]
    # A file that has grown since then, and was added again, is as it was noted the last time.
    again = {(one.sheet, one.worksheet, *known_by(one.mark, Path(one.file))) for one in held if one.topup}
    missing = [one for one in wanted if (one.sheet, one.worksheet, *known_by(one.mark, Path(one.file))) not in again]
    first = [one for one in held if not one.topup]
    by_mark = _unmatched(missing, first, lambda one: (one.sheet, one.worksheet, one.mark))
    lacking, odd = _unmatched(*by_mark, lambda one: (one.sheet, one.worksheet, Path(one.file).name))
    if not found and (lacking or len(wanted) != len(first)):
        files = (", ".join(one.file for one in some) or "nothing" for some in (lacking, odd))
        found.append(Difference("hemplit_loads", *files))
    return Check("the files that were loaded are noted", len(held), "files", len(found), tuple(found))


def saved_again(wanted: Sequence[Load], held: Sequence[Load]) -> list[str]:
    """The names of the files that are other bytes than when they were loaded."""
    known = {(one.sheet, one.worksheet, one.mark) for one in held}
    named = {(one.sheet, one.worksheet, Path(one.file).name) for one in held}
    other = (one for one in wanted if (one.sheet, one.worksheet, one.mark) not in known)
    names = ((one, Path(one.file).name) for one in other)
    return list(dict.fromkeys(name for one, name in names if (one.sheet, one.worksheet, name) in named))


def _unmatched(
    some: Sequence[Load], others: Sequence[Load], what: Callable[[Load], Hashable]
) -> tuple[list[Load], list[Load]]:
    """Those of each side that have no partner of the same on the other."""
    left = list(others)
    alone = []
    for one in some:
        partner = next((other for other in left if what(other) == what(one)), None)
        if partner is None:
            alone.append(one)
        else:
            left.remove(partner)
    return alone, left
