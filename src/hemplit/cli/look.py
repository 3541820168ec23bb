"""``hemplit look``: what is in the sheets."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.cli import options
from hemplit.errors import DONE, without_password

if TYPE_CHECKING:
    import argparse

    from hemplit.cli.screen import Screen
    from hemplit.core.model.tables import Peek

NAME = "look"
HELP = "look at a sheet: columns, types, blanks, possible keys, problems; or at a database"
EXAMPLE = "hemplit look demo/jobs.csv"


#: So many of the first rows of each table of a target are shown.
FIRST = 3


def arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument(
        "sheets",
        nargs="+",
        metavar="SHEET",
        help="a sheet, a workbook, FILE.xlsx#WORKSHEET, a folder of sheets, a pattern such as 'haul-outs/*.csv', "
        "NAME.sqlite#TABLE or postgresql://HOST/DATABASE#TABLE; or a database into which tables were loaded",
    )
    parser.add_argument("--schema", default="", metavar="NAME", help="the schema of a database that is looked at")
    options.skip_broken(parser)
    options.area(parser)
    parser.add_argument("--json", action="store_true", help="write JSON for a program")


def run(given: argparse.Namespace, screen: Screen) -> int:
    """Shows each sheet."""
    from hemplit.flow import looking, reading, studying

    if len(given.sheets) == 1:
        held = looking.peek(given.sheets[0], FIRST, schema=given.schema)
        if held is not None:
            _show_held(held, without_password(given.sheets[0]), screen)
            return DONE
    sheets = reading.read(given.sheets, screen.progress, skip_broken=given.skip_broken, area=given.area)
    found = studying.findings(sheets, screen.progress)
    several = len(sheets.grids) > 1
    together = studying.together(sheets, found) if several or screen.as_json else None
    screen.close()
    for note in sheets.notes:
        screen.note(note)
    if screen.as_json and together is not None:
        from hemplit.views import document

        listed = []
        for name, one in found.items():
            own = name in sheets.grids
            changed = list(looking.changes_of(sheets, name)) if own else []
            proposed = list(looking.proposals_of(sheets, name)) if own else []
            listed.append(document.look(one) | document.changes(changed, proposed))
        screen.write_json({"sheets": listed, **document.together(together)})
    else:
        from hemplit.views.previews import show_overview, show_preview, show_together
        from hemplit.views.sheets import show_sheet
        from hemplit.views.style import following

        if together is not None:
            show_overview(screen.console, found)
            show_together(screen.console, together, found)
        for name, one in found.items():
            show_sheet(screen.console, one)
            grid = sheets.grids[sheets.parents.get(name, name)]
            show_preview(screen.console, grid, sheets.relations[name])
        typed = " ".join(given.sheets)
        following(screen.console, *([] if several else [f"hemplit dependencies {typed}"]), f"hemplit draft {typed}")
    return DONE


def _show_held(held: tuple[Peek, ...], target: str, screen: Screen) -> None:
    screen.close()
    if screen.as_json:
        from hemplit.views import document

        screen.write_json({"target": target, **document.held(held)})
    else:
        from hemplit.views.loads import show_held

        show_held(screen.console, held, target)
