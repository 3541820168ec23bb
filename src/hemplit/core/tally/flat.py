"""The same totals by another way: out of the flat sheets, which no table and no reference has touched.

Rows are found, joined and added up by what their cells say alone. Numbers are added as whole numbers of their smallest
unit, so that no sum is rounded.
"""

from __future__ import annotations

from decimal import Decimal
from functools import reduce
from typing import TYPE_CHECKING, Any

import numpy as np
import pyarrow as pa

from hemplit.core import kinds
from hemplit.core.columns.codes import Grouping, combine, first_rows, with_blank
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.tally import Groups, Sign, Summed
from hemplit.core.tally.labels import NUMBERS, label

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Column, Kind, Relation
    from hemplit.core.model.tally import Condition, Flat, Grouped, Measure, Part

    #: The relations of each sheet: what was loaded first, and what was added.
    Sheets = Mapping[str, Sequence[Relation]]

#: Numbers that need more decimal places are no amounts, and are compared to so many.
MOST_PLACES = 10


def can_be_followed(part: Part) -> bool:
    """Whether the flat sheets tell all that a part asks for."""
    return bool(part.sheet) and None not in part.flats


def groups_of(part: Part, sheets: Sheets) -> Groups:
    """The groups of a part out of the flat sheets, each with what is known of its measures."""
    seen: set[tuple[str | None, ...]] = set()
    whole: Groups = {}
    for relation in sheets[part.sheet]:
        rows = np.arange(relation.row_count)
        for condition in part.where:
            assert condition.flat is not None
            codes, values, kind = _column(relation, condition.flat, sheets)
            rows = rows[_holding(condition, values, kind)[codes[rows]]]
        if part.each:
            rows = _once(relation, part.each, rows, seen)
        for key, sums in _added(part, relation, rows, sheets).items():
            whole[key] = tuple(map(Summed.__add__, whole[key], sums)) if key in whole else sums
    return whole


def places_of(part: Part, measure: Measure, sheets: Sheets) -> int:
    """How many decimal places hold the values of a measure."""
    if measure.header is None or measure.flat is None:
        return 0
    columns = (relation.by_name[measure.flat.header] for relation in sheets[part.sheet])
    return max((_places(column) for column in columns), default=0)


def _places(column: Column) -> int:
    if column.kind.word != "decimal":
        return 0
    numbers = column.values.drop_null().to_numpy(zero_copy_only=False)
    for places in range(max(len(column.kind.form) - 2, 0), MOST_PLACES):
        if np.array_equal(np.round(numbers, places), numbers):
            return places
    return MOST_PLACES


def _once(
    relation: Relation, each: Sequence[str], rows: npt.NDArray[np.int64], seen: set[tuple[str | None, ...]]
) -> npt.NDArray[np.int64]:
    """The first row of each thing that is named there, but for those that were seen before."""
    columns = [relation.by_name[name] for name in each]
    named = rows[np.logical_and.reduce([column.codes[rows] != EMPTY for column in columns])]
    if not len(named):
        return named
    whole = reduce(combine, (Grouping(column.codes[named], len(column.values)) for column in columns))
    first = np.sort(first_rows(whole))
    keys = [tuple(kinds.shown_at(column, int(row)) for column in columns) for row in named[first[first >= 0]]]
    kept = [row for row, key in zip(named[first[first >= 0]].tolist(), keys, strict=True) if key not in seen]
    seen.update(keys)
    return np.array(kept, dtype=np.int64)


def _added(part: Part, relation: Relation, rows: npt.NDArray[np.int64], sheets: Sheets) -> Groups:
    """The groups among some rows of a relation."""
    if not len(rows):
        return {}
    named = [_labelled(relation, grouped, rows, sheets) for grouped in part.by]
    whole = reduce(combine, (grouping for grouping, _ in named), Grouping(np.zeros(len(rows), np.int32), 1))
    first = first_rows(whole)
    sums = [_sums(relation, measure, rows, whole) for measure in part.measures]
    groups = np.flatnonzero(first >= 0).tolist()
    return {
        tuple(names[int(grouping.codes[first[group]])] for grouping, names in named): tuple(one[group] for one in sums)
        for group in groups
    }


