"""``hemplit prove``: the proof again, against what the target holds now."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from hemplit.cli import options
from hemplit.errors import DONE, LOOK_AT_IT, without_password

if TYPE_CHECKING:
    import argparse

    from hemplit.cli.screen import Screen

NAME = "prove"
HELP = "check a database against its sheets"
EXAMPLE = "hemplit prove demo/boatyard.design.toml --into demo/boatyard.sqlite"


def arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument("design", metavar="DESIGN", help="the design that was loaded")
    options.into(parser, "the database it was loaded into")
    options.skip_broken(parser)
    options.details(parser)
    parser.add_argument("--json", action="store_true", help="write JSON for a program")


def run(given: argparse.Namespace, screen: Screen) -> int:
    """Shows the proof."""
    from hemplit.flow import loading

    into = options.target(given)
    loaded = loading.prove_design(Path(given.design), into, screen.progress, skip_broken=given.skip_broken)
    screen.close()
    for note in loaded.sheets.notes:
        screen.note(note)
    for why in loaded.unproven:
        screen.note(f"Not checked: {why}.")
    if screen.as_json:
        from hemplit.views import document

        screen.write_json(
            {"target": without_password(into), **document.proof(loaded.proof), "told": document.told(loaded.told)}
        )
    else:
        from hemplit.views.loads import show_proof, show_told

        show_proof(screen.console, loaded.proof, details=given.details)
        show_told(screen.console, loaded.told)
    return LOOK_AT_IT if loaded.needs_a_look else DONE
