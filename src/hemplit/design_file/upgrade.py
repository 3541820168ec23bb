"""The text of a design of an older format → the same in the format that is read; all that a person wrote stays.

Format 1 knew rows by their numbers, ``{ do = "skip total rows", rows = [12] }``. Such a step is now a rule, which
says what to look for, and so it is found anew on the sheet.
"""

from __future__ import annotations

import re
import tomllib
from typing import TYPE_CHECKING, Any

from hemplit.core.model.acts import Act
from hemplit.dataclasses import dataclass, replace
from hemplit.design_file import older
from hemplit.design_file.update import act_of, joined, steps_of
from hemplit.design_file.words import FORMAT
from hemplit.design_file.write import is_edited, step_line, with_mark

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    from hemplit.core.model.relation import Step

BY_ROWS = frozenset(
    (
        Act.BLANK_ROWS,
        Act.HEADER,
        Act.REPEATED_HEADER,
        Act.LONG_ROWS,
        Act.NOTES,
        Act.TOTALS,
        Act.DUPLICATES,
    )
)


@dataclass(frozen=True)
class OldSheet:
    """A sheet of a design of format 1: the file and worksheet to read, and the cells that are its table."""

    name: str
    file: str
    sheet: str | None
    area: str


def old_sheets(text: str) -> tuple[OldSheet, ...]:
    """The sheets to read again for a design of format 1, as it knows rows of them by their numbers.

    >>> step = '{ do = "skip total rows", rows = [12] }'
    >>> old_sheets(f'format = 1\\n[sheets.jobs]\\nfile = "jobs.csv"\\nsteps = [{step}]')
    (OldSheet(name='jobs', file='jobs.csv', sheet=None, area=''),)
    """
    sheets = tomllib.loads(text).get("sheets", {})
    return tuple(
        OldSheet(name, str(part["file"]), part.get("sheet"), _area(part))
        for name, part in sheets.items()
        if isinstance(part, dict) and "file" in part and any("rows" in step for step in _steps(part))
    )


def is_old(text: str) -> bool:
    """Whether a text is a design of an older format that can be brought to the present one."""
    try:
        return tomllib.loads(text).get("format") == 1
    except (tomllib.TOMLDecodeError, ValueError, RecursionError):
        return False


def _steps(sheet: Mapping[str, Any]) -> list[Mapping[str, Any]]:
    return [step for step in sheet.get("steps", ()) if isinstance(step, dict)]


def _area(sheet: Mapping[str, Any]) -> str:
    return next((str(step.get("area", "")) for step in _steps(sheet) if older.step(step).get("do") == Act.AREA), "")


def upgraded(text: str, fresh: Mapping[str, Sequence[Step]]) -> str:
    """The text in the present format; ``fresh`` are the steps that are found on each of the old sheets now.

    A step with the number of rows becomes the one that is found for the same act, or goes if none is. Raises
    ``DesignError`` if the steps of a sheet do not stand on a line each.
    """
    lines = text.splitlines()
    for sheet, steps in fresh.items():
        first, last = steps_of(lines, sheet)
        made: list[str] = []
        done: set[Act] = set()
        for line in lines[first:last]:
            act = act_of(line)
            if act not in BY_ROWS or "rows" not in line:
                made.append(line)
            elif act not in done and not line.lstrip().startswith("#"):
                done.add(act)
                found = (replace(step, proposed=False) for step in steps if step.act == act)
                made += (step_line(step, proposed=False) for step in found)
        lines[first:last] = made
    made_new = re.sub(r"(?m)^format\s*=.*$", f"format = {FORMAT}", joined(lines), count=1)
    return made_new if is_edited(text) else with_mark(made_new)
