"""Further sheets × design × tables that are held → what each of them adds: next month's file, with the same design.

A sheet is shaped by the steps of the design, split, and met with what is held. Rows that contradict the design are left
out; cells of known rows that say something else are conflicts.
"""

from __future__ import annotations

from enum import Enum
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa

from hemplit.core.columns.codes import distinct, stack
from hemplit.core.design import resolve
from hemplit.core.model.account import Cells, Fate
from hemplit.core.model.acts import Act
from hemplit.core.model.relation import ROW_NUMBER
from hemplit.core.model.tables import Tables
from hemplit.core.proof.beside import Otherwise, beside, keep_it, otherwise, settle
from hemplit.core.proof.compare import rows_not_given_back
from hemplit.core.proof.rejoin import rejoin
from hemplit.core.proof.unsaid import unsaid
from hemplit.core.tables.match import rows_behind
from hemplit.core.tables.merge import Unsaid, merge, rows_from, without_unused
from hemplit.core.tables.split import split
from hemplit.dataclasses import dataclass, field, replace
from hemplit.errors import DataError, DoubledError, InputError
from hemplit.flow.fitting import title_of
from hemplit.flow.reading import replayed_but, take_apart

if TYPE_CHECKING:
    from collections.abc import Collection, Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.design import Design, SheetPlan
    from hemplit.core.model.grid import Grid
    from hemplit.core.model.relation import Column, Relation
    from hemplit.core.model.tables import Reference, Table, View
    from hemplit.core.tables.merge import Merged
    from hemplit.flow.reading import Sheets


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
    broken: Mapping[int, str] = field(default_factory=dict)
    """The rows of the base table by which another sheet would say something else than it did, each with how."""
    otherwise: tuple[Otherwise, ...] = ()
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
    shaped, unfit = replayed_but(grid, design, plan, 0 if how.strict else MOST_ASIDE)
    design = _without_columns(design, plan, how.left_out, shaped.relation)
    sheets = take_apart(design, {plan.name: (grid, shaped)})
    aside: list[tuple[int, str]] = []
    while True:
        try:
            step = _step(design, plan, grid, _without(sheets, grid, aside), held, update=how.updates)
        except DataError as error:
            if how.strict or len(aside) >= MOST_ASIDE or not error.rows:
                raise
            aside += ((row, error.what) for row in error.rows)
            continue
        stops = how.conflicts is Conflicts.STOP and bool(step.merged.conflicts)
        against = {} if stops or how.strict else _against_others(step, how)
        if against and len(aside) < MOST_ASIDE:
            aside += against.items()
            continue
        kept = step
        if step.merged.conflicts and not how.updates:
            kept = replace(step, merged=without_unused(design, step.merged))
            kept = kept if design.lists_of(plan.name) else _as_held(kept)
        odd = [] if how.strict or len(aside) >= MOST_ASIDE else _not_given(kept)
        if stops:
            # Who is asked whether what is held stays is told which rows do not go with that.
            odd = [] if design.lists_of(plan.name) else odd
            return replace(step, aside=(*unfit, *aside, *odd), stops=True, design=design)
        if not odd:
            return replace(kept, aside=(*unfit, *aside), design=design)
        aside += odd


def _without_columns(design: Design, plan: SheetPlan, headers: Sequence[str], relation: Relation) -> Design:
    """The design with further columns of a sheet left out. Raises ``InputError`` for new ones that are not named."""
    known = {header for _, _, header in design.headers_of(plan.name)}
    known |= {*plan.leave_out, *(name for step in plan.steps for name in step.texts("names"))}
    new = [column.name for column in relation.columns if column.name not in known and column.own]
    odd = next((name for name in new if name not in headers), None)
    missing = [one for one in resolve.headers(plan) if one not in relation.by_name and one in known]
    if odd is not None or missing:
        raise _other_columns(relation, odd, missing)
    kept = tuple(dict.fromkeys((*plan.leave_out, *(name for name in new if name in headers))))
    sheets = tuple(replace(one, leave_out=kept) if one.name == plan.name else one for one in design.sheets)
    return replace(design, sheets=sheets)


