"""Tables → the sheet again: follows the references by the values of the keys alone, and computes what is computed.

It knows nothing of how the tables were made, so that what it gives back is evidence.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.columns.codes import combine, first_rows, stack, with_blank
from hemplit.core.design.arithmetic import compute, numbers
from hemplit.core.design.calendar import PARTS
from hemplit.core.model.arrays import of, taken
from hemplit.core.model.findings import BAND, DATE_PART, JOINED
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import Column
from hemplit.core.model.tables import Reference
from hemplit.core.tables.match import match

if TYPE_CHECKING:
    from hemplit.core.model.grid import Codes
    from hemplit.core.model.tables import Table, Tables, View, ViewColumn


def rejoin(tables: Tables, view: View) -> dict[str, Column]:
    """The columns of the sheet by header, one row per row of the view's base table, or per combination of its lists."""
    rows_by_path = _combinations(tables, view)
    given: dict[str, Column] = {}
    for position, column in enumerate(view.columns):
        if column.gathered is not None:
            continue  # these cells are columns of another relation, which is rejoined by itself
        if column.formula is None:
            codes, values = _reached(tables, view, column.path, str(column.column), rows_by_path)
            for path, name in column.otherwise:
                codes, values = stack([(codes, values), _reached(tables, view, path, name, rows_by_path)])
                first, second = np.split(codes, 2)
                codes = np.where(first == EMPTY, second, first)
            given[column.header] = Column(column.header, position, column.kind, codes, values)
    todo = [column for column in view.columns if column.formula is not None]
    while todo:
        column = next(one for one in todo if _operands_known(one, given))
        todo.remove(column)
        position = view.columns.index(column)
        if column.formula is not None and column.formula.operation == BAND:
            given[column.header] = _class(column, given, tables.by_name[column.formula.detail], position)
        elif column.formula is not None and column.formula.operation == JOINED:
            given[column.header] = _joined(column, given, position)
        elif column.formula is not None and column.formula.operation == DATE_PART:
            given[column.header] = _part_of_date(column, given, position)
        else:
            given[column.header] = _computed(column, given, position)
    return given


def _reached(
    tables: Tables,
    view: View,
    path: tuple[Reference, ...],
    name: str,
    known: dict[tuple[Reference, ...], Codes],
) -> tuple[Codes, pa.Array]:
    """The codes and values of a column at the end of a path, for each row of the view."""
    rows, table = _follow(tables, view, path, known)
    stored = table.by_name[name]
    return np.append(stored.codes, np.int32(EMPTY))[rows], stored.values  # row EMPTY finds the blank at the end


def _operands_known(column: ViewColumn, given: dict[str, Column]) -> bool:
    return column.formula is not None and all(name in given for name in column.formula.operands)


def _class(column: ViewColumn, given: dict[str, Column], bands: Table, position: int) -> Column:
    """The class whose lower limit is the last that the number reaches."""
    assert column.formula is not None
    limit, name = bands.by_name[bands.key[0]], next(one for one in bands.columns if one.name not in bands.key)
    limits = limit.values.to_numpy(zero_copy_only=False)[limit.codes]
    order = np.argsort(limits)
    number = given[column.formula.operands[0]]
    place = np.searchsorted(limits[order], number.values.to_numpy(zero_copy_only=False), side="right") - 1
    classes = np.where(place < 0, np.int32(EMPTY), name.codes[order][place])
    return Column(column.header, position, column.kind, np.append(classes, np.int32(EMPTY))[number.codes], name.values)


def _joined(column: ViewColumn, given: dict[str, Column], position: int) -> Column:
    """The texts of two columns with a text between; blank where one of them is."""
    assert column.formula is not None
    one, other = (given[name] for name in column.formula.operands)
    pairs = combine(*(with_blank(part.codes, len(part.values)) for part in (one, other)))
    first = first_rows(pairs)
    texts = [taken(pc.cast(part.values, pa.string()), part.codes[first]) for part in (one, other)]
    encoded = pc.binary_join_element_wise(*texts, column.formula.detail).dictionary_encode()
    codes = pc.fill_null(encoded.indices, EMPTY).to_numpy(zero_copy_only=False).astype(np.int32)
    return Column(column.header, position, column.kind, codes[pairs.codes], encoded.dictionary)


def _part_of_date(column: ViewColumn, given: dict[str, Column], position: int) -> Column:
    """A part of each date, blank where there is none."""
    assert column.formula is not None
    date = given[column.formula.operands[0]]
    texts = PARTS[column.formula.detail](date.values)
    encoded = (pc.cast(texts, pa.int64()) if column.kind.word == "whole number" else texts).dictionary_encode()
    codes = np.append(encoded.indices.to_numpy().astype(np.int32), np.int32(EMPTY))[date.codes]
    return Column(column.header, position, column.kind, codes, encoded.dictionary)


def _computed(column: ViewColumn, given: dict[str, Column], position: int) -> Column:
    formula = column.formula
    assert formula is not None
    result = compute(formula, [numbers(given[name]) for name in formula.operands])
    encoded = pc.dictionary_encode(of(result, ~np.isnan(result)))
    storage = pa.int64() if column.kind.word == "whole number" else pa.float64()
    codes = pc.fill_null(encoded.indices, EMPTY).to_numpy(zero_copy_only=False).astype(np.int32)
    return Column(column.header, position, column.kind, codes, pc.cast(encoded.dictionary, storage))


def _follow(
    tables: Tables, view: View, path: tuple[Reference, ...], known: dict[tuple[Reference, ...], Codes]
) -> tuple[Codes, Table]:
    if path in known:
        return known[path], tables.by_name[path[-1].table if path else view.base]
    *before, last = path
    rows, table = _follow(tables, view, tuple(before), known)
    other = tables.by_name[last.table]
    found = np.append(match(table, last, other), np.int32(EMPTY))
    known[path] = found[rows]
    return known[path], other


def _combinations(tables: Tables, view: View) -> dict[tuple[Reference, ...], Codes]:
    """For each row of the view the row of the base table and of each list; a list without any gives ``EMPTY``."""
    base = tables.by_name[view.base]
    rows: dict[tuple[Reference, ...], Codes] = {(): np.arange(base.row_count, dtype=np.int32)}
    for down in view.lists:
        listed = tables.by_name[down.table]
        owner = match(listed, Reference(down.table_columns, base.name, down.columns), base)
        counts = np.bincount(owner[owner != EMPTY], minlength=base.row_count)
        order = np.append(np.argsort(owner, kind="stable")[np.count_nonzero(owner == EMPTY) :], EMPTY)
        start = np.cumsum(counts) - counts
        repeats = np.maximum(counts, 1)[rows[()]]
        place = np.arange(repeats.sum()) - np.repeat(np.cumsum(repeats) - repeats, repeats)
        rows = {path: np.repeat(own, repeats) for path, own in rows.items()}
        at = np.where(counts[rows[()]] > 0, start[rows[()]] + place, EMPTY)
        rows[(down,)] = order[at].astype(np.int32)
    return rows
