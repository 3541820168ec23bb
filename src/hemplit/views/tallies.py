"""Totals: on a terminal, and as the content of a file."""

from __future__ import annotations

import csv
import io
import json
from decimal import Decimal
from typing import TYPE_CHECKING, Any

from hemplit.core.tally.answer import TOTAL
from hemplit.errors import InputError
from hemplit.views.style import DONE, LOOK, NAME, QUIET, counted, grid, plain, say, short

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from rich.console import Console

    from hemplit.core.tally.answer import Tallied

PICTURES = (".png", ".svg", ".pdf")
ENDINGS = (".csv", ".xlsx", ".json", *PICTURES)
#: So many groups that differ are shown.
SHOWN = 5
NOTHING = "·"


def show_tally(console: Console, tallied: Tallied) -> None:
    """The totals, and whether the flat sheets say the same."""
    answer = tallied.answer
    table = grid(*(plain(one) for one in (*answer.names, *answer.numbers)), numbers=answer.numbers)
    for names, numbers in answer.rows:
        table.add_row(*(short(name, 40) for name in names), *map(said, numbers))
    if answer.names:
        lead = [f"[{NAME}]{TOTAL}[/]", *[""] * (len(answer.names) - 1)]
        table.add_row(*lead, *(f"[{NAME}]{said(number)}[/]" for number in answer.totals))
    console.print(table)
    show_check(console, tallied)


def show_check(console: Console, tallied: Tallied) -> None:
    """One line that says whether the flat sheets come to the same, and the groups in which they do not."""
    if tallied.unchecked:
        say(console, f"not compared with the sheets: {plain(tallied.unchecked)}", sign=LOOK)
        return
    if tallied.differences:
        count = len(tallied.differences)
        what = f"{counted(count, 'number')} {'is' if count == 1 else 'are'} not what the sheets say"
        say(console, what, sign=LOOK)
        for where, sheet, held in tallied.differences[:SHOWN]:
            say(console, f"{plain(where)}: {sheet} in the sheets, {held} in the database", indent=4)
        return
    purpose = [counted(tallied.changed, "cell") + " changed"] if tallied.changed else []
    purpose += [counted(tallied.left_out, "row") + " left out"] if tallied.left_out else []
    but = f" [{QUIET}](with {' and '.join(purpose)} on purpose; prove --details says which)[/]" if purpose else ""
    say(console, f"the sheets, added up by themselves, say the same{but}", sign=DONE)


def said(number: Decimal | int | None) -> str:
    """A number with thousands set apart.

    >>> said(Decimal("1234.50")), said(None)
    ('1,234.50', '·')
    """
    return NOTHING if number is None else f"{number:,}"


def as_json(tallied: Tallied) -> dict[str, Any]:
    """The totals for a program: amounts are texts, as no double holds them all."""
    answer = tallied.answer
    rows = [
        {"groups": list(names), "numbers": [_plain(number) for number in numbers]} for names, numbers in answer.rows
    ]
    return {
        "by": list(answer.names),
        "of": list(answer.numbers),
        "rows": rows,
        "totals": [_plain(number) for number in answer.totals],
        "checked": not tallied.unchecked,
        "unchecked": tallied.unchecked,
        "differences": [dict(zip(("what", "sheets", "held"), one, strict=True)) for one in tallied.differences],
        "changed_cells": tallied.changed,
        "left_out_rows": tallied.left_out,
        "sql": list(tallied.statements),
    }


def _plain(number: Decimal | int | None) -> str | int | None:
    return str(number) if isinstance(number, Decimal) else number


def tally_as(ending: str, tallied: Tallied) -> bytes:
    """The totals as the content of a file with this ending. Raises ``InputError`` for one that is not known."""
    if ending == ".csv":
        return _csv(tallied)
    if ending == ".json":
        return (json.dumps(as_json(tallied), ensure_ascii=False, indent=2) + "\n").encode()
    if ending == ".xlsx":
        return _workbook(tallied)
    if ending in PICTURES:
        from hemplit.views.pictures.charts import chart_of

        return chart_of(tallied, ending.removeprefix("."))
    raise InputError(ending or "--out", "no table and no picture ends so", f"end it in {', '.join(ENDINGS)}")


def _lines(tallied: Tallied) -> Iterator[Sequence[Any]]:
    answer = tallied.answer
    yield (*answer.names, *answer.numbers)
    for names, numbers in answer.rows:
        yield (*names, *numbers)
    if answer.names:
        yield (TOTAL, *[""] * (len(answer.names) - 1), *answer.totals)


def _csv(tallied: Tallied) -> bytes:
    text = io.StringIO(newline="")
    writer = csv.writer(text)
    for line in _lines(tallied):
        writer.writerow("" if cell is None else cell for cell in line)
    return text.getvalue().encode()


def _workbook(tallied: Tallied) -> bytes:
    import xlsxwriter

    held = io.BytesIO()
    options = {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False}
    with xlsxwriter.Workbook(held, options) as book:
        sheet, bold = book.add_worksheet("Totals"), book.add_format({"bold": True})
        lines = list(_lines(tallied))
        for at, line in enumerate(lines):
            form = bold if at in (0, len(lines) - 1 if tallied.answer.names else 0) else None
            for place, cell in enumerate(line):
                if isinstance(cell, Decimal | int):
                    sheet.write_number(at, place, float(cell), form)
                elif cell is not None:
                    sheet.write_string(at, place, cell, form)
        sheet.freeze_panes(1, len(tallied.answer.names))
        sheet.autofit()
    return held.getvalue()