def _other_columns(relation: Relation, header: str | None, missing: Sequence[str]) -> InputError:
    """The refusal of a new column that no table has, and of one that is missing, which may only be called otherwise."""
    lacking = " and ".join(f"'{one}'" for one in missing)
    if header is None:
        hint = "put it back, with blank cells if there is nothing to say"
        return InputError(relation.source.title, f"it has no column {lacking}", hint)
    if missing:
        what = f"it has no column {lacking}, and a new one '{header}'"
        hint = f"if that is what was called {lacking}, put the old header back in the sheet"
        return InputError(relation.source.title, what, hint)
    what = f"its column '{header}' is new, and no table of the design has it"
    hint = f'add a line {{ from = "{header}" }} to a table and load again, or go on without it: --leave-out "{header}"'
    return InputError(relation.source.title, what, hint)


def _step(
    design: Design, plan: SheetPlan, grid: Grid, sheets: Sheets, held: Mapping[str, Table], *, update: bool
) -> Step:
    around = beside(design, plan.name, sheets.relations[plan.name], held)
    relations = {**sheets.relations, **({around.united.name: around.relation} if around else {})}
    tables = split(design, relations, held, around.others if around else None)
    plans = design.by_name
    further = {table.name: table for table in tables.tables if relations.keys() & {*plans[table.name].sheets}}
    held = {name: _like(held[name], further.get(name)) for name in held}
    new_of = Unsaid(unsaid(design, plan.name, held), tables.silent)
    try:
        merged = merge(design, held, further, new_of, update=update)
    except DoubledError as error:
        rows = _Rows(design, tables, sheets).that_name(error.table, error.row)
        at = f" row {grid.source.row(rows[0])[1] + 1}" if rows else ""
        raise DataError(
            error.where, f"{title_of(grid)}{at}: {error.what}", error.hint, *rows, sheet=plan.name
        ) from error
    sheets = _numbered_as(design, plan.name, sheets, tables, merged)
    merged, broken = settle(design, plan.name, held, merged) if around else (merged, {})
    base = design.base_of(plan.name).name
    is_new = (merged.place[base] >= merged.held[base])[tables.base_rows[plan.name]]
    against = tuple(otherwise(design, plan.name, sheets.relations[plan.name], around)) if around else ()
    return Step(grid, plan.name, sheets, merged, tables, is_new, update, design, broken, against)


class _Rows:
    """Which rows of a grid speak of which rows of the tables that its sheet was split into."""

    def __init__(self, design: Design, tables: Tables, sheets: Sheets) -> None:
        self.of: list[tuple[str, npt.NDArray[np.int32], npt.NDArray[np.int64]]] = [
            (table, rows[tables.base_rows[sheet][told]], places)
            for sheet, relation in sheets.relations.items()
            for told, places in [relation.told_in()]
            for table, rows in rows_behind(tables.by_name, design.base_of(sheet).name)
        ]

    def that_name(self, table: str, row: int) -> list[int]:
        """The rows of the grid, in order."""
        found = [places[rows == row] for name, rows, places in self.of if name == table]
        return distinct(np.concatenate(found)).tolist() if found else []


def _without(sheets: Sheets, grid: Grid, aside: Sequence[tuple[int, str]]) -> Sheets:
    """The sheet without the rows that contradict the design, each with its reason in the account."""
    relations = dict(sheets.relations)
    for row, why in aside:
        rows = np.array([row])
        for name, relation in relations.items():
            cells = Cells(Fate.LEFT_OUT, why, rows, tuple(range(len(grid.columns))), named=True)
            relations[name] = relation.without(rows, None if name in sheets.parents else cells)
    return replace(sheets, relations=relations)


