"""What is noted of sheets that are loaded: their files and hashes, and the rows that were left out."""

from __future__ import annotations

import csv
import datetime
import io
import os
from functools import lru_cache
from hashlib import blake2b, file_digest
from pathlib import Path
from typing import TYPE_CHECKING

from hemplit.disk import write_whole
from hemplit.errors import TargetError

if TYPE_CHECKING:
    from collections.abc import Iterable

    from hemplit.core.model.proof import LeftOutRow

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


def seen_from(folder: Path, file: Path) -> str:
    """The path of a file from a folder; its whole path if it is on another drive."""
    try:
        return Path(os.path.relpath(file.absolute(), folder)).as_posix()
    except ValueError:
        return file.absolute().as_posix()


def write_left_out(target: str, rows: Iterable[tuple[str, LeftOutRow]]) -> Path:
    """Writes rows that were left out, with the title of their sheet, into a file beside the target."""
    path = Path(target).with_name(Path(target).name.rsplit(".", 1)[0] + LEFT_OUT_ENDING)
    lines = [["sheet", "row", "left out by"], *([sheet, row.place, row.step, *row.texts] for sheet, row in rows)]
    text = io.StringIO(newline="")
    csv.writer(text).writerows(lines)
    try:
        write_whole(path, text.getvalue())
    except OSError as error:
        hint = "close it in other programs"
        raise TargetError(str(path), f"it cannot be written ({error.strerror})", hint) from error
    return path
