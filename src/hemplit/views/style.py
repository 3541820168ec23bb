"""How all terminal views look: one kind of table, one kind of title, a few colours with one meaning each."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich import box
from rich.markup import escape
from rich.table import Table
from rich.text import Text

from hemplit.errors import visible

if TYPE_CHECKING:
    from rich.console import Console

GOOD = "green"
BAD = "bold red"
NAME = "bold"
QUIET = "dim"
COMMAND = "bold cyan"


def title(console: Console, name: str, rest: str = "") -> None:
    """A line over what follows."""
    console.print(Text.assemble((visible(name), NAME), (visible(f"  {rest}") if rest else "", QUIET)))


def heading(console: Console, command: str) -> None:
    """A command as it would be typed, over what it says."""
    console.print()
    console.print(Text(visible(f"$ {command}"), style=COMMAND))


def grid(*headers: str, numbers: tuple[str, ...] = ()) -> Table:
    """A table with a line under its headers; the ``numbers`` columns stand right."""
    table = Table(box=box.SIMPLE_HEAD, header_style=QUIET, pad_edge=False, padding=(0, 1))
    for header in headers:
        number = header in numbers
        table.add_column(header, justify="right" if number else "left", no_wrap=number, overflow="fold")
    return table


def plain(text: str) -> str:
    """Text of the sheet in which brackets, line ends and what steers a terminal mean nothing special."""
    return escape(visible(text.replace("\n", "⏎").replace("\r", "").replace("\t", " ")))


def short(text: str, length: int = 24) -> str:
    """Text of the sheet, cut where it is longer.

    >>> short("a very long remark about a boat", 12)
    'a very long…'
    """
    return plain(text if len(text) <= length else text[: length - 1].rstrip() + "…")


def count(number: int) -> str:
    """A number with thousands set apart; a dot for none, so that the others stand out.

    >>> count(12345), count(0)
    ('12,345', '·')
    """
    return f"{number:,}" if number else "·"


def counted(number: int, word: str) -> str:
    """A number and its word in the right number.

    >>> counted(1, "row"), counted(2000, "row")
    ('1 row', '2,000 rows')
    """
    return f"{number:,} {word}" + ("" if number == 1 else "s")
