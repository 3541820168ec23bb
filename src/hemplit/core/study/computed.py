"""Columns that two others compute: a sum, a difference or a product, rounded to the places of the result.

Checked on every row, by the same arithmetic in doubles that a database does when it computes the column again, so that
a formula that is found gives every cell back. A row in which an operand is blank must be blank in the result.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core.model.findings import Computed, Formula

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    import numpy.typing as npt

    from hemplit.core.model.relation import Column

    Numbers = npt.NDArray[np.float64]

#: More decimal places than this are measurements, not results of office arithmetic.
MOST_PLACES = 4
#: A result with fewer different values than this could be met by accident.
FEWEST_VALUES = 5
#: So many filled rows are tried on all pairs of columns at once, before the few pairs left are checked on all rows.
SAMPLE = 32

#: 1.5 × 1.15 is a hair under 1.725 in doubles and would round down; this much more, far below any office's last digit,
#: carries exact halves over.
HALF_UP = 1 + 1e-12

OPERATIONS: dict[str, Callable[[Numbers, Numbers], Numbers]] = {
    "sum": np.add,
    "difference": np.subtract,
    "product": np.multiply,
}


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
    result = OPERATIONS[formula.operation](operands[0], operands[1])
    scale = 10.0**formula.places
    return np.copysign(np.floor(np.abs(result) * HALF_UP * scale + 0.5) / scale, result) + 0.0


def computed(columns: Sequence[Column]) -> tuple[Computed, ...]:
    """The columns that two others compute, each with the first formula that holds in every row.

    A result stands to the right of its operands as a rule, so the columns are tried from the right, and one that was
    found is no operand any more: no column can come out as computed from itself.
    """
    usable = [_Numbers(column, places) for column in columns if (places := places_of(column)) is not None]
    found: list[Computed] = []
    operands = list(usable)
    for result in reversed(usable):
        if len(result.column.values) < FEWEST_VALUES:
            continue
        formula = _first_formula(result, [operand for operand in operands if operand is not result])
        if formula is not None:
            found.append(Computed(result.column.name, formula, result.column.filled))
            operands.remove(result)
    return tuple(reversed(found))


class _Numbers:
    """A number column with its values and the decimal places they need."""

    def __init__(self, column: Column, places: int) -> None:
        self.column = column
        self.places = places
        self.values = numbers(column)


def _first_formula(result: _Numbers, operands: list[_Numbers]) -> Formula | None:
    rows = np.flatnonzero(~np.isnan(result.values))[:SAMPLE]
    sample = np.array([operand.values[rows] for operand in operands]).reshape(len(operands), len(rows))
    tolerance = 0.5001 / 10.0**result.places
    for name, operation in OPERATIONS.items():
        difference = np.abs(operation(sample[:, None, :], sample[None, :, :]) - result.values[rows])
        likely = (difference < tolerance).all(axis=2)
        for first, second in zip(*np.nonzero(likely), strict=True):
            pair = (operands[first], operands[second])
            formula = Formula(name, (pair[0].column.name, pair[1].column.name), result.places)
            ordered = first < second or (name == "difference" and first != second)
            if ordered and _holds(formula, result, pair):
                return formula
    return None


def _holds(formula: Formula, result: _Numbers, operands: tuple[_Numbers, _Numbers]) -> bool:
    if any(len(operand.column.values) < 2 for operand in operands):
        return False
    return np.array_equal(compute(formula, [operand.values for operand in operands]), result.values, equal_nan=True)
