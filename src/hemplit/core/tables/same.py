"""Sheets that tell of the same things: their columns as those of one sheet, with a row for each thing.

    register: Tree No, Species, Planted        →   Tree No, Species, Planted, Girth
    survey:   Tree, Kind, Girth                    T10      Lime     1931     208

Where they differ, the sheet that is named first is right, and the other keeps what it says beside.
"""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core import kinds
from hemplit.core.columns.codes import combine, distinct, first_rows, stack, with_blank
from hemplit.core.model.grid import EMPTY, Source
from hemplit.core.model.relation import Column, Doubt, Relation
from hemplit.dataclasses import replace
from hemplit.errors import DesignError

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.design import Design, SheetPlan
    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Kind

#: So many contradictions of a column are told one by one.
MOST = 20


def with_united(design: Design, relations: Mapping[str, Relation]) -> dict[str, Relation]:
    """The relations and those that the design makes of several of them, by the names of their sheets."""
    made = {plan.name: united(plan, relations) for plan in design.sheets if plan.unites}
    return {**relations, **made}


def headers_in(plan: SheetPlan, names: Mapping[str, Sequence[str]]) -> dict[tuple[str, str], str]:
    """For each sheet and header the one under which the united sheet has it; ``names`` are the headers of each sheet.

    A header that another sheet has, too, for something else is told apart by the name of its sheet.

    >>> from hemplit.core.model.design import SheetPlan
    >>> plan = SheetPlan("both", "", unites=("old", "new"), same=(("Tree No", "Tree"),))
    >>> list(headers_in(plan, {"old": ["Tree No", "Note"], "new": ["Tree", "Note"]}).values())
    ['Tree No', 'Note', 'Tree No', 'Note (new)']
    """
    said = {(sheet, header): group for group in plan.same for sheet, header in zip(plan.unites, group, strict=True)}
    given: dict[tuple[str, str], str] = {}
    first: dict[str, object] = {}
    for sheet in plan.unites:
        for header in names[sheet]:
            group = said.get((sheet, header))
            name = next(one for one in group if one) if group else header
            owner = first.setdefault(name, group or (sheet, header))
            given[sheet, header] = name if owner == (group or (sheet, header)) else f"{name} ({sheet})"
    return given


def kinds_united(design: Design, sheet: str) -> Iterator[tuple[str, Kind]]:
    """The kinds that are decided for the headers of a sheet in what it tells of with others.

    Of the other sheets the form is left open, as each writes its dates and numbers in its own.
    """
    plan = design.united(sheet)
    if plan is None:
        return
    decided = {header: column.kind for _, column, header in design.headers_of(plan.name) if column.kind is not None}
    place = plan.unites.index(sheet)
    renamed = {group[place]: next(filter(None, group)) for group in plan.same if group[place]}
    taken = {header for group in plan.same for header in group if header}
    for header, kind in decided.items():
        if header not in taken:
            yield header, kind
    for header, name in renamed.items():
        if name in decided and (place == 0 or not decided[name].form):
            yield header, decided[name]


def united(plan: SheetPlan, relations: Mapping[str, Relation]) -> Relation:
    """The relation with a row for each thing that one of the sheets names. Raises ``DesignError`` if they cannot be."""
    parts = [relations[sheet] for sheet in plan.unites]
    given = headers_in(plan, {sheet: relations[sheet].names for sheet in plan.unites})
    rows_of, count = _things(plan, parts)
    firsts = [np.full(count, EMPTY, dtype=np.int64) for _ in parts]
    for first, rows in zip(firsts, rows_of, strict=True):
        named = np.flatnonzero(rows != EMPTY)[::-1]
        first[rows[named]] = named  # the first of several rows is written last
    columns = []
    for position, name in enumerate(dict.fromkeys(given.values())):
        held = [
            (part.by_name[header], first)
            for sheet, part, first in zip(plan.unites, parts, firsts, strict=True)
            for header in part.names
            if given[sheet, header] == name
        ]
        columns.append(_column(plan, name, position, held))
    source, grid_rows = _source(parts, firsts)
    return Relation(source, tuple(columns), grid_rows)


