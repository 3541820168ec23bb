"""Two columns that name something together, of which there is a row at each time: the tanks of a ship when sounded.

    Ship     Tank   Product   Date         Level
    Aurora   1P     Diesel    2026-06-03      88
    Aurora   1S     Diesel    2026-06-03     120
    Boreas   1P     Water     2026-06-03      31
    Aurora   1P     Diesel    2026-06-10      61

Neither column says the other, and each pair comes again at nearly all times, so that somebody looks at the same things.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import Grouping, combine, first_rows, tell_apart
from hemplit.core.columns.given import CROSSED, are_crossed
from hemplit.core.model.relation import TIMES
from hemplit.core.texts.moments import is_moment_header

if TYPE_CHECKING:
    from collections.abc import Collection, Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.model.relation import Column

#: Two things at two times are four rows by accident.
FEWEST_THINGS = 3
#: Each is seen again at least once, on average.
SEEN = 2


def crossed(columns: Sequence[Column], exact: Collection[tuple[int, int]]) -> tuple[tuple[str, str, str], ...]:
    """Two columns side by side and a third that tell the rows apart together, with a row for most of what the two say
    at most of the times that the third says of the first.

    ``exact`` are the pairs of columns, by their places, of which the first decides the second.
    """
    found = []
    for pair in _side_by_side(columns, exact):
        one, other = (_grouping(columns[place]) for place in pair)
        rows = len(one.codes)
        most, fewest = one.size * other.size, max(one.size, other.size)
        if fewest * SEEN > rows:
            continue
        for column in filter(_says_when, columns):
            times = _grouping(column)
            if times.size * SEEN > rows or most * times.size < rows or not tell_apart((one, other, times)):
                continue
            things = combine(one, other)
            if FEWEST_THINGS <= things.size <= rows // SEEN and _at_all_times(one, things, times):
                found.append((columns[pair[0]].name, columns[pair[1]].name, column.name))
    return tuple(found)


def _side_by_side(columns: Sequence[Column], exact: Collection[tuple[int, int]]) -> Iterator[tuple[int, int]]:
    """Two columns of which neither decides the other, with nothing between but what the first decides."""
    able = [place for place, column in enumerate(columns) if not column.blanks and len(column.values) > 1]
    for place in able:
        behind = (other for other in able if other > place and (place, other) not in exact)
        other = next(behind, None)
        if other is not None and (other, place) not in exact:
            yield place, other


def _at_all_times(one: Grouping, things: Grouping, times: Grouping) -> bool:
    """Whether there is a row for most things at most times, or each ship has its days and several tanks on each."""
    rows = len(one.codes)
    if are_crossed((things.size, times.size), rows):
        return True
    own = combine(one, times)
    return own.size * SEEN <= rows and rows >= CROSSED * int(_of_each(one, things) @ _of_each(one, own))


def _of_each(one: Grouping, finer: Grouping) -> npt.NDArray[np.int64]:
    """How many groups of a finer grouping are in each of the others, shape (groups,)."""
    return np.bincount(one.codes[first_rows(finer)], minlength=one.size)


def _says_when(column: Column) -> bool:
    """Whether a column says in each row when something was read or done."""
    return not column.blanks and (column.kind.word in TIMES or is_moment_header(column.name))


def _grouping(column: Column) -> Grouping:
    return Grouping(column.codes, len(column.values))
