"""``hemplit draft``: proposes the design and writes it."""

from __future__ import annotations

import argparse
import csv
from pathlib import Path
from typing import TYPE_CHECKING

from hemplit.cli import options
from hemplit.errors import DONE

if TYPE_CHECKING:
    from hemplit.cli.screen import Screen
    from hemplit.core.draft.redraft import Redrafted

NAME = "draft"
HELP = "propose tables for the sheets, and write them as a design file that you can edit"
EXAMPLE = "hemplit draft demo/jobs.csv --out demo/jobs.design.toml"


def arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument("sheets", nargs="+", metavar="SHEET", help="a .csv or .xlsx file")
    parser.add_argument("--out", metavar="FILE", help="the design file (beside the first sheet, SHEET.design.toml)")
    parser.add_argument("--replace", action="store_true", help="write over a design that somebody has edited")
    parser.add_argument("--update", action="store_true", help="add new columns and steps to a design that was edited")
    parser.add_argument("--reasons", action="store_true", help="say with each table why it is there")
    wishes = parser.add_argument_group("your wishes")
    wishes.add_argument(
        "--lookups",
        choices=("none", "some", "many"),
        default="some",
        help="tables for repeated words (some)",
    )
    wishes.add_argument("--depth", type=_depth, default=2, metavar="N", help="try combinations of up to N columns (2)")
    wishes.add_argument("--keep", action="append", default=[], metavar="COLUMN", help="store a computed column")
    wishes.add_argument(
        "--key", action="append", default=[], type=_key, metavar="TABLE=COLUMN", help="the key of a table"
    )
    wishes.add_argument(
        "--together",
        action="append",
        default=[],
        type=_columns,
        metavar="A,B,C",
        help="keep these in one table",
    )
    wishes.add_argument(
        "--apart",
        action="append",
        default=[],
        type=_columns,
        metavar="A,B",
        help="keep these in different tables",
    )
    wishes.add_argument("--ids", default="number", metavar="number|STYLE", help="generated ids, for example B-0001")
    wishes.add_argument(
        "--dates", action="store_true", help="a table of dates with year, quarter, month, week, weekday"
    )
    options.skip_broken(parser)
    options.area(parser)
    parser.add_argument("--json", action="store_true", help="write JSON for a program")


def _depth(text: str) -> int:
    if not text.isdigit() or not 1 <= int(text) <= 6:
        raise argparse.ArgumentTypeError(f"'{text}' is no number from 1 to 6")
    return int(text)


def _key(text: str) -> tuple[str, str]:
    table, equals, column = text.partition("=")
    if not (table and equals and column):
        raise argparse.ArgumentTypeError(f"'{text}' is not of the form TABLE=COLUMN")
    return table, column


def _columns(text: str) -> tuple[str, ...]:
    columns = tuple(part.strip() for part in next(csv.reader([text]), []))
    if len(columns) < 2 or not all(columns):
        raise argparse.ArgumentTypeError(f"'{text}' does not name two columns or more, with commas between")
    return columns


def run(given: argparse.Namespace, screen: Screen) -> int:
    """Drafts, writes, and shows the tables."""
    from hemplit.core.draft.wishes import Wishes
    from hemplit.flow import designs, reading, studying

    out = Path(given.out) if given.out else designs.default_design_path(given.sheets[0])
    designs.check_place(out, over_edited=True)
    sheets = reading.read(given.sheets, screen.progress, skip_broken=given.skip_broken, area=given.area)
    for note in sheets.notes:
        screen.note(note)
    wishes = Wishes(
        given.lookups,
        tuple(given.keep),
        tuple(given.key),
        tuple(given.together),
        tuple(given.apart),
        given.ids,
        given.depth,
        given.dates,
    )
    if designs.is_edited_design(out) and not given.replace:
        made = designs.redraft(out, sheets, screen.progress, wishes)
        return _redraft(out, made, screen, designs.update_design(out, made) if given.update and made.updates else None)
    design = studying.draft(sheets, screen.progress, wishes)
    design = designs.save_design(design, out, over_edited=given.replace)
    exceptions = studying.exceptions(design, sheets)
    screen.close()
    if screen.as_json:
        from hemplit.views import document

        screen.write_json({"file": str(out), **document.design(design), "exceptions": document.exceptions(exceptions)})
    else:
        from hemplit.views.designs import show_design
        from hemplit.views.exceptions import show_exceptions
        from hemplit.views.steps import show_proposals
        from hemplit.views.style import following

        show_design(screen.console, design, designs.row_counts(design, sheets), reasons=given.reasons)
        show_proposals(screen.console, [step for sheet in design.sheets for step in sheet.steps])
        show_exceptions(screen.console, exceptions)
        screen.console.print()
        screen.note(f"The design is in {out}. Edit it if you like.")
        following(screen.console, f"hemplit why {out}", f"hemplit load {out} --into NAME.sqlite")
    return DONE


def _redraft(out: Path, made: Redrafted, screen: Screen, copy: Path | None) -> int:
    """Shows what is new for an edited design, and what a draft would do otherwise; ``copy`` is the file as it was."""
    screen.close()
    if screen.as_json:
        from hemplit.views import document

        screen.write_json({"file": str(out), "copy": None if copy is None else str(copy), **document.redrafted(made)})
        return DONE
    from hemplit.views.designs import show_redrafted

    show_redrafted(screen.console, str(out), made, "" if copy is None else copy.name)
    return DONE