def _against_others(step: Step, how: How) -> dict[int, str]:
    """The rows of the grid that neither keeping what is held nor adding would give back, or not without harm to others.

    Lists with other entries than are held, unless they get more of them; what stands under every entry of a list; what
    other sheets say otherwise.
    """
    design, rows = step.design, _Rows(step.design, step.tables, step.sheets)
    combined = how.conflicts is Conflicts.KEEP and bool(design.lists_of(step.sheet))
    found: dict[int, str] = {}

    def leave_out(table: str, row: int, why: str) -> None:
        for place in rows.that_name(table, row):
            found.setdefault(place, why)

    for one in step.merged.conflicts:
        named = ", ".join(one.names)
        if how.updates and one.is_further_entry:
            continue  # the list becomes longer, as the sheet says
        if one.of_list:
            why = f"{named} has other entries under '{one.column}' than are held"
            leave_out(one.of_list, one.further_row, why)
        elif combined:
            why = f"'{one.column}' of {named} is '{one.further}', and '{one.held}' is held"
            leave_out(one.table, one.further_row, why)
    base = design.base_of(step.sheet)
    for cell in (one for one in step.otherwise if not one.kept):
        place = int(step.sheets.relations[step.sheet].grid_rows[cell.row])
        found.setdefault(place, f"{cell.what}: {cell.address}; {keep_it(base)}")
    for row, why in step.broken.items():
        leave_out(base.name, row, why)
    return found


def _as_held(step: Step) -> Step:
    """The sheet as it is given back where what is held of known things stays: such cells are changed."""
    headers = {one.column for one in step.merged.conflicts}
    relations = {
        name: _relation_as_held(step, name, headers) if headers & {*one.names} else one
        for name, one in step.sheets.relations.items()
    }
    return replace(step, sheets=replace(step.sheets, relations=relations))


def _relation_as_held(step: Step, sheet: str, headers: Collection[str]) -> Relation:
    relation = step.sheets.relations[sheet]
    given = rejoin(*own_part(step, sheet))
    both = {
        column.name: stack([(column.codes, column.values), (back.codes, back.values)])
        for column in relation.columns
        for back in [given.get(column.name)]
        if back is not None
    }
    differs = {name: np.not_equal(*np.split(codes, 2)) for name, (codes, _) in both.items()}
    # What hangs on a thing that stays is as it was, too.
    some = np.logical_or.reduce([differs[name] for name in headers if name in differs])
    for column in relation.columns:
        if column.name in both and (differs[column.name] & some).any():
            codes, values = both[column.name]
            here = differs[column.name] & some
            own, held = np.split(codes, 2)
            instead = replace(column, codes=np.where(here, held, own), values=values)
            relation = relation.with_changed(instead, here, Act.HELD)
    return relation


def own_part(step: Step, sheet: str) -> tuple[Tables, View]:
    """All tables, with the rows of a sheet in its base table, known ones and new; and the view of these.

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
    found = rows_not_given_back(relation, *own_part(step, step.sheet))
    return [(int(relation.grid_rows[row]), why) for row, why in found]


def _like(held: Table, further: Table | None) -> Table:
    """A held table whose columns are of the kinds of a further one, where the design leaves these open."""
    if further is None:
        return held
    columns = tuple(
        replace(one, kind=other.kind, values=one.values.cast(other.values.type))
        for one, other in zip(held.columns, further.columns, strict=True)
    )
    return replace(held, columns=columns)


def _numbered_as(design: Design, sheet: str, sheets: Sheets, tables: Tables, merged: Merged) -> Sheets:
    """The sheets; where rows are known by their number, they have those of the rows of the tables that they became."""
    base = design.base_of(sheet)
    numbered = next((column for column in base.columns if resolve.numbers_rows(design, base, column)), None)
    if numbered is None:
        return sheets
    became = merged.tables[base.name].by_name[numbered.name]
    codes = became.codes[merged.place[base.name][tables.base_rows[sheet]]]
    own = sheets.relations[sheet].by_name[ROW_NUMBER]
    numbers = dict(zip(own.codes.tolist(), became.values.take(pa.array(codes)).to_pylist(), strict=True))
    known = {own.values[code].as_py(): number for code, number in numbers.items()}
    most = max(became.values.to_pylist(), default=0)

    def renumbered(column: Column) -> Column:
        if column.name != ROW_NUMBER:
            return column
        # A row that is left out keeps a number that no other has.
        values = [known.get(value, most + value) for value in column.values.to_pylist()]
        return replace(column, values=pa.array(values, column.values.type))

    relations = {
        name: replace(relation, columns=tuple(map(renumbered, relation.columns)))
        for name, relation in sheets.relations.items()
    }
    return replace(sheets, relations=relations)