def united_for(plan: SheetPlan, sheet: str, relations: Mapping[str, Relation]) -> Relation:
    """The united relation, only with the things that one of the sheets names; its rows are the first of these there."""
    whole, rows = united(plan, relations), rows_of_things(plan, relations)[sheet]
    first = np.full(whole.row_count, EMPTY, dtype=np.int64)
    named = np.flatnonzero(rows != EMPTY)[::-1]
    first[rows[named]] = named
    kept = np.flatnonzero(first != EMPTY)
    columns = tuple(replace(one, codes=one.codes[kept]) for one in whole.columns)
    source = relations[sheet].source
    return replace(whole, source=source, columns=columns, grid_rows=relations[sheet].grid_rows[first[kept]])


def rows_of_things(plan: SheetPlan, relations: Mapping[str, Relation]) -> dict[str, npt.NDArray[np.int64]]:
    """For each row of the sheets the row of the united one that tells of the same thing."""
    rows, _ = _things(plan, [relations[sheet] for sheet in plan.unites])
    return dict(zip(plan.unites, rows, strict=True))


def differing(own: Column, whole: Column, rows: npt.NDArray[np.int64]) -> npt.NDArray[np.bool_]:
    """In which rows a column says something else than the united one does in the ``rows`` for the same things."""
    place = pc.fill_null(pc.index_in(own.values, whole.values), EMPTY - 1).to_numpy(zero_copy_only=False)
    said: Codes = np.append(place.astype(np.int64), EMPTY)[own.codes]
    differs: npt.NDArray[np.bool_] = said != np.append(whole.codes.astype(np.int64), EMPTY)[rows]
    return differs


def check_told_alike(design: Design, relations: Mapping[str, Relation]) -> None:
    """Raises ``DesignError`` where a sheet says something else of a thing than an earlier one, and no column keeps it.

    ``relations`` are those with the united ones.
    """
    for plan in design.sheets:
        if not plan.unites:
            continue
        given = headers_in(plan, {sheet: relations[sheet].names for sheet in plan.unites})
        rows_of = rows_of_things(plan, relations)
        for (sheet, header), name in given.items():
            kept = {one for _, _, one in design.headers_of(sheet)}
            if header in kept:
                continue
            own, whole, rows = relations[sheet].by_name[header], relations[plan.name].by_name[name], rows_of[sheet]
            differs = np.flatnonzero(differing(own, whole, rows) & (rows != EMPTY))
            if len(differs):
                row = int(differs[0])
                blank = bool((own.codes[differs] == EMPTY).any())
                base = design.base_of(sheet)
                through = next((one.name for one in base.columns if one.source in keys_of(plan, sheet)), base.key[0])
                line = f'{{ from = "{header}" }}' if blank else f'{{ from = "{header}", unlike = "{through}" }}'
                what = f"{relations[sheet].address(row, own)} of {relations[sheet].source.title} says {said(own, row)}"
                what += f", and another sheet {said(whole, int(rows[row]))} of the same thing"
                raise DesignError(
                    f"tables.{base.name}", what, f"correct the sheet, or add a column that keeps it: {line}"
                )


def contradictions(design: Design, relations: Mapping[str, Relation]) -> Iterator[tuple[str, Doubt]]:
    """The cells that say something else of a thing than an earlier sheet does, by the title of their sheet.

    ``relations`` are those with the united ones. Where one of the two says nothing it is no contradiction.
    """
    for plan in design.sheets:
        if not plan.unites:
            continue
        given = headers_in(plan, {sheet: relations[sheet].names for sheet in plan.unites})
        rows_of = rows_of_things(plan, relations)
        shared = {(sheet, header) for group in plan.same for sheet, header in zip(plan.unites, group, strict=True)}
        for (sheet, header), name in given.items():
            if (sheet, header) not in shared:
                continue
            relation, whole = relations[sheet], relations[plan.name].by_name[name]
            own = relation.by_name[header]
            differs = np.flatnonzero(
                differing(own, whole, rows_of[sheet]) & (own.codes != EMPTY) & (rows_of[sheet] != EMPTY)
            )
            for row in differs[:MOST].tolist():
                thing = int(rows_of[sheet][row])
                keys = ", ".join(kinds.shown_at(relation.by_name[key], row) for key in keys_of(plan, sheet))
                other, at = _said_first(plan, relations, rows_of, given, name, thing)
                what = f"'{header}' of {keys} is {said(own, row)}, and {said(whole, thing)} in {at}"
                yield (
                    relation.source.title,
                    Doubt(what, (relation.address(row, own),), f"correct it here or in {other}"),
                )
            if len(differs) > MOST:
                more = len(differs) - MOST
                yield (
                    relation.source.title,
                    Doubt(f"'{header}' differs from other sheets in {more:,} more cells", (), "", more),
                )


