"""``hemplit draw``: the entity–relationship diagram as a picture."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from hemplit.cli import options
from hemplit.errors import DONE, InputError

if TYPE_CHECKING:
    import argparse

    from hemplit.cli.screen import Screen

NAME = "draw"
HELP = "draw the tables with their keys and references as a picture"
EXAMPLE = "hemplit draw demo/boatyard.design.toml --out boatyard.svg"
ENDINGS = (".svg", ".png", ".pdf")


def arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument("of", metavar="DESIGN|DATABASE", help="a design file, or a database into which one was loaded")
    parser.add_argument("--out", required=True, metavar="FILE", help="the picture: NAME.svg, NAME.png or NAME.pdf")
    parser.add_argument("--schema", default="", metavar="NAME", help="the schema of a database; else its usual one")
    parser.add_argument("--dark", action="store_true", help="light on dark; an .svg follows the reader's screen else")


def run(given: argparse.Namespace, screen: Screen) -> int:
    """Draws and writes the picture."""
    from hemplit.flow import drawing
    from hemplit.views.pictures import picture_as

    path = Path(given.out)
    ending = path.suffix.lower()
    if ending not in ENDINGS:
        raise InputError(given.out, "not a picture that can be drawn", f"end it in {', '.join(ENDINGS)}")
    picture = drawing.picture_of(options.with_schema(given.of, given.schema))
    drawing.save_shown(path, picture_as(ending, picture, dark=given.dark))
    screen.close()
    tables, ties = len(picture.boxes), sum(not route.tie.is_range for route in picture.routes)
    screen.note(
        f"{path} shows {tables} table{'s' if tables > 1 else ''} and {ties} reference{'' if ties == 1 else 's'}."
    )
    return DONE
