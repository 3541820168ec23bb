"""Files → grids: one module per format. To add one, add a module with ``ENDINGS`` and ``read`` and a line below.

Nothing is given a meaning here: a reader hands on every cell with its place.
"""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from hemplit.errors import InputError
from hemplit.files import delimited, workbook

if TYPE_CHECKING:
    from hemplit.core.model.grid import Grid

FORMATS = (delimited, workbook)
ENDINGS = tuple(ending for module in FORMATS for ending in module.ENDINGS)


def read(path: str) -> tuple[Grid, ...]:
    """All sheets with content of one file.

    Raises ``InputError`` if there is no such file or it is not what its name says.
    """
    file = Path(path)
    ending = file.suffix.lower()
    try:
        if file.is_dir():
            raise InputError(path, "this is a folder", "name the sheets in it")
        if not file.exists():
            raise InputError(path, "there is no such file", f"look for it in {file.parent.absolute()}")
        if not file.stat().st_size:
            raise InputError(path, "the file is empty", "save the sheet again")
        for module in FORMATS:
            if ending in module.ENDINGS:
                return module.read(file)
    except OSError as error:
        raise InputError(
            path, f"it cannot be read ({error.strerror})", "close it in other programs and try again"
        ) from error
    raise InputError(
        path, f"'{ending or file.name}' is not a kind of file that is read", f"these are: {', '.join(ENDINGS)}"
    )
