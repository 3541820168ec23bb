"""Files that are whole or as they were: each is written under a temporary name that nobody can foresee, beside its own.

The temporary file is new, so that no link that somebody planted is followed; a link under the final name is.
"""

from __future__ import annotations

import os
import shutil
import tempfile
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterator

#: The longest part of a file's name that goes into the temporary one; names have at most 255 bytes.
LONGEST_PART = 60


@contextmanager
def unfinished(path: Path) -> Iterator[Path]:
    """A new empty file beside the final one, which is gone in the end unless it was put in its place."""
    final = Path(os.path.realpath(path))
    handle, name = tempfile.mkstemp(prefix=f".{final.name[:LONGEST_PART]}.", suffix=".unfinished", dir=final.parent)
    os.close(handle)
    made = Path(name)
    try:
        made.chmod(final.stat().st_mode & 0o777 if final.exists() else 0o666 & ~_umask())
        yield made
    finally:
        made.unlink(missing_ok=True)


@contextmanager
def unfinished_folder(path: Path) -> Iterator[Path]:
    """A new empty folder beside the final one, which is gone in the end unless it was put in its place."""
    made = Path(tempfile.mkdtemp(prefix=f".{path.name[:LONGEST_PART]}.", suffix=".unfinished", dir=path.parent))
    try:
        made.chmod(0o777 & ~_umask())
        yield made
    finally:
        shutil.rmtree(made, ignore_errors=True)


def put_new(made: Path, path: Path) -> None:
    """Gives a file its final name. Raises ``FileExistsError`` if something has it by now."""
    final = Path(os.path.realpath(path))
    try:
        os.link(made, final)
    except FileExistsError:
        raise
    except OSError as error:  # a file system without links
        if final.exists():
            raise FileExistsError(str(final)) from error
        made.rename(final)


def write_whole(path: Path, text: str) -> None:
    """Writes a text file, in the place of one that is there. Raises ``OSError``."""
    write_bytes(path, text.encode())


def write_bytes(path: Path, content: bytes) -> None:
    """Writes a file, in the place of one that is there. Raises ``OSError``."""
    with unfinished(path) as made:
        made.write_bytes(content)
        made.replace(os.path.realpath(path))


def _umask() -> int:
    mask = os.umask(0)
    os.umask(mask)
    return mask
