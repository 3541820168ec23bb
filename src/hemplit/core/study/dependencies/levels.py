"""Minimal dependencies and keys with few columns on the left, in tables of any height.

Level by level, all sets of that many columns that may still decide something are held against what is known to be
agreed in by some two rows: a set cannot decide what one of the agreements that contain it lacks. What is left over is
checked on the rows, and each counter-example joins the known agreements, where it usually rules out many other sets as
well. After Papenbrock and Naumann, "A hybrid approach to functional dependency discovery" (2016), with the comparison
of rows replaced by bit sets and a candidate checked by sorting keys.

Where few pairs of rows agree in a set, all of them are compared at once: then everything is known about every larger
set, and none of these needs to be checked on the rows. Sheets are full of such sets (two measures together are nearly
unique), and this is what keeps the third level short.
"""

from __future__ import annotations

from itertools import combinations
from typing import TYPE_CHECKING

import numpy as np

from hemplit.at_once import at_once
from hemplit.core.study.dependencies.sets import everything, largest, merged, pack, unpack

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.study.dependencies.rows import Table
    from hemplit.core.study.dependencies.sets import Sets

    Combination = tuple[int, ...]

#: All pairs that agree in a set are compared if they are at most this many per row of the table, ...
PAIRS_PER_ROW = 1.5
#: ... and if so many sets that contain it wait for it; fewer are checked one by one as quickly. To compare a pair takes
#: about this share of the time, per column, that a check takes per row.
WAITING = 3
PAIRS_PER_CHECK = 6.0
#: A base of more columns would be a check of its own.
LARGEST_BASE = 2
#: So many of the agreements that a step shows are held against all waiting sets.
MOST_LEARNED = 48
#: So many agreements are held against a set before all that contain it.
FIRST_AGREEMENTS = 64
#: Sorting and gathering in tall tables run beside each other; in others the threads would wait for one another.
THREADS = 2
TALL = 400_000
ALL_BITS = np.uint64(2**64 - 1)


