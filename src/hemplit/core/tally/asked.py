"""The words of a question, taken apart: what becomes of which column, which part of which date, what a row must be."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from hemplit.core.model.tally import Aggregate, DatePart, Sign

if TYPE_CHECKING:
    from collections.abc import Collection, Iterable

SIGNS = re.compile(r"\s*(!=|<=|>=|=|<|>)\s*|\s+(is blank|is filled)$", re.IGNORECASE)


def names_in(texts: Iterable[str], known: Collection[str]) -> tuple[str, ...]:
    """The columns that are named, those of one text between commas, unless a column is called so.

    >>> names_in(["Hours, Cost", "Owner, Town"], {"owner, town"})
    ('Hours', 'Cost', 'Owner, Town')
    """
    found: list[str] = []
    for text in texts:
        if without_word(text).casefold() in known:
            found.append(text.strip())
        else:
            found += [part.strip() for part in text.split(",") if part.strip()]
    return tuple(found)


def aggregate_in(text: str) -> tuple[Aggregate | None, str]:
    """What becomes of a column, None if it is not said, and the column.

    >>> aggregate_in("average of Hours"), aggregate_in("Hours")
    ((<Aggregate.AVERAGE: 'average'>, 'Hours'), (None, 'Hours'))
    """
    word, _, rest = text.partition(" of ")
    found = next((one for one in Aggregate if one == word.strip().lower()), None)
    return (found, rest.strip()) if found is not None else (None, text.strip())


def part_in(text: str) -> tuple[DatePart | None, str]:
    """The part of a date, None if it is not said, and the column.

    >>> part_in("month of Opened")
    (<DatePart.MONTH: 'month'>, 'Opened')
    """
    word, _, rest = text.partition(" of ")
    found = next((one for one in DatePart if one == word.strip().lower()), None)
    return (found, rest.strip()) if found is not None else (None, text.strip())


def without_word(text: str) -> str:
    """The column of a text, without what is said of it before."""
    return aggregate_in(part_in(text)[1])[1]


def condition_in(text: str) -> tuple[str, Sign, str] | None:
    """The column, the sign and the value of a condition; None if it is none.

    >>> condition_in("Status != open"), condition_in("Boat is blank")
    (('Status', <Sign.IS_NOT: '!='>, 'open'), ('Boat', <Sign.BLANK: 'is blank'>, ''))
    """
    found = SIGNS.search(text)
    if found is None or not text[: found.start()].strip():
        return None
    sign = Sign((found[1] or found[2]).lower())
    return text[: found.start()].strip(), sign, text[found.end() :].strip()
