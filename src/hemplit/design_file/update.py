"""The text of an edited design × what is new → the same text with new lines; all that a person wrote stays as it is."""

from __future__ import annotations

import tomllib
from typing import TYPE_CHECKING

from hemplit.core.model.acts import Act
from hemplit.design_file import older
from hemplit.design_file.locate import line_of
from hemplit.design_file.write import column_line, step_line
from hemplit.errors import DesignError

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.draft.redraft import StepChange
    from hemplit.core.model.design import ColumnPlan, TablePlan


def with_column(text: str, table: TablePlan, column: ColumnPlan) -> str:
    """The text with one more column line, behind those of its table."""
    last = max(line_of(text, f"tables.{table.name}.columns.{one.name}") or 0 for one in table.columns)
    lines = text.splitlines()
    return joined([*lines[:last], column_line(table, column), *lines[last:]])


def has_line(text: str, change: StepChange) -> bool:
    """Whether a step stands in the text as it is now, with or without a # before it."""
    line = step_line(change.fresh, proposed=False).partition("},")[0].strip()
    return any(one.strip().lstrip("# ").startswith(line) for one in text.splitlines())


def with_step(text: str, change: StepChange) -> str:
    """The text with the line of a step as it is now, where that is safe; else it stands there with a # before it.

    Raises ``DesignError`` if the steps of the sheet do not stand on a line each.
    """
    lines = text.splitlines()
    first, last = steps_of(lines, change.sheet)
    line = step_line(change.fresh, proposed=not change.safe)
    acts = [act_of(one) for one in lines[first:last]]
    if change.kept is not None:
        wanted = step_line(change.kept, proposed=False).partition("},")[0].strip()
        own = [place for place in range(first, last) if lines[place].strip().startswith(wanted)]
        if len(own) != 1:
            raise not_on_lines(change.sheet)
        return joined([*lines[: own[0]], *([] if change.safe else [lines[own[0]]]), line, *lines[own[0] + 1 :]])
    number = Act(change.fresh.act).number
    behind = [place for place, act in enumerate(acts, first + 1) if act is not None and act.number <= number]
    at = max(behind, default=first)
    return joined([*lines[:at], line, *lines[at:]])


def steps_of(lines: Sequence[str], sheet: str) -> tuple[int, int]:
    """The places of the lines between the brackets of a sheet's steps."""
    at = line_of(joined(lines), f"sheets.{sheet}.steps")
    if at is None or not lines[at - 1].strip().startswith("steps") or not lines[at - 1].rstrip().endswith("["):
        raise not_on_lines(sheet)
    last = next((place for place in range(at, len(lines)) if lines[place].strip() == "]"), None)
    if last is None:
        raise not_on_lines(sheet)
    return at, last


def act_of(line: str) -> Act | None:
    """What a line does, with or without a # before it; None if it is a comment."""
    try:
        return Act(older.step(tomllib.loads(f"steps = [\n{line.strip().lstrip('# ')}\n]")["steps"][0])["do"])
    except (tomllib.TOMLDecodeError, IndexError, KeyError, TypeError, ValueError):
        return None


def not_on_lines(sheet: str) -> DesignError:
    return DesignError(f"sheets.{sheet}.steps", "its steps do not stand on a line each", "write them so, or by hand")


def joined(lines: Sequence[str]) -> str:
    return "\n".join(lines) + "\n"
