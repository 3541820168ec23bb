"""Opening a design: its text, and what it says; one of an older format is brought to the present one first."""

from __future__ import annotations

from itertools import count
from pathlib import Path
from typing import TYPE_CHECKING

from hemplit import files
from hemplit.core import shape
from hemplit.dataclasses import replace
from hemplit.design_file.read import check_size, from_toml, text_of
from hemplit.design_file.upgrade import is_old, old_sheets, upgraded
from hemplit.design_file.words import FORMAT
from hemplit.disk import write_whole
from hemplit.errors import DesignError, InputError

if TYPE_CHECKING:
    from hemplit.core.model.design import Design
    from hemplit.core.model.relation import Step
    from hemplit.design_file.upgrade import OldSheet


def open_design(path: Path, *, write: bool = True) -> tuple[str, Design]:
    """The text of a design file and the design; an older one is written anew, if it may be, and kept as it was.

    Raises ``DesignError`` if it cannot be read, or makes no sense.
    """
    if path.is_file() and not is_design(str(path)):
        hint = f"draft it first: hemplit draft {path.name}"
        raise DesignError(str(path), "this is a sheet, and a design is wanted here", hint)
    text = text_of(path)
    check_size(text, str(path))
    if not is_old(text):
        return text, from_toml(text, str(path))
    try:
        new = upgraded(text, {one.name: _steps_now(one, path.parent) for one in old_sheets(text)})
    except InputError as error:
        what = f"it is of an older format, and its sheet is needed to bring it to format {FORMAT}: {error}"
        raise DesignError(str(path), what) from error
    design = from_toml(new, str(path))
    told = f"{path.name} is brought to format {FORMAT}: steps are rules now, and know no rows by their numbers"
    if write:
        copy = copy_of(path)
        write_whole(copy, text)
        write_whole(path, new)
        told += f"; it is kept as it was in {copy.name}"
    return new, replace(design, told=(told, *design.told))


def _steps_now(old: OldSheet, folder: Path) -> tuple[Step, ...]:
    """The steps that are found on a sheet now."""
    grids = files.read(str(folder / old.file))
    grid = next((one for one in grids if one.source.sheet == old.sheet), grids[0])
    return shape.shape(grid, asked=old.area)[0].relation.steps


def copy_of(path: Path) -> Path:
    """Where a design goes as it was before it is changed: beside it, under a name that is free.

    >>> copy_of(Path("yard.design.toml")).name
    'yard.before-1.toml'
    """
    stem = path.name.removesuffix(".toml").removesuffix(".design")
    names = (path.with_name(f"{stem}.before-{number}.toml") for number in count(1))
    return next(name for name in names if not name.exists())


def is_design(path: str) -> bool:
    """Whether a file on the command line is a design and not a sheet."""
    return path.lower().endswith(".toml")
