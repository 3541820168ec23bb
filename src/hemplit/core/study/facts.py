"""What can be counted of each column: how full it is, how often it repeats, what its texts look like."""

from __future__ import annotations

from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.model.arrays import taken
from hemplit.core.model.findings import ColumnFacts
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import TEXT

if TYPE_CHECKING:
    from collections.abc import Callable

    import pyarrow as pa

    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Column

#: So many values are shown as examples of a column.
EXAMPLES = 3
#: So many rows tell whether values rise.
FIRST_ROWS = 1_000
#: So often do numbers begin with 1 that count again and again.
RUNS = 2
#: No spaces, at most 20 characters, and either a digit in it or all in capitals.
CODE = r"^(?:[^\s]{0,19}[0-9][^\s]{0,19}|[A-Z]{1,8})$"
#: A number, and one that is not given but by a limit.
NUMBER = r"^(?:[<>≤≥~≈±] ?)?-?[0-9]+(?:[.,][0-9]+)?$"
LIMIT = r"^[<>≤≥~≈±]"
#: More digits behind the point than a number that is read may have, as what was calculated has.
LONG = r"[.,][0-9]{10,}$"
#: Hours and minutes, which go beyond a day or do without a zero in front; also goals, and scales of a model.
HOURS = r"^[0-9]{1,3}:[0-9]{1,3}(?::[0-9]{2})?(?:[.,][0-9]+)?$"
#: A day of the calendar, in digits.
MONTH, DAY = "(?:0?[1-9]|1[0-2])", "(?:0?[1-9]|[12][0-9]|3[01])"
DATE = rf"^(?:[0-9]{{4}}[-/.]{MONTH}[-/.]{DAY}|{DAY}[-/.]{DAY}[-/.][0-9]{{4}})(?:[ T]|$)"
#: From this share of dates or times on, a column of texts tells when, and some of it was typed wrong or is not known.
DATES = 0.5
#: A character that commonly separates the items of a list.
LIST = r"[,;|\n]| and | / "
#: A family name and what is before it, or a town and its state: where all cells are such, none is a list.
TURNED = r"^[^,;|\n/]+, ?[^,;|\n/]+$"


def facts(column: Column, *, beside: bool = False) -> ColumnFacts:
    """The facts of one column, which may keep the slips of another ``beside``."""
    filled = column.codes[column.codes != EMPTY]
    counts = np.bincount(filled, minlength=len(column.values)).astype(np.float64)
    rows = len(column.codes)
    shares = np.append(counts, rows - len(filled)) / max(rows, 1)
    texts = _texts(column)
    lengths = pc.utf8_length(texts)
    some = len(texts) > 0
    return ColumnFacts(
        name=column.name,
        position=column.position,
        kind=column.kind,
        rows=rows,
        filled=len(filled),
        distinct=len(column.values),
        mean_length=float(pc.mean(lengths).as_py()) if some else 0.0,
        longest=int(pc.max(lengths).as_py()) if some else 0,
        code_like=_share(texts, CODE),
        list_like=_share(texts, LIST) if _share(texts, TURNED) < 1 else 0.0,
        agreement=float((shares**2).sum()),
        amounts=some and _are_amounts(texts),
        dates=column.kind == TEXT and _share(texts, f"{DATE}|{HOURS}") > DATES,
        lowest=_extreme(column, pc.min),
        highest=_extreme(column, pc.max),
        examples=tuple(kinds.show(value.as_py(), column.kind) for value in column.values[:EXAMPLES]),
        beside=beside,
        in_order=rows == len(filled) == len(column.values) and _are_in_order(column.values, filled[:FIRST_ROWS]),
        anew=rows == len(filled)
        and column.kind.word == "whole number"
        and _count_anew(column.values, filled[:FIRST_ROWS]),
    )


def _are_in_order(values: pa.Array, codes: Codes) -> bool:
    """Whether values rise or fall from row to row, a longer text being more than a shorter one.

    >>> import pyarrow as pa
    >>> codes = np.arange(3)
    >>> [_are_in_order(pa.array(some), codes) for some in (["R-8", "R-9", "R-10"], ["R-8", "R-10", "R-9"], [9, 5, 2])]
    [True, False, True]
    """
    said = [(len(value), value) if isinstance(value, str) else (0, value) for value in taken(values, codes).to_pylist()]
    pairs = [*pairwise(said)]
    return all(one < two for one, two in pairs) or all(one > two for one, two in pairs)


def _count_anew(values: pa.Array, codes: Codes) -> bool:
    """Whether each number is one more than that before, or the first of several that follow on it.

    >>> import pyarrow as pa
    >>> codes = np.arange(5)
    >>> [_count_anew(pa.array(some), codes) for some in ([1, 2, 3, 1, 2], [1, 2, 1, 1, 2], [1, 2, 3, 4, 5])]
    [True, False, False]
    """
    numbers = np.append(taken(values, codes).to_numpy(zero_copy_only=False), 1)
    first = np.flatnonzero(numbers == 1)
    follows = (np.diff(numbers) == 1) | (numbers[1:] == 1)
    return len(first) > RUNS and first[0] == 0 and bool(follows.all() and (np.diff(first) > 1).all())


def _extreme(column: Column, which: Callable[[pa.Array], pa.Scalar]) -> float | None:
    if not column.kind.is_number or not len(column.values):
        return None
    return float(which(column.values).as_py())


def _texts(column: Column) -> pa.StringArray:
    return pc.cast(column.values, "string")


def _are_amounts(texts: pa.StringArray) -> bool:
    unread = _share(texts, LIMIT) > 0 or _share(texts, LONG) > 0
    return _share(texts, HOURS) == 1 or (unread and _share(texts, NUMBER) == 1)


def _share(texts: pa.StringArray, pattern: str) -> float:
    if not len(texts):
        return 0.0
    return float(pc.mean(pc.cast(pc.match_substring_regex(texts, pattern), "float64")).as_py())
