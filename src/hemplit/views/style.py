"""How all terminal views look: one kind of table, one kind of title, a few colours with one meaning each."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich import box
from rich.cells import cell_len
from rich.markup import escape
from rich.padding import Padding
from rich.table import Table
from rich.text import Text

from hemplit.errors import visible

if TYPE_CHECKING:
    from collections.abc import Sequence

    from rich.console import Console, ConsoleOptions, RenderResult

GOOD = "green"
BAD = "bold red"
NAME = "bold"
QUIET = "dim"
COMMAND = "bold cyan"
#: Between the columns of a table, at its edges, and the least room for a text.
GAP, EDGES, NARROWEST = 3, 2, 12
#: One sign for one meaning: done, look at this, your choice.
DONE, LOOK, CHOICE = f"[{GOOD}]✓[/]", f"[{BAD}]![/]", "[bold blue]?[/]"


def title(console: Console, name: str, rest: str = "") -> None:
    """A line over what follows."""
    say(console, f"[{NAME}]{plain(name)}[/]" + (f"  [{QUIET}]{plain(rest)}[/]" if rest else ""))


def heading(console: Console, command: str) -> None:
    """A command as it would be typed, over what it says."""
    console.print()
    say(console, f"[{COMMAND}]$ {plain(command)}[/]")


class Grid:
    """A table with a line under its headers that fits where it is printed, and breaks no word.

    Where it is too wide, long cells go on in a further line; where that is not enough, each row is a block of lines.
    """

    def __init__(self, headers: Sequence[str], numbers: Sequence[str] = ()) -> None:
        self.headers = tuple(headers)
        self.numbers = frozenset(numbers)
        self.rows: list[tuple[str, ...]] = []

    def add_row(self, *cells: str) -> None:
        self.rows.append(cells)

    def __rich_console__(self, console: Console, options: ConsoleOptions) -> RenderResult:
        width = options.max_width
        cells = [[Text.from_markup(cell) for cell in row] for row in self.rows]
        columns = [
            [Text(header), *(row[place] for row in cells if place < len(row))]
            for place, header in enumerate(self.headers)
        ]
        between = GAP * (len(columns) - 1) + EDGES
        whole = [max(cell.cell_len for cell in column) for column in columns]
        least = [max(_longest_word(cell) for cell in column) for column in columns]
        if sum(whole) + between <= width:
            yield self._table(cells, whole)
        elif sum(least) + between <= width:
            yield self._table(cells, _shared(whole, least, width - between))
        else:
            yield from self._blocks(cells, width)

    def _table(self, cells: Sequence[Sequence[Text]], widths: Sequence[int]) -> Table:
        table = Table(box=box.SIMPLE_HEAD, header_style=QUIET, pad_edge=False, padding=(0, 1))
        for header, width in zip(self.headers, widths, strict=True):
            table.add_column(header, justify="right" if header in self.numbers else "left", width=width)
        for row in cells:
            table.add_row(*row)
        return table

    def _blocks(self, cells: Sequence[Sequence[Text]], width: int) -> RenderResult:
        """Each row as the cell that names it, and below it what the headers say of the others."""
        for row in cells:
            named = next((place for place, cell in enumerate(row) if cell.plain and self.headers[place]), 0)
            yield Text()
            yield _cut(Text(" ").join(row[: named + 1]), width)
            for header, cell in [*zip(self.headers, row, strict=False)][named + 1 :]:
                if cell.plain:
                    said = Text.assemble((f"{header}: " if header else "", QUIET), cell)
                    yield Padding(_cut(said, width - 2), (0, 0, 0, 2))
        yield Text()


def _longest_word(cell: Text) -> int:
    return max((cell_len(word) for word in cell.plain.split()), default=0)


def _shared(whole: Sequence[int], least: Sequence[int], room: int) -> list[int]:
    """Widths for columns that need so much at least: the narrow ones whole, what is left shared by the others."""
    widths = list(least)
    left = room - sum(widths)
    while left > 0:
        short = [place for place in range(len(widths)) if widths[place] < whole[place]]
        if not short:
            break
        for place in sorted(short, key=lambda one: whole[one] - widths[one]):
            if left > 0:
                widths[place] += 1
                left -= 1
    return widths


def _cut(text: Text, width: int) -> Text:
    """The text with words that are wider than the page cut in their middle."""
    for word in {word for word in text.plain.split() if cell_len(word) > width}:
        at = text.plain.index(word)
        half = max((width - 1) // 2, 1)
        text = Text.assemble(text[: at + half], "…", text[at + len(word) - half :])
    return text


def grid(*headers: str, numbers: tuple[str, ...] = ()) -> Grid:
    """A table with a line under its headers; the ``numbers`` columns stand right."""
    return Grid(headers, numbers)


def wrapped(console: Console, markup: str, before: int) -> list[Text]:
    """A text in lines that leave room for so many letters before them, no word broken."""
    room = max(console.width - before, NARROWEST)
    lines = _cut(Text.from_markup(markup), room).wrap(console, room)
    for line in lines:
        line.rstrip()
    return list(lines)


def say(console: Console, markup: str, *, sign: str = "", indent: int = 0) -> None:
    """A text, behind a sign if it has one; where it goes on in a further line, that stands farther in, behind it."""
    lead = Text.from_markup(f"{sign} ") if sign else Text()
    hang = " " * (lead.cell_len or 2)
    for number, line in enumerate(wrapped(console, markup, indent + len(hang))):
        console.print(Text.assemble(" " * indent, hang if number else lead, line), soft_wrap=True)


def following(console: Console, *commands: str) -> None:
    """What a person may want to do next."""
    for number, command in enumerate(commands):
        say(console, f"[{COMMAND}]{plain(command)}[/]", sign="Next" if not number else "    ")


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
