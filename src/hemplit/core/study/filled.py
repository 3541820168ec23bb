"""Which columns are filled only in some rows, and what goes with it; which hold codes of one list or form."""

from __future__ import annotations

from itertools import combinations
from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core import kinds
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
            with_it = np.bincount(by.codes[filled], minlength=len(by.values)) > 0
            without = np.bincount(by.codes[~filled], minlength=len(by.values)) > 0
            if not (with_it & without).any():
                values = [kinds.show(by.values[int(code)].as_py(), by.kind) for code in np.flatnonzero(with_it)]
                found.append(FilledWhere(column.name, by.name, tuple(values), int(filled.sum())))
                break
    return tuple(found)


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