def _said_first(
    plan: SheetPlan,
    relations: Mapping[str, Relation],
    rows_of: Mapping[str, npt.NDArray[np.int64]],
    given: Mapping[tuple[str, str], str],
    name: str,
    thing: int,
) -> tuple[str, str]:
    """The sheet from which the united one has what it says of a thing, and the cell there."""
    for sheet in plan.unites:
        relation = relations[sheet]
        column = next((relation.by_name[one] for one in relation.names if given[sheet, one] == name), None)
        rows = np.flatnonzero(rows_of[sheet] == thing)
        if column is not None and len(rows) and column.codes[rows[0]] != EMPTY:
            return relation.source.title, f"{relation.source.title} {relation.address(int(rows[0]), column)}"
    raise AssertionError("what is said stands in one of the sheets")


def said(column: Column, row: int) -> str:
    """A cell as a message shows it."""
    return f"'{kinds.shown_at(column, row)}'" if column.codes[row] != EMPTY else "blank"


def keys_of(plan: SheetPlan, sheet: str) -> tuple[str, ...]:
    """The headers by which a sheet names the things."""
    place = plan.unites.index(sheet)
    return tuple(group[place] for group in plan.same[: plan.by])


def _things(plan: SheetPlan, parts: Sequence[Relation]) -> tuple[list[npt.NDArray[np.int64]], int]:
    """For each row of each sheet the number of its thing, ``EMPTY`` where it names none; and how many there are."""
    wholes = []
    for group in plan.same[: plan.by]:
        columns = []
        for sheet, part, header in zip(plan.unites, parts, group, strict=True):
            if header not in part.by_name:
                what = f"{part.source.title} has no column '{header}'"
                raise DesignError(f"sheets.{plan.name}", what, f"correct the first lines of 'same' ({sheet})")
            columns.append(part.by_name[header])
        _check_kinds(plan, group[0], columns)
        wholes.append(stack([(column.codes, column.values) for column in columns]))
    filled = np.logical_and.reduce([codes != EMPTY for codes, _ in wholes])
    whole = reduce(combine, (with_blank(codes, len(values)) for codes, values in wholes))
    first = first_rows(whole)
    named = np.flatnonzero(first != EMPTY)
    named = named[filled[first[named]]]
    number = np.full(whole.size, EMPTY, dtype=np.int64)
    number[named[np.argsort(first[named])]] = np.arange(len(named))
    ends = np.cumsum([part.row_count for part in parts])[:-1]
    return np.split(number[whole.codes], ends), len(named)


def _column(plan: SheetPlan, name: str, position: int, held: Sequence[tuple[Column, npt.NDArray[np.int64]]]) -> Column:
    """What the first of the sheets says that says anything."""
    _check_kinds(plan, name, [column for column, _ in held])
    parts = [(np.append(column.codes, np.int32(EMPTY))[first], column.values) for column, first in held]
    codes, values = stack(parts)
    each = np.split(codes, len(parts))
    told = reduce(lambda one, other: np.where(one == EMPTY, other, one), each)
    used = distinct(told[told != EMPTY])
    number = np.full(len(values) + 1, EMPTY, dtype=np.int32)
    number[used] = np.arange(len(used), dtype=np.int32)
    return Column(name, position, held[0][0].kind, number[told], values.take(used), own=False)


def _check_kinds(plan: SheetPlan, name: str, columns: Sequence[Column]) -> None:
    words = {column.kind.word for column in columns}
    if len(words) > 1:
        what = f"'{name}' is {' in one sheet and '.join(sorted(words))} in another"
        raise DesignError(f"sheets.{plan.name}.same", what, "take it out of 'same', or correct the cells")


def _source(parts: Sequence[Relation], firsts: Sequence[npt.NDArray[np.int64]]) -> tuple[Source, npt.NDArray[np.int64]]:
    """A source in which the rows of the sheets stand one below the other, and the row of each thing there."""
    starts: list[tuple[str, int]] = []
    rows = np.full(len(firsts[0]), EMPTY, dtype=np.int64)
    start = 0
    for part, first in zip(parts, firsts, strict=True):
        starts += [(path, start + at) for path, at in part.source.parts] or [(part.source.title, start)]
        new = (rows == EMPTY) & (first != EMPTY)
        rows[new] = start + part.grid_rows[first[new]]
        start += int(part.grid_rows.max(initial=0)) + 1
    return Source(" and ".join(part.source.title for part in parts), parts=tuple(starts)), rows