def _labelled(
    relation: Relation, grouped: Grouped, rows: npt.NDArray[np.int64], sheets: Sheets
) -> tuple[Grouping, list[str | None]]:
    """The groups of some rows by one column, and what they are called."""
    assert grouped.flat is not None
    codes, values, kind = _column(relation, grouped.flat, sheets)
    names = [*(label(value, kind, grouped.part) for value in values.to_pylist()), None]
    distinct = {name: place for place, name in enumerate(dict.fromkeys(names))}
    renumber = np.array([distinct[name] for name in names], np.int32)
    return Grouping(renumber[codes[rows]], len(distinct)), [*distinct]  # EMPTY is the last


def _sums(relation: Relation, measure: Measure, rows: npt.NDArray[np.int64], groups: Grouping) -> list[Summed]:
    """What is known of a measure in each group."""
    if measure.header is None or measure.flat is None:
        return [Summed(count=int(count)) for count in np.bincount(groups.codes, minlength=groups.size)]
    column = relation.by_name[measure.flat.header]
    filled = column.codes[rows] != EMPTY
    codes = groups.codes[filled]
    counts = np.bincount(codes, minlength=groups.size)
    if column.kind.word not in NUMBERS:
        return [Summed(count=int(count)) for count in counts]
    places = _places(column)
    numbers = np.round(column.values.to_numpy(zero_copy_only=False).astype(np.float64) * 10**places).astype(np.int64)
    values = numbers[column.codes[rows][filled]]
    totals = np.zeros(groups.size, np.int64)
    np.add.at(totals, codes, values)
    least, most = np.full(groups.size, np.iinfo(np.int64).max), np.full(groups.size, np.iinfo(np.int64).min)
    np.minimum.at(least, codes, values)
    np.maximum.at(most, codes, values)
    unit = Decimal(1).scaleb(-places)
    return [
        Summed(count, total * unit, low * unit, high * unit) if count else Summed()
        for count, total, low, high in zip(counts.tolist(), totals.tolist(), least.tolist(), most.tolist(), strict=True)
    ]


def _column(relation: Relation, flat: Flat, sheets: Sheets) -> tuple[Codes, pa.Array, Kind]:
    """The cells of a column for the rows of a relation, from another sheet if it stands there."""
    if not flat.links:
        column = relation.by_name[flat.header]
        return column.codes, column.values, column.kind
    here, sheet, there = flat.links[0]
    found: dict[tuple[str, ...], Any] = {}
    kind = sheets[sheet][0].by_name[flat.header].kind
    for other in sheets[sheet]:
        column, named = other.by_name[flat.header], [other.by_name[name] for name in there]
        for row in range(other.row_count):
            key = tuple(kinds.shown_at(one, row) for one in named)
            code = int(column.codes[row])
            if found.get(key) is None:
                found[key] = None if code == EMPTY else column.values[code].as_py()
    distinct = {value: place for place, value in enumerate(dict.fromkeys(found.values()))}
    naming = [relation.by_name[name] for name in here]
    whole = reduce(combine, (with_blank(one.codes, len(one.values)) for one in naming))
    first = first_rows(whole)
    told = np.full(whole.size, EMPTY, np.int32)
    for group in np.flatnonzero(first >= 0).tolist():
        value = found.get(tuple(kinds.shown_at(one, int(first[group])) for one in naming))
        told[group] = EMPTY if value is None else distinct[value]
    like = sheets[sheet][0].by_name[flat.header].values.type
    return told[whole.codes], pa.array([*distinct], like), kind


def _holding(condition: Condition, values: pa.Array, kind: Kind) -> npt.NDArray[np.bool_]:
    """Which distinct values a condition lets through; that of a blank stands last."""
    if condition.sign in (Sign.BLANK, Sign.FILLED):
        return np.array([*([condition.sign is Sign.FILLED] * len(values)), condition.sign is Sign.BLANK])
    wanted = kinds.parse(pa.array(condition.values), kind).to_pylist()
    held = [_is(condition.sign, value, wanted) for value in values.to_pylist()]
    return np.array([*held, condition.sign is Sign.IS_NOT], bool)


def _is(sign: Sign, value: Any, wanted: Sequence[Any]) -> bool:
    match sign:
        case Sign.IS:
            return value in wanted
        case Sign.IS_NOT:
            return value not in wanted
        case Sign.LESS:
            return bool(value < wanted[0])
        case Sign.AT_MOST:
            return bool(value <= wanted[0])
        case Sign.MORE:
            return bool(value > wanted[0])
        case _:
            return bool(value >= wanted[0])
