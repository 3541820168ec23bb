"""Files → grids: one module per format, each with a ``read`` and its endings in ``endings``.

Nothing is given a meaning here: a reader hands on every cell with its place.
"""

from __future__ import annotations

from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING

from hemplit.core.model.grid import Grid, Source
from hemplit.dataclasses import replace
from hemplit.errors import InputError, nearest
from hemplit.files import delimited
from hemplit.files.endings import DATABASES, READERS
from hemplit.files.parquet import of_table
from hemplit.files.together import as_one_of, in_series, is_pattern, matching, of_one_layout, together
from hemplit.servers import is_address

if TYPE_CHECKING:
    from collections.abc import Callable, Collection, Sequence


__all__ = [
    "as_one_of",
    "each_file",
    "in_series",
    "is_address",
    "is_database",
    "is_pattern",
    "of_table",
    "read",
]


def read(
    path: str, *, apart: bool = False, skip_broken: bool = False, without: Collection[str] = ()
) -> tuple[Grid, ...]:
    """All sheets with content of a file, or of the files of a folder or a pattern, those of the same columns as one.

    ``apart`` gives each worksheet of a workbook by itself; ``skip_broken`` leaves out the files of a folder that cannot
    be read, and notes it; ``without`` are files of it that are not wanted. Raises ``InputError`` if there is no such
    file or it is not what its name says.
    """
    try:
        found = _read(path, skip_broken=skip_broken, without=without)
        is_apart = apart or len({grid.source.path for grid in found}) != 1 or is_database(path)
        return found if is_apart else of_one_layout(found)
    except OSError as error:
        hint = "close it in other programs and try again"
        raise InputError(path, f"it cannot be read ({error.strerror or error})", hint) from error
    except UnicodeEncodeError as error:
        raise InputError(path, "its name is no text that a design could hold", "rename the file") from error
    except ValueError as error:  # a name with a zero byte, a pattern such as **a
        raise InputError(path, f"this is no name of a file ({error})", "correct the name") from error


def is_database(path: str) -> bool:
    """Whether it is a database, of which a design names each table."""
    return is_address(path) or Path(path).suffix.lower() in DATABASES


def each_file(path: str) -> tuple[str, ...]:
    """The files of a folder or a pattern, one by one; anything else is itself."""
    if is_address(path):
        return (path,)
    if is_pattern(path):
        return tuple(matching(path)) or (path,)
    return (_sheets_of(path) if Path(path).is_dir() else ()) or (path,)


def _sheets_of(folder: str) -> tuple[str, ...]:
    """The files of a folder that could be sheets."""
    return tuple(file for file in matching(str(Path(folder) / "*")) if Path(file).suffix.lower() in READERS)


def _read(path: str, *, skip_broken: bool, without: Collection[str]) -> tuple[Grid, ...]:
    if is_address(path):
        return _read_database(path)
    file, sign, sheet = path.rpartition("#")
    if sign and not Path(path).exists() and Path(file).is_file():
        return _one_sheet(file, sheet)
    if is_pattern(path):
        kept = [file for file in matching(path) if file not in without]
        return _read_all(path, path, kept, skip_broken=skip_broken)
    if Path(path).is_dir():
        files = _sheets_of(path)
        endings = {Path(file).suffix for file in files}
        pattern = str(Path(path) / ("*" + endings.pop() if len(endings) == 1 else "*"))
        return _read_all(path, pattern, files, skip_broken=skip_broken)
    return _read_file(path)


def _read_database(path: str) -> tuple[Grid, ...]:
    from hemplit.files import database  # the drivers of databases, which few commands need

    return database.read(path)


def _one_sheet(file: str, sheet: str) -> tuple[Grid, ...]:
    """One worksheet of a workbook, or one table of a database, by its name."""
    if is_database(file):
        return _read_database(f"{file}#{sheet}")
    grids = _read_file(file)
    if all(grid.source.sheet is None for grid in grids):
        raise InputError(f"{file}#{sheet}", "there are no sheets in it to choose from", f"leave #{sheet} out")
    found = {str(grid.source.sheet): grid for grid in grids}
    if sheet not in found:
        raise InputError(file, f"it has no sheet '{sheet}' with content", nearest(sheet, found))
    return (found[sheet],)


def _read_all(path: str, pattern: str, files: Sequence[str], *, skip_broken: bool) -> tuple[Grid, ...]:
    if not files:
        file, bracket, sheet = path.rstrip("]").partition("[")
        meant = bracket and Path(file).is_file()
        hint = f"to choose a worksheet: {file}#{sheet}" if meant else f"these are read: {', '.join(READERS)}"
        raise InputError(path, "there is no sheet of that name", hint)
    "".join(files).encode()  # as of one file
    alike = delimited.read_alike(files) if len(files) > 1 else None
    if alike is not None:
        grid, starts = alike
        taken = f"{len(files)} files, {grid.source.taken_as}"
        return (replace(grid, source=Source(pattern, None, taken, tuple(zip(files, starts, strict=True)))),)
    grids: list[Grid] = []
    broken: list[InputError] = []
    for file in files:
        try:
            grids += _read_file(file)
        except InputError as error:
            broken.append(error)
            if not skip_broken:
                hint = f"{error.hint}; or go on without it with --skip-broken" if error.hint else "--skip-broken"
                raise InputError(error.where, error.what, hint if len(files) > 1 else error.hint) from error
    if not grids:
        raise broken[0]
    skipped = tuple(f"{Path(error.where).name} ({error.what})" for error in broken)
    grids[0] = replace(grids[0], skipped=skipped)
    if len(files) == len(grids) == 1:
        return (as_one_of(pattern, grids[0]),)  # next month there will be two
    return together(pattern, grids) if len(files) > 1 else tuple(grids)


def _read_file(path: str) -> tuple[Grid, ...]:
    path.encode()  # some systems know names that are no text
    file = Path(path)
    ending = file.suffix.lower()
    if not file.exists():
        raise InputError(path, "there is no such file", f"look for it in {file.parent.absolute()}")
    if not file.stat().st_size:
        raise InputError(path, "the file is empty", "save the sheet again")
    if is_database(path):
        return _read_database(path)
    if ending in READERS:
        read: Callable[[Path], tuple[Grid, ...]] = import_module(f"{__name__}.{READERS[ending]}").read
        return read(file)
    raise InputError(
        path, f"'{ending or file.name}' is not a kind of file that is read", f"these are: {', '.join(READERS)}"
    )
