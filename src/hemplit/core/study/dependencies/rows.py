"""The rows of a large table: grouping them by some columns, checking what the groups decide, drawing telling pairs."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import Grouping, distinct
from hemplit.core.study.dependencies.sets import agreements, merged, pack, row_by_row, word_count
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.study.dependencies.sets import Rows, Sets

#: So many rows are drawn for each pair of columns; more find little more, ...
DRAWN = 4000
#: ... and in wide tables fewer, so that all draws together compare no more cells than this for each column.
DRAWN_CELLS = 3_000_000
#: So many counter-examples of one check are kept.
COUNTER_EXAMPLES = 256
#: So many pairs of neighbours are looked at before all of them.
FIRST_PAIRS = 1 << 11
SEED = 20


@dataclass(frozen=True)
class Grouped:
    """Rows in the order of their groups: ``rows`` of shape (rows,), and ``same`` of shape (rows - 1,), whether a row
    and the next are of one group."""

    rows: Rows
    same: npt.NDArray[np.bool_]

    @property
    def groups(self) -> int:
        return len(self.rows) - int(np.count_nonzero(self.same))

    @property
    def sizes(self) -> npt.NDArray[np.int64]:
        """The number of rows of each group, shape (groups,)."""
        ends = np.flatnonzero(np.append(~self.same, True))
        return np.diff(ends, prepend=-1)

    @property
    def pairs(self) -> int:
        """How many pairs of rows are of one group."""
        sizes = self.sizes
        return int((sizes * (sizes - 1) // 2).sum())


class Table:
    """The codes of a table, blanks coded as a value, and the work on its rows."""

    def __init__(self, columns: Sequence[Grouping], rows: int) -> None:
        self.columns = [column.codes for column in columns]
        self.cells = row_by_row(self.columns)
        self.sizes = [column.size for column in columns]
        self.rows = rows
        self.words = word_count(len(columns))
        self.numbers = np.arange(rows, dtype=np.int64)
        self.row_bits = max(rows - 1, 1).bit_length()
        self.largest_key = 1 << (63 - self.row_bits)
        self._chances: dict[int, float] = {}

    def group(self, left: Sequence[int]) -> Grouped:
        """Groups the rows by the columns ``left``.

        Key and row number are sorted together as one number: numbers sort several times quicker than an order of them.
        Tried and slower at 10^6 rows: an argsort of the keys (5 times), hashing keys to a table of rows (3 times).
        """
        key, size = self.columns[left[0]].astype(np.int64), self.sizes[left[0]]
        for column in left[1:]:
            if size * self.sizes[column] >= self.largest_key:
                key, size = self._dense(key)
            key *= self.sizes[column]
            key += self.columns[column]
            size *= self.sizes[column]
        return self._ordered(key)

    def _ordered(self, key: npt.NDArray[np.int64]) -> Grouped:
        key <<= self.row_bits
        key |= self.numbers
        key.sort()
        rows = key & ((1 << self.row_bits) - 1)
        key >>= self.row_bits
        return Grouped(rows, key[1:] == key[:-1])

    def _dense(self, key: npt.NDArray[np.int64]) -> tuple[npt.NDArray[np.int64], int]:
        grouped = self._ordered(key)
        dense = np.empty(self.rows, dtype=np.int64)
        dense[grouped.rows] = np.concatenate([[0], np.cumsum(~grouped.same)])
        return dense, grouped.groups

    def check(self, grouped: Grouped, rights: Sequence[int]) -> tuple[list[int], Sets]:
        """Which of the columns the groups decide, and what pairs of rows that speak against the others agree in."""
        hold = []
        against: list[Rows] = []
        near = np.flatnonzero(grouped.same)
        some = near[:FIRST_PAIRS]
        first, second = grouped.rows.take(some), grouped.rows.take(some + 1)
        for right in rights:
            # What is wrong is mostly wrong everywhere, so a few pairs are looked at before all of them.
            wrong = some[self.columns[right].take(first) != self.columns[right].take(second)]
            if not len(wrong) and len(some) < len(near):
                wrong = self._unlike_neighbours(grouped, near, right)
            if len(wrong):
                against.append(wrong[:: max(1, len(wrong) // COUNTER_EXAMPLES)])
            else:
                hold.append(right)
        if not against:
            return hold, np.zeros((0, self.words), dtype=np.uint64)
        chosen = distinct(np.concatenate(against))
        return hold, self.agreement(grouped.rows[chosen], grouped.rows[chosen + 1])

    def _unlike_neighbours(self, grouped: Grouped, near: Rows, right: int) -> Rows:
        """Where a row and the next of its group differ in a column; ``near`` are the places where there is a next."""
        column = self.columns[right]
        if 2 * len(near) < self.rows:
            return near[column.take(grouped.rows.take(near)) != column.take(grouped.rows.take(near + 1))]
        ordered = column.take(grouped.rows)
        # To compare all and mark is ten times quicker than to pick the neighbours out.
        return np.flatnonzero((ordered[1:] != ordered[:-1]) & grouped.same)

    def confirm(self, left: Sequence[int], rights: Sequence[int]) -> tuple[list[int], Sets]:
        """Which of ``rights``, the number of columns standing for the row itself, the columns ``left`` decide.

        Also what pairs of rows agree in that speak against the others.
        """
        width = len(self.columns)
        columns = [right for right in rights if right < width]
        if not left:
            return self._constant(columns, rights)
        grouped = self.group(left)
        if not grouped.same.any():
            return list(rights), self.agreement(self.numbers[:0], self.numbers[:0])
        held, against = self.check(grouped, columns)
        if width in rights:
            near = np.flatnonzero(grouped.same)[:1]
            against = merged((against, self.agreement(grouped.rows[near], grouped.rows[near + 1])), self.words)
        return held, against

    def _constant(self, columns: Sequence[int], rights: Sequence[int]) -> tuple[list[int], Sets]:
        held = [right for right in columns if self.sizes[right] <= 1]
        first = np.zeros(len(rights), dtype=np.int64)
        other = np.array([self._unlike_first(right) for right in rights], dtype=np.int64)
        return held, self.agreement(first[: len(other)], other)

    def _unlike_first(self, right: int) -> int:
        """A row that differs from the first in a column, or the second row if none does or the row itself is meant."""
        if right == len(self.columns) or self.sizes[right] <= 1:
            return 1
        return int((self.columns[right] != self.columns[right][0]).argmax())

    def agreement(self, one: Rows, two: Rows) -> Sets:
        """What the pairs of rows agree in."""
        return agreements(self.cells, one, two, self.words)

    def expected_pairs(self, left: Sequence[int]) -> float:
        """How many pairs of rows would agree in these columns if the columns had nothing to do with each other."""
        chance = 1.0
        for column in left:
            if column not in self._chances:
                shares = np.bincount(self.columns[column]) / self.rows
                self._chances[column] = float((shares**2).sum())
            chance *= self._chances[column]
        return self.rows * (self.rows * chance - 1) / 2 if len(left) == 1 else self.rows**2 * chance / 2

    def all_within(self, grouped: Grouped) -> Sets:
        """What any two rows of one group agree in. Time is pairs × columns."""
        parts = []
        near = grouped.same
        apart = 1
        while near.any():
            place = np.flatnonzero(near)
            parts.append(agreements(self.cells, grouped.rows[place], grouped.rows[place + apart], self.words))
            near = near[:-1] & grouped.same[apart:]
            apart += 1
        return merged(parts, self.words)

    def draw(self) -> Iterator[Sets]:
        """What well-chosen pairs of rows agree in.

        For each two columns some groups of the one with more values are taken whole, their rows put in order by the
        other, and neighbours compared: pairs that agree in both are found even where they are rare in the table.
        """
        random = np.random.default_rng(SEED)
        by_size = sorted(range(len(self.columns)), key=lambda column: (-self.sizes[column], column))
        for place, driver in enumerate(by_size):
            rows = self._some_groups(driver, random)
            codes = self.cells.take(rows, axis=0)
            parts = []
            for other in by_size[place + 1 :]:
                key = codes[:, driver].astype(np.int64) * self.sizes[other] + codes[:, other]
                ordered = codes[np.argsort(key)]
                parts.append(pack(ordered[1:] == ordered[:-1], self.words))
            yield merged(parts, self.words)

    def _some_groups(self, column: int, random: np.random.Generator) -> Rows:
        counts = np.bincount(self.columns[column], minlength=self.sizes[column])
        order = random.permutation(self.sizes[column])
        drawn = min(DRAWN, DRAWN_CELLS // len(self.columns) ** 2 + 1)
        enough = int(np.searchsorted(np.cumsum(counts[order]), drawn)) + 1
        chosen = np.zeros(self.sizes[column], dtype=bool)
        chosen[order[:enough]] = True
        rows = np.flatnonzero(chosen[self.columns[column]])
        return rows if len(rows) <= 2 * drawn else np.sort(random.choice(rows, drawn, replace=False))
