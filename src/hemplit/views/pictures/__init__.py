"""Pictures: what is drawn as shapes, and each form of file that they are written in."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.views.pictures.shapes import drawing_of
from hemplit.views.pictures.svg import svg_of
from hemplit.views.pictures.theme import DAY, NIGHT

if TYPE_CHECKING:
    from hemplit.core.model.diagram import Picture


def picture_as(ending: str, picture: Picture, *, dark: bool = False) -> bytes:
    """A picture as the content of a file with this ending: .svg, .png or .pdf.

    Raises ``InputError`` if the library for points or pages is not there.
    """
    drawing = drawing_of(picture)
    if ending == ".svg":
        return svg_of(drawing, NIGHT if dark else None).encode()
    from hemplit.views.pictures.plotted import plotted

    return plotted(drawing, ending.removeprefix("."), NIGHT if dark else DAY)
