"""What was loaded, and the proof, on a terminal."""

from __future__ import annotations

import re
from collections import Counter
from typing import TYPE_CHECKING

from hemplit.core.model.acts import Act
from hemplit.core.model.proof import HANDFUL
from hemplit.core.proof.ledger import BY_DESIGN
from hemplit.views.style import (
    BAD,
    CHOICE,
    DONE,
    GOOD,
    LOOK,
    NAME,
    QUIET,
    count,
    counted,
    grid,
    plain,
    say,
    short,
    title,
)

if TYPE_CHECKING:
    from collections.abc import Sequence

    from rich.console import Console

    from hemplit.core.model.loads import News
    from hemplit.core.model.proof import Check, Ledger, Proof, Reason
    from hemplit.core.model.relation import Doubt
    from hemplit.core.model.tables import Peek, Tables

#: So much is shown of what stands in a row that was left out.
MOST_TEXT = 80
#: So many new names are shown of each list.
SHOWN = 5
#: So many lines are shown of what the steps found, or what is nearly like something, that differ in what cells say.
MOST_TOLD = 20
SAID = re.compile(r"'[^']*'")


def show_tables(console: Console, tables: Tables, target: str) -> None:
    """The tables with their rows, keys and references, and the views."""
    title(console, target, counted(len(tables.tables), "table"))
    table = grid("table", "purpose", "rows", "primary key", "references", numbers=("rows",))
    for one in tables.tables:
        table.add_row(
            f"[{NAME}]{plain(one.name)}[/]",
            one.purpose,
            count(one.row_count),
            plain(", ".join(one.key)),
            plain("; ".join(f"{', '.join(own.columns)} → {own.table}" for own in one.references)),
        )
    console.print(table)
    for view in tables.views:
        say(console, f"view [{NAME}]{plain(view.name)}[/] [{QUIET}]gives the sheet back[/]", indent=2)
    if tables.named:
        names = ", ".join(f"[{NAME}]{plain(view.name)}[/]" for view in tables.named)
        lead, verb = ("views", "say") if len(tables.named) > 1 else ("view", "says")
        what = f"{verb} names in the place of ids, and how many rows refer to each"
        say(console, f"{lead} {names} [{QUIET}]{what}[/]", indent=2)
    for saved in tables.tallies:
        of, by = (", ".join(one.title for one in some) for some in (saved.tally.measures, saved.tally.by))
        said = f"adds up {of}{f' by {by}' if by else ''}"
        say(console, f"view [{NAME}]{plain(saved.name)}[/] [{QUIET}]{plain(said)}[/]", indent=2)


def show_held(console: Console, held: Sequence[Peek], target: str) -> None:
    """What a database holds that Hemplit made: each table with its first rows, then the views."""
    tables, views = ([one for one in held if one.kind == kind] for kind in ("table", "view"))
    title(console, target, f"{counted(len(tables), 'table')}, {counted(len(views), 'view')}")
    for one in tables:
        to = f" → {', '.join(map(plain, one.refers_to))}" if one.refers_to else ""
        say(console, f"[{NAME}]{plain(one.name)}[/]  {counted(one.rows, 'row')}{to}")
        shown = grid(*one.columns)
        for row in one.first:
            shown.add_row(*(plain(short(cell)) for cell in row))
        console.print(shown)
    for one in views:
        size = f"{counted(one.rows, 'row')}, {counted(len(one.columns), 'column')}"
        say(console, f"view [{NAME}]{plain(one.name)}[/]  {size}")


def show_news(console: Console, news: News | None) -> None:
    """What is new since the load before, in front of all else."""
    if news is None:
        return
    rows = [f"{plain(name)} {before:,} → {now:,} rows" for name, (before, now) in news.rows.items()]
    names = [
        f"new in {plain(name)}: {', '.join(plain(short(one)) for one in new[:SHOWN])}"
        + (f" and {len(new) - SHOWN:,} more" if len(new) > SHOWN else "")
        for name, new in news.names.items()
    ]
    said = [*map(plain, news.files), *rows, *names]
    say(console, "Since the load before: " + ("; ".join(said) if said else "nothing is new"))


def show_told(console: Console, told: Sequence[tuple[str, Doubt]]) -> None:
    """What the steps found otherwise than when they were drafted."""
    seen: Counter[tuple[str, str]] = Counter()
    for sheet, one in told:
        kind = sheet, _kind(one.what)
        seen[kind] += 1
        if seen[kind] > MOST_TOLD:
            continue
        where = f": {plain(', '.join(one.places))}" if one.places else ""
        more = ", …" if one.count > len(one.places) > 0 else ""
        sign = CHOICE if one.settled else LOOK
        say(console, f"{plain(sheet)}: {plain(one.what)}{where}{more}", sign=sign, indent=2)
        if one.hint:
            say(console, f"[{QUIET}]{plain(one.hint)}[/]", indent=6)
    hidden = sum(max(many - MOST_TOLD, 0) for many in seen.values())
    if hidden:
        say(console, f"[{QUIET}]and {hidden:,} more; --json lists them all[/]", indent=2)


def _kind(what: str) -> str:
    """What is said without what the cells say: all texts in quotes but the header in front."""
    header = SAID.match(what)
    return (header[0] if header else "") + SAID.sub("''", what[header.end() if header else 0 :])


