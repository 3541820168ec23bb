"""Columns that hold the same sort of thing: their values come from one pool, as those of from-berth and to-berth do.

Beside each such pair stand the columns that follow from the one and the other in the same way, from-dock and to-dock:
what one side says of a thing, the other does not contradict.
"""

from __future__ import annotations

from itertools import combinations
from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core.columns.codes import Grouping, first_conflict
from hemplit.core.model.findings import SharedValues
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import TEXT
from hemplit.core.texts.words import is_identifier, is_measure, words
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Collection, Mapping, Sequence

    from hemplit.core.model.relation import Column

#: With fewer values in common, or a smaller share of the values of the side that has fewer, they may be two pools.
FEWEST_COMMON = 2
SHARE = 0.5
#: So many values are tried before all.
SAMPLE = 50
SHORT = 2_000
#: Two lists that are as long as short ones get, and have nothing in common, have a third of the bits in common that
#: would be enough.
BITS = 1 << 14
#: Texts longer than this on average are sentences.
LONGEST = 40


def shared_values(columns: Sequence[Column], exact: Collection[tuple[str, str]]) -> tuple[SharedValues, ...]:
    """The pairs of columns with a pool in common; ``exact`` has the pairs of which the first decides the second."""
    found = []
    able = [column for column in columns if _names_things(column)]
    pools = {column.name: _Pool.of(column) for column in able if len(column.values) <= SHORT}
    decided: dict[str, list[Column]] = {}
    by_name = {column.name: column for column in columns}
    for left, right in sorted(exact):
        decided.setdefault(left, []).append(by_name[right])
    for one, other in combinations(able, 2):
        if one.kind != other.kind:
            continue
        enough = max(FEWEST_COMMON, SHARE * min(len(one.values), len(other.values)))
        common = _common(one, other, pools, enough)
        if common >= enough:
            beside = (decided.get(one.name, ()), decided.get(other.name, ()))
            found.append(SharedValues(one.name, other.name, common, _cells(one, other), _alike(one, other, *beside)))
    return tuple(found)


def _cells(one: Column, other: Column) -> int:
    """How many cells say something; two of a row that say the same count once."""
    same = _renumbered(pc.index_in(other.values, one.values), len(one.values), other) == one.codes
    filled = one.codes != EMPTY
    return int(np.count_nonzero(filled) + np.count_nonzero(other.codes != EMPTY) - np.count_nonzero(same & filled))


def _names_things(column: Column) -> bool:
    said = words(column.name)
    if len(column.values) < FEWEST_COMMON or is_measure(said):
        return False
    if column.kind == TEXT:
        return bool((pc.mean(pc.utf8_length(column.values.slice(0, SAMPLE))).as_py() or 0) <= LONGEST)
    return column.kind.word == "whole number" and is_identifier(said)


@dataclass(frozen=True)
class _Pool:
    """The values of a short list, for which a set of Python is quicker than the call of a library.

    Each value sets a bit by its hash, so that two lists that have little in common are known by a look at their bits.
    """

    values: frozenset[object]
    bits: int
    hidden: int
    """How many values set a bit that another has set."""

    @classmethod
    def of(cls, column: Column) -> _Pool:
        """The values of a column."""
        values = frozenset(column.values.to_pylist())
        flags = np.zeros(BITS, dtype=bool)
        flags[[hash(value) % BITS for value in values]] = True
        hidden = len(values) - int(np.count_nonzero(flags))
        return cls(values, int.from_bytes(np.packbits(flags).tobytes(), "big"), hidden)

    def most_common(self, other: _Pool) -> int:
        """No more values than that are in both."""
        return (self.bits & other.bits).bit_count() + min(self.hidden, other.hidden)


def _common(one: Column, other: Column, pools: Mapping[str, _Pool], enough: float) -> int:
    """How many values both have; 0 if that is not enough."""
    if one.name in pools and other.name in pools:
        left, right = pools[one.name], pools[other.name]
        return len(left.values & right.values) if left.most_common(right) >= enough else 0
    few, many = sorted((one, other), key=lambda column: len(column.values))
    sample = few.values.slice(0, SAMPLE)
    # To look up the many among the few takes a tenth of the time that the other way round takes.
    if pc.sum(pc.is_in(many.values, sample)).as_py() < SHARE * len(sample) / 2:
        return 0
    return int(pc.sum(pc.is_in(many.values, few.values)).as_py())


def _alike(
    one: Column, other: Column, lefts: Sequence[Column], rights: Sequence[Column]
) -> tuple[tuple[str, str], ...]:
    """The pairs of columns that belong to the two sides in the same way, by name and without a contradiction.

    Where no names say so, those that stand as far from the one as from the other. ``lefts`` and ``rights`` are what
    each side decides.
    """
    pairs = [(left, right) for left in lefts for right in rights if left is not right and left.kind == right.kind]
    named = [pair for pair in pairs if _same_but_for_role(one.name, other.name, pair[0].name, pair[1].name)]
    apart = other.position - one.position
    placed = [(left, right) for left, right in pairs if right.position - left.position == apart]
    return tuple((left.name, right.name) for left, right in named or placed if _agree((one, left), (other, right)))


def _same_but_for_role(one: str, other: str, left: str, right: str) -> bool:
    """Whether left is to right as one is to other: what is different in the headers is the same words.

    >>> _same_but_for_role("From Berth", "To Berth", "From Dock", "To Dock")
    True
    """
    role, other_role = _rest(words(one), words(other))
    has_roles = {*role} <= {*words(left)} and {*other_role} <= {*words(right)}
    return left != right and has_roles and (role, other_role) == _rest(words(left), words(right))


def _rest(one: Sequence[str], other: Sequence[str]) -> tuple[tuple[str, ...], tuple[str, ...]]:
    return tuple(word for word in one if word not in other), tuple(word for word in other if word not in one)


def _agree(one: tuple[Column, Column], other: tuple[Column, Column]) -> bool:
    """Whether both sides say the same of each thing that both name."""
    lefts, rights = (pc.index_in(other[place].values, one[place].values) for place in (0, 1))
    left, right = (
        _renumbered(found, len(one[place].values), other[place]) for place, found in ((0, lefts), (1, rights))
    )
    both = np.concatenate([one[0].codes, left])
    rows = np.flatnonzero(both != EMPTY)
    return (
        first_conflict(Grouping(both[rows], int(both.max()) + 1), np.concatenate([one[1].codes, right])[rows]) is None
    )


def _renumbered(found: object, offset: int, column: Column) -> np.ndarray:
    """The codes of a column among the values of another; those that it has not come after them."""
    places = pc.fill_null(found, EMPTY).to_numpy(zero_copy_only=False).astype(np.int64)
    missing = places == EMPTY
    places[missing] = offset + np.arange(int(missing.sum()))
    return np.append(places, EMPTY)[column.codes].astype(np.int32)
