"""What was loaded, and the proof, on a terminal."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.model.acts import Act
from hemplit.core.model.proof import HANDFUL
from hemplit.core.proof.ledger import BY_DESIGN
from hemplit.views.style import BAD, GOOD, NAME, QUIET, count, counted, grid, plain, short, title

if TYPE_CHECKING:
    from collections.abc import Sequence

    from rich.console import Console

    from hemplit.core.model.loads import News
    from hemplit.core.model.proof import Check, Ledger, Proof
    from hemplit.core.model.relation import Doubt
    from hemplit.core.model.tables import Peek, Tables

#: So much is shown of what stands in a row that was left out.
MOST_TEXT = 80
#: So many new names are shown of each list.
SHOWN = 5
#: So much is shown of what the steps found, or is nearly like something.
MOST_TOLD = 20


def show_tables(console: Console, tables: Tables, target: str) -> None:
    """The tables with their rows, keys and references."""
    views = ", ".join(f"view {view.name}" for view in tables.views)
    title(console, target, f"{counted(len(tables.tables), 'table')}, {views}")
    table = grid("table", "is a", "rows", "key", "refers to", numbers=("rows",))
    for one in tables.tables:
        table.add_row(
            f"[{NAME}]{plain(one.name)}[/]",
            one.purpose,
            count(one.row_count),
            plain(", ".join(one.key)),
            plain(", ".join(reference.table for reference in one.references)),
        )
    console.print(table)


def show_held(console: Console, held: Sequence[Peek], target: str) -> None:
    """What a database holds that Hemplit made: each table with its first rows, then the views."""
    tables, views = ([one for one in held if one.kind == kind] for kind in ("table", "view"))
    title(console, target, f"{counted(len(tables), 'table')}, {counted(len(views), 'view')}")
    for one in tables:
        to = f" → {', '.join(map(plain, one.refers_to))}" if one.refers_to else ""
        console.print(f"[{NAME}]{plain(one.name)}[/]  {counted(one.rows, 'row')}{to}")
        shown = grid(*one.columns)
        for row in one.first:
            shown.add_row(*(plain(short(cell)) for cell in row))
        console.print(shown)
    for one in views:
        console.print(
            f"view [{NAME}]{plain(one.name)}[/]  {counted(one.rows, 'row')}, {counted(len(one.columns), 'column')}"
        )


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
    console.print("Since the load before: " + ("; ".join(said) if said else "nothing is new"))


def show_told(console: Console, told: Sequence[tuple[str, Doubt]]) -> None:
    """What the steps found otherwise than when they were drafted."""
    for sheet, one in told[:MOST_TOLD]:
        where = f": {plain(', '.join(one.places))}" if one.places else ""
        more = ", …" if one.count > len(one.places) > 0 else ""
        console.print(f"  [{BAD}]![/] {plain(sheet)}: {plain(one.what)}{where}{more}")
        if one.hint:
            console.print(f"      [{QUIET}]{plain(one.hint)}[/]")
    if len(told) > MOST_TOLD:
        console.print(f"  [{QUIET}]and {len(told) - MOST_TOLD:,} more; --json lists them all[/]")


def show_proof(console: Console, proof: Proof, left_out: str = "") -> None:
    """Each check and each ledger, and the verdict; ``left_out`` is the file with all rows that were left out."""
    for check in proof.checks:
        _show_check(console, check)
    for ledger in proof.ledgers:
        _show_ledger(console, ledger, left_out)
    if not proof.holds:
        console.print(f"[{BAD}]NOT verified: look at the differences.[/]")
        return
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
    rest = f" On purpose: {', '.join(said)}; see above." if said else " Nothing was lost."
    console.print(f"[{GOOD}]Verified:[/] {_rebuilt(proof)}.{plain(rest)}")


def _rebuilt(proof: Proof) -> str:
    rows = proof.rows
    return (
        "the one row can be rebuilt from the tables"
        if rows == 1
        else f"all {rows:,} rows can be rebuilt from the tables"
    )


def _show_ledger(console: Console, ledger: Ledger, left_out: str) -> None:
    mark = f"[{GOOD}]✓[/]" if ledger.adds_up else f"[{BAD}]✗[/]"
    console.print(
        f"  {mark} {plain(ledger.sheet)}, where all {ledger.cells:,} cells went: {ledger.stored:,} stored"
        f" · {ledger.calculated:,} calculated · {ledger.changed:,} changed · {ledger.set_aside:,} left out"
    )
    for lost, what in ((ledger.unaccounted, "in no account: they are lost"), (ledger.twice, "claimed twice")):
        if lost:
            console.print(f"      [{BAD}]{counted(lost, 'cell')} {what}[/]")
    for part in ledger.changes:
        console.print(f"      [{QUIET}]{part.cells:,} changed: {plain(part.reason)}[/]")
    for part in ledger.left_out:
        console.print(f"      [{QUIET}]{part.cells:,} left out: {plain(part.reason)}[/]")
    for row in ledger.rows[:HANDFUL]:
        said = ", ".join(filter(None, row.texts))
        sign = f"[{BAD}]![/]" if row.step == Act.LONG_ROWS else f"[{QUIET}]–[/]"
        console.print(f"      {sign} left out: {plain(row.place)} ({plain(row.step)}): {short(said, MOST_TEXT)}")
    if len(ledger.rows) > HANDFUL:
        where = f"; all are in {plain(left_out)}" if left_out else ""
        console.print(f"      [{QUIET}]–[/] and {counted(len(ledger.rows) - HANDFUL, 'more row')}{where}")


def _show_check(console: Console, check: Check) -> None:
    if not check.different:
        console.print(
            f"  [{GOOD}]✓[/] {plain(check.what)} [{QUIET}]({counted(check.compared, check.unit.removesuffix('s'))})[/]"
        )
        return
    console.print(f"  [{BAD}]✗[/] {plain(check.what)}: {check.different:,} of {check.compared:,} {check.unit} differ")
    for one in check.differences:
        console.print(f"      {plain(one.place)}: expected {plain(one.expected)}, found {plain(one.found)}")
    if check.different > len(check.differences):
        console.print(f"      [{QUIET}]and {check.different - len(check.differences):,} more[/]")
