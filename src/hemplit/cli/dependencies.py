"""``hemplit dependencies``: which columns decide which."""

from __future__ import annotations

import argparse
import math
from typing import TYPE_CHECKING, Any

from hemplit.cli import options
from hemplit.errors import DONE, LOOK_AT_IT, InputError

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.cli.screen import Screen
    from hemplit.core.model.relation import Relation

NAME = "dependencies"
HELP = "show which columns determine which others, and what could be a key"
MOST_DEPTH = 99
#: Up to so many columns there is no telling number of dependencies.
MANY_COLUMNS = 22
#: Beyond this share "nearly" means nothing.
MOST_SHARE = 0.5
EXAMPLE = "hemplit dependencies demo/jobs.csv --depth 1"


def arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument("sheet", metavar="SHEET", help="a .csv or .xlsx file with one sheet")
    parser.add_argument(
        "--depth",
        type=depth,
        default=3,
        metavar="N|all",
        help="try combinations of up to N columns (3)",
    )
    parser.add_argument(
        "--near",
        type=share,
        default=0.02,
        metavar="SHARE",
        help="also show those broken by at most this share of rows (0.02), on small sheets by one that may be a typo",
    )
    parser.add_argument("--seconds", type=seconds, metavar="N", help="stop after N seconds and say what is missing")
    parser.add_argument(
        "--ignore-blanks",
        action="store_true",
        help="ignore rows where a determining column is blank (else blank is a value)",
    )
    parser.add_argument("--all", action="store_true", help="show those, too, that may be coincidence")
    options.area(parser)
    parser.add_argument("--as-is", action="store_true", help="skip all cleaning; row 1 is the header")
    parser.add_argument("--json", action="store_true", help="write JSON for a program")


def depth(text: str) -> int | None:
    """How many columns may decide together, as typed; None for any number."""
    if text == "all":
        return None
    if not text.isdigit() or not 1 <= int(text) <= MOST_DEPTH:
        raise argparse.ArgumentTypeError(f"'{text}' is not a number from 1 to {MOST_DEPTH}, nor all")
    return int(text)


def share(text: str) -> float:
    """A share as typed: 0.02 or 2%."""
    try:
        given = float(text.removesuffix("%")) / (100 if text.endswith("%") else 1)
    except ValueError:
        given = -1
    if not 0 <= given < MOST_SHARE:
        raise argparse.ArgumentTypeError(f"'{text}' is not a share below {MOST_SHARE}, such as 0.02 or 2%")
    return given


def seconds(text: str) -> float:
    """A time limit as typed."""
    try:
        given = float(text)
    except ValueError:
        given = 0
    if not 0 < given < math.inf:
        raise argparse.ArgumentTypeError(f"'{text}' is not a number of seconds")
    return given


def run(given: argparse.Namespace, screen: Screen) -> int:
    """Shows the dependencies of one sheet."""
    from hemplit.flow import reading, studying

    if given.as_is and given.area:
        raise InputError(f"--area {given.area}", "with --as-is all cells are taken", "leave one of the two out")
    if given.as_is:
        relation = reading.read_as_it_is(given.sheet)
    else:
        sheets = reading.read([given.sheet], screen.progress, uncorrected=True, area=given.area)
        relations = [relation for name, relation in sheets.relations.items() if name not in sheets.parents]
        if len(relations) > 1:
            hint = "choose one: FILE.xlsx#WORKSHEET, or --area A4:M177"
            raise InputError(given.sheet, f"it holds {len(relations)} tables", hint)
        relation = relations[0]
    if given.depth is None and len(relation.columns) > MANY_COLUMNS and not given.ignore_blanks:
        screen.note(
            f"{len(relation.columns)} columns, with any number of them on the left: there may be millions of "
            "dependencies. --json writes them as they are found; --seconds ends the search."
        )
        if screen.as_json:
            return _stream(relation, given.seconds, screen)
    asked = studying.Asked(given.depth, given.near, given.seconds, given.ignore_blanks)
    found = studying.study_ties(relation, asked, screen.progress)
    screen.close()
    if screen.as_json:
        from hemplit.views import document

        screen.write_json(document.dependencies(found))
    else:
        from hemplit.views.sheets import show_dependencies
        from hemplit.views.style import following

        show_dependencies(screen.console, found, weak=given.all)
        following(screen.console, f"hemplit draft {given.sheet}")
    return LOOK_AT_IT if found.unfinished else DONE


def _stream(relation: Relation, seconds: float | None, screen: Screen) -> int:
    """Writes the same document without evidence, one dependency after the other."""
    from hemplit.core.study.dependencies import TimeLimitError
    from hemplit.flow import studying
    from hemplit.views import document

    keys: list[list[str]] = []
    unfinished: list[str] = []

    def found() -> Iterator[dict[str, Any]]:
        try:
            for left, decided, is_key in studying.stream_dependencies(relation, seconds, screen.progress):
                if is_key:
                    keys.append(list(left))
                yield from ({"left": list(left), "right": right} for right in decided)
        except TimeLimitError as limit:
            unfinished.append(str(limit))

    screen.stream_json(document.stream_head(relation), "dependencies", found())
    screen.end_json({"keys": keys, "unfinished": "".join(unfinished)})
    screen.close()
    return LOOK_AT_IT if unfinished else DONE
