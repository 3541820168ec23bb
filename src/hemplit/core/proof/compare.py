"""The proof that the cells of a grid are those of its relation, and that the tables joined again give it back."""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.columns.codes import Grouping, combine, first_rows, with_blank
from hemplit.core.model.account import Fate
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.proof import SHOWN, Check, Difference
from hemplit.core.proof.rejoin import rejoin
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.grid import Codes, Grid, GridColumn
    from hemplit.core.model.relation import Column, Relation
    from hemplit.core.model.tables import Tables, View


def check_rejoin(relation: Relation, tables: Tables, view: View, only: str | None = None) -> Check:
    """Whether the tables, joined along their references, give every cell of the sheet back, or ``only`` of a column."""
    given = rejoin(tables, view)
    if view.lists:
        given = _in_order_of(relation, given)
    wrong = 0
    shown: list[Difference] = []
    for name, column in given.items():
        if only not in (None, name):
            continue
        original = relation.by_name[name]
        rows = np.flatnonzero(_differs(original, column))
        wrong += len(rows)
        for row in rows[: SHOWN - len(shown)]:
            place = f"{relation.source.title} {relation.address(int(row), original)}"
            shown.append(Difference(place, kinds.shown_at(original, int(row)), kinds.shown_at(column, int(row))))
    what = f"joining the tables rebuilds {relation.source.title} exactly"
    return Check(what, relation.row_count * len(given), "cells", wrong, tuple(shown))


def rows_not_given_back(relation: Relation, tables: Tables, view: View) -> list[tuple[int, str]]:
    """The rows of a sheet that the tables, joined again, would give back otherwise, each with its first such cell."""
    found: dict[int, str] = {}
    given = rejoin(tables, view)
    for name, column in (_in_order_of(relation, given) if view.lists else given).items():
        original = relation.by_name[name]
        for row in np.flatnonzero(_differs(original, column)).tolist():
            at = f"{relation.source.title} {relation.address(row, original)}"
            said = f"{at}: '{name}' is '{kinds.shown_at(original, row)}'"
            if len(original.codes) == len(column.codes):
                found.setdefault(row, f"{said}, and the tables would give back '{kinds.shown_at(column, row)}'")
    return sorted(found.items())


def _in_order_of(relation: Relation, given: Mapping[str, Column]) -> dict[str, Column]:
    """The rows given back in the order of the sheet, as lists have no order: to each row the first that is the same.

    A row of the sheet that is not given back is blank; rows too many leave the columns as they are.
    """
    count = relation.row_count
    alike = reduce(
        combine,
        (
            with_blank(np.concatenate([relation.by_name[name].codes, _recoded(relation.by_name[name], column)]), size)
            for name, column in given.items()
            for size in [len(relation.by_name[name].values) + 1]
        ),
    )
    back = Grouping(alike.codes[count:], alike.size)
    if len(back.codes) != count or np.bincount(back.codes).max(initial=0) > 1:
        return dict(given)
    rows = first_rows(back)[alike.codes[:count]]
    return {
        name: replace(column, codes=np.append(column.codes, np.int32(EMPTY))[rows]) for name, column in given.items()
    }


def _recoded(original: Column, given: Column) -> Codes:
    """The codes of a column by the values of the original; one past them for a value that it does not have."""
    if original.values is given.values:
        return given.codes
    place = pc.fill_null(pc.index_in(given.values, original.values), len(original.values))
    return np.append(place.to_numpy(zero_copy_only=False).astype(np.int32), np.int32(EMPTY))[given.codes]


def _differs(original: Column, given: Column) -> npt.NDArray[np.bool_]:
    if len(original.codes) != len(given.codes):
        return np.ones(len(original.codes), dtype=bool)
    return np.not_equal(original.codes, _recoded(original, given))


def check_structure(compared: int, found: Sequence[Difference]) -> Check:
    """Whether the tables, keys, references, rules, indexes and views of a target are as they were written."""
    what = "tables, keys, references, rules and views are as they were written"
    return Check(what, compared, "parts", len(found), tuple(found[:SHOWN]))


def as_one(checks: Sequence[Check], most: int) -> Check:
    """The checks of all pieces of a sheet as one, which shows no more differences than that."""
    compared, different = (sum(getattr(one, name) for one in checks) for name in ("compared", "different"))
    shown = tuple(one for check in checks for one in check.differences)
    return Check(checks[0].what, compared, checks[0].unit, different, shown[:most])


def check_cells(grid: Grid, relation: Relation) -> Check:
    """Whether every cell that no step changed has in the relation the value that it shows in the sheet.

    One that a step keeps beside has it there.
    """
    compared, wrong = 0, 0
    shown: list[Difference] = []
    for column in relation.columns:
        if not column.own:
            continue
        for position, places, rows, holding in _held(relation, column):
            cells = grid.columns[position]
            one, two = cells.codes[places], np.append(holding.codes, np.int32(EMPTY))[rows]
            faulty = np.flatnonzero(_other_value(cells, holding)(one, two))
            compared += len(places)
            wrong += len(faulty)
            for at in faulty[: SHOWN - len(shown)]:
                address = relation.source.address(int(places[at]), position)
                value = kinds.shown_at(holding, int(rows[at])) if rows[at] != EMPTY else ""
                shown.append(Difference(address, cells.text(int(places[at])), value))
    what = f"the cells of {relation.source.title} that no step changed are as in the sheet"
    return Check(what, compared, "cells", wrong, tuple(shown))


def _held(
    relation: Relation, column: Column
) -> Iterator[tuple[int, npt.NDArray[np.int64], npt.NDArray[np.int64], Column]]:
    """The cells that no step changed, by their column and rows in the grid, with the rows of the relation that hold
    them, or ``EMPTY``, and the column there."""
    changed = np.zeros(relation.row_count, dtype=np.int8) if column.changed is None else column.changed
    for position, rows in relation.blocks_of(column):
        some = rows[changed[rows] == 0]
        yield position, relation.grid_rows[some], some, column
        if relation.again is not None:
            row_of = np.full(int(relation.again.max(initial=-1)) + 1, EMPTY, dtype=np.int64)
            told = rows[relation.grid_rows[rows] < len(row_of)]
            row_of[relation.grid_rows[told]] = told
            parts = [part for part in relation.account if part.fate == Fate.CHANGED and position in part.positions]
            as_it_is = np.logical_and.reduce(
                [np.ones(len(relation.again), dtype=bool)]
                + [np.isin(relation.again[:, 0], part.rows, invert=True) for part in parts]
            )
            again, first = relation.again[as_it_is].T
            yield position, again, row_of[first], column
    beside = relation.beside.get(column.position)
    if beside is not None and column.changed is not None:
        some = np.flatnonzero(changed == Act.BESIDE.number)
        yield column.position, relation.grid_rows[some], some, beside


def _other_value(cells: GridColumn, column: Column) -> Callable[[Codes, Codes], npt.NDArray[np.bool_]]:
    """Tells, for codes of the sheet and of the relation side by side, where they do not stand for one value."""
    read = kinds.parse(cells.texts, column.kind)
    place = pc.fill_null(pc.index_in(read, column.values, skip_nulls=True), len(column.values))
    renumber = np.append(place.to_numpy(zero_copy_only=False).astype(np.int32), np.int32(EMPTY))
    return lambda one, two: np.not_equal(renumber[one], two)
