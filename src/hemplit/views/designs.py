"""A design on a terminal: a tree of its tables, as a colleague would jot it down."""

from __future__ import annotations

from typing import TYPE_CHECKING

from rich.text import Text

from hemplit.core.design.check import is_band
from hemplit.core.model.design import Purpose
from hemplit.dataclasses import dataclass, field
from hemplit.views.style import CHOICE, DONE, GOOD, LOOK, NAME, QUIET, counted, plain, say, title, wrapped

if TYPE_CHECKING:
    from collections.abc import Mapping

    from rich.console import Console

    from hemplit.core.draft.redraft import Redrafted, StepChange
    from hemplit.core.model.design import ColumnPlan, Design, TablePlan


def show_design(console: Console, design: Design, rows: Mapping[str, int], *, reasons: bool = False) -> None:
    """The tables as a tree: each with those that it refers to below it; ``rows`` are how many rows each would have."""
    title(console, counted(len(design.tables), "table"), f"for {design.files}")
    referred = {column.target[0] for plan in design.tables for column in plan.columns if column.target}
    ranges = {name for plan in design.tables for name in _ranges(plan)}
    roots = [plan for plan in design.tables if plan.name not in referred | ranges or plan.purpose is Purpose.MAIN]
    tree = _Tree(console, design, rows, reasons)
    for plan in [*roots, *design.tables]:
        if plan.name not in tree.told:
            console.print()
            tree.show(plan, "", "", "")


@dataclass
class _Tree:
    """A tree of tables while it is printed; ``told`` are the tables that have been shown."""

    console: Console
    design: Design
    rows: Mapping[str, int]
    reasons: bool
    told: set[str] = field(default_factory=set)

    def show(self, plan: TablePlan, before: str, below: str, label: str) -> None:
        """A table and what it refers to: what stands before its first line, before the others, and what names it."""
        self.told.add(plan.name)
        branches = _branches(self.design, plan)
        beyond = f"{below}{'│ ' if branches else '  '}"
        size = [counted(self.rows[plan.name], "row")] if plan.name in self.rows else []
        key = [] if label else [f"key {', '.join(plan.key)}"]
        purpose = [] if label and plan.purpose is Purpose.ENTITY else [f"{plan.purpose} table"]
        about = plain("  ".join([*size, *key, *purpose]))
        self._line(before, f"{label}[{NAME}]{plain(plan.name)}[/]  [{QUIET}]{about}[/]", beyond)
        said = _own_columns(plan, root=not label)
        if said:
            self._line(beyond, said, beyond)
        if self.reasons and plan.why:
            self._line(beyond, f"[{QUIET}]{plain(plan.why)}[/]", beyond)
        for number, (names, other) in enumerate(branches):
            corner, on = ("└ ", "  ") if number == len(branches) - 1 else ("├ ", "│ ")
            named = f"{plain(', '.join(names))} → "
            if other.name in self.told:
                self._line(below + corner, f"{named}[{NAME}]{plain(other.name)}[/]", below + on)
            else:
                self.show(other, below + corner, below + on, named)

    def _line(self, before: str, markup: str, beyond: str) -> None:
        """A line of the tree; where it goes on, the branches go on beside it."""
        for number, line in enumerate(wrapped(self.console, markup, len(beyond) + 2)):
            lead = before if not number else f"{beyond}  "
            self.console.print(Text.assemble((lead, QUIET), line), soft_wrap=True)


def _branches(design: Design, plan: TablePlan) -> list[tuple[list[str], TablePlan]]:
    """The tables that one refers to, each with the columns that do."""
    found: dict[str, list[str]] = {}
    for column in plan.columns:
        if column.target is not None:
            found.setdefault(column.target[0], []).append(column.name)
        for name in _ranges_of(column):
            found.setdefault(name, []).append(f"{column.name} by ranges")
    return [(names, design.by_name[name]) for name, names in found.items() if name in design.by_name]


def _ranges(plan: TablePlan) -> list[str]:
    return [name for column in plan.columns for name in _ranges_of(column)]


def _ranges_of(column: ColumnPlan) -> list[str]:
    return [column.formula.detail] if column.formula is not None and is_band(column) and not column.store else []


def _own_columns(plan: TablePlan, *, root: bool) -> str:
    """The columns that refer to nothing, without the key where it has been said."""
    own = [one for one in plan.columns if one.target is None and not _ranges_of(one)]
    plainly = [one.name for one in own if one.store and not (root and one.name in plan.key)]
    calculated = [one.name for one in own if not one.store]
    parts = [plain(", ".join(plainly))] if plainly else []
    parts += [f"[{QUIET}]calculated:[/] {plain(', '.join(calculated))}"] if calculated else []
    return "; ".join(parts)


def show_redrafted(console: Console, name: str, made: Redrafted, copy: str) -> None:
    """What is new for an edited design, and what a draft would do differently; ``copy`` names the file as it was."""
    if made.anew is not None:
        title(console, name, "the steps that you chose give other tables")
    else:
        title(console, name, "you have edited this design, so it was kept; start over with --replace")
    for drafted, own in made.renamed:
        say(console, f"You renamed {plain(drafted)} to {plain(own)} (nothing to do)", sign=DONE, indent=2)
    for table, column in made.added:
        said = f"new column '{plain(column.all_headers[0])}': {plain(table)}.{plain(column.name)}"
        say(console, said, sign=f"[{GOOD}]+[/]", indent=2)
    for one in made.steps:
        sign = f"[{GOOD}]+[/]" if one.safe else CHOICE
        what = "new step" if one.kept is None else "step"
        why = f" [{QUIET}]({plain(one.fresh.why)})[/]" if one.fresh.why else ""
        said = f"{plain(one.fresh.act)}: {plain(', '.join(_differing(one)))}{why}"
        say(console, f"{what} of sheet '{plain(one.sheet)}', {said}", sign=sign, indent=2)
    for line in made.gone:
        say(console, plain(line), sign=LOOK, indent=2)
    if made.anew is not None:
        said = "it is drafted anew by them" if copy else "a draft by them has"
        say(console, f"{said}: {plain(', '.join(table.name for table in made.anew.tables))}", indent=2)
    elif made.otherwise:
        say(console, "A new draft would do this differently; you need do nothing:", indent=2)
    for line in made.otherwise:
        say(console, plain(line), indent=4)
    marked = "; what is marked ? stands there with a # before it" if any(not one.safe for one in made.steps) else ""
    if copy:
        say(console, f"written{marked}. The design as it was is in {plain(copy)}", sign=DONE, indent=2)
    elif made.updates:
        say(console, "Nothing is written yet: the same command with --update writes it, and keeps a copy", indent=2)
    elif not (made.otherwise or made.gone):
        say(console, "a new draft would do nothing differently", sign=DONE, indent=2)


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
