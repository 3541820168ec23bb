"""The diagram of a design, or of what a database holds, and the file that it is drawn into."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from hemplit.core.design.outline import outlines
from hemplit.core.diagram import lay_out
from hemplit.core.diagram.described import diagram_of
from hemplit.disk import write_bytes
from hemplit.errors import InputError, TargetError
from hemplit.flow.opening import is_design, open_design

if TYPE_CHECKING:
    from hemplit.core.model.diagram import Picture


def picture_of(text: str) -> Picture:
    """The picture of the tables of a design file or of a target, which may name a schema behind a #.

    Raises ``InputError`` or ``TargetError`` if there are no tables to draw.
    """
    if is_design(text):
        _, design = open_design(Path(text), write=False)
        title, tables = title_of(Path(text)), outlines(design)
    else:
        from hemplit.targets import target_for

        try:
            place = target_for(text)
        except TargetError as error:
            hint = f"draft a sheet first: hemplit draft {text}"
            raise InputError(text, "this is neither a design nor a database", hint) from error
        place.check_held()
        title, tables = place.text, place.outlines()
    if not tables:
        raise InputError(title, "Hemplit has loaded no tables into it", "draw the design, or load it first")
    return lay_out(diagram_of(title, tables))


def title_of(path: Path) -> str:
    """What a design is called.

    >>> title_of(Path("yard/boats.design.toml"))
    'boats'
    """
    return path.name.removesuffix(".toml").removesuffix(".design")


def save_shown(path: Path, shown: bytes) -> None:
    """Writes a picture or a page, in the place of what is there. Raises ``InputError`` if its folder is not there."""
    if not path.parent.is_dir():
        raise InputError(str(path), "its folder does not exist", f"make the folder {path.parent} first")
    write_bytes(path, shown)
