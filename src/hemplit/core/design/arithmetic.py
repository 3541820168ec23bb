"""Arithmetic between columns, in doubles as a database does it: the study finds it, views and the proof do it again."""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core.model.findings import TOTAL, Formula

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence

    import numpy.typing as npt

    from hemplit.core.model.relation import Column

    Numbers = npt.NDArray[np.float64]

#: More decimal places than this are measurements, not results of office arithmetic.
MOST_PLACES = 4
#: 1.5 × 1.15 is a hair under 1.725 in doubles and would round down; this much more, far below any office's last digit,
#: carries exact halves over.
HALF_UP = 1 + 1e-12


def add(*operands: Numbers) -> Numbers:
    return reduce(np.add, operands)


OPERATIONS: dict[str, Callable[..., Numbers]] = {
    "sum": add,
    "difference": np.subtract,
    "product": np.multiply,
    "percentage": lambda one, other: one * other / 100,
}


def places_of(column: Column) -> int | None:
    """The decimal places that the values of a number column need, or in which all are written: the next may need them.

    None for other kinds or too many places.
    """
    if column.kind.word == "whole number":
        return 0
    if column.kind.word != "decimal":
        return None
    values = pc.fill_null(column.values, 0.0).to_numpy(zero_copy_only=False)
    written = len(column.kind.form.partition(".")[2])
    for places in range(min(written, MOST_PLACES), MOST_PLACES + 1):
        scaled = values * 10.0**places
        if np.allclose(scaled, np.rint(scaled), rtol=0, atol=1e-6):
            return places
    return None


def numbers(column: Column) -> Numbers:
    """The column as doubles of shape (rows,), NaN where blank."""
    values = np.append(pc.cast(column.values, "float64").to_numpy(zero_copy_only=False), np.nan)
    return values[column.codes]  # EMPTY is -1 and so finds the NaN


def compute(formula: Formula, operands: Sequence[Numbers]) -> Numbers:
    """The formula over doubles of shape (rows,), halves rounded away from zero; NaN where an operand is blank, which
    only a total counts as nothing.

    >>> compute(Formula("product", ("Qty", "Price"), 2), [np.array([1.5]), np.array([1.15])]).tolist()
    [1.73]
    >>> compute(Formula(TOTAL, ("Travel", "Meals"), 2), [np.array([1.5]), np.array([np.nan])]).tolist()
    [1.5]
    """
    if formula.operation == TOTAL:
        result = add(*map(np.nan_to_num, operands))
    elif formula.operation == "constant":
        result = operands[0] + float(formula.detail)
    else:
        result = OPERATIONS[formula.operation](*operands)
    scale = 10.0**formula.places
    return np.copysign(np.floor(np.abs(result) * HALF_UP * scale + 0.5) / scale, result) + 0.0
