"""What was loaded, and the proof, on a terminal."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.views.style import BAD, GOOD, NAME, QUIET, count, counted, grid, plain, title

if TYPE_CHECKING:
    from rich.console import Console

    from hemplit.core.model.proof import Check, Proof
    from hemplit.core.model.tables import Tables


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


def show_proof(console: Console, proof: Proof) -> None:
    """Each check and each ledger, and the verdict."""
    for check in proof.checks:
        _show_check(console, check)
    for ledger in proof.ledgers:
        mark = f"[{GOOD}]✓[/]" if ledger.adds_up else f"[{BAD}]✗[/]"
        aside = sum(part.cells for part in ledger.set_aside)
        computed = f" ({ledger.computed:,} computed by the view)" if ledger.computed else ""
        console.print(
            f"  {mark} {plain(ledger.sheet)}: {ledger.cells:,} cells = {ledger.carried:,} carried over{computed}"
            f" + {ledger.changed:,} changed + {aside:,} set aside"
        )
        for part in ledger.changes:
            console.print(f"      [{QUIET}]{part.cells:,} changed: {plain(part.reason)}[/]")
        for part in ledger.set_aside:
            reason = plain(part.reason.removeprefix("set aside "))
            console.print(f"      [{QUIET}]{part.cells:,} set aside: {reason}[/]")
    verdict = (
        f"[{GOOD}]Proven: nothing was lost.[/]" if proof.holds else f"[{BAD}]Not proven: look at the differences.[/]"
    )
    console.print(verdict)


def _show_check(console: Console, check: Check) -> None:
    if not check.different:
        console.print(f"  [{GOOD}]✓[/] {plain(check.what)} [{QUIET}]({check.compared:,} {check.unit})[/]")
        return
    console.print(f"  [{BAD}]✗[/] {plain(check.what)}: {check.different:,} of {check.compared:,} {check.unit} differ")
    for one in check.differences:
        console.print(f"      {plain(one.place)}: expected {plain(one.expected)}, found {plain(one.found)}")
    if check.different > len(check.differences):
        console.print(f"      [{QUIET}]and {check.different - len(check.differences):,} more[/]")
