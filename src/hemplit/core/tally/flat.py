"""The same totals by another way: out of the flat sheets, which no table and no reference has touched.

Rows are found and joined by what their cells say alone.
"""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING, Any

import numpy as np
import pyarrow as pa

from hemplit.core import kinds
from hemplit.core.columns.codes import combine, first_rows, with_blank
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.tally import Groups, Summed
from hemplit.core.tally.sums import places_in, summed, wanted
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.relation import Column, Relation
    from hemplit.core.model.tally import Flat, Measure, Part

    #: The relations of each sheet: what was loaded first, and what was added.
    Relations = Mapping[str, Sequence[Relation]]


def can_be_followed(part: Part) -> bool:
    """Whether the flat sheets tell all that a part asks for."""
    return bool(part.sheet) and None not in part.flats


def groups_of(part: Part, sheets: Relations) -> Groups:
    """The groups of a part out of the flat sheets, each with what is known of its measures."""
    seen: set[tuple[str | None, ...]] = set()
    whole: Groups = {}
    for relation in sheets[part.sheet]:
        columns = _columns(part, relation, sheets)
        rows = wanted(part, columns, np.arange(relation.row_count))
        if part.each:
            rows = _once(relation, part, rows, seen)
        for key, sums in summed(part, columns, rows).items():
            whole[key] = tuple(map(Summed.__add__, whole[key], sums)) if key in whole else sums
    return whole


def places_of(part: Part, measure: Measure, sheets: Relations) -> int:
    """How many decimal places hold the values of a measure; those of its form, where no sheet has it."""
    kind = next((one.kind for one in part.view.columns if one.header == measure.header), None)
    if kind is None or kind.word != "decimal":
        return 0
    if measure.flat is None or measure.flat.sheet not in sheets:
        return max(len(kind.form) - 2, 0)
    columns = (relation.by_name[measure.flat.header] for relation in sheets[measure.flat.sheet])
    return max((places_in(column) for column in columns), default=0)


def _once(
    relation: Relation, part: Part, rows: npt.NDArray[np.int64], seen: set[tuple[str | None, ...]]
) -> npt.NDArray[np.int64]:
    """The first row of each thing that is named there, but for those that were seen before."""
    each = [relation.by_name[name] for name in part.each]
    filled = [column.codes[rows] != EMPTY for column in each]
    named = np.logical_and.reduce(filled)
    if not part.unnamed:
        return _first(each, rows[named], seen)
    others = [relation.by_name[name] for name in part.unnamed]
    some = np.logical_or.reduce([*filled, *(column.codes[rows] != EMPTY for column in others)])
    unnamed = _first([*each, *others], rows[~named & some], seen)
    return np.sort(np.concatenate([_first(each, rows[named], seen), unnamed]))


def _first(
    columns: Sequence[Column], rows: npt.NDArray[np.int64], seen: set[tuple[str | None, ...]]
) -> npt.NDArray[np.int64]:
    """The first of some rows for each combination of cells, but for combinations that were seen before."""
    if not len(rows):
        return rows
    whole = reduce(combine, (with_blank(column.codes[rows], len(column.values)) for column in columns))
    first = np.sort(first_rows(whole))
    once = rows[first[first >= 0]]
    keys = [tuple(kinds.shown_at(column, int(row)) for column in columns) for row in once]
    kept = [row for row, key in zip(once.tolist(), keys, strict=True) if key not in seen]
    seen.update(keys)
    return np.array(kept, dtype=np.int64)


def _columns(part: Part, relation: Relation, sheets: Relations) -> dict[str, Column]:
    """All columns that a part asks for, under the headers of its view."""
    asked = [(one.header, one.flat) for one in part.by] + [(one.header, one.flat) for one in part.where]
    asked += [(one.header, one.flat) for one in part.measures if one.header is not None]
    return {header: _column(relation, flat, sheets) for header, flat in asked if flat is not None}


def _column(relation: Relation, flat: Flat, sheets: Relations) -> Column:
    """The cells of a column for the rows of a relation, from another sheet if it stands there."""
    if not flat.links:
        return relation.by_name[flat.header]
    here, sheet, there = flat.links[0]
    found: dict[tuple[str, ...], Any] = {}
    like = sheets[sheet][0].by_name[flat.header]
    for other in sheets[sheet]:
        column, named = other.by_name[flat.header], [other.by_name[name] for name in there]
        for row in range(other.row_count):
            key = tuple(kinds.shown_at(one, row) for one in named)
            code = int(column.codes[row])
            if found.get(key) is None:
                found[key] = None if code == EMPTY else column.values[code].as_py()
    distinct = {value: place for place, value in enumerate(dict.fromkeys(found.values()))}
    naming = [relation.by_name[name] for name in here]
    whole = reduce(combine, (with_blank(one.codes, len(one.values)) for one in naming))
    first = first_rows(whole)
    told = np.full(whole.size, EMPTY, np.int32)
    for group in np.flatnonzero(first >= 0).tolist():
        value = found.get(tuple(kinds.shown_at(one, int(first[group])) for one in naming))
        told[group] = EMPTY if value is None else distinct[value]
    return replace(like, codes=told[whole.codes], values=pa.array([*distinct], like.values.type))
