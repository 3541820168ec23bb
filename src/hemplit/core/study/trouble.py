"""What a person should look at before trusting a sheet, with the cells: worst first."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.columns.codes import doubled, with_blank
from hemplit.core.model.findings import Trouble
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import TEXT

if TYPE_CHECKING:
    from collections.abc import Iterator

    import numpy.typing as npt

    from hemplit.core.model.relation import Column, Relation

#: So many addresses are named; the count tells how many there are.
PLACES = 4


def trouble(relation: Relation) -> tuple[Trouble, ...]:
    """All that was noticed in a relation."""
    found: list[Trouble] = []
    for column in relation.columns:
        if column.kind == TEXT:
            found += _odd_ones(relation, column)
        if not column.filled:
            found.append(
                Trouble(f"'{column.name}' has a header and no content", 1, (), "leave it out if nobody needs it")
            )
    doubts = tuple(Trouble(one.what, one.count, one.places, one.hint) for one in relation.doubts)
    return doubts + tuple(_doubled_rows(relation)) + tuple(sorted(found, key=lambda one: -one.count))


def _doubled_rows(relation: Relation) -> Iterator[Trouble]:
    columns = [with_blank(column.codes, len(column.values)) for column in relation.columns]
    again = np.flatnonzero(doubled(columns, relation.row_count))
    if len(again):
        rows = tuple(relation.row(int(row)) for row in again[:PLACES])
        yield Trouble(
            "rows that repeat an earlier row in every cell", len(again), rows, "all are kept: two events can be alike"
        )


def _odd_ones(relation: Relation, column: Column) -> Iterator[Trouble]:
    """The few texts that keep a column from being numbers; of dates the step that reads them tells."""
    first = column.values.slice(0, kinds.PROBE)
    if len(column.values) < 2 or 2 * (pc.sum(pc.match_substring_regex(first, "^-?[0-9]")).as_py() or 0) < len(first):
        return
    for word in ("whole number", "decimal"):
        reader = kinds.BY_WORD[word]
        for form in getattr(reader, "forms", ("",)):
            probe = reader.parse(first, form)
            if 2 * probe.null_count > len(probe):
                continue
            odd = pc.is_null(reader.parse(column.values, form)).to_numpy(zero_copy_only=False)
            if odd.any() and kinds.are_few(int(odd.sum()), len(odd)):
                yield _at(relation, column, odd, f"'{column.name}' is a {word} except in some cells, so it stays text")
                return


def _at(relation: Relation, column: Column, odd: npt.NDArray[np.bool_], what: str) -> Trouble:
    rows = np.flatnonzero(np.append(odd, False)[column.codes] & (column.codes != EMPTY))
    places = tuple(
        f"{relation.address(int(row), column)} '{column.values[int(column.codes[row])].as_py()}'"
        for row in rows[:PLACES]
    )
    return Trouble(what, len(rows), places, "correct them in the sheet if they are typos")
