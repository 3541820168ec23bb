"""Which cells of a sheet its steps rewrite, and which the proposed ones would: each with what it said before and after.

A cell that is only taken into parts says after it what it said before, if the parts hold all of it.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core import kinds
from hemplit.core.columns.codes import stack
from hemplit.core.model.account import Fate
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY, GridColumn
from hemplit.core.model.proof import Change
from hemplit.core.proof.ledger import is_list
from hemplit.core.shape import BY_ACT
from hemplit.core.shape.working import Working, WorkingColumn, shown_texts
from hemplit.core.texts.listed import PLAIN

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from hemplit.core.model.grid import Grid
    from hemplit.core.model.relation import Column, Relation


def changes(grid: Grid, relation: Relation, children: Sequence[Relation]) -> Iterator[Change]:
    """Every cell of a sheet that a step rewrote, column by column."""
    lists = {step.text("into"): PLAIN[step.text("by")] for step in relation.steps if step.act == Act.LISTS}
    headers = {
        position: name
        for one in (relation, *children)
        for column in one.columns[::-1]
        if column.own or is_list(one)
        for position, name in zip(column.places or (column.position,), column.headers or (column.name,), strict=True)
    }
    for one in (relation, *children):
        for column in one.columns:
            if column.own and column.changed is not None:
                beside = one.beside.get(column.position)
                others = (part for part in one.columns if part.part_of == column.position and part is not beside)
                parts = [column, *others]
                for position, rows in one.blocks_of(column):
                    for row in rows[column.changed[rows] != 0].tolist():
                        kept = "" if beside is None else _shown(beside, row)
                        after = kept or " ".join(filter(None, (_shown(part, row) for part in parts)))
                        before = grid.columns[position].text(int(one.grid_rows[row]))
                        if kept and kept == before:
                            continue
                        after = before if len(parts) > 1 and _says_all(before, after) else after
                        said = headers[position], after, Act.of(int(column.changed[row]))
                        yield _change(grid, int(one.grid_rows[row]), position, *said)
        teller = {} if one.again is None else dict(one.again.tolist())
        for part in (part for part in one.account if part.fate == Fate.CHANGED):
            for position in part.positions:
                values = _values(one, position) if is_list(one) else {}
                told = {} if is_list(one) else _cells(one, position)
                for row in part.rows.tolist():
                    first = teller.get(row, row)
                    after = lists.get(one.source.part, "").join(values.get(first, ())) or told.get(first, "")
                    before = grid.columns[position].text(row)
                    after = before if values and _says_all(before, after) else after
                    yield _change(grid, row, position, headers[position], after, part.reason)


def proposals(grid: Grid, relation: Relation) -> Iterator[tuple[str, list[Change]]]:
    """What each proposed step of a sheet would change, as far as its column is still there as it was."""
    columns = tuple(
        WorkingColumn(column.position, column.name, _as_written(relation, column)) for column in relation.columns
    )
    working = Working(relation.source, columns, relation.grid_rows)
    for step in relation.steps:
        if step.proposed:
            act = Act(step.act)
            after = BY_ACT[act].act(working, step, act.number)
            before = {column.position: column for column in columns[::-1]}
            made: list[Change] = []
            for column in after.columns:
                for row in np.flatnonzero(column.changed == act.number).tolist() if column.changed is not None else ():
                    parts = [one for one in after.columns if one is column or one.part_of == column.position]
                    text = " ".join(filter(None, (after.text(row, one) for one in parts)))
                    said = before[column.position].name, text, act
                    made.append(_change(grid, int(relation.grid_rows[row]), column.position, *said))
            yield f"{step.act}: {step.why}", made


def _as_written(relation: Relation, column: Column) -> GridColumn:
    """The cells of a column with the slips that are kept beside."""
    beside = relation.beside.get(column.position) if column.own else None
    if beside is None:
        return GridColumn(column.codes, shown_texts(column))
    codes, texts = stack([(column.codes, shown_texts(column)), (beside.codes, shown_texts(beside))])
    agreed, slips = np.split(codes, 2)
    return GridColumn(np.where(slips == EMPTY, agreed, slips), texts)


def _says_all(whole: str, parts: str) -> bool:
    """Whether nothing that a cell says is missing in its parts; what only stood between them is no loss."""
    return [one for one in whole if one.isalnum()] == [one for one in parts if one.isalnum()]


def _values(relation: Relation, position: int) -> dict[int, list[str]]:
    """The values of each list at a place in the grid, with what is said with them, by the row that it stands in."""
    values: dict[int, list[str]] = {}
    columns = [column for column in relation.columns[len(relation.of) : -1] if column.position == position]
    for place, row in enumerate(relation.grid_rows.tolist()):
        values.setdefault(row, []).append(" ".join(_shown(column, place) for column in columns))
    return values


def _cells(relation: Relation, position: int) -> dict[int, str]:
    """What a column of blocks has of the cells at a place in the grid, by their row."""
    blocks = ((column, *block) for column in relation.columns if column.own for block in relation.blocks_of(column))
    return {
        int(relation.grid_rows[row]): _shown(column, row)
        for column, place, rows in blocks
        if place == position
        for row in rows.tolist()
    }


def _change(grid: Grid, row: int, position: int, header: str, after: str, step: str) -> Change:
    file, within = grid.source.row(row)
    return Change(file.strip(), within + 1, header, grid.columns[position].text(row), after, step, (row, position))


def _shown(column: Column, row: int) -> str:
    code = int(column.codes[row])
    return "" if code == EMPTY else kinds.show(column.values[code].as_py(), column.kind)
