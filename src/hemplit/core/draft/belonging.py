"""Lists, and columns side by side, that belong to a thing of which several rows speak, and not to each of these rows.

    Job   Boat   Marks             boat   mark   position
    17    Teal   keel, mast        Teal   keel   1
    18    Knot   keel          →   Teal   mast   2
    19    Teal   keel, mast        Knot   keel   1

Whose they are is judged as of every other column: by a draft of the sheet in which they are not taken apart yet.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import Grouping, combine, with_blank
from hemplit.core.design import resolve
from hemplit.core.draft.sheets import draft
from hemplit.core.model.acts import Act
from hemplit.core.model.design import Purpose
from hemplit.core.study import study
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.model.design import Design, TablePlan
    from hemplit.core.model.relation import Column, Relation, Step

APART = (Act.SIDEWAYS, Act.LISTS)
#: Of so many rows it is seen first whether anything could decide what was taken out of them.
FIRST_ROWS = 2_000
#: Different sums of these stand for different entries; a sum that two have by chance costs a draft, and no truth.
SPREAD = np.uint64(0x9E3779B97F4A7C15)


def may_belong(relation: Relation, child: Relation) -> bool:
    """Whether a column that comes again in the rows decides all that was taken out of each of them."""
    able = [column for column in relation.columns if not column.blanks]
    for rows in (FIRST_ROWS, relation.row_count):
        said = _said(relation, child, min(rows, relation.row_count))
        able = [column for column in able if _decides(column, said)]
    return bool(able)


def _decides(column: Column, said: Grouping) -> bool:
    """Whether a column says as much as it and what was taken out of the same first rows, and something twice there."""
    codes = column.codes[: len(said.codes)]
    counts = np.bincount(codes, minlength=1)
    both = combine(Grouping(codes, len(column.values)), said)
    return counts.max() > 1 and both.size == np.count_nonzero(counts)


def _said(relation: Relation, child: Relation, rows: int) -> Grouping:
    """What was taken out of each of the first rows of a relation, as one value."""
    place = np.full(int(relation.grid_rows.max(initial=-1)) + 1, rows, dtype=np.int64)
    place[relation.grid_rows[:rows]] = np.arange(rows)
    of = place[child.grid_rows]
    some = np.flatnonzero(of < rows)
    entries = Grouping(np.zeros(len(some), dtype=np.int32), 1)
    for column in child.columns[len(child.of) :]:
        entries = combine(entries, with_blank(column.codes[some], len(column.values)))
    sums = np.zeros(rows, dtype=np.uint64)
    weights = (entries.codes.astype(np.uint64) + np.uint64(1)) * SPREAD
    np.add.at(sums, of[some], weights ^ (weights >> np.uint64(29)))
    values, codes = np.unique(sums, return_inverse=True)
    return Grouping(codes.astype(np.int32), len(values))


def whole(steps: Sequence[Step]) -> tuple[Step, ...]:
    """The steps without those that take lists and columns side by side apart."""
    return tuple(step for step in steps if step.act not in APART or step.proposed)


def with_owners(steps: Sequence[Step], relation: Relation) -> tuple[Step, ...]:
    """The steps of which each takes out once for each thing what belongs to that; ``relation`` was shaped without."""
    found = study(relation, 2)
    design = draft({"sheet": found})
    return tuple(_owned(step, design, relation) if step.act in APART and not step.proposed else step for step in steps)


def _owned(step: Step, design: Design, relation: Relation) -> Step:
    owner = next((header for table in design.tables for header in _owner(design, table, step)), "")
    if not owner or relation.by_name[owner].blanks:
        return step
    settings = tuple((name, (owner,) if name == "key" else value) for name, value in (*step.settings, ("once", True)))
    return replace(step, settings=settings, why=f"{step.why}, the same for each '{owner}'")


def _owner(design: Design, table: TablePlan, step: Step) -> list[str]:
    """The one header by which the things of a table are known, if all that the step takes is said of them."""
    names = resolve.identity(table)
    if table.purpose is not Purpose.ENTITY or len(names) > 1:
        return []
    headers = {column.name: resolve.header(design, table, column) for column in table.columns}
    told = {header for name, header in headers.items() if name not in names}
    return [headers[names[0]]] if step.takes <= told else []
