"""Columns that others compute by arithmetic: sums, differences, products, percentages, a constant more or less, totals.

Checked on every row, by the same arithmetic in doubles that a database does when it computes the column again, so that
a formula that holds in all rows gives every cell back. A row in which an operand is blank must be blank in the result,
but in a total: of the numbers right before it, of which some may be blank. A formula that a few rows break is reported
with these rows.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core import kinds
from hemplit.core.columns.codes import distinct
from hemplit.core.design.arithmetic import MOST_PLACES, OPERATIONS, compute, numbers, places_of
from hemplit.core.model.findings import TOTAL, Breach, Computed, Formula
from hemplit.core.model.grid import EMPTY

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.model.relation import Column, Relation

    Numbers = npt.NDArray[np.float64]

#: A result with fewer different values than this could be met by accident.
FEWEST_VALUES = 5
#: So many rows are tried on all pairs of columns at once, before the few formulas left are checked on all rows; ...
GUESSED = 8
#: ... and so many of them must fit, since one may be among the rows that break the formula.
GUESSES_THAT_FIT = 7
#: A formula is told if it breaks in at most this share of the filled rows.
MOST_BREAKING = 0.02
#: Sums of three are looked for among so many number columns; among more they are met by accident, and cost time.
MOST_FOR_THREE = 16
#: Sums of so many are tried of any columns.
TRIED = 3
#: Among more number columns the pairs take more memory and time than an office has, and fit by accident.
MOST_NUMBERS = 400
#: So many breaking cells are named.
NAMED = 20


def computed(relation: Relation) -> tuple[Computed, ...]:
    """The number columns that others compute, each with the formula that the fewest rows break.

    A result stands to the right of its operands as a rule, so the columns are tried from the right, and one that was
    found is no operand any more: no column can come out as computed from itself.
    """
    usable = [
        _Numbers(column, position, places)
        for position, column in enumerate(relation.columns)
        if (places := places_of(column)) is not None
    ]
    if len(usable) > MOST_NUMBERS:
        return ()
    guesses = _Guesses(usable, relation.row_count)
    found: list[Computed] = []
    for index in range(len(usable) - 1, -1, -1):
        if len(usable[index].column.values) >= FEWEST_VALUES:
            best = _best_formula(relation, usable[index], guesses.for_result(index))
            if best is not None:
                found.append(best)
                guesses.taken.add(index)
    return tuple(reversed(found))


class _Numbers:
    """A number column with its place among all, its values and the decimal places they need."""

    def __init__(self, column: Column, position: int, places: int) -> None:
        self.column = column
        self.position = position
        self.places = places
        self.values = numbers(column)


class _Guesses:
    """Formulas over all pairs of columns on a few rows, in which each column is then looked up as a result.

    A formula that fits on so many of the rows fits on one of any few of them: on these the results of all pairs lie
    sorted, so that a result finds its pairs without a look at the others.
    """

    def __init__(self, columns: Sequence[_Numbers], rows: int) -> None:
        self.columns = columns
        self.taken = {index for index, one in enumerate(columns) if len(one.column.values) < 2}
        values = np.array([one.values for one in columns]).reshape(len(columns), rows)
        # Rows in which most of the columns are filled, spread over the sheet.
        filled = np.flatnonzero((~np.isnan(values)).sum(axis=0) * 2 >= len(columns))
        spread = filled[np.linspace(0, len(filled) - 1, min(GUESSED, len(filled)), dtype=np.int64)]
        self.sample = values[:, spread]
        self.sorted = {name: self._sorted(operation) for name, operation in OPERATIONS.items()}

    def _sorted(self, operation: Callable[..., Numbers]) -> list[tuple[Numbers, npt.NDArray[np.intp]]]:
        """For each of the few rows the results of all pairs in order, and the pairs."""
        found = []
        for row in range(self.sample.shape[1]):
            results = operation(self.sample[:, None, row], self.sample[None, :, row]).ravel()
            order = np.argsort(results)
            found.append((results[order], order))
        return found

    def _pairs(self, name: str, target: Numbers, tolerance: float) -> npt.NDArray[np.intp]:
        """The pairs, as one number each, that give a result on enough of the rows; in order."""
        filled = np.flatnonzero(~np.isnan(target))
        needed = min(GUESSES_THAT_FIT, len(filled))
        fitting = []
        for row in filled[: len(filled) - needed + 1]:
            results, order = self.sorted[name][row]
            low, high = np.searchsorted(results, (target[row] - tolerance, target[row] + tolerance))
            fitting.append(order[low:high])
        pairs = distinct(np.concatenate(fitting)) if fitting else np.zeros(0, dtype=np.intp)
        one, other = np.divmod(pairs, len(self.columns))
        return pairs[self._fit(OPERATIONS[name](self.sample[one], self.sample[other]), target, tolerance)]

    @staticmethod
    def _fit(values: Numbers, target: Numbers, tolerance: float) -> npt.NDArray[np.bool_]:
        near = np.abs(values - target) < tolerance
        return near.sum(axis=-1) >= min(GUESSES_THAT_FIT, int((~np.isnan(target)).sum()))

    def for_result(self, index: int) -> Iterator[tuple[Formula, list[Numbers]]]:
        """Formulas that nearly always give this column on those rows, the simpler first."""
        target = self.sample[index]
        places = self.columns[index].places
        tolerance = 0.5001 / 10.0**places
        if not target.size or np.isnan(target).all():
            return

        def formula(name: str, *parts: int, detail: str = "") -> tuple[Formula, list[Numbers]]:
            chosen = [self.columns[part] for part in parts]
            names = tuple(one.column.name for one in chosen)
            return Formula(name, names, places, detail), [one.values for one in chosen]

        free = [part for part in range(len(self.columns)) if part != index and part not in self.taken]
        apart = np.sort(np.nan_to_num(target - self.sample), axis=1)
        middle = (target.size - 1) // 2, target.size // 2
        constants = np.round(apart[:, middle].mean(axis=1), MOST_PLACES)
        for one in np.flatnonzero(self._fit(self.sample + constants[:, None], target, tolerance)).tolist():
            if constants[one] and one in free:
                yield formula("constant", one, detail=f"{constants[one]:g}")
        able = set(free)
        for name in OPERATIONS:
            for first, second in zip(
                *(part.tolist() for part in np.divmod(self._pairs(name, target, tolerance), len(self.columns))),
                strict=True,
            ):
                if {first, second} <= able and (first < second or (name == "difference" and first != second)):
                    yield formula(name, first, second)
        if len(free) <= MOST_FOR_THREE:
            for first in free:
                sums = self.sample[:, None, :] + self.sample[None, :, :] + self.sample[first]
                for second, third in np.argwhere(self._fit(sums, target, tolerance)).tolist():
                    if second in able and third in able and first < second < third:
                        yield formula("sum", first, second, third)
        for parts in self._right_before(index):
            if self._fit(np.nansum(self.sample[parts], axis=0), target, tolerance):
                yield formula(TOTAL, *parts)

    def _right_before(self, index: int) -> Iterator[list[int]]:
        """The number columns that stand right before one, all of them first, then without the first, and so on.

        Of a few that are filled in all rows, sums have been tried.
        """
        parts: list[int] = []
        for part in range(index - 1, -1, -1):
            if self.columns[part].position + len(parts) + 1 != self.columns[index].position:
                break
            parts.insert(0, part)
        for start in range(len(parts) - 1):
            some = parts[start:]
            if len(some) > TRIED or any(self.columns[part].column.blanks for part in some):
                yield some


def _best_formula(
    relation: Relation, result: _Numbers, likely: Iterator[tuple[Formula, list[Numbers]]]
) -> Computed | None:
    best: tuple[int, Formula, Numbers] | None = None
    for formula, operands in likely:
        expected = compute(formula, operands)
        wrong = int((~_same(expected, result.values)).sum())
        if wrong <= MOST_BREAKING * result.column.filled and (best is None or wrong < best[0]):
            best = (wrong, formula, expected)
            if not wrong:
                break
    if best is None:
        return None
    breaking, formula, expected = best
    breaches = _breaches(relation, result, expected) if breaking else ()
    return Computed(result.column.name, formula, result.column.filled, breaking, breaches)


def _same(one: Numbers, other: Numbers) -> npt.NDArray[np.bool_]:
    return (one == other) | (np.isnan(one) & np.isnan(other))


def _breaches(relation: Relation, result: _Numbers, expected: Numbers) -> tuple[Breach, ...]:
    column = result.column
    found = []
    for row in np.flatnonzero(~_same(expected, result.values))[:NAMED].tolist():
        code = int(column.codes[row])
        value = "" if code == EMPTY else kinds.show(column.values[code].as_py(), column.kind)
        agreed = "" if np.isnan(expected[row]) else f"{expected[row]:.{result.places}f}"
        found.append(Breach(relation.address(row, column), value, agreed, twin=False))
    return tuple(found)
