"""Further sheets × design × tables that are held → what each of them adds: next month's file, with the same design.

A sheet is shaped by the steps of the design, split, and met with what is held. Rows that contradict the design are left
out; cells of known rows that say something else are conflicts.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import Enum
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit import files
from hemplit.core import shape
from hemplit.core.columns.codes import stack
from hemplit.core.design import resolve
from hemplit.core.model.account import Cells, Fate
from hemplit.core.model.acts import Act
from hemplit.core.model.loads import Load
from hemplit.core.model.proof import Check, Proof
from hemplit.core.model.relation import Doubt
from hemplit.core.model.tables import Tables
from hemplit.core.proof.compare import check_cells, check_rejoin, rows_not_given_back
from hemplit.core.proof.ledger import Member, ledger
from hemplit.core.proof.rejoin import rejoin
from hemplit.core.shape.children import ROW_NUMBER
from hemplit.core.tables.merge import merge, rows_from
from hemplit.core.tables.split import split
from hemplit.errors import CellError, DataError, DesignError, InputError
from hemplit.flow.noted import mark_of
from hemplit.flow.reading import notes_of, replayed_but, take_apart

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping, Sequence

    from hemplit.core.model.design import Design, SheetPlan
    from hemplit.core.model.grid import Grid
    from hemplit.core.model.proof import Ledger
    from hemplit.core.model.relation import Relation
    from hemplit.core.model.tables import Reference, Table, View
    from hemplit.core.tables.merge import Merged
    from hemplit.flow.reading import Sheets
    from hemplit.targets.contract import Target


class Conflicts(Enum):
    """What is done where a further sheet contradicts what is held."""

    STOP = "stop"
    KEEP = "keep"
    UPDATE = "update"


@dataclass(frozen=True)
class How:
    """What is done with what contradicts: cells of known rows, and rows that the design does not allow.

    With ``strict`` such rows stop all; otherwise they are left out. A ``dry_run`` writes nothing.
    """

    conflicts: Conflicts = Conflicts.STOP
    strict: bool = False
    dry_run: bool = False
    left_out: tuple[str, ...] = ()
    """Columns of further sheets that no table takes."""

    @property
    def updates(self) -> bool:
        """Whether what is held gives way."""
        return self.conflicts is Conflicts.UPDATE


#: Of a sheet in which more rows contradict the design something else is wrong.
MOST_ASIDE = 100


@dataclass(frozen=True)
class Step:
    """One further sheet and what came of it: which rows of it are new, which were left out and why.

    ``stops`` says that it contradicts what is held, and that nothing is to be written then.
    """

    grid: Grid
    sheet: str
    sheets: Sheets
    merged: Merged
    tables: Tables
    is_new: np.ndarray[tuple[int], np.dtype[np.bool_]]
    update: bool
    design: Design
    aside: tuple[tuple[int, str], ...] = ()
    stops: bool = False

    @property
    def title(self) -> str:
        """The name that messages use."""
        return title_of(self.grid)

    @property
    def known(self) -> int:
        """How many of its rows were there already."""
        return int(np.count_nonzero(~self.is_new))


def added(
    design: Design,
    plan: SheetPlan,
    grid: Grid,
    held: Mapping[str, Table],
    how: How,
) -> Step:
    """What one further sheet adds to the tables that are held; rows that contradict the design are left out.

    Raises ``DataError`` for these if it is to be strict.
    """
    united = design.united(plan.name)
    if united is not None or design.lists_of(plan.name):
        what = "tells of the same things as others" if united is not None else "only combines independent lists"
        hint = "load the design with all its sheets instead: hemplit load DESIGN --into TARGET --replace"
        raise DesignError(f"sheets.{plan.name}", f"it {what}, and cannot be added to by itself", hint)
    shaped, unfit = replayed_but(grid, design, plan, 0 if how.strict else MOST_ASIDE)
    design = _without_columns(design, plan, how.left_out, shaped.relation)
    sheets = take_apart(design, plan.name, grid, shaped)
    sheets = replace(sheets, relations=_numbered_on(design, plan, sheets.relations, held))
    aside: list[tuple[int, str]] = []
    while True:
        try:
            step = _step(design, plan, grid, _without(sheets, grid, aside), held, update=how.updates)
        except DataError as error:
            if how.strict or len(aside) >= MOST_ASIDE or error.row < 0:
                raise
            aside.append((error.row, error.what))
            continue
        stops = how.conflicts is Conflicts.STOP and bool(step.merged.conflicts)
        lists = {} if stops or how.strict else _other_lists(step)
        if lists and len(aside) < MOST_ASIDE:
            aside += lists.items()
            continue
        if how.conflicts is Conflicts.KEEP:
            step = _as_held(step)
        odd = [] if stops or how.strict or len(aside) >= MOST_ASIDE else _not_given(step)
        if not odd:
            return replace(step, aside=(*unfit, *aside), stops=stops, design=design)
        aside += odd


def _without_columns(design: Design, plan: SheetPlan, headers: Sequence[str], relation: Relation) -> Design:
    """The design with further columns of a sheet left out. Raises ``InputError`` for new ones that are not named."""
    known = {header for table in design.tables_of(plan.name) for column in table.columns for header in column.sources}
    known |= {*plan.leave_out, *(name for step in plan.steps for name in step.texts("names"))}
    new = [column.name for column in relation.columns if column.name not in known and column.own]
    odd = next((name for name in new if name not in headers), None)
    if odd is not None:
        what = f"its column '{odd}' is new, and no table of the design has it"
        hint = f'add a line {{ from = "{odd}" }} to a table and load anew, or go on without it: --leave-out "{odd}"'
        raise InputError(relation.source.title, what, hint)
    kept = tuple(dict.fromkeys((*plan.leave_out, *(name for name in new if name in headers))))
    sheets = tuple(replace(one, leave_out=kept) if one.name == plan.name else one for one in design.sheets)
    return replace(design, sheets=sheets)


def _step(
    design: Design, plan: SheetPlan, grid: Grid, sheets: Sheets, held: Mapping[str, Table], *, update: bool
) -> Step:
    tables = split(design, sheets.relations, held)
    further = {table.name: table for table in tables.tables if design.by_name[table.name].sheet in sheets.relations}
    merged = merge(design, {name: _like(held[name], further.get(name)) for name in held}, further, update=update)
    base = design.base_of(plan.name).name
    return Step(grid, plan.name, sheets, merged, tables, merged.place[base] >= merged.held[base], update, design)


def _without(sheets: Sheets, grid: Grid, aside: Sequence[tuple[int, str]]) -> Sheets:
    """The sheet without the rows that contradict the design, each with its reason in the account."""
    relations = dict(sheets.relations)
    for row, why in aside:
        rows = np.array([row])
        for name, relation in relations.items():
            cells = Cells(Fate.LEFT_OUT, why, rows, tuple(range(len(grid.columns))), named=True)
            relations[name] = relation.without(rows, None if name in sheets.parents else cells)
    return replace(sheets, relations=relations)


def _other_lists(step: Step) -> dict[int, str]:
    """The rows of the grid whose lists have other entries than are held: neither keeping nor adding gives them back."""
    found = {}
    for one in step.merged.conflicts:
        if one.of_list:
            row = int(step.sheets.relations[one.of_list].grid_rows[one.further_row])
            found[row] = f"{', '.join(one.names)} has other entries under '{one.column}' than are held"
    return found


def _as_held(step: Step) -> Step:
    """The sheet as it is given back where what is held of known things stays: such cells are changed."""
    headers = {one.column for one in step.merged.conflicts}
    relation = step.sheets.relations[step.sheet]
    if not headers & {*relation.names}:
        return step
    given = rejoin(*_own_part(step, step.sheet))
    both = {
        column.name: stack([(column.codes, column.values), (back.codes, back.values)])
        for column in relation.columns
        for back in [given.get(column.name)]
        if back is not None
    }
    differs = {name: np.not_equal(*np.split(codes, 2)) for name, (codes, _) in both.items()}
    # What hangs on a thing that stays is as it was, too.
    some = np.logical_or.reduce([differs[name] for name in headers if name in differs])
    columns = []
    for column in relation.columns:
        if column.name in both and (differs[column.name] & some).any():
            codes, values = both[column.name]
            here = differs[column.name] & some
            own, held = np.split(codes, 2)
            earlier = np.zeros(relation.row_count, np.int8) if column.changed is None else column.changed
            changed = np.where(here, np.int8(Act.HELD.number), earlier)
            columns.append(replace(column, codes=np.where(here, held, own), values=values, changed=changed))
        else:
            columns.append(column)
    relations = {**step.sheets.relations, step.sheet: replace(relation, columns=tuple(columns))}
    return replace(step, sheets=replace(step.sheets, relations=relations))


def _own_part(step: Step, sheet: str) -> tuple[Tables, View]:
    """All tables, with the rows of a sheet in the table of its rows, known ones and new; and the view of these.

    What refers to other rows of that table finds them in the whole of it, which is there under another name.
    """
    base = step.design.base_of(sheet).name
    whole = step.merged.tables[base]
    own = rows_from(whole, step.merged.place[base])
    view = next(view for view in step.tables.views if view.sheet == sheet)
    held = replace(whole, name=f"{base}, all rows")

    def through(path: tuple[Reference, ...]) -> tuple[Reference, ...]:
        return tuple(replace(one, table=held.name) if one.table == base else one for one in path)

    columns = tuple(
        replace(one, path=through(one.path), otherwise=tuple((through(path), name) for path, name in one.otherwise))
        for one in view.columns
    )
    tables = {**step.merged.tables, base: own, held.name: held}
    return Tables(tuple(tables.values()), ()), replace(view, columns=columns)


def _not_given(step: Step) -> list[tuple[int, str]]:
    """The rows that the tables would not give back, by their place in the grid."""
    relation = step.sheets.relations[step.sheet]
    found = rows_not_given_back(relation, *_own_part(step, step.sheet))
    return [(int(relation.grid_rows[row]), why) for row, why in found]


def replayed(
    design: Design, folder: Path, tables: Tables, target: Target, noted: Sequence[Load]
) -> tuple[list[Step], list[tuple[str, Doubt]]]:
    """What was added to the tables since they were loaded, from the files; and what is to be told.

    A file that is gone, or is another by now, ends it: what came after cannot be told any more. One that was put into
    a folder of the design, which is seen from ``folder``, is found there.
    """
    place = Path(target.text).absolute().parent
    patterns = [str(folder / sheet.file) for sheet in design.sheets if sheet.is_read]
    among = [Path(one) for path in patterns if files.is_pattern(path) for one in files.each_file(path)]
    held = {table.name: table for table in tables.tables}
    steps: list[Step] = []

    def later(load: Load) -> Sequence[Load]:
        return noted[noted.index(load) + 1 :]

    for load in noted:
        file = _found(place / load.file, load.mark, among)
        if any((one.file, one.worksheet, one.sheet) == (load.file, load.worksheet, load.sheet) for one in later(load)):
            continue  # the file has grown, and was added again: it has all of this
        if not file.is_file() or mark_of(file) != load.mark:
            what = "is no longer there" if not file.is_file() else "has changed since then"
            doubt = Doubt(f"it was added on {load.at[:10]}, and {what}", (), "what it added cannot be proven")
            return steps, [(file.name, doubt)]
        grid = next(one for one in files.read(str(file)) if str(one.source.sheet or "") == load.worksheet)
        plan = next(sheet for sheet in design.sheets if sheet.name == load.sheet)
        step = added(design, plan, _as_part(grid, plan), held, How(Conflicts(load.how), left_out=load.left_out))
        steps.append(step)
        held = dict(step.merged.tables)
    return steps, []


def came_once(noted: Sequence[Load]) -> bool:
    """Whether no file was loaded and, grown by then, once more."""
    return len({(one.file, one.worksheet, one.sheet) for one in noted}) == len(noted)


def _found(file: Path, mark: str, among: Sequence[Path]) -> Path:
    """The file, or the one among others that is the same if it is no longer there."""
    if file.is_file():
        return file
    return next((one for one in among if one.is_file() and mark_of(one) == mark), file)


def proof_of(steps: Sequence[Step]) -> Proof:
    """Whether what was added gives every new row back, and where every cell went."""
    return Proof(
        tuple(check for step in steps for check in _checks(step)),
        tuple(_ledger(step.design, step) for step in steps),
        sum(int(np.count_nonzero(step.is_new)) for step in steps),
        tuple(
            f"{len(step.merged.conflicts):,} {'cell' if len(step.merged.conflicts) == 1 else 'cells'} of known rows "
            f"{'replaced by' if step.update else 'not taken from'} {step.title}"
            for step in steps
            if step.merged.conflicts
        ),
    )


def _checks(step: Step) -> list[Check]:
    """Whether the tables give back every row of the sheet and of what was taken out of it."""
    found = []
    for name, relation in step.sheets.relations.items():
        if any(column.own for column in relation.columns):
            found.append(check_cells(step.grid, relation))
        found.append(check_rejoin(relation, *_own_part(step, name)))
    return found


def _like(held: Table, further: Table | None) -> Table:
    """A held table whose columns are of the kinds of a further one, where the design leaves these open."""
    if further is None:
        return held
    columns = tuple(
        replace(one, kind=other.kind, values=one.values.cast(other.values.type))
        for one, other in zip(held.columns, further.columns, strict=True)
    )
    return replace(held, columns=columns)


def _numbered_on(
    design: Design, plan: SheetPlan, relations: Mapping[str, Relation], held: Mapping[str, Table]
) -> dict[str, Relation]:
    """The relations; where the rows of a sheet are known by their number, these go on behind the ones that are held."""
    base = design.base_of(plan.name)
    numbered = next((column for column in base.columns if column.source == ROW_NUMBER), None)
    if numbered is None:
        return dict(relations)
    values = [value for value in held[base.name].by_name[numbered.name].values.to_pylist() if value is not None]
    first = max(values, default=0)
    made = {}
    for name, relation in relations.items():
        columns = tuple(
            replace(one, values=pc.add(one.values, first)) if one.name == ROW_NUMBER else one
            for one in relation.columns
        )
        made[name] = replace(relation, columns=columns)
    return made


def tables_seen(step: Step) -> Tables:
    """The tables of the sheet's own rows, and all that they can refer to as it is held."""
    own = {table.name: table for table in step.tables.tables}
    return Tables(tuple({**step.merged.tables, **own}.values()), ())


