"""What a topup added, what is new, and what contradicts."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

from hemplit.views.loads import show_cells, show_told
from hemplit.views.style import BAD, GOOD, LOOK, NAME, QUIET, counted, grid, plain, say

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from rich.console import Console

    from hemplit.core.model.proof import LeftOutRow, Proof
    from hemplit.core.model.relation import Doubt
    from hemplit.core.tables.merge import Added, Conflict

#: So many conflicts are shown one by one.
SHOWN = 20
#: So many new names are shown of a table.
NAMES = 5
AFTER = {
    "stop": "Say --conflicts keep to leave what is held, or --conflicts update to take what the sheet says now.",
    "keep": "What is held stays.",
    "update": "What is held is replaced.",
}


def show_added(
    console: Console,
    sheets: Sequence[tuple[str, int, int]],
    added: Mapping[str, Added],
    like: Sequence[tuple[str, Doubt]],
) -> None:
    """Of each sheet its rows and how many were known; of each table what came to it."""
    for title, rows, known in sheets:
        rest = f", {known:,} known already" if known else ""
        say(console, f"[{NAME}]{plain(title)}[/]  {counted(rows, 'row')}: {rows - known:,} new{rest}")
    table = grid("table", "new rows", "rows then", "examples", numbers=("new rows", "rows then"))
    same = [name for name, one in added.items() if not one.new]
    for name, one in added.items():
        if name in same:
            continue
        such = ", ".join(one.names[:NAMES]) + (", …" if len(one.names) > NAMES else "")
        table.add_row(f"[{NAME}]{plain(name)}[/]", f"+{one.new:,}", f"{one.rows:,}", plain(such))
    if len(same) < len(added):
        console.print(table)
    if same:
        say(console, f"[{QUIET}]no new rows in {', '.join(map(plain, same))}[/]", indent=2)
    changed = [f"{counted(one.changed, 'row')} of {plain(name)}" for name, one in added.items() if one.changed]
    if changed:
        say(console, f"changed, of what was there: {', '.join(changed)}", indent=2)
    show_told(console, like)


def show_aside(console: Console, aside: Sequence[tuple[str, LeftOutRow]], file: str, *, written: bool) -> None:
    """The rows that were left out, or would be, and why."""
    if not aside:
        return
    where = f"; see {plain(file)}" if file else ""
    why = "it contradicts" if len(aside) == 1 else "they contradict"
    what = "left out" if written else "would be left out"
    say(console, f"{counted(len(aside), 'row')} {what}, as {why} the design{where}", sign=LOOK)
    for why, rows in Counter(row.step for _, row in aside[:SHOWN]).items():
        say(console, plain(why) + (f" ({counted(rows, 'row')})" if rows > 1 else ""), indent=2)


def show_conflicts(console: Console, conflicts: Sequence[tuple[str, Conflict]], how: str) -> None:
    """What is held against what a further sheet says."""
    if not conflicts:
        return
    table = grid("row", "column", "held", "now")
    for _, one in conflicts[:SHOWN]:
        said = f"{one.table} {', '.join(filter(None, one.names))}"
        typo = f"  [{QUIET}]typo?[/]" if one.is_like else ""
        values = (plain(one.held or "blank"), plain(one.further or "blank") + typo)
        table.add_row(f"[{NAME}]{plain(said)}[/]", plain(one.column), *values)
    verb = "says" if len(conflicts) == 1 else "say"
    say(console, f"{counted(len(conflicts), 'cell')} of known rows {verb} something else now", sign=LOOK)
    console.print(table)
    if len(conflicts) > SHOWN:
        say(console, f"[{QUIET}]and {len(conflicts) - SHOWN:,} more[/]", indent=2)
    say(console, AFTER[how], indent=2)


def show_verdict(console: Console, proof: Proof, target: str, new: int, why_not: str) -> None:
    """Whether the new rows can be rebuilt, or why nothing was written."""
    if not proof.holds:
        say(console, f"[{BAD}]NOT verified: look at the differences.[/]")
        for one in (one for check in proof.checks for one in check.differences):
            said = f"{one.expected} was expected, and there is {one.found}"
            say(console, f"{plain(one.place)}: {plain(said)}", indent=2)
    elif not why_not:
        rows = counted(new, "new row")
        say(console, f"[{GOOD}]Verified:[/] {rows} added, and all that was added can be rebuilt from the tables.")
        show_cells(console, "Changed", [part for one in proof.ledgers for part in one.changes])
    else:
        say(console, f"Nothing was written to {plain(target)}: {why_not}.")
