"""All minimal dependencies of a table with many columns, one after the other, in bounded memory.

X decides A if and only if X holds a column out of every difference of two rows that differ in A. So the minimal left
sides of A are the minimal sets that hit every one of these differences, found depth first: a set grows by the columns
of a difference not yet hit, as long as each of its columns is the only one to hit some difference. After Murakami and
Uno, "Efficient algorithms for dualizing large-scale hypergraphs" (2014), algorithm MMCS. Sets of differences are bits
of Python integers, so that a step costs a few operations on whole numbers, whatever their number.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.study.dependencies.sets import WORD, everything, singleton, unpack

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator

    import numpy.typing as npt

    from hemplit.core.study.dependencies.sets import Sets

#: The caller is asked whether to go on after so many steps.
STEPS_BETWEEN_STOPS = 4096


def minimal_lefts(
    known: Sets, columns: int, right: int, depth: int, stop: Callable[[], None]
) -> Iterator[tuple[int, ...]]:
    """The minimal sets of at most ``depth`` columns that decide ``right``, given all agreements of two rows.

    ``right`` is a column, or ``columns`` for the row itself, whose left sides are the keys.
    """
    differences = _differences(known, columns, right, stop)
    flags = unpack(differences, columns)
    hits = [_bits(flags[:, column]) for column in range(columns)]
    edges = [_bits(flag) for flag in flags]
    steps = 0

    def grow(chosen: list[int], sole: list[int], allowed: int, unhit: int) -> Iterator[tuple[int, ...]]:
        nonlocal steps
        steps += 1
        if steps % STEPS_BETWEEN_STOPS == 0:
            stop()
        if not unhit:
            yield tuple(sorted(chosen))
            return
        if len(chosen) == depth:
            return
        edge = edges[(unhit & -unhit).bit_length() - 1] & allowed
        allowed &= ~edge
        while edge:
            lowest = edge & -edge
            edge ^= lowest
            column = lowest.bit_length() - 1
            hit = hits[column]
            left_sole = _still_sole(sole, ~hit)
            if left_sole is not None:
                yield from grow([*chosen, column], [*left_sole, unhit & hit], allowed, unhit & ~hit)
            allowed |= lowest

    everything_else = ((1 << columns) - 1) & ~(1 << right)
    yield from grow([], [], everything_else, (1 << len(edges)) - 1)


def _differences(known: Sets, columns: int, right: int, stop: Callable[[], None]) -> Sets:
    """The smallest differences of two rows that differ in ``right``, without ``right`` itself."""
    word, bit = divmod(right, WORD)
    lacking = known[(known[:, word] >> np.uint64(bit)) & np.uint64(1) == 0]
    within = everything(columns) & ~singleton(columns, known.shape[1])
    differences = within & ~lacking
    differences[:, word] &= ~(np.uint64(1) << np.uint64(bit))
    differences = np.unique(differences, axis=0)
    sizes = np.bitwise_count(differences).sum(axis=1)
    rest = differences[np.argsort(sizes, kind="stable")]
    smallest: list[npt.NDArray[np.uint64]] = []
    while len(rest):
        if len(smallest) % STEPS_BETWEEN_STOPS == 0:
            stop()
        smallest.append(rest[0])
        lacks_some = (rest[0] & ~rest) != 0
        rest = rest[np.logical_or.reduce(lacks_some, axis=1) if lacks_some.shape[1] > 1 else lacks_some[:, 0]]
    return np.array(smallest, dtype=np.uint64).reshape(-1, known.shape[1])


def _still_sole(sole: list[int], others: int) -> list[int] | None:
    """For each chosen column the differences that only it hits, within ``others``; None if one has none left."""
    left = []
    for one in sole:
        still = one & others
        if not still:
            return None
        left.append(still)
    return left


def _bits(flags: npt.NDArray[np.bool_]) -> int:
    return int.from_bytes(np.packbits(flags, bitorder="little").tobytes(), "little")
