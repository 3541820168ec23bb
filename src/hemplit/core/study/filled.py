"""Which columns are filled only in some rows, and what goes with it; which hold codes of one list or form."""

from __future__ import annotations

from itertools import combinations
from typing import TYPE_CHECKING

import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.columns.codes import Grouping, only_there
from hemplit.core.design.rules import form_of, of_form
from hemplit.core.model.findings import FilledWhere
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import TEXT

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.model.relation import Column

#: A condition is a value of a list that a person can overlook.
MOST_VALUES = 12
#: With fewer rows on either side it may be an accident.
FEWEST = 5
#: A sort comes in so many rows on average.
SORT_ROWS = 2
#: A code of a closed list is so short and stands in so many rows on average.
LONGEST_CODE, TIMES = 8, 10
#: Codes are short.
LONGEST_FORM = 20


def filled_where(columns: Sequence[Column]) -> tuple[FilledWhere, ...]:
    """The columns that are filled exactly where another has certain values."""
    found = []
    for column in (one for one in columns if _some(one)):
        filled = column.codes != EMPTY
        for by in columns:
            if by is column or by.blanks or not 2 <= len(by.values) <= MOST_VALUES:
                continue
            said = only_there(Grouping(by.codes, len(by.values)), filled)
            if len(said):
                values = [kinds.show(by.values[int(code)].as_py(), by.kind) for code in said]
                found.append(FilledWhere(column.name, by.name, tuple(values), int(filled.sum())))
                break
    return tuple(found)


def of_sorts(columns: Sequence[Column]) -> frozenset[tuple[str, str]]:
    """The columns that are filled exactly where another says one thing, each with that, if further ones are filled
    where it says something else: the card number for a card, the cheque number for a cheque."""
    found: set[tuple[str, str]] = set()
    some = {column.name: column.codes != EMPTY for column in columns if column.filled and column.blanks}
    for by in columns if len(some) > 1 else ():
        if not by.blanks and 2 <= len(by.values) <= min(MOST_VALUES, len(by.codes) // SORT_ROWS):
            said = {name: only_there(Grouping(by.codes, len(by.values)), filled) for name, filled in some.items()}
            one_each = {name: int(values[0]) for name, values in said.items() if len(values) == 1}
            if len({*one_each.values()}) > 1:
                found |= {(name, by.name) for name in one_each}
    return frozenset(found)


def one_filled(columns: Sequence[Column]) -> tuple[tuple[str, str], ...]:
    """The pairs of columns of which always one is filled and never both."""
    some = [column for column in columns if _some(column)]
    return tuple(
        (one.name, other.name)
        for one, other in combinations(some, 2)
        if one.filled + other.filled == len(one.codes) and bool(((one.codes != EMPTY) ^ (other.codes != EMPTY)).all())
    )


def closed_lists(columns: Sequence[Column]) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """The columns that hold nothing but a few short codes, each many times."""
    return tuple(
        (column.name, tuple(map(str, column.values.to_pylist())))
        for column in columns
        if column.kind == TEXT
        and 2 <= len(column.values) <= MOST_VALUES
        and column.filled >= TIMES * len(column.values)
        and all(len(text) <= LONGEST_CODE and " " not in text for text in map(str, column.values.to_pylist()))
    )


def code_forms(columns: Sequence[Column]) -> tuple[tuple[str, str], ...]:
    """The columns whose texts are all of one form and differ in digits."""
    found = []
    for column in columns:
        if column.kind != TEXT or len(column.values) < TIMES:
            continue
        form = form_of(str(column.values[0]))
        several = (column.values.slice(0, TIMES), column.values)  # the first few settle most cases
        alike = "9" in form and all(pc.all(of_form(texts, form)).as_py() for texts in several)
        if alike and " " not in form and len(form) <= LONGEST_FORM:
            found.append((column.name, form))
    return tuple(found)


def _some(column: Column) -> bool:
    return min(column.filled, column.blanks) >= FEWEST
