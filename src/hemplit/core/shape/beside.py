"""A cell that is a slip of what other rows of the same thing say is kept in a column beside, and they decide again.

    Boat Reg   Boat          Boat Reg   Boat     Boat as written
    MQ-3       Curlew        MQ-3       Curlew
    MQ-3       Curlw     →   MQ-3       Curlew   Curlw

Which of the two is right only somebody knows who knows the boat, so nothing is corrected, and what stood there is kept.
But a slip is no second name of the boat, and does not part the table of boats.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.at_once import at_once, threads_for
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import Doubt, Step
from hemplit.core.shape.agreed import broken_by_slips, slips_of
from hemplit.core.shape.deciding import identifies, together
from hemplit.core.shape.working import SHOWN, Working, WorkingColumn, compact, mark
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Iterator

ACT = Act.BESIDE
SETTINGS = {"column": "column", "by": "column", "into": "text"}


def find(working: Working) -> Iterator[Step]:
    """A step for each column that something decides but for slips."""
    taken = {column.name.casefold() for column in working.columns}
    naming = [one for one in working.columns if len(one.cells.texts) > 1 and identifies(one)]
    able = [one for one in working.columns if one.own and _into(one).casefold() not in taken]
    deciding = at_once(lambda column: broken_by_slips(column, naming), able, threads_for(working.row_count))
    for column, by in zip(able, deciding, strict=True):
        if by is not None:
            into = _into(column)
            count, slips = _slips(working, column, by)
            more = f" and {count - SHOWN:,} more" if count > SHOWN else ""
            why = f"{', '.join(slips)}{more}, as others of the same '{by.name}' say"
            yield Step(ACT, (("column", column.name), ("by", by.name), ("into", into)), why)


def _into(column: WorkingColumn) -> str:
    return f"{column.name} as written"


def _slips(working: Working, column: WorkingColumn, by: WorkingColumn) -> tuple[int, tuple[str, ...]]:
    """How many slips there are, and the first of them, each with what it is a slip of."""
    rows, meant = slips_of(column, together((by,)))
    texts = column.cells.texts
    pairs = zip(working.places(column, rows), meant.tolist(), strict=False)
    return len(rows), tuple(f"{place} for '{texts[code]}'" for place, code in pairs)


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet with what most rows of a group say in each of them, and a further column for the slips of that."""
    column, by = working.named(step.text("column")), working.named(step.text("by"))
    if column is None or by is None:
        return working
    rows, meant = slips_of(column, together((by,)))
    codes, texts = column.cells.codes.copy(), column.cells.texts
    slips = np.full(len(codes), EMPTY, dtype=np.int32)
    slips[rows], codes[rows] = codes[rows], meant
    changed = mark(column, codes != column.cells.codes, number)
    agreed = replace(column, cells=compact(codes, texts), changed=changed)
    beside = WorkingColumn(
        column.position, step.text("into"), compact(slips, texts), own=False, part_of=column.position
    )
    columns = [part for one in working.columns for part in ((agreed, beside) if one is column else (one,))]
    return replace(working, columns=tuple(columns))


def told(working: Working, step: Step) -> Iterator[Doubt]:
    """The cells that the step keeps beside."""
    column, by = working.named(step.text("column")), working.named(step.text("by"))
    count, slips = (0, ()) if column is None or by is None else _slips(working, column, by)
    if count:
        what = f"'{step.text('column')}' is not what other rows of the same '{step.text('by')}' say"
        hint = f"the cell is kept beside, in '{step.text('into')}'; correct it in the sheet, if it is a typo"
        yield Doubt(what, slips, hint, count, settled=True)
