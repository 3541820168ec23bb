"""The reasons for a design on a terminal: the story of the whole, or of one table or column."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.views.sheets import formula
from hemplit.views.style import BAD, GOOD, NAME, QUIET, counted, plain, title

if TYPE_CHECKING:
    from collections.abc import Sequence

    from rich.console import Console

    from hemplit.core.explain.anomaly import Anomaly
    from hemplit.core.explain.reasons import Reasons
    from hemplit.core.explain.story import Story


def show_story(console: Console, story: Story) -> None:
    """From the flat sheets to the last normal form."""
    for flat in story.flats:
        size = f"{counted(flat.rows, 'row')} × {counted(flat.columns, 'column')}"
        title(console, flat.title, f"{size}; {flat.again:,} cells say again what another row says")
    for chapter in story.chapters:
        console.print()
        title(console, chapter.title)
        console.print(f"  [{QUIET}]before: {plain(', '.join(chapter.before))}[/]")
        free = story.independent if chapter is story.chapters[-1] else ()
        for line in free:
            console.print(f"  [{BAD}]![/] {plain(line)}")
        if not chapter.passings and not free:
            console.print(f"  [{GOOD}]✓[/] nothing to do")
        for passing in chapter.passings:
            one = passing.passage
            console.print(
                f"  [{NAME}]{plain(one.table)}[/] out of {plain(one.out_of)}: {plain(', '.join(one.headers))}"
            )
            console.print(f"      {plain(one.why)}")
            if passing.anomaly is not None:
                console.print(f"      {_said(passing.anomaly)}")
    if story.computed:
        console.print()
        title(console, "Left out of storage")
        for header, given in story.computed:
            console.print(f"  {plain(header)} = {formula(given)}, which the view computes")
    if story.not_followed:
        console.print()
        title(console, "Not followed", "these hold on the sheet, too, and make no table")
        _lines(console, story.not_followed)
        if story.more_not_followed:
            console.print(f"  [{QUIET}]and {story.more_not_followed:,} more: hemplit dependencies shows all[/]")


def show_reasons(console: Console, asked: Reasons, place: str) -> None:
    """The decision, its evidence, what else was considered, and where it is changed."""
    title(console, asked.title)
    _lines(console, asked.evidence)
    if asked.anomaly is not None:
        console.print(f"  {_said(asked.anomaly)}")
    if asked.considered:
        console.print()
        title(console, "Considered")
        _lines(console, asked.considered)
    console.print(f"\n[{QUIET}]To have it otherwise, edit {plain(place)}.[/]")


def _lines(console: Console, lines: Sequence[str]) -> None:
    for line in lines:
        console.print(f"  {plain(line)}")


def _said(anomaly: Anomaly) -> str:
    more = ", …" if anomaly.cells > len(anomaly.places) else ""
    return (
        f"To change '{plain(anomaly.header)}' of {plain(anomaly.lead)} {plain(anomaly.value)} today:"
        f" {counted(anomaly.cells, 'cell')} ({', '.join(anomaly.places)}{more}); after: 1."
    )
