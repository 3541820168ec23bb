"""Columns that others compute by arithmetic: sums, differences, products, percentages, a constant more or less.

Checked on every row, by the same arithmetic in doubles that a database does when it computes the column again, so that
a formula that holds in all rows gives every cell back. A row in which an operand is blank must be blank in the result.
A formula that a few rows break is reported with these rows.
"""

from __future__ import annotations

from itertools import combinations, permutations
from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.model.findings import Breach, Computed, Formula
from hemplit.core.model.grid import EMPTY

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.model.relation import Column, Relation

    Numbers = npt.NDArray[np.float64]

#: More decimal places than this are measurements, not results of office arithmetic.
MOST_PLACES = 4
#: A result with fewer different values than this could be met by accident.
FEWEST_VALUES = 5
#: So many filled rows are tried on all columns at once, before the few formulas left are checked on all rows.
SAMPLE = 48
#: A formula is told if it breaks in at most this share of the filled rows, ...
MOST_BREAKING = 0.02
#: ... of which the sample may hold a few more by chance.
SAMPLE_FITS = 0.9
#: Sums of three are looked for among so many number columns; among more they are met by accident, and cost time.
MOST_FOR_THREE = 16
#: So many breaking cells are named.
NAMED = 20
#: 1.5 × 1.15 is a hair under 1.725 in doubles and would round down; this much more, far below any office's last digit,
#: carries exact halves over.
HALF_UP = 1 + 1e-12


def _sum(*operands: Numbers) -> Numbers:
    return np.add.reduce(operands)


OPERATIONS: dict[str, Callable[..., Numbers]] = {
    "sum": _sum,
    "difference": np.subtract,
    "product": np.multiply,
    "percentage": lambda one, other: one * other / 100,
}
#: What a view can compute again in any database.
IN_VIEWS = ("sum", "difference", "product")


def places_of(column: Column) -> int | None:
    """The decimal places that the values of a number column need; None for other kinds or too many places."""
    if column.kind.word == "whole number":
        return 0
    if column.kind.word != "decimal":
        return None
    values = pc.fill_null(column.values, 0.0).to_numpy(zero_copy_only=False)
    for places in range(MOST_PLACES + 1):
        scaled = values * 10.0**places
        if np.allclose(scaled, np.rint(scaled), rtol=0, atol=1e-6):
            return places
    return None


def numbers(column: Column) -> Numbers:
    """The column as doubles of shape (rows,), NaN where blank."""
    values = np.append(pc.cast(column.values, "float64").to_numpy(zero_copy_only=False), np.nan)
    return values[column.codes]  # EMPTY is -1 and so finds the NaN


def compute(formula: Formula, operands: Sequence[Numbers]) -> Numbers:
    """The formula over doubles of shape (rows,), halves rounded away from zero; NaN where an operand is blank.

    >>> compute(Formula("product", ("Qty", "Price"), 2), [np.array([1.5]), np.array([1.15])]).tolist()
    [1.73]
    """
    if formula.operation == "constant":
        result = operands[0] + float(formula.detail)
    else:
        result = OPERATIONS[formula.operation](*operands)
    scale = 10.0**formula.places
    return np.copysign(np.floor(np.abs(result) * HALF_UP * scale + 0.5) / scale, result) + 0.0


def computed(relation: Relation) -> tuple[Computed, ...]:
    """The number columns that others compute, each with the formula that the fewest rows break.

    A result stands to the right of its operands as a rule, so the columns are tried from the right, and one that was
    found is no operand any more: no column can come out as computed from itself.
    """
    usable = [_Numbers(column, places) for column in relation.columns if (places := places_of(column)) is not None]
    found: list[Computed] = []
    operands = [one for one in usable if len(one.column.values) > 1]
    for result in reversed(usable):
        if len(result.column.values) < FEWEST_VALUES:
            continue
        best = _best_formula(relation, result, [operand for operand in operands if operand is not result])
        if best is not None:
            found.append(best)
            operands.remove(result)
    return tuple(reversed(found))


class _Numbers:
    """A number column with its values and the decimal places they need."""

    def __init__(self, column: Column, places: int) -> None:
        self.column = column
        self.places = places
        self.values = numbers(column)


def _best_formula(relation: Relation, result: _Numbers, operands: Sequence[_Numbers]) -> Computed | None:
    filled = np.flatnonzero(~np.isnan(result.values))
    rows = filled[np.linspace(0, len(filled) - 1, min(SAMPLE, len(filled)), dtype=np.int64)]
    best: tuple[int, Formula, Numbers] | None = None
    for formula, parts in _likely(result, operands, rows):
        expected = compute(formula, [part.values for part in parts])
        wrong = int((~((expected == result.values) | (np.isnan(expected) & np.isnan(result.values)))).sum())
        if wrong <= MOST_BREAKING * len(filled) and (best is None or wrong < best[0]):
            best = (wrong, formula, expected)
            if not wrong:
                break
    if best is None:
        return None
    breaking, formula, expected = best
    return Computed(
        result.column.name, formula, len(filled), breaking, _breaches(relation, result, expected) if breaking else ()
    )


def _likely(
    result: _Numbers, operands: Sequence[_Numbers], rows: npt.NDArray[np.int64]
) -> Iterator[tuple[Formula, tuple[_Numbers, ...]]]:
    """Formulas that nearly always fit the sample rows, the simpler first."""
    sample = {one.column.name: one.values[rows] for one in operands}
    target = result.values[rows]
    tolerance = 0.5001 / 10.0**result.places

    def fits(values: Numbers) -> bool:
        return bool(np.mean(np.abs(values - target) < tolerance) >= SAMPLE_FITS)

    for one in operands:
        constant = round(float(np.nanmedian(target - sample[one.column.name])), MOST_PLACES)
        if constant and fits(sample[one.column.name] + constant):
            yield Formula("constant", (one.column.name,), result.places, f"{constant:g}"), (one,)
    for name, operation in OPERATIONS.items():
        pairs = permutations(operands, 2) if name == "difference" else combinations(operands, 2)
        for pair in pairs:
            if fits(operation(*(sample[part.column.name] for part in pair))):
                yield Formula(name, tuple(part.column.name for part in pair), result.places), pair
    if len(operands) <= MOST_FOR_THREE:
        for three in combinations(operands, 3):
            if fits(_sum(*(sample[part.column.name] for part in three))):
                yield Formula("sum", tuple(part.column.name for part in three), result.places), three


def _breaches(relation: Relation, result: _Numbers, expected: Numbers) -> tuple[Breach, ...]:
    column = result.column
    same = (expected == result.values) | (np.isnan(expected) & np.isnan(result.values))
    found = []
    for row in np.flatnonzero(~same)[:NAMED].tolist():
        code = int(column.codes[row])
        value = "" if code == EMPTY else kinds.show(column.values[code].as_py(), column.kind)
        agreed = "" if np.isnan(expected[row]) else f"{expected[row]:.{result.places}f}"
        found.append(Breach(relation.address(row, column), value, agreed, twin=False))
    return tuple(found)
