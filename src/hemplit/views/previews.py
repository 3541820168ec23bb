"""Sheets before and after shaping, side by side for the eye: all in one short table, and the first rows of each."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core import kinds
from hemplit.core.model.grid import column_letters
from hemplit.core.shape import header
from hemplit.core.texts.words import shown_together
from hemplit.views.style import NAME, QUIET, count, counted, grid, plain, say, short, title

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    import numpy.typing as npt
    from rich.console import Console

    from hemplit.core.draft.sheets import Together
    from hemplit.core.model.findings import Findings, Link
    from hemplit.core.model.grid import Grid
    from hemplit.core.model.relation import Column, Relation

#: So many rows and columns are shown of each.
ROWS, COLUMNS = 4, 7


def show_overview(console: Console, found: Mapping[str, Findings]) -> None:
    """One line for each relation: how large it is, what was done, what is left to look at."""
    own = sum(not one.of for one in found.values())
    more = f"{len(found) - own} more split from their lists and groups" if own < len(found) else ""
    title(console, counted(own, "sheet"), more)
    table = grid("sheet", "rows", "columns", "steps", "problems", numbers=("rows", "columns", "steps", "problems"))
    for one in found.values():
        done = sum(not step.proposed and step.act != header.ACT for step in one.steps)
        table.add_row(
            f"[{NAME}]{plain(one.source.title)}[/]",
            count(one.row_count),
            count(len(one.columns)),
            count(done),
            count(len(one.trouble)),
        )
    console.print(table)


def show_preview(console: Console, given: Grid, relation: Relation) -> None:
    """What became of cells: the first that were changed in each column; of rows split from others the first ones."""
    if relation.of:
        _show_split(console, given, relation)
        return
    changed = [(column, rows) for column in relation.columns if len(rows := _changed(relation, column))]
    if not changed:
        return
    say(console, f"[{QUIET}]changed cells[/]", indent=2)
    table = grid("", "header", "first", "cells", numbers=("cells",))
    for column, rows in changed:
        before = short(given.columns[column.position].text(int(relation.grid_rows[rows[0]])))
        after = f"'{before}' → {short(kinds.shown_at(column, int(rows[0]))) or '(blank)'}"
        table.add_row(column_letters(column.position), plain(column.name), after, count(len(rows)))
    console.print(table)


def _changed(relation: Relation, column: Column) -> npt.NDArray[np.intp]:
    """The rows in which a step changed the column, and not only kept beside what stood there."""
    changed = np.zeros(relation.row_count, dtype=np.int8) if column.changed is None else column.changed
    return np.flatnonzero((changed != 0) & ~relation.is_beside(column))


def _show_split(console: Console, given: Grid, relation: Relation) -> None:
    """The first rows as they stand in the sheet and in the relation that was split from it."""
    places = sorted({place for column in relation.columns for place in (column.position, *column.places) if place >= 0})
    places = [place for place in places if place < len(given.columns)][:COLUMNS]
    say(console, f"[{QUIET}]before (first rows)[/]", indent=2)
    before = grid("", *(column_letters(place) for place in places))
    top = max(int(relation.grid_rows[0]) - 2, 0)
    for row in range(top, min(top + ROWS, given.row_count)):
        before.add_row(f"[{QUIET}]{row + 1}[/]", *(short(given.columns[place].text(row)) for place in places))
    console.print(before)
    say(console, f"[{QUIET}]after (first rows)[/]", indent=2)
    columns = relation.columns[:COLUMNS]
    after = grid("", *(plain(column.name) for column in columns))
    for row in range(min(ROWS, relation.row_count)):
        values = (short(kinds.shown_at(column, row)) for column in columns)
        after.add_row(f"[{QUIET}]{int(relation.grid_rows[row]) + 1}[/]", *values)
    console.print(after)


def show_together(console: Console, given: Together, found: Mapping[str, Findings]) -> None:
    """How the sheets hang together: which tell of the same, and which columns take their values from which."""
    found = {**found, **given.findings}
    for one in given.unions:
        titles = " and ".join(found[sheet].source.title for sheet in one.plan.unites)
        say(console, f"[{NAME}]{plain(titles)}[/] tell of the same things")
        for why in one.why:
            say(console, plain(why), indent=2)
        console.print()
    if given.links:
        _show_links(console, given.links, found)


def _show_links(console: Console, links: Sequence[Link], found: Mapping[str, Findings]) -> None:
    """Which columns take their values from which."""
    table = grid("this column", "takes its values from", "known there", numbers=("known there",))
    for link in links:
        sides = ((link.child, link.headers), (link.parent, link.key))
        said = [f"{found[sheet].source.title} " + shown_together(names) for sheet, names in sides]
        share = "all" if link.known == link.different else f"{link.known:,} of {link.different:,}"
        table.add_row(
            f"[{NAME}]{plain(said[0])}[/]", plain(said[1]) + (", written differently" if link.alike else ""), share
        )
    console.print(table)
    console.print()
