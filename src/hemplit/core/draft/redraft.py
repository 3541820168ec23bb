"""An edited design × a fresh draft of the sheets as they are now → what to add to it, and what the draft has otherwise.

The person's decisions stay; only columns that the design does not know yet need a place.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from hemplit.core.draft.naming import unused
from hemplit.core.texts.words import snake, words

if TYPE_CHECKING:
    from collections.abc import Mapping

    from hemplit.core.model.design import ColumnPlan, Design, SheetPlan, TablePlan


@dataclass(frozen=True)
class Redrafted:
    """``added`` are new columns with the table for each; ``otherwise`` says what the draft would do differently."""

    added: tuple[tuple[str, ColumnPlan], ...]
    otherwise: tuple[str, ...]


def redraft(kept: Design, fresh: Design) -> Redrafted:
    """What a fresh draft has to say to a design that was edited."""
    added: list[tuple[str, ColumnPlan]] = []
    otherwise: list[str] = []
    known = {sheet.name for sheet in kept.sheets}
    for sheet in fresh.sheets:
        if sheet.name not in known:
            otherwise.append(
                f"sheet '{sheet.name}' is not in the design: give it a design of its own, or draft with --replace"
            )
    for sheet in kept.sheets:
        other = next((one for one in fresh.sheets if one.name == sheet.name), None)
        if other is None:
            otherwise.append(f"sheet '{sheet.name}' of the design was not given")
            continue
        otherwise += _steps(sheet, other)
        mine, theirs = _homes(kept, sheet.name), _homes(fresh, sheet.name)
        for header, (table, column) in theirs.items():
            if header not in mine and header not in sheet.leave_out:
                added.append(_place(kept, sheet, table, header, column, added))
        for header, (table, _) in mine.items():
            if header not in theirs:
                otherwise.append(f"'{header}' is no longer in sheet '{sheet.name}': delete its line in '{table.name}'")
            elif theirs[header][0].name != table.name:
                otherwise.append(f"'{header}' would be in '{theirs[header][0].name}'; it is in '{table.name}'")
    otherwise += _tables(kept, fresh)
    return Redrafted(tuple(added), tuple(otherwise))


def _homes(design: Design, sheet: str) -> dict[str, tuple[TablePlan, ColumnPlan]]:
    return {
        header: (table, column)
        for table in design.tables_of(sheet)
        for column in table.columns
        if column.to is None
        for header in column.sources
    }


def _place(
    kept: Design,
    sheet: SheetPlan,
    table: TablePlan,
    header: str,
    column: ColumnPlan,
    added: list[tuple[str, ColumnPlan]],
) -> tuple[str, ColumnPlan]:
    """Where a new column goes: the table of the draft if the design has it, else that of the sheet's rows."""
    tables = kept.tables_of(sheet.name)
    base = kept.base_of(sheet.name)
    into = next((one for one in tables if one.name == table.name), base)
    taken = {one.name for one in into.columns} | {one.name for name, one in added if name == into.name}
    plain = column.name if into.name == table.name else snake(words(header))
    plan = replace(column, name=unused(plain, taken, "column"), source=header, roles=(), formula=None, store=True)
    return into.name, replace(plan, required=False, why="new in the sheet")


def _steps(kept: SheetPlan, fresh: SheetPlan) -> list[str]:
    mine = {(step.act, step.settings) for step in kept.steps}
    theirs = {(step.act, step.settings): step for step in fresh.steps}
    lines = [
        f"step '{step.act}' of sheet '{kept.name}' is new: {step.why or dict(step.settings)}"
        for key, step in theirs.items()
        if key not in mine and not step.proposed
    ]
    lines += [
        f"step '{act}' of sheet '{kept.name}' would not be there"
        for act, settings in mine
        if (act, settings) not in theirs
    ]
    return sorted(lines)


def _tables(kept: Design, fresh: Design) -> list[str]:
    lines = [
        f"there would be a {table.purpose} '{table.name}': {table.why}"
        for table in fresh.tables
        if table.name not in kept.by_name
    ]
    lines += [f"there would be no table '{table.name}'" for table in kept.tables if table.name not in fresh.by_name]
    shared: Mapping[str, TablePlan] = {table.name: table for table in fresh.tables if table.name in kept.by_name}
    lines += [
        f"the key of '{name}' would be {' + '.join(table.key)}; it is {' + '.join(kept.by_name[name].key)}"
        for name, table in shared.items()
        if table.key != kept.by_name[name].key
    ]
    return lines
