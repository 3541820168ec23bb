"""A design on a terminal: one line per table, as a colleague would jot it down."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.views.style import GOOD, NAME, QUIET, counted, grid, plain, title

if TYPE_CHECKING:
    from rich.console import Console

    from hemplit.core.draft.redraft import Redrafted
    from hemplit.core.model.design import Design, TablePlan


def show_design(console: Console, design: Design) -> None:
    """All tables with key, columns and references, and why each is there."""
    sheets = ", ".join(sheet.file for sheet in design.sheets if sheet.file)
    title(console, counted(len(design.tables), "table"), f"for {sheets}")
    table = grid("table", "is a", "key", "columns", "because")
    for plan in design.tables:
        table.add_row(
            f"[{NAME}]{plain(plan.name)}[/]",
            plan.purpose,
            plain(", ".join(plan.key)),
            _columns(plan),
            f"[{QUIET}]{plain(plan.why)}[/]",
        )
    console.print(table)


def _columns(plan: TablePlan) -> str:
    shown = []
    for column in plan.columns:
        if column.name in plan.key and column.to is None:
            continue
        name = plain(column.name)
        if column.to is not None:
            name = f"{name} [{QUIET}]→[/] {plain(column.to)}"
        elif not column.store:
            name = f"{name} [{QUIET}](computed)[/]"
        shown.append(name)
    return ", ".join(shown)


def show_redrafted(console: Console, name: str, made: Redrafted) -> None:
    """What was added to an edited design, and what a new draft would do otherwise."""
    title(console, name, "somebody has edited this design, and it stays as it is; --replace drafts it anew")
    for table, column in made.added:
        console.print(f"  [{GOOD}]+[/] '{plain(str(column.source))}' is new in the sheet: {plain(table)}.{column.name}")
    if made.otherwise:
        console.print("  A new draft would have otherwise:")
        for line in made.otherwise:
            console.print(f"    {plain(line)}")
    if not made.added and not made.otherwise:
        console.print(f"  [{GOOD}]✓[/] a new draft would have nothing otherwise")
