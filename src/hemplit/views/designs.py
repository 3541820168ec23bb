"""A design on a terminal: one line per table, as a colleague would jot it down."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.views.style import NAME, QUIET, counted, grid, plain, title

if TYPE_CHECKING:
    from rich.console import Console

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
