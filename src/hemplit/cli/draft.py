"""``hemplit draft``: proposes the design and writes it."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from hemplit.errors import DONE

if TYPE_CHECKING:
    import argparse

    from hemplit.cli.screen import Screen

NAME = "draft"
HELP = "propose the tables for the sheets and write them as a design file that you can edit"
EXAMPLE = "hemplit draft demo/jobs.csv --out demo/jobs.design.toml"


def arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument("sheets", nargs="+", metavar="SHEET", help="a .csv or .xlsx file")
    parser.add_argument("--out", metavar="FILE", help="the design file (beside the first sheet, SHEET.design.toml)")
    parser.add_argument("--replace", action="store_true", help="write over a design that somebody has edited")
    parser.add_argument("--json", action="store_true", help="write JSON for a program")


def run(given: argparse.Namespace, screen: Screen) -> int:
    """Drafts, writes, and shows the tables."""
    from hemplit import flow

    out = Path(given.out) if given.out else flow.default_design_path(given.sheets[0])
    sheets = flow.read(given.sheets, screen.progress)
    for note in sheets.notes:
        screen.note(note)
    design = flow.draft(sheets, screen.progress)
    design = flow.save_design(design, out, over_edited=given.replace)
    screen.close()
    if screen.as_json:
        from hemplit.views import document

        screen.write_json({"file": str(out), **document.design(design)})
    else:
        from hemplit.views.designs import show_design

        show_design(screen.console, design)
        screen.note(f"The design is in {out}. Edit it if you like, then: hemplit load {out} --into NAME.sqlite")
    return DONE
