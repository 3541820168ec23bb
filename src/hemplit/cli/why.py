"""``hemplit why``: the reasons for a design, a table or a column."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from hemplit.errors import DONE, LOOK_AT_IT, InputError

if TYPE_CHECKING:
    import argparse

    from hemplit.cli.screen import Screen

NAME = "why"
HELP = "say why the tables are as they are, normal form by normal form, or write a page about it"
EXAMPLE = "hemplit why demo/boatyard.design.toml boats.berth"


def arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument("design", metavar="DESIGN", help="a design file")
    parser.add_argument("of", nargs="?", metavar="TABLE[.COLUMN]|HEADER", help="one table, or one column")
    parser.add_argument("--page", default="", metavar="FILE.html", help="write a page about all of it for a colleague")
    parser.add_argument("--json", action="store_true", help="write JSON for a program")


def run(given: argparse.Namespace, screen: Screen) -> int:
    """Shows the story, or the reasons for what is asked."""
    from hemplit.core.explain import reasons
    from hemplit.core.explain.present import asked_for
    from hemplit.core.explain.story import story as story_of
    from hemplit.flow import studying
    from hemplit.views import document, whys

    if given.page:
        return _write_page(given, screen)
    explained = studying.explain(Path(given.design), screen.progress)
    design, findings, relations = explained.design, explained.findings, explained.sheets.relations
    screen.close()
    if given.of is None:
        story = story_of(design, findings, relations)
        if screen.as_json:
            screen.write_json(document.story(story))
        else:
            whys.show_story(screen.console, story)
        return DONE
    table, column = asked_for(design, given.of)
    if column:
        asked = reasons.of_column(design, table, column, findings, relations)
    else:
        asked = reasons.of_table(design, table, findings, relations)
    line = explained.line_of(asked.place)
    if screen.as_json:
        screen.write_json({"file": given.design, "line": line, **document.reasons(asked)})
    else:
        whys.show_reasons(screen.console, asked, f"line {line} of {given.design}" if line else given.design)
    return DONE


def _write_page(given: argparse.Namespace, screen: Screen) -> int:
    """Writes the page, which shows the whole design."""
    from hemplit.flow import drawing, walking
    from hemplit.views.page import page_of

    path = Path(given.page)
    if path.suffix.lower() not in (".html", ".htm"):
        raise InputError(given.page, "the page is a file in HTML", "end its name in .html")
    if given.of is not None or given.json:
        raise InputError("--page", "it tells of the whole design, for people", "leave the rest out")
    walk = walking.walk(Path(given.design), screen.progress)
    page = page_of(walk).encode("utf-8", "backslashreplace")
    drawing.save_shown(path, page)
    screen.close()
    screen.note(f"{path} shows the way from the sheets to {len(walk.excerpts)} tables. Open it in a browser.")
    return DONE if walk.proof.holds else LOOK_AT_IT
