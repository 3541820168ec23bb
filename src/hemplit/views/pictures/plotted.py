"""A drawing as PNG or PDF, by Matplotlib."""

from __future__ import annotations

import io
import warnings
from typing import TYPE_CHECKING, Any

from hemplit.errors import InputError
from hemplit.views.pictures.shapes import Block, Ring, Stroke, Words
from hemplit.views.pictures.svg import corners_of
from hemplit.views.pictures.theme import FONTS, STYLES

if TYPE_CHECKING:
    from hemplit.views.pictures.shapes import Drawing, Shape
    from hemplit.views.pictures.theme import Theme

#: Points of a PNG to an inch of 100 pixels: two for each pixel, so that it stays sharp on paper and large screens.
POINTS = 200
#: A point of type is so many of the pixels that all lengths are in.
POINT = 72 / 100


def plotted(drawing: Drawing, form: str, theme: Theme) -> bytes:
    """The drawing as the content of a file of this form, png or pdf. Raises ``InputError`` without Matplotlib."""
    try:
        from matplotlib import font_manager, rc_context
        from matplotlib.backends.backend_agg import FigureCanvasAgg
        from matplotlib.figure import Figure
    except ImportError as error:
        hint = 'pip install "hemplit[pictures]", or draw an .svg, which needs nothing'
        raise InputError(f".{form}", "it needs Matplotlib, which is not installed", hint) from error
    there = set(font_manager.get_font_names())
    fonts = [font for font in FONTS if font in there] or ["DejaVu Sans"]
    figure = Figure(figsize=(drawing.width / 100, drawing.height / 100), dpi=POINTS)
    FigureCanvasAgg(figure)
    axes = figure.add_axes((0, 0, 1, 1))
    axes.set_axis_off()
    axes.set_xlim(0, drawing.width)
    axes.set_ylim(drawing.height, 0)
    held = io.BytesIO()
    # Letters that no font here has are drawn as boxes; the picture is right all the same.
    with rc_context({"font.family": fonts, "pdf.fonttype": 42}), warnings.catch_warnings():
        warnings.filterwarnings("ignore", "Glyph", UserWarning)
        for depth, shape in enumerate(drawing.shapes):
            _draw(axes, shape, theme, depth)
        # Without a date the same tables give the same file.
        told: dict[str, Any] = {"CreationDate": None} if form == "pdf" else {}
        figure.savefig(held, format=form, dpi=POINTS, metadata={"Title": drawing.title, **told})
    return held.getvalue()


def _draw(axes: Any, shape: Shape, theme: Theme, depth: int) -> None:
    from matplotlib.patches import Circle, FancyBboxPatch, PathPatch
    from matplotlib.path import Path

    style = STYLES[shape.style]
    look: dict[str, Any] = {
        "facecolor": theme.colours[style.fill] if style.fill else "none",
        "edgecolor": theme.colours[style.stroke] if style.stroke else "none",
        "linewidth": style.width * POINT,
        "linestyle": (0, [part * POINT for part in style.dash]) if any(style.dash) else "solid",
        "zorder": depth,
    }
    if isinstance(shape, Block):
        corners = f"round,pad=0,rounding_size={shape.radius}" if shape.radius else "square,pad=0"
        axes.add_patch(FancyBboxPatch((shape.x, shape.y), shape.width, shape.height, boxstyle=corners, **look))
    elif isinstance(shape, Ring):
        axes.add_patch(Circle((shape.x, shape.y), shape.radius, **look))
    elif isinstance(shape, Stroke):
        codes = {"M": [Path.MOVETO], "L": [Path.LINETO], "Q": [Path.CURVE3, Path.CURVE3]}
        parts = list(corners_of(shape))
        points = [point for _, some in parts for point in some]
        axes.add_patch(PathPatch(Path(points, [code for word, _ in parts for code in codes[word]]), **look))
    elif isinstance(shape, Words):
        axes.text(
            shape.x,
            shape.y,
            shape.text,
            fontsize=shape.size * POINT,
            color=theme.colours[style.fill],
            ha="right" if shape.ends else "left",
            va="baseline",
            weight="bold" if style.bold else "normal",
            style="italic" if style.italic else "normal",
            zorder=depth,
            parse_math=False,
        )
