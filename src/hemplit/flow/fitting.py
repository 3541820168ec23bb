"""Which sheet of a design a further file is: the one whose header it has."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from hemplit import files
from hemplit.core import shape
from hemplit.core.design import resolve
from hemplit.core.model.acts import Act
from hemplit.core.shape.turned import laid
from hemplit.errors import CellError, InputError, NoRowsError
from hemplit.flow.reading import notes_of

if TYPE_CHECKING:
    from collections.abc import Iterable

    from hemplit.core.model.design import Design, SheetPlan
    from hemplit.core.model.grid import Grid


def in_order(design: Design, paths: Iterable[str], notes: list[str]) -> list[tuple[Grid, SheetPlan]]:
    """The grids of all files with the sheets of the design that they are, sheets after those that they refer to."""
    found = []
    for path in paths:
        for file in files.each_file(path):
            for grid in files.read(file):
                notes += notes_of(grid)
                found.append(_fitting(design, grid))
    order = _sheets_in_order(design)
    return sorted(found, key=lambda pair: order.index(pair[1].name))


def _sheets_in_order(design: Design) -> list[str]:
    return list(dict.fromkeys(table.sheet for table in resolve.filling_order(design, design.tables)))


def _fitting(design: Design, grid: Grid) -> tuple[Grid, SheetPlan]:
    """The sheet of the design whose header a grid has."""
    plans = [sheet for sheet in design.sheets if sheet.is_read]
    best: tuple[float, Grid, SheetPlan] | None = None
    for plan in plans:
        taken = as_part(grid, plan)
        wanted = {name for step in plan.steps for name in step.texts("names")}
        done = [step for step in plan.steps if not step.proposed and step.takes]
        try:
            # What a step takes was there, or it could not be done; and what it makes of that is now.
            made = {name for step in done for name in (*step.takes, *step.texts("names"))}
            there = {*shape.replay(taken, plan.steps, {}).relation.names} | made
        except CellError:
            there = wanted  # its columns were found, and only some cells do not fit
        except NoRowsError:
            raise  # it has the header of that sheet
        except InputError as error:
            if len(plans) == 1 and _has_its_header(taken, plan):
                raise error  # it is that sheet, and lacks something
            continue
        share = len(wanted & there) / len(wanted) if wanted else 1.0
        if best is None or share > best[0]:
            best = (share, taken, plan)
    if best is None:
        names = ", ".join(f"'{plan.name}'" for plan in plans)
        what = f"its columns are those of no sheet of the design ({names})"
        raise InputError(grid.source.title, what, "give a sheet with the same headers, or draft a design for it")
    return best[1], best[2]


def _has_its_header(grid: Grid, plan: SheetPlan) -> bool:
    try:
        shape.replay(grid, [step for step in plan.steps if step.act in (Act.AREA, Act.HEADER)], {})
    except InputError:
        return False
    return True


def as_part(grid: Grid, plan: SheetPlan) -> Grid:
    """A file as one of those of a pattern, so that its name tells what theirs tell, turned if that sheet is."""
    grid = laid(grid, plan.steps)
    if not files.is_pattern(plan.file) or grid.source.parts:
        return grid
    return files.as_one_of(plan.file, grid)


def file_of(grid: Grid) -> Path:
    return Path(grid.source.parts[0][0] if grid.source.parts and grid.source.sheet is None else grid.source.path)


def title_of(grid: Grid) -> str:
    return f"{file_of(grid).name} [{grid.source.sheet}]" if grid.source.sheet else file_of(grid).name
