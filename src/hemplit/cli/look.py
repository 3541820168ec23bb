"""``hemplit look``: what is in the sheets."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.errors import DONE

if TYPE_CHECKING:
    import argparse

    from hemplit.cli.screen import Screen

NAME = "look"
HELP = "show what is in the sheets: columns with kind, blanks, repeats, keys, and the trouble found"
EXAMPLE = "hemplit look demo/jobs.csv"


def arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument("sheets", nargs="+", metavar="SHEET", help="a .csv or .xlsx file")
    parser.add_argument("--json", action="store_true", help="write JSON for a program")


def run(given: argparse.Namespace, screen: Screen) -> int:
    """Shows each sheet."""
    from hemplit import flow

    sheets = flow.read(given.sheets, screen.progress)
    found = list(flow.findings(sheets, screen.progress).values())
    screen.close()
    if screen.as_json:
        from hemplit.views import document

        screen.write_json({"sheets": [document.look(one) for one in found]})
    else:
        from hemplit.views.sheets import show_sheet

        for one in found:
            show_sheet(screen.console, one)
    return DONE
