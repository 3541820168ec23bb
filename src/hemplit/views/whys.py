"""The reasons for a design on a terminal: the story of the whole, or of one table or column."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.views.style import GOOD, NAME, QUIET, counted, plain, title

if TYPE_CHECKING:
    from rich.console import Console

    from hemplit.core.reasons import Anomaly, Reasons, Story


def show_story(console: Console, story: Story) -> None:
    """From the flat sheets to the last normal form."""
    for flat in story.flats:
        size = f"{counted(flat.rows, 'row')} × {counted(flat.columns, 'column')}"
        title(console, flat.title, f"{size}; {flat.again:,} cells say again what another row says")
    for chapter in story.chapters:
        console.print()
        title(console, chapter.title)
        console.print(f"  [{QUIET}]before: {plain(', '.join(chapter.before))}[/]")
        if not chapter.passings:
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
        for line in story.computed:
            console.print(f"  {plain(line)}")
    if story.accidents:
        console.print()
        title(console, "Taken for accidents", "these hold on the sheet, and no table follows from them")
        for line in story.accidents:
            console.print(f"  {plain(line)}")
        if story.more_accidents:
            console.print(f"  [{QUIET}]and {story.more_accidents:,} more: hemplit dependencies shows all[/]")


def show_reasons(console: Console, asked: Reasons, place: str) -> None:
    """The decision, its evidence, what else was considered, and where it is changed."""
    title(console, asked.title)
    for line in asked.evidence:
        console.print(f"  {plain(line)}")
    if asked.anomaly is not None:
        console.print(f"  {_said(asked.anomaly)}")
    if asked.considered:
        console.print()
        title(console, "Considered")
        for line in asked.considered:
            console.print(f"  {plain(line)}")
    console.print(f"\n[{QUIET}]To have it otherwise, edit {plain(place)}.[/]")


def _said(anomaly: Anomaly) -> str:
    more = ", …" if anomaly.cells > len(anomaly.places) else ""
    return (
        f"To change '{plain(anomaly.header)}' of {plain(anomaly.lead)} {plain(anomaly.value)} today:"
        f" {counted(anomaly.cells, 'cell')} ({', '.join(anomaly.places)}{more}); after: 1."
    )
