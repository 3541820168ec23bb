"""All rows that contradict a design at once, so that a person need not load again for each."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.tables.split import split
from hemplit.errors import DataError, DesignError

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.model.design import Design
    from hemplit.core.model.tables import Tables
    from hemplit.flow.reading import Sheets

#: Of more problems a person mends the first; where so many speak of one column, it is the design that is wrong. In
#: larger sheets each takes a second to find.
MOST_PROBLEMS, MOST_OF_ONE, MOST_ROWS = 20, 5, 100_000


def split_as_told(design: Design, sheets: Sheets) -> Tables:
    """The tables. Raises ``DataError`` for the first row that contradicts the design, with the others that do."""
    try:
        return split(design, sheets.relations)
    except DataError as error:
        found = [error, *_further_problems(design, sheets, error)]
        often = Counter(one.where for one in found)
        error.further = tuple(one for one in found[1:] if often[one.where] < MOST_OF_ONE)
        raise


def _further_problems(design: Design, sheets: Sheets, error: DataError) -> Iterator[DataError]:
    """What else contradicts the design once the row that does is left out, for as many rows as a person mends."""
    relations, places = dict(sheets.relations), Counter([error.where])
    for _ in range(MOST_PROBLEMS):
        family = _family_of(sheets, error)
        large = max(relations[name].row_count for name in family) > MOST_ROWS
        if not error.rows or large or places[error.where] >= MOST_OF_ONE:
            return
        relations |= {name: relations[name].without(np.array(error.rows)) for name in family}
        try:
            split(design, relations)
        except DataError as another:
            if (another.rows, another.what) == (error.rows, error.what):
                return
            error = another
            places[error.where] += 1
            yield error
        except DesignError:
            return
        else:
            return


def _family_of(sheets: Sheets, error: DataError) -> list[str]:
    """The sheet whose row an error names, and what was taken out of it."""
    top = sheets.parents.get(error.sheet, error.sheet)
    return [name for name in sheets.relations if name == top or sheets.parents.get(name) == top]