def _ledger(design: Design, step: Step) -> Ledger:
    views = {view.sheet: view for view in step.tables.views}
    plans = {sheet.name: sheet for sheet in design.sheets}
    members = [Member(relation, views[name], plans[name]) for name, relation in step.sheets.relations.items()]
    return ledger(step.grid, members)


# Which sheet a file is ------------------------------------------------------------------------------------------------


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
        taken = _as_part(grid, plan)
        wanted = {name for step in plan.steps for name in step.texts("names")}
        try:
            there = {*shape.replay(taken, plan.steps, {}).relation.names}
        except CellError:
            there = wanted  # its columns were found, and only some cells do not fit
        except InputError:
            continue
        share = len(wanted & there) / len(wanted) if wanted else 1.0
        if best is None or share > best[0]:
            best = (share, taken, plan)
    if best is None:
        names = ", ".join(f"'{plan.name}'" for plan in plans)
        what = f"its columns are those of no sheet of the design ({names})"
        raise InputError(grid.source.title, what, "give a sheet with the same headers, or draft a design for it")
    return best[1], best[2]


def _as_part(grid: Grid, plan: SheetPlan) -> Grid:
    """A file as one of those of a pattern, so that its name tells what theirs tell."""
    if not files.is_pattern(plan.file) or grid.source.parts:
        return grid
    return files.as_one_of(plan.file, grid)


def file_of(grid: Grid) -> Path:
    return Path(grid.source.parts[0][0] if grid.source.parts and grid.source.sheet is None else grid.source.path)


def title_of(grid: Grid) -> str:
    return f"{file_of(grid).name} [{grid.source.sheet}]" if grid.source.sheet else file_of(grid).name
