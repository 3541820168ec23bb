"""A drawing as SVG: texts as texts in the fonts of the reader, by default in the colours of the reader's screen."""

from __future__ import annotations

from html import escape
from itertools import pairwise
from typing import TYPE_CHECKING

from hemplit.views.pictures.shapes import Block, Ring, Stroke, Words
from hemplit.views.pictures.theme import DAY, FONTS, NIGHT, STYLES

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.model.diagram import Point
    from hemplit.views.pictures.shapes import Drawing, Shape
    from hemplit.views.pictures.theme import Style, Theme

#: How round the corners of lines are.
SOFT = 6.0


def svg_of(drawing: Drawing, theme: Theme | None = None, name: str = "hemplit-drawing") -> str:
    """The SVG of a drawing, in a theme, or in that of the reader's screen; ``name`` is its own on a page.

    >>> from hemplit.views.pictures.shapes import Drawing
    >>> svg_of(Drawing("Boats & more", "", 20, 10, ()), DAY).splitlines()[-2]
    '<title>Boats &amp; more</title><desc></desc>'
    """
    width, height = _number(drawing.width), _number(drawing.height)
    lines = [
        f'<svg xmlns="http://www.w3.org/2000/svg" id="{name}" role="img" width="{width}" height="{height}" '
        f'viewBox="0 0 {width} {height}">',
        f"<style>{_rules(theme, name)}</style>",
        f"<title>{escape(drawing.title)}</title><desc>{escape(drawing.told)}</desc>",
        *map(_element, drawing.shapes),
        "</svg>",
    ]
    return "\n".join(lines) + "\n"


def _rules(theme: Theme | None, name: str) -> str:
    """What the classes of the shapes look like."""
    fonts = ", ".join(f"'{font}'" if " " in font else font for font in FONTS)
    rules = [f"#{name} {{ {_variables(theme or DAY)} }}", f"#{name} text {{ font-family: {fonts} }}"]
    if theme is None:
        rules.append(f"@media (prefers-color-scheme: dark) {{ #{name} {{ {_variables(NIGHT)} }} }}")
    rules += [f"#{name} .{_class(word)} {{ {'; '.join(_looks(style))} }}" for word, style in STYLES.items()]
    return "\n".join(rules)


def _variables(theme: Theme) -> str:
    return "; ".join(f"--{_class(name)}: {colour}" for name, colour in theme.colours.items())


def _class(words: str) -> str:
    return words.replace(" ", "-")


def _looks(style: Style) -> Iterator[str]:
    yield f"fill: var(--{_class(style.fill)})" if style.fill else "fill: none"
    if style.stroke:
        yield f"stroke: var(--{_class(style.stroke)}); stroke-width: {style.width}px"
    if any(style.dash):
        yield f"stroke-dasharray: {style.dash[0]} {style.dash[1]}"
    if style.bold:
        yield "font-weight: bold"
    if style.italic:
        yield "font-style: italic"


def _element(shape: Shape) -> str:
    look = f'class="{_class(shape.style)}"'
    if isinstance(shape, Block):
        size = f'width="{_number(shape.width)}" height="{_number(shape.height)}" rx="{_number(shape.radius)}"'
        return f'<rect {look} x="{_number(shape.x)}" y="{_number(shape.y)}" {size}/>'
    if isinstance(shape, Ring):
        return f'<circle {look} cx="{_number(shape.x)}" cy="{_number(shape.y)}" r="{_number(shape.radius)}"/>'
    if isinstance(shape, Words):
        anchor = ' text-anchor="end"' if shape.ends else ""
        whole = f"<title>{escape(shape.whole)}</title>" if shape.whole else ""
        place = f'x="{_number(shape.x)}" y="{_number(shape.y)}" font-size="{_number(shape.size)}"'
        return f"<text {look} {place}{anchor}>{whole}{escape(shape.text)}</text>"
    return f'<path {look} d="{_path(shape)}"/>'


def _path(stroke: Stroke) -> str:
    return " ".join(word + " ".join(map(_at, points)) for word, points in corners_of(stroke))


def corners_of(stroke: Stroke) -> Iterator[tuple[str, tuple[Point, ...]]]:
    """The parts of a line: M where it begins, L a straight part to a point, Q a curve by one point to another."""
    yield "M", stroke.points[:1]
    for (before, corner), (_, behind) in pairwise(pairwise(stroke.points)):
        if stroke.soft:
            yield "L", (_toward(corner, before, behind),)
            yield "Q", (corner, _toward(corner, behind, before))
        else:
            yield "L", (corner,)
    yield "L", stroke.points[-1:]


def _toward(corner: Point, one: Point, other: Point) -> Point:
    """The point on the way from a corner to one end where the curve begins; short parts have tight curves."""
    length = abs(one[0] - corner[0]) + abs(one[1] - corner[1])
    shorter = min(length, abs(other[0] - corner[0]) + abs(other[1] - corner[1]))
    share = min(SOFT, shorter / 2) / length if length else 0.0
    return corner[0] + (one[0] - corner[0]) * share, corner[1] + (one[1] - corner[1]) * share


def _at(point: Point) -> str:
    return f"{_number(point[0])} {_number(point[1])}"


def _number(value: float) -> str:
    return f"{value:.1f}".rstrip("0").rstrip(".")
