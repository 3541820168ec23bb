"""``hemplit tally``: totals out of a database, compared with the flat sheets."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from hemplit.cli import options
from hemplit.errors import DONE, LOOK_AT_IT, InputError

if TYPE_CHECKING:
    import argparse

    from hemplit.cli.screen import Screen
    from hemplit.core.tally.answer import Tallied

NAME = "tally"
HELP = "add up columns by others across the tables, and compare with the sheets"
EXAMPLE = 'hemplit tally demo/boatyard.design.toml --into demo/boatyard.sqlite --of "Labour Cost" --by Owner'


def arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument("design", metavar="DESIGN", help="the design that was loaded")
    options.into(parser, "the database it was loaded into")
    parser.add_argument(
        "--of",
        action="append",
        default=[],
        metavar="COLUMNS",
        help='what to add up, with commas between; or "average of COLUMN", smallest, largest, "number of TABLE"',
    )
    parser.add_argument(
        "--by",
        action="append",
        default=[],
        metavar="COLUMNS",
        help='a row for each of their values; of a date "month of COLUMN", year, quarter, week, weekday',
    )
    parser.add_argument("--across", default="", metavar="COLUMN", help="a column for each of its values")
    parser.add_argument(
        "--where",
        action="append",
        default=[],
        metavar="CONDITION",
        help='only rows such as "Status = done or invoiced", "Opened >= 2026-04-01", "Boat is blank"',
    )
    parser.add_argument("--sql", action="store_true", help="print the statement")
    parser.add_argument("--out", metavar="FILE", help="write it as .csv, .xlsx, .json, .png, .svg or .pdf")
    parser.add_argument("--json", action="store_true", help="write JSON for a program")


def run(given: argparse.Namespace, screen: Screen) -> int:
    """Shows the totals, and whether the sheets say the same."""
    from hemplit.core.model.tally import Ask
    from hemplit.flow import tallying

    into = options.target(given)
    if not given.of:
        if given.by or given.across or given.where:
            raise InputError("hemplit tally", "it is not said what to add up", 'name columns: --of "COLUMN, COLUMN"')
        return _suggest(given, into, screen)
    ask = Ask(tuple(given.of), tuple(given.by), given.across, tuple(given.where))
    tallied = tallying.tally(Path(given.design), into, ask, screen.progress)
    screen.close()
    if given.out:
        _write(tallied, Path(given.out))
    if screen.as_json:
        from hemplit.views import tallies

        screen.write_json(tallies.as_json(tallied))
    elif given.sql:
        screen.stdout.write("\n".join(tallied.statements))
    else:
        from hemplit.views.tallies import show_tally

        show_tally(screen.console, tallied)
        if given.out:
            screen.note(f"It is in {given.out}.")
    return LOOK_AT_IT if tallied.differences else DONE


def _suggest(given: argparse.Namespace, into: str, screen: Screen) -> int:
    """What can be asked, for somebody who has asked nothing yet."""
    from hemplit.flow import tallying
    from hemplit.views.style import NAME, following, plain, say

    saved, asked = tallying.questions(Path(given.design), into, screen.progress)
    screen.close()
    if screen.as_json:
        screen.write_json(
            {
                "saved": [{"name": one.name, **vars(one.ask)} for one in saved],
                "questions": [{"of": one.of, "by": one.by, "across": one.across} for one in asked],
            }
        )
        return DONE
    if saved:
        say(screen.console, "The design keeps these; each is a view of that name, too:")
        for one in saved:
            command = plain(options.asking(one.ask, given.design, given))
            say(screen.console, f"[{NAME}]{plain(one.name)}[/]  {command}", indent=2)
    if not asked:
        say(screen.console, "Nothing in the tables asks to be added up; name columns with --of and --by.")
        return DONE
    following(screen.console, *(options.asking(one, given.design, given) for one in asked))
    return DONE


def _write(tallied: Tallied, path: Path) -> None:
    from hemplit.flow import drawing
    from hemplit.views.tallies import tally_as

    drawing.save_shown(path, tally_as(path.suffix.lower(), tallied))
