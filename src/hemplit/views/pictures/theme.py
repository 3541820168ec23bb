"""What pictures look like by day and by night. All texts have a contrast of at least 4.5 to what is behind them."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.dataclasses import dataclass, field

if TYPE_CHECKING:
    from collections.abc import Mapping

#: The letters of all pictures: fonts that are on every machine, the widest first.
FONTS = ("DejaVu Sans", "Verdana", "Segoe UI", "Helvetica Neue", "Arial", "Noto Sans", "Noto Sans CJK SC", "sans-serif")


@dataclass(frozen=True)
class Style:
    """How shapes of one sort are drawn, their colours by name: ``dash`` is how long a line is drawn and left away."""

    fill: str = ""
    stroke: str = ""
    width: float = 0.0
    dash: tuple[float, float] = (0.0, 0.0)
    bold: bool = False
    italic: bool = False


@dataclass(frozen=True)
class Theme:
    """The colours by name."""

    colours: Mapping[str, str] = field(default_factory=dict)


DAY = Theme(
    {
        "page": "#fbfaf6",
        "paper": "#ffffff",
        "ink": "#1c2b36",
        "quiet": "#56646e",
        "line": "#5d6f7b",
        "edge": "#cfd6da",
        "key": "#fff6dc",
        "main": "#15616d",
        "main head": "#d5ecec",
        "entity": "#3c5a99",
        "entity head": "#e1e8f6",
        "lookup": "#8a6d1f",
        "lookup head": "#f5edd6",
        "junction": "#8a3f5c",
        "junction head": "#f5e1e9",
        "role": "#8a3f5c",
    }
)
NIGHT = Theme(
    {
        "page": "#12191f",
        "paper": "#1a242c",
        "ink": "#e8eef2",
        "quiet": "#a3b2bc",
        "line": "#8fa3b0",
        "edge": "#33424d",
        "key": "#332d1a",
        "main": "#5cc2c7",
        "main head": "#173e43",
        "entity": "#8fabe8",
        "entity head": "#22304f",
        "lookup": "#d9b75c",
        "lookup head": "#3a311a",
        "junction": "#e091ae",
        "junction head": "#452433",
        "role": "#e091ae",
    }
)

#: The colour of a table by its purpose, and how its edge is drawn, so that colour is not all that tells them apart.
PURPOSES: Mapping[str, tuple[str, float, tuple[float, float]]] = {
    "main": ("main", 2.4, (0, 0)),
    "detail": ("main", 2.4, (0, 0)),
    "entity": ("entity", 1.4, (0, 0)),
    "lookup": ("lookup", 1.2, (0, 0)),
    "range": ("lookup", 1.2, (5, 3)),
    "junction": ("junction", 1.4, (7, 2.5)),
    "other": ("entity", 1.4, (0, 0)),
}

STYLES: Mapping[str, Style] = {
    "page": Style("page"),
    **{f"box {name}": Style("paper", colour, width, dash) for name, (colour, width, dash) in PURPOSES.items()},
    **{f"head {name}": Style(f"{colour} head") for name, (colour, _, _) in PURPOSES.items()},
    **{f"rule {name}": Style("", colour, 1.0) for name, (colour, _, _) in PURPOSES.items()},
    "key row": Style("key"),
    "line": Style("", "line", 1.4),
    "range line": Style("", "line", 1.4, (4, 4)),
    "sign": Style("", "line", 1.4),
    "edge": Style("", "quiet", 2.0),
    "ring": Style("page", "line", 1.4),
    "dot": Style("line"),
    "title": Style("ink", bold=True),
    "name": Style("ink", bold=True),
    "column": Style("ink"),
    "key": Style("ink", bold=True),
    "calculated": Style("ink", italic=True),
    "mark": Style("quiet"),
    "quiet": Style("quiet"),
    "role": Style("role", italic=True),
}
