"""The groups of a part of a tally, out of columns side by side: which rows count, and what they come to.

Numbers are added as whole numbers of their smallest unit, so that no sum is rounded.
"""

from __future__ import annotations

from decimal import Decimal
from functools import reduce
from typing import TYPE_CHECKING, Any

import numpy as np
import pyarrow as pa

from hemplit.core import kinds
from hemplit.core.columns.codes import Grouping, combine, first_rows
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.tally import EXACT, Groups, Sign, Summed
from hemplit.core.tally.labels import label

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.relation import Column, Kind
    from hemplit.core.model.tally import Condition, Grouped, Measure, Part

    #: The columns of a part under the headers of its view, all for the same rows.
    Columns = Mapping[str, Column]

#: Sums below this fit into eight bytes.
LARGEST = 2.0**62
#: Numbers that need more decimal places are no amounts, and are compared to so many.
MOST_PLACES = 10


def wanted(part: Part, columns: Columns, rows: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
    """Those of some rows that all conditions let through."""
    for condition in part.where:
        column = columns[condition.header]
        rows = rows[_holding(condition, column.values, column.kind)[column.codes[rows]]]
    return rows


def summed(part: Part, columns: Columns, rows: npt.NDArray[np.int64]) -> Groups:
    """The groups among some rows, each with what is known of the measures."""
    if not len(rows):
        return {}
    named = [_labelled(grouped, columns[grouped.header], rows) for grouped in part.by]
    whole = reduce(combine, (grouping for grouping, _ in named), Grouping(np.zeros(len(rows), np.int32), 1))
    first = first_rows(whole)
    sums = [_sums(measure, columns, rows, whole) for measure in part.measures]
    return {
        tuple(names[int(grouping.codes[first[group]])] for grouping, names in named): tuple(one[group] for one in sums)
        for group in np.flatnonzero(first >= 0).tolist()
    }


def _labelled(grouped: Grouped, column: Column, rows: npt.NDArray[np.int64]) -> tuple[Grouping, list[str | None]]:
    """The groups of some rows by one column, and what they are called."""
    names = [*(label(value, column.kind, grouped.part) for value in column.values.to_pylist()), None]
    distinct = {name: place for place, name in enumerate(dict.fromkeys(names))}
    renumber = np.array([distinct[name] for name in names], np.int32)
    return Grouping(renumber[column.codes[rows]], len(distinct)), [*distinct]  # EMPTY is the last


def places_in(column: Column) -> int:
    """How many decimal places hold the numbers of a column."""
    if column.kind.word != "decimal":
        return 0
    numbers = column.values.drop_null().to_numpy(zero_copy_only=False)
    for places in range(max(len(column.kind.form) - 2, 0), MOST_PLACES):
        if np.array_equal(np.round(numbers, places), numbers):
            return places
    return MOST_PLACES


def _sums(measure: Measure, columns: Columns, rows: npt.NDArray[np.int64], groups: Grouping) -> list[Summed]:
    """What is known of a measure in each group."""
    if measure.header is None:
        return [Summed(count=int(count)) for count in np.bincount(groups.codes, minlength=groups.size)]
    column = columns[measure.header]
    filled = column.codes[rows] != EMPTY
    codes = groups.codes[filled]
    counts = np.bincount(codes, minlength=groups.size)
    if not column.kind.is_number:
        return [Summed(count=int(count)) for count in counts]
    places = places_in(column)
    numbers = column.values.to_numpy(zero_copy_only=False).astype(np.float64)
    rows_of_values = column.codes[rows][filled]
    if np.abs(numbers).max(initial=0.0) * 10.0**places * max(len(codes), 1) < LARGEST:
        values = np.round(numbers * 10**places).astype(np.int64)[rows_of_values]
        totals = np.zeros(groups.size, np.int64)
        least, most = np.full(groups.size, np.iinfo(np.int64).max), np.full(groups.size, np.iinfo(np.int64).min)
        np.add.at(totals, codes, values)
        np.minimum.at(least, codes, values)
        np.maximum.at(most, codes, values)
        listed = [one.tolist() for one in (totals, least, most)]
    else:
        listed = _large_sums(column.values.to_pylist(), places, rows_of_values.tolist(), codes.tolist(), groups.size)
    return [
        Summed(count, *(Decimal(one).scaleb(-places, EXACT) for one in numbers)) if count else Summed()
        for count, *numbers in zip(counts.tolist(), *listed, strict=True)
    ]


def _large_sums(
    values: Sequence[int | float], places: int, of_rows: Sequence[int], groups: Sequence[int], size: int
) -> list[list[int]]:
    """Total, least and most of each group, in units of the last place, where these need more than eight bytes."""
    units = [int(Decimal(str(value)).scaleb(places, EXACT).to_integral_value()) for value in values]
    found: list[list[int]] = [[] for _ in range(size)]
    for value, group in zip(of_rows, groups, strict=True):
        found[group].append(units[value])
    return [[function(some) if some else 0 for some in found] for function in (sum, min, max)]


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
