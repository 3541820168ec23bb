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

from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import Step
from hemplit.core.shape.deciding import identifies, together
from hemplit.core.shape.siblings import broken_by_slips, slips_of
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
    for column in working.columns:
        into = f"{column.name} as written"
        by = broken_by_slips(column, naming) if column.own and into.casefold() not in taken else None
        if by is not None:
            why = _why(working, column, by)
            yield Step(ACT, (("column", column.name), ("by", by.name), ("into", into)), why)


def _why(working: Working, column: WorkingColumn, by: WorkingColumn) -> str:
    """The slips, each with what it is a slip of."""
    rows, meant = slips_of(column, together((by,)))
    texts = column.cells.texts
    pairs = zip(working.places(column, rows), meant.tolist(), strict=False)
    said = ", ".join(f"{place} for '{texts[code]}'" for place, code in pairs)
    more = f" and {len(rows) - SHOWN:,} more" if len(rows) > SHOWN else ""
    return f"{said}{more}, as others of the same '{by.name}' say"


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
