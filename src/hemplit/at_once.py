"""Work on several things at once, on threads: Arrow, NumPy and the databases let others go on while they work."""

from __future__ import annotations

import os
from contextlib import contextmanager
from functools import cache
from typing import TYPE_CHECKING, Protocol, TypeVar

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

One = TypeVar("One")
Made = TypeVar("Made")
#: From so many rows on, pieces of the work on one sheet are worth threads of their own. Measured at 28 columns, medians
#: of five loads in turn: 7.0 s instead of 7.5 at 100,000 rows, and nothing at 50,000.
LARGE = 100_000


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


def threads_for(rows: int) -> int:
    """On how many threads the pieces of the work on one sheet of so many rows are done."""
    return (os.cpu_count() or 1) if rows >= LARGE else 1


class Begin(Protocol):
    """Begins some work, and gives what waits for it to be done."""

    def __call__(self, work: Callable[[], Made], /) -> Callable[[], Made]: ...


@contextmanager
def beside(rows: int) -> Iterator[Begin]:
    """What begins work that goes on beside all else, if a sheet of so many rows is worth a thread; else the work is
    done when it is asked for. Its error is raised there.

    >>> with beside(12) as begin:
    ...     counted = begin(lambda: len("teal"))
    ...     counted()
    4
    """
    threads = threads_for(rows)
    if threads == 1:
        yield cache
        return
    from concurrent.futures import ThreadPoolExecutor

    pool = ThreadPoolExecutor(threads)
    try:
        yield lambda work: pool.submit(work).result
    finally:
        pool.shutdown(cancel_futures=True)
