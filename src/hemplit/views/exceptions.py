"""Exceptions on a terminal: what holds but for a few rows, and which these are."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.views.style import BAD, CHOICE, QUIET, counted, plain, say

if TYPE_CHECKING:
    from collections.abc import Sequence

    from rich.console import Console

    from hemplit.core.explain.exceptions import Exceptional
    from hemplit.core.model.findings import Near

#: So many rows of each are named, and so many exceptions shown below a design.
MOST_NAMED = 4
FEW = 5


def show_near(console: Console, one: Near, lead: str = "", sign: str = "") -> None:
    """A dependency that holds but for a few rows, and what these say, after a ``lead`` in markup."""
    claim = f"{' + '.join(one.left)} → {one.right}"
    rows = f"{counted(one.rows, 'row')} ({one.share:.1%})"
    say(console, f"{lead}{plain(claim)} holds except in {rows}", sign=sign, indent=2)
    for breach in one.breaches[:MOST_NAMED]:
        typo = f"[{BAD}]typo?[/] " if breach.twin else ""
        say(console, f"{typo}{plain(one.told(breach))}", indent=6)
    if one.rows > MOST_NAMED:
        say(console, f"[{QUIET}]and {one.rows - MOST_NAMED:,} more[/]", indent=6)


def show_exceptions(console: Console, found: Sequence[Exceptional]) -> None:
    """What keeps columns out of the tables of the things whose they would be, and what to do about it."""
    for one in found[:FEW]:
        show_near(console, one.near, f"{plain(one.sheet)}: ", CHOICE)
        once = f"then {one.near.right} is kept once for each {' + '.join(one.near.left)}"
        say(console, f"[{QUIET}]If it is a typo, correct it and draft again: {plain(once)}[/]", indent=6)
    if len(found) > FEW:
        say(console, f"[{QUIET}]and {len(found) - FEW:,} more; --json lists them all[/]", indent=2)
