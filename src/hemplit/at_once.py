"""Work on several things at once, on threads: Arrow, NumPy and the databases let others go on while they work."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING, TypeVar

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

One = TypeVar("One")
Made = TypeVar("Made")


def at_once(work: Callable[[One], Made], items: Sequence[One], threads: int | None = None) -> Iterator[Made]:
    """What the work makes of each, in their order; the first error is raised where its turn comes.

    There are as many threads as cores, unless it is said how many; for one thing, or on one, there is none.

    >>> list(at_once(len, ["teal", "knot", "smew"]))
    [4, 4, 4]
    """
    if len(items) < 2 or threads == 1:
        yield from map(work, items)
        return
    # Read only here: a command on a small sheet needs none, and a hundredth of its time would go into it.
    from concurrent.futures import ThreadPoolExecutor

    pool = ThreadPoolExecutor(threads or os.cpu_count())
    try:
        yield from pool.map(work, items)
    finally:
        pool.shutdown(cancel_futures=True)
