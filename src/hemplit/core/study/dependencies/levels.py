"""Minimal dependencies and keys with few columns on the left, in tables of any height.

Level by level, all sets of that many columns that may still decide something are held against what is known to be
agreed in by some two rows: a set cannot decide what one of the agreements that contain it lacks. What is left over is
checked on the rows, and each counter-example joins the known agreements, where it usually rules out many other sets as
well. After Papenbrock and Naumann, "A hybrid approach to functional dependency discovery" (2016), with the comparison
of rows replaced by bit sets and the check of a candidate by hashing keys.

Where few pairs of rows agree in a set, all of them are compared at once: then everything is known about every larger
set, and none of these needs to be checked on the rows. Sheets are full of such sets (two measures together are nearly
unique), and this is what keeps the third level short.
"""

from __future__ import annotations

from itertools import combinations
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.study.dependencies.sets import everything, merged, pack, unpack

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.study.dependencies.rows import Table
    from hemplit.core.study.dependencies.sets import Sets

    Combination = tuple[int, ...]

#: All pairs that agree in a set are compared if they are at most this many per row of the table, ...
PAIRS_PER_ROW = 1.5
#: ... and if so many sets that contain it wait for it; fewer are checked one by one as quickly.
WAITING = 3
#: So many agreements are held against a set before all that contain it.
FIRST_AGREEMENTS = 64
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
        while waiting.any():
            stop(level - 1, depth)
            settled = len(self.complete)
            worth = self._worth_completing(sets, np.flatnonzero(waiting), level)
            new = self._complete(worth) if worth is not None else None
            if new is None:
                index = int(np.flatnonzero(waiting)[0])
                waiting[index] = False
                possible[index], new = self._check(sets[index], possible[index])
            if len(new):
                self.known = merged((self.known, new), self.words)
                self._rule_out(possible, own, np.flatnonzero(waiting), new)
            waiting &= possible.any(axis=1)
            for base in self.complete[settled:]:
                waiting &= ~self._containing(own, base)
        return possible

    def _containing(self, own: Sets, base: Combination) -> npt.NDArray[np.bool_]:
        """Which of the sets contain the base."""
        inside = self._own([base])
        return np.logical_and.reduce((own & inside) == inside, axis=1)

    def _check(self, left: Combination, possible: npt.NDArray[np.uint64]) -> tuple[npt.NDArray[np.uint64], Sets]:
        """What of the possible the rows confirm, and the agreements that speak against the rest."""
        assert self.table is not None
        held, against = self.table.confirm(left, self._listed(possible))
        if self.columns in held:
            self.complete.append(left)
        return pack(np.isin(np.arange(self.columns + 1), held)[None, :], self.words)[0], against

    def _worth_completing(
        self, sets: Sequence[Combination], waiting: npt.NDArray[np.intp], level: int
    ) -> Combination | None:
        """The smaller set that would settle the most waiting ones by comparing few pairs of rows."""
        assert self.table is not None
        if len(waiting) < WAITING or level == 1:
            return None
        members = np.array([sets[index] for index in waiting])
        best: tuple[int, Combination] | None = None
        for size in range(1, level):
            bases = np.concatenate([members[:, part] for part in combinations(range(level), size)])
            different, counts = np.unique(bases, axis=0, return_counts=True)
            for place in np.argsort(-counts, kind="stable"):
                base = tuple(different[place].tolist())
                if counts[place] < (best[0] + 1 if best else WAITING):
                    break
                few = self.table.expected_pairs(base) <= PAIRS_PER_ROW * self.table.rows
                if few and base not in self.tried:
                    best = (int(counts[place]), base)
                    break
        return best[1] if best else None

    def _complete(self, base: Combination) -> Sets | None:
        """Compares all pairs that agree in the base; None if they are not as few as was expected."""
        assert self.table is not None
        self.tried.add(base)
        grouped = self.table.group(base)
        if grouped.pairs > PAIRS_PER_ROW * self.table.rows:
            return None
        self.complete.append(base)
        return self.table.all_within(grouped)

    # What is ruled out -----------------------------------------------------------------------------------------------

    def _rule_out(self, possible: Sets, own: Sets, waiting: npt.NDArray[np.intp], new: Sets) -> None:
        """Takes away what the new agreements rule out for the waiting sets; the others are settled already."""
        sizes = np.bitwise_count(new).sum(axis=1)
        for one in new[np.argsort(-sizes.astype(np.int64), kind="stable")]:
            inside = waiting[((own[waiting] & ~one) == 0).all(axis=1)]
            possible[inside] &= one

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
            some = rows[:: len(rows) // FIRST_AGREEMENTS + 1]
            closed[start:end] = self._intersected(some, last, flags)
            if len(some) < len(rows):
                left = np.flatnonzero((closed[start:end] & wanted[start:end]).any(axis=1))
                closed[start + left] = self._intersected(rows, last[left], flags)
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
