"""``hemplit help``: what there is to know of a subject."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.errors import DONE

if TYPE_CHECKING:
    import argparse

    from hemplit.cli.screen import Screen

NAME = "help"
HELP = "explain a subject: design, all words of the design file"
EXAMPLE = "hemplit help design"
#: The subjects, each with the text on it in the package.
SUBJECTS = {"design": ("design_file", "reference.md")}


def arguments(parser: argparse.ArgumentParser) -> None:
    """What the command takes."""
    parser.add_argument("subject", choices=tuple(SUBJECTS), metavar="SUBJECT", help=", ".join(SUBJECTS))


def run(given: argparse.Namespace, screen: Screen) -> int:
    """Shows the text, set for a terminal; as it is in a pipe or file."""
    from importlib import resources

    text = resources.files("hemplit").joinpath(*SUBJECTS[given.subject]).read_text(encoding="utf-8")
    if screen.stdout.isatty():
        from rich.markdown import Markdown

        screen.console.print(Markdown(text))
    else:
        screen.stdout.write(text)
    return DONE
