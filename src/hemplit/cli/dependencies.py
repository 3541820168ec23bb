"""``hemplit dependencies``: which columns decide which."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING

from hemplit.errors import DONE, InputError

if TYPE_CHECKING:
    from hemplit.cli.screen import Screen

NAME = "dependencies"
HELP = "show which columns of a sheet decide which others, and its keys"
EXAMPLE = "hemplit dependencies demo/jobs.csv --depth 1"


def arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument("sheet", metavar="SHEET", help="a .csv or .xlsx file with one sheet")
    parser.add_argument("--depth", type=depth, default=2, metavar="N", help="most columns that decide together (2)")
    parser.add_argument("--as-is", action="store_true", help="take all texts unchanged, names from the first row")
    parser.add_argument("--json", action="store_true", help="write JSON for a program")


def depth(text: str) -> int:
    """How many columns may decide together, as typed."""
    if not text.isdigit() or not 1 <= int(text) <= 9:
        raise argparse.ArgumentTypeError(f"'{text}' is not a number from 1 to 9")
    return int(text)


def run(given: argparse.Namespace, screen: Screen) -> int:
    """Shows the dependencies of one sheet."""
    from hemplit import flow

    if given.as_is:
        relation = flow.read_as_it_is(given.sheet)
    else:
        relations = list(flow.read([given.sheet], screen.progress).relations.values())
        if len(relations) > 1:
            raise InputError(given.sheet, f"it has {len(relations)} sheets", "save the one that is meant by itself")
        relation = relations[0]
    found = flow.study_relation(relation, given.depth, screen.progress)
    screen.close()
    if screen.as_json:
        from hemplit.views import document

        screen.write_json(document.dependencies(found))
    else:
        from hemplit.views.sheets import show_dependencies

        show_dependencies(screen.console, found)
    return DONE