def show_proof(console: Console, proof: Proof, left_out: str = "", *, details: bool = False) -> None:
    """The verdict, what was changed or left out, and what differs; with ``details`` each check and each account.

    ``left_out`` is the file with all rows that were left out.
    """
    if proof.holds:
        passed = f"[{QUIET}]({counted(len(proof.checks), 'check')} passed)[/]"
        say(console, f"[{GOOD}]Verified:[/] {_rebuilt(proof)}.{plain(_on_purpose(proof))} {passed}")
    else:
        different = sum(check.different for check in proof.checks) + sum(not one.adds_up for one in proof.ledgers)
        say(console, f"[{BAD}]NOT verified: look at the differences.[/] There are {different:,}.")
    show_cells(console, "Changed", [part for one in proof.ledgers for part in one.changes])
    show_cells(console, "Left out", [part for one in proof.ledgers for part in one.left_out])
    for ledger in proof.ledgers:
        _show_rows(console, ledger, left_out)
    for check in proof.checks:
        if details or check.different:
            _show_check(console, check)
    for ledger in proof.ledgers:
        if details or not ledger.adds_up:
            _show_ledger(console, ledger)
    if not details and proof.holds:
        say(console, f"[{QUIET}]--details shows every check, and where all cells went[/]", indent=2)


def show_cells(console: Console, word: str, parts: Sequence[Reason]) -> None:
    """How many cells were changed or left out for each reason."""
    cells: Counter[str] = Counter()
    for part in parts:
        cells[part.reason] += part.cells
    if cells:
        said = " · ".join(f"{many:,} {plain(reason)}" for reason, many in cells.items())
        say(console, f"[{QUIET}]{word} cells:[/] {said}", indent=2)


def _on_purpose(proof: Proof) -> str:
    """What was changed or left out as the design says, in a sentence."""
    changed = sum(ledger.changed for ledger in proof.ledgers)
    rows = sum(len(ledger.rows) for ledger in proof.ledgers)
    cells = sum(part.cells for ledger in proof.ledgers for part in ledger.left_out if part.reason.startswith(BY_DESIGN))
    said = [
        text
        for many, text in (
            (changed, f"{counted(changed, 'cell')} changed"),
            (rows, f"{counted(rows, 'row')} left out"),
            (cells, f"{counted(cells, 'cell')} left out by the design"),
            (len(proof.on_purpose), ", ".join(proof.on_purpose)),
        )
        if many
    ]
    return f" On purpose: {', '.join(said)}; see below." if said else " Nothing was lost."


def _rebuilt(proof: Proof) -> str:
    rows = proof.rows
    return (
        "the one row can be rebuilt from the tables"
        if rows == 1
        else f"all {rows:,} rows can be rebuilt from the tables"
    )


def _show_rows(console: Console, ledger: Ledger, left_out: str) -> None:
    """The first rows that are in no table, with what stands in them."""
    for row in ledger.rows[:HANDFUL]:
        said = ", ".join(filter(None, row.texts))
        sign = LOOK if row.step == Act.LONG_ROWS else f"[{QUIET}]–[/]"
        say(console, f"left out: {plain(row.place)} ({plain(row.step)}): {short(said, MOST_TEXT)}", sign=sign, indent=2)
    if len(ledger.rows) > HANDFUL:
        where = f"; all are in {plain(left_out)}" if left_out else ""
        more = counted(len(ledger.rows) - HANDFUL, "more row")
        say(console, f"and {more}{where}", sign=f"[{QUIET}]–[/]", indent=2)


def _show_ledger(console: Console, ledger: Ledger) -> None:
    say(
        console,
        f"{plain(ledger.sheet)}: all {ledger.cells:,} cells: {ledger.stored:,} stored"
        f" · {ledger.calculated:,} calculated · {ledger.changed:,} changed · {ledger.set_aside:,} left out",
        sign=DONE if ledger.adds_up else f"[{BAD}]✗[/]",
        indent=2,
    )
    for lost, what in ((ledger.unaccounted, "in no account: they are lost"), (ledger.twice, "claimed twice")):
        if lost:
            say(console, f"[{BAD}]{counted(lost, 'cell')} {what}[/]", indent=6)
    for part in ledger.changes:
        say(console, f"[{QUIET}]{part.cells:,} changed: {plain(part.reason)}[/]", indent=6)
    for part in ledger.left_out:
        say(console, f"[{QUIET}]{part.cells:,} left out: {plain(part.reason)}[/]", indent=6)


def _show_check(console: Console, check: Check) -> None:
    if not check.different:
        compared = counted(check.compared, check.unit.removesuffix("s"))
        say(console, f"{plain(check.what)} [{QUIET}]({compared} compared)[/]", sign=DONE, indent=2)
        return
    said = f"{plain(check.what)}: {check.different:,} of {check.compared:,} {check.unit} differ"
    say(console, said, sign=f"[{BAD}]✗[/]", indent=2)
    for one in check.differences:
        say(console, f"{plain(one.place)}: expected {plain(one.expected)}, found {plain(one.found)}", indent=6)
    if check.different > len(check.differences):
        say(console, f"[{QUIET}]and {check.different - len(check.differences):,} more[/]", indent=6)
