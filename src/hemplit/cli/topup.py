"""``hemplit topup``: adds what is new in further sheets to what is loaded."""

from __future__ import annotations

import time
from pathlib import Path
from typing import TYPE_CHECKING

from hemplit.cli import options
from hemplit.errors import DONE, LOOK_AT_IT, HemplitError, without_password

if TYPE_CHECKING:
    import argparse

    from hemplit.cli.screen import Screen

NAME = "topup"
HELP = "add what is new in further sheets to what is loaded, and check it; ids stay"
EXAMPLE = "hemplit topup demo/boatyard.design.toml demo/jobs.csv --into demo/boatyard.sqlite"


#: So many seconds pass between two looks at the sheets.
EVERY = 2.0
#: What cannot be added is tried so often again: a database that others use is free soon, and a fault stays one.
TRIES = 10


def arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument("design", metavar="DESIGN", help="the design that was loaded")
    parser.add_argument(
        "sheets", nargs="+", metavar="SHEET", help="further sheets; of a folder those that were not loaded yet"
    )
    options.into(parser, "the database it was loaded into")
    parser.add_argument(
        "--conflicts",
        choices=("stop", "keep", "update"),
        default="stop",
        help="where a known row says something else now: change nothing (stop), keep what is held, or update it",
    )
    parser.add_argument("--strict", action="store_true", help="add nothing if a row contradicts the design")
    parser.add_argument(
        "--leave-out", action="append", default=[], metavar="COLUMN", help="go on without a column that is new"
    )
    parser.add_argument("--dry-run", action="store_true", help="say what would be added, and write nothing")
    parser.add_argument(
        "--watch",
        action="store_true",
        help="stay, and add what is new whenever a sheet is saved, until Ctrl-C",
    )
    parser.add_argument("--json", action="store_true", help="write JSON for a program")


def run(given: argparse.Namespace, screen: Screen) -> int:
    """Adds, and shows what is new; with ``--watch`` again whenever a sheet is saved."""
    if not given.watch:
        return _add(given, screen)
    from hemplit.flow import topping

    code, told, tries = DONE, "", 0
    seen: dict[str, tuple[int, int]] = {}
    try:
        while True:
            now = topping.stamps(given.sheets)
            if now != seen:
                seen, told, tries = now, "", TRIES
            if tries:
                code, told = _try_to_add(given, screen, told)
                if tries == TRIES:
                    screen.note("Watching the sheets; Ctrl-C ends it.")
                tries = tries - 1 if told else 0
            time.sleep(EVERY)
    except KeyboardInterrupt:
        return code


def _try_to_add(given: argparse.Namespace, screen: Screen, told: str) -> tuple[int, str]:
    """Adds; or says why that cannot be now, unless it was ``told``, as of a file that is just being saved."""
    try:
        return _add(given, screen), ""
    except HemplitError as error:
        if str(error) != told:
            screen.note(str(error))
        return LOOK_AT_IT, str(error)


def _add(given: argparse.Namespace, screen: Screen) -> int:
    from hemplit.flow import further, topping

    conflicts = further.Conflicts(given.conflicts)
    how = further.How(conflicts, given.strict, given.dry_run, tuple(given.leave_out))
    into = options.target(given)
    topped = topping.topup(Path(given.design), given.sheets, into, how, screen.progress)
    screen.close()
    for note in topped.notes:
        screen.note(note)
    if screen.as_json:
        from hemplit.views import document

        shown = document.topped(topped.added, topped.conflicts, topped.proof)
        screen.write_json(
            {"target": without_password(into), "written": topped.written, **shown, "told": document.told(topped.like)}
        )
    else:
        from hemplit.views import topups

        topups.show_added(screen.console, topped.sheets, topped.added, topped.like)
        topups.show_aside(screen.console, topped.aside, str(topped.left_out or ""), written=topped.written)
        topups.show_conflicts(screen.console, topped.conflicts, given.conflicts)
        new = sum(rows - known for _, rows, known in topped.sheets)
        # Known rows can have new entries: a further month of each.
        new = new or sum(one.new for one in topped.added.values())
        topups.show_verdict(screen.console, topped.proof, without_password(into), new, topped.why_not)
    return LOOK_AT_IT if topped.needs_a_look else DONE