class Levels:
    """The search on one table; ``known`` are agreements, and ``table`` is None if they are all there are."""

    def __init__(self, columns: int, known: Sets, table: Table | None) -> None:
        self.columns = columns
        self.known = known
        self.table = table
        self.words = known.shape[1]
        self.every = everything(columns)
        self.complete: list[Combination] = []
        self.tried: set[Combination] = set()

    def run(self, depth: int, stop: Callable[[int, int], None]) -> Iterator[tuple[Combination, tuple[int, ...]]]:
        """Each minimal left side with what it decides (``columns`` for the row itself), smaller ones first."""
        constant = self._constant()
        if constant.any():
            yield (), self._listed(constant)
        sets: list[Combination] = [()]
        open_ = (self.every & ~constant)[None, :]
        for level in range(1, min(depth, self.columns) + 1):
            stop(level - 1, depth)
            sets, open_ = self._next(sets, open_, level)
            if not sets:
                return
            decided = self._decided(sets, open_, stop, depth, level)
            for index in np.flatnonzero(decided.any(axis=1)):
                yield sets[index], self._listed(decided[index])
            open_ &= ~decided

    def _constant(self) -> npt.NDArray[np.uint64]:
        if self.table is None:
            return np.bitwise_and.reduce(self.known, axis=0, initial=ALL_BITS) & self.every
        return pack(np.array([[size <= 1 for size in self.table.sizes]]), self.words)[0]

    def _listed(self, one: npt.NDArray[np.uint64]) -> tuple[int, ...]:
        return tuple(np.flatnonzero(unpack(one[None, :], self.columns + 1)[0]).tolist())

    def _own(self, sets: Sequence[Combination]) -> Sets:
        flags = np.zeros((len(sets), self.columns), dtype=bool)
        if sets and sets[0]:
            flags[np.arange(len(sets))[:, None], np.array(sets)] = True
        return pack(flags, self.words)

    def _next(self, sets: Sequence[Combination], open_: Sets, level: int) -> tuple[list[Combination], Sets]:
        """The sets with one column more of which every smaller one leaves something open, and what it leaves open."""
        place = {one: index for index, one in enumerate(sets)}
        found: list[Combination] = []
        smaller: list[list[int]] = []
        for one in sets:
            for column in range(one[-1] + 1 if one else 0, self.columns):
                larger = (*one, column)
                parts = [place.get(larger[:drop] + larger[drop + 1 :]) for drop in range(level)]
                if None not in parts:
                    found.append(larger)
                    smaller.append([part for part in parts if part is not None])
        if not found:
            return [], open_[:0]
        still = np.bitwise_and.reduce(open_[np.array(smaller)], axis=1)
        keep = np.flatnonzero((still & ~self._own(found)).any(axis=1))
        return [found[index] for index in keep], still[keep]

    # What is decided -------------------------------------------------------------------------------------------------

    def _decided(
        self, sets: list[Combination], open_: Sets, stop: Callable[[int, int], None], depth: int, level: int
    ) -> Sets:
        own = self._own(sets)
        wanted = open_ & ~own
        possible = self._closures(sets, wanted) & wanted
        if self.table is None:
            return possible
        waiting = np.logical_or.reduce(possible != 0, axis=1)
        for base in self.complete:
            waiting &= ~self._containing(own, base)
        members = np.array(sets)
        learned = [self.known]
        while waiting.any():
            stop(level - 1, depth)
            news = self._step(members, own, possible, waiting)
            learned += news
            for new in news:
                self._rule_out(possible, own, np.flatnonzero(waiting), largest(new, MOST_LEARNED))
            waiting &= possible.any(axis=1)
        self.known = merged(learned, self.words)
        return possible

    def _step(
        self, members: npt.NDArray[np.intp], own: Sets, possible: Sets, waiting: npt.NDArray[np.bool_]
    ) -> list[Sets]:
        """Settles some waiting sets for good, a thread each, and returns the agreements that this showed.

        ``members`` are the sets as columns, of shape (sets, level).
        """
        assert self.table is not None
        threads = THREADS if self.table.rows >= TALL else 1
        bases = self._worth_completing(members[waiting])
        news = []
        if bases:
            for base, new in zip(bases, at_once(self._all_within, bases, threads), strict=True):
                self.tried.add(base)
                if new is not None:
                    self.complete.append(base)
                    settled = self._containing(own, base)
                    self._intersect(possible, own, np.flatnonzero(waiting & settled), new)
                    waiting &= ~settled
                    news.append(new)
            return news
        indices = np.flatnonzero(waiting)[:THREADS].tolist()
        waiting[indices] = False
        checked = at_once(lambda index: self._check(members[index], possible[index]), indices, threads)
        for index, (held, against) in zip(indices, checked, strict=True):
            if self.columns in held:
                self.complete.append(tuple(members[index].tolist()))
            possible[index] = pack(np.isin(np.arange(self.columns + 1), held)[None, :], self.words)[0]
            news.append(against)
        return news

    def _containing(self, own: Sets, base: Combination) -> npt.NDArray[np.bool_]:
        """Which of the sets contain the base."""
        inside = self._own([base])
        return np.logical_and.reduce((own & inside) == inside, axis=1)

    def _check(self, left: npt.NDArray[np.intp], possible: npt.NDArray[np.uint64]) -> tuple[list[int], Sets]:
        """What of the possible the rows confirm, and the agreements that speak against the rest."""
        assert self.table is not None
        return self.table.confirm(left.tolist(), self._listed(possible))

    def _worth_completing(self, waiting: npt.NDArray[np.intp]) -> list[Combination]:
        """The smaller sets that would settle the most waiting ones, of shape (sets, level), by comparing few pairs."""
        assert self.table is not None
        good: list[tuple[int, Combination]] = []
        for size in range(1, min(waiting.shape[1], LARGEST_BASE + 1)):
            bases = np.concatenate([waiting[:, part] for part in combinations(range(waiting.shape[1]), size)])
            counts = np.bincount(bases @ self.columns ** np.arange(size - 1, -1, -1))
            found = 0
            for number in np.argsort(-counts, kind="stable"):
                if counts[number] < WAITING or found == THREADS:
                    break
                base = tuple(int(number) // self.columns**place % self.columns for place in range(size - 1, -1, -1))
                per_row = min(PAIRS_PER_ROW, PAIRS_PER_CHECK * int(counts[number]) / self.columns)
                few = self.table.expected_pairs(base) <= per_row * self.table.rows
                if few and base not in self.tried:
                    good.append((-int(counts[number]), base))
                    found += 1
        return [base for _, base in sorted(good)[:THREADS]]

    def _all_within(self, base: Combination) -> Sets | None:
        """What all pairs that agree in the base agree in; None if they are not as few as was expected."""
        assert self.table is not None
        grouped = self.table.group(base)
        return self.table.all_within(grouped) if grouped.pairs <= PAIRS_PER_ROW * self.table.rows else None

    # What is ruled out -----------------------------------------------------------------------------------------------

    def _rule_out(self, possible: Sets, own: Sets, waiting: npt.NDArray[np.intp], new: Sets) -> None:
        """Takes away what a few new agreements rule out for many sets."""
        for one in new:
            inside = waiting[((own[waiting] & ~one) == 0).all(axis=1)]
            possible[inside] &= one

    def _intersect(self, possible: Sets, own: Sets, settled: npt.NDArray[np.intp], new: Sets) -> None:
        """Takes away what many new agreements rule out for a few sets."""
        for index in settled:
            containing = new[((new & own[index]) == own[index]).all(axis=1)]
            possible[index] &= np.bitwise_and.reduce(containing, axis=0, initial=ALL_BITS)

    def _closures(self, sets: Sequence[Combination], wanted: Sets) -> Sets:
        """For each set the intersection of all known agreements that contain it; everything if none does.

        Exact only within ``wanted``: a set of which nothing wanted is left after some agreements is not looked at
        again.
        """
        closed = np.empty((len(sets), self.words), dtype=np.uint64)
        flags = unpack(self.known, self.columns)
        inside: list[tuple[Combination, npt.NDArray[np.int64]]] = [((), np.arange(len(self.known)))]
        start = 0
        while start < len(sets):
            prefix = sets[start][:-1]
            end = start
            while end < len(sets) and sets[end][:-1] == prefix:
                end += 1
            while prefix[: len(inside[-1][0])] != inside[-1][0]:
                inside.pop()
            while len(inside[-1][0]) < len(prefix):
                before, rows = inside[-1]
                column = prefix[len(before)]
                inside.append(((*before, column), rows[flags[rows, column]]))
            rows = inside[-1][1]
            last = np.array([one[-1] for one in sets[start:end]])
            closed[start:end] = ALL_BITS
            left = np.arange(end - start)
            count = FIRST_AGREEMENTS
            while len(left) and len(rows):
                some = rows[:: -(-len(rows) // count)]
                closed[start + left] = self._intersected(some, last[left], flags)
                left = left[(closed[start + left] & wanted[start + left]).any(axis=1)]
                if len(some) == len(rows):
                    break
                count *= FIRST_AGREEMENTS // 8
            start = end
        return closed

    def _intersected(
        self, rows: npt.NDArray[np.int64], last: npt.NDArray[np.int64], flags: npt.NDArray[np.bool_]
    ) -> Sets:
        """For each last column the intersection of those known agreements, out of ``rows``, that hold it."""
        closed = np.empty((len(last), self.words), dtype=np.uint64)
        fill = np.where(flags[np.ix_(rows, last)], np.uint64(0), ALL_BITS)
        for word in range(self.words):
            closed[:, word] = np.bitwise_and.reduce(self.known[rows, word, None] | fill, axis=0, initial=ALL_BITS)
        return closed & self.every
