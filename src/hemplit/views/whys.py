"""The reasons for a design on a terminal: the story of the whole, or of one table or column."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.views.sheets import formula
from hemplit.views.style import DONE, LOOK, NAME, QUIET, counted, plain, say, title

if TYPE_CHECKING:
    from collections.abc import Sequence

    from rich.console import Console

    from hemplit.core.explain.anomaly import Anomaly
    from hemplit.core.explain.reasons import Reasons
    from hemplit.core.explain.story import Story, Taken


def show_story(console: Console, story: Story) -> None:
    """From the flat sheets to the last normal form."""
    for flat in story.flats:
        size = f"{counted(flat.rows, 'row')} × {counted(flat.columns, 'column')}"
        title(console, flat.title, f"{size}; {flat.again:,} cells repeat what another row already says")
    for chapter in story.chapters:
        console.print()
        title(console, chapter.title)
        say(console, f"[{QUIET}]before: {plain(', '.join(chapter.before))}[/]", indent=2)
        free = story.independent if chapter is story.chapters[-1] else ()
        for line in free:
            say(console, plain(line), sign=LOOK, indent=2)
        if not chapter.passings and not free:
            say(console, "nothing to do", sign=DONE, indent=2)
        for passing in chapter.passings:
            one = passing.passage
            headers = plain(", ".join(one.headers))
            say(console, f"[{NAME}]{plain(one.table)}[/] out of {plain(one.out_of)}: {headers}", indent=2)
            say(console, plain(one.why), indent=6)
            if passing.anomaly is not None:
                say(console, plain(said_of(passing.anomaly)), indent=6)
    if story.computed or story.taken:
        console.print()
        title(console, "Left out of storage")
        _lines(console, [*map(taken_said, story.taken)])
        for header, given in story.computed:
            say(console, f"{plain(header)} = {formula(given)}, calculated in the view", indent=2)
    if story.not_followed:
        console.print()
        title(console, "Not followed", "these hold on the sheet, too, and make no table")
        _lines(console, story.not_followed)
        if story.more_not_followed:
            more = f"and {story.more_not_followed:,} more: hemplit dependencies shows all"
            say(console, f"[{QUIET}]{more}[/]", indent=2)


def show_reasons(console: Console, asked: Reasons, place: str) -> None:
    """The decision, its evidence, what else was considered, and where it is changed."""
    title(console, asked.title)
    _lines(console, asked.evidence)
    if asked.anomaly is not None:
        say(console, plain(said_of(asked.anomaly)), indent=2)
    if asked.considered:
        console.print()
        title(console, "Considered")
        _lines(console, asked.considered)
    console.print()
    say(console, f"[{QUIET}]To change this, edit {plain(place)}.[/]")


def _lines(console: Console, lines: Sequence[str]) -> None:
    for line in lines:
        say(console, plain(line), indent=2)


def taken_said(taken: Taken) -> str:
    """What the view takes from where."""
    them = "them" if len(taken.headers) > 1 else "it"
    return f"{', '.join(taken.headers)}: the view takes {them} from {taken.list_name}, by '{taken.by}'"


def said_of(anomaly: Anomaly) -> str:
    """What a correction costs now, and in the tables; of what came once, that nobody types it again."""
    if anomaly.cells == 1:
        return f"No {anomaly.lead} came again so far; when one does, its {anomaly.header} need not be typed again."
    more = ", …" if anomaly.cells > len(anomaly.places) else ""
    return (
        f"To correct the {anomaly.header} of {anomaly.lead} {anomaly.value} you now edit"
        f" {counted(anomaly.cells, 'cell')} ({', '.join(anomaly.places)}{more}); in the new tables 1."
    )
