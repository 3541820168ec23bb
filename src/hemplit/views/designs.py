"""A design on a terminal: one line per table, as a colleague would jot it down."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.views.style import BAD, GOOD, NAME, QUIET, counted, grid, plain, title

if TYPE_CHECKING:
    from rich.console import Console

    from hemplit.core.draft.redraft import Redrafted, StepChange
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


def show_redrafted(console: Console, name: str, made: Redrafted, copy: str) -> None:
    """What is new for an edited design, and what a draft would do otherwise; ``copy`` names the file as it was."""
    title(console, name, "you have edited this design, and what you decided stays")
    for drafted, own in made.renamed:
        console.print(f"  [{GOOD}]✓[/] '{plain(own)}' is what a draft calls '{plain(drafted)}'")
    for table, column in made.added:
        console.print(f"  [{GOOD}]+[/] new column '{plain(str(column.source))}': {plain(table)}.{plain(column.name)}")
    for one in made.steps:
        sign = f"[{GOOD}]+[/]" if one.safe else f"[{BAD}]?[/]"
        what = "new step" if one.kept is None else "step"
        why = f" [{QUIET}]({plain(one.fresh.why)})[/]" if one.fresh.why else ""
        said = f"{plain(one.fresh.act)}: {plain(', '.join(_differing(one)))}{why}"
        console.print(f"  {sign} {what} of sheet '{plain(one.sheet)}', {said}")
    if made.otherwise:
        console.print("  A draft would have otherwise, and you need do nothing:")
        for line in made.otherwise:
            console.print(f"    {plain(line)}")
    marked = "; what is marked ? stands there with a # before it" if any(not one.safe for one in made.steps) else ""
    if copy:
        console.print(f"  [{GOOD}]✓[/] written{marked}. The design as it was is in {plain(copy)}")
    elif made.updates:
        console.print("  Nothing is written yet: the same command with --update writes it, and keeps a copy")
    elif not made.otherwise:
        console.print(f"  [{GOOD}]✓[/] a new draft would have nothing otherwise")


def _differing(change: StepChange) -> list[str]:
    """What is said of a step: all of a new one, what is other in one that is there, and what comes into its lists."""
    before = {} if change.kept is None else dict(change.kept.settings)
    said = []
    for key, value in change.fresh.settings:
        old = before.get(key)
        if isinstance(old, tuple) and isinstance(value, tuple):
            parts = [*(f"+ {_setting(one)}" for one in value if one not in old)]
            parts += [f"– {_setting(one)}" for one in old if one not in value]
            said += [f"{key} {' '.join(parts)}"] if parts else []
        elif old != value:
            said.append(f"{key} {_setting(value)}" + (f", was {_setting(old)}" if old is not None else ""))
    return said


def _setting(value: object) -> str:
    if isinstance(value, tuple):
        return ", ".join(map(_setting, value))
    return f"'{value}'" if isinstance(value, str) else str(value)
