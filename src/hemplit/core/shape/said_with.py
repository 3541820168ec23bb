"""What is said with each value of a list: ``2x rope``, ``Ann (skipper)``, ``B12 - cleat``, ``2x rope @ £4.50``.

    Order   Parts                          Order   Parts   Quantity   Price
    1       2x rope @ £4.50, 1x oar @ £9   1       rope    2          4.50
                                           1       oar     1          9

Brackets, signs and colons stand in remarks, too. That something is said with every value, and that the values or the
words with them come again, or are counted, priced or dated, shows that it is no accident.
"""

from __future__ import annotations

import re
from itertools import chain
from typing import TYPE_CHECKING

import pyarrow.compute as pc

from hemplit.core.shape.looks import MONTHS, is_number
from hemplit.core.texts.listed import (
    ANY_WITH,
    FOR_NOTHING_ELSE,
    NAMED,
    SEPARATORS,
    SIGNED,
    are_codes,
    are_dates,
    are_times,
    currency_of,
    parts_of,
    says_price,
    with_said,
)
from hemplit.core.texts.nouns import singular
from hemplit.core.texts.words import is_plural

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.shape.working import Working, WorkingColumn

#: What the column is called of the numbers that values have with them, and of what else is said.
QUANTITY, PRICED, CODED, DETAIL, VALUE = "Quantity", "Price", "Code", "Detail", "Value"
DATED, TIMED = "Date", "Time"
#: So many things can be said with a value.
MOST_SAID = 2
YEAR = re.compile(r"(?:19|20)\d{2}")
#: The values of a list come again in so many cells on average.
AGAIN = 1.6
#: What is counted so is a day of a month or measured, and no thing.
MEASURED = frozenset(MONTHS) | frozenset(
    "mm cm m km g kg t l ml h hr hrs min s sec day days night nights hour hours week weeks month months year years"
    "".split()
)
#: Of so many different texts the decision is made.
LOOKED_AT = 5_000


def separator_with(column: WorkingColumn) -> tuple[str, int]:
    """What separates values with each of which one thing is said or two, as in "cleat (2), rope (5)", and how many; ""
    and none if none is."""
    some = column.cells.texts.slice(0, LOOKED_AT)
    if not pc.any(pc.match_substring_regex(some, ANY_WITH)).as_py():
        return "", 0
    texts = [str(text) for text in some.to_pylist()]
    for by, pattern in SEPARATORS.items():
        parted = pc.sum(pc.match_substring_regex(some, pattern)).as_py() or 0
        cells = [parts_of(text, by) for text in texts]
        if parted < 1 or (parted == 1 and not _is_counted_again(cells)):
            continue
        for many in (MOST_SAID, 1):
            if not _is_said_with(column.name, cells, by, many):
                continue
            whole = (part for text in column.cells.texts.to_pylist() for part in parts_of(str(text), by))
            return (by, many) if all(with_said(part, many) for part in whole) else ("", 0)
    return "", 0


def _is_said_with(header: str, cells: Sequence[Sequence[str]], by: str, many: int) -> bool:
    """Whether so many things are said with each value of the cells, and that by no chance."""
    parts = [*chain.from_iterable(cells)]
    said = [with_said(part, many) for part in parts]
    if not all(said):
        return False
    values, told = {one[0].casefold() for one in said if one}, [one[-1] for one in said if one]
    if many > 1:
        return len(told) >= AGAIN * len(values) or all(map(says_price, told))
    when = are_dates(told) or (is_plural(header) and are_times(told))
    timed = by in FOR_NOTHING_ELSE and when
    # With each of several, whom the header speaks of, something stands in brackets.
    beside = is_plural(header) and len(told) > len(values) and all(map(SIGNED[-1].fullmatch, parts))
    return _come_again(parts) or _are_named(cells) or timed or beside


def _come_again(parts: Sequence[str]) -> bool:
    """Whether values come again, and what is said with them does or is a number; a sign shows that it counts things."""
    found = [one for one in map(with_said, parts) if one]
    values = {one[0].casefold() for one in found}
    said = {one[1].casefold() for one in found}
    if any(map(is_number, values)) or not values.isdisjoint(MEASURED):
        return False
    if not all(map(str.isdecimal, said)):
        return len(found) >= AGAIN * max(len(values), len(said))
    return all(any(form.fullmatch(part) for form in SIGNED) for part in parts) or len(found) >= AGAIN * len(values)


def _is_counted_again(cells: Sequence[Sequence[str]]) -> bool:
    """Whether the one cell of several counts what another does, too, and all do: "2x rope, 1x oar" and "1x rope"."""
    counted = [[with_said(part) for part in parts if SIGNED[0].fullmatch(part)] for parts in cells]
    if any(len(of) < len(parts) for of, parts in zip(counted, cells, strict=True)):
        return False
    values = [{one[0].casefold() for one in of if one} for of in counted]
    whole = next(values[at] for at, parts in enumerate(cells) if len(parts) > 1)
    return any(not whole.isdisjoint(one) for one in values if one is not whole)


def _are_named(cells: Sequence[Sequence[str]]) -> bool:
    """Whether each cell says several things by their names, as in "sail: 24 m2; hull: oak", and others do so, too."""
    named = [[NAMED.fullmatch(part) for part in parts] for parts in cells]
    names = [[one["value"].casefold() for one in some if one] for some in named]
    different = set(chain.from_iterable(names))
    each_once = all(len({*some}) == len(parts) for some, parts in zip(names, cells, strict=True))
    return each_once and len(different) > 1 and sum(map(len, names)) >= AGAIN * len(different)


def names_of_said(working: Working, column: WorkingColumn, by: str, many: int) -> tuple[tuple[str, ...], str]:
    """What the columns are called of what is said with each value, and the sign of the currency, if all have one."""
    parts = [part for text in column.cells.texts.to_pylist() for part in parts_of(str(text), by)]
    said = [*zip(*(one[1:] for part in parts if (one := with_said(part, many))), strict=True)]
    named = not _come_again(parts) and all(map(NAMED.fullmatch, parts))
    own = f"{_of_one(column.name)} {VALUE if named else DETAIL}"
    names = [_name_of(texts, column.name, own, first=not place) for place, texts in enumerate(said)]
    signs = {currency_of(text) for text in said[-1]} if names[-1] == PRICED else {""}
    free = (name if working.named(name) is None else f"{column.name} {name}" for name in names)
    return (*free,), signs.pop() if len(signs) == 1 else ""


def _name_of(texts: Sequence[str], header: str, otherwise: str, *, first: bool) -> str:
    """What a column is called that has those texts, the first of which are said with the values under a header."""
    if are_dates(texts):
        return f"{_of_one(header)} {DATED}"
    if are_codes(texts):
        return f"{_of_one(header)} {CODED}"
    if first and all(map(str.isdecimal, texts)) and not all(map(YEAR.fullmatch, texts)):
        return QUANTITY
    if all(map(says_price, texts)):
        return PRICED
    return f"{_of_one(header)} {TIMED}" if are_times(texts) else otherwise


def _of_one(header: str) -> str:
    """A header that speaks of one.

    >>> _of_one("Specs"), _of_one("Sail Data"), _of_one("DETAILS")
    ('Spec', 'Sail Data', 'DETAIL')
    """
    before, _, last = header.rpartition(" ")
    one = singular(last.lower())
    said = one.upper() if last.isupper() else one.capitalize() if last.istitle() else one
    return header if one == last.lower() else f"{before} {said}".strip()
