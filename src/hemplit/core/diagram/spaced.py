"""Things in a row, each as near as it can be to where it would like to be, and none too near to another.

Regression under an order by pooling neighbours (Ayer, Brunk, Ewing, Reid and Silverman, 1955).
"""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Sequence


def spaced(wanted: Sequence[float], weights: Sequence[float], apart: Sequence[float]) -> list[float]:
    """Where things stand in this order: ``apart`` is the least distance of each to the one before.

    >>> spaced([0, 0, 50], [1, 1, 1], [0, 20, 20])
    [-10.0, 10.0, 50.0]
    """
    shift = 0.0
    shifts: list[float] = []
    for distance in apart:
        shift += distance if shifts else 0.0
        shifts.append(shift)
    pools: list[tuple[float, float, int]] = []
    for want, weight, moved in zip(wanted, weights, shifts, strict=True):
        pool = (want - moved, weight, 1)
        while pools and pools[-1][0] > pool[0]:
            mean, heavy, many = pools.pop()
            both = heavy + pool[1]
            pool = ((mean * heavy + pool[0] * pool[1]) / both, both, many + pool[2])
        pools.append(pool)
    level = [mean for mean, _, many in pools for _ in range(many)]
    return [one + moved for one, moved in zip(level, shifts, strict=True)]
