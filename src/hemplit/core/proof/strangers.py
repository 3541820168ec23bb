"""The cells that name a row of another table in vain: which they are, where they stand, and what comes near them."""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from rapidfuzz.distance import OSA

from hemplit.core import kinds
from hemplit.core.columns.codes import combine, first_rows, with_blank
from hemplit.core.columns.partners import plainly, with_full_names
from hemplit.core.design import resolve
from hemplit.core.model.design import Grain
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import Doubt
from hemplit.core.study.links import KNOWN, UNIQUE
from hemplit.core.texts.words import shown_together

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from hemplit.core.model.design import ColumnPlan, Design, TablePlan
    from hemplit.core.model.relation import Column, Relation
    from hemplit.core.model.tables import Table, Tables

#: So many of them are told by name, with so many places each.
MOST, PLACES = 20, 5
#: Of more names the nearest is not looked for.
MOST_NAMES = 20_000
#: Where more of the names of a column have initials than this, somebody wrote them all so.
FEW_SHORT = 0.5
#: A listed name is near if it is so many letters off, of so many that it has.
NEAR = 1 / 5


def strangers(design: Design, tables: Tables, relations: Mapping[str, Relation]) -> tuple[tuple[str, Doubt], ...]:
    """For each different name that finds no row, by the title of its sheet, a doubt with where it stands.

    Of sheets whose relations are not given nothing is said.
    """
    found: list[tuple[str, Doubt]] = []
    for plan in design.tables:
        found += _said_by_one(design, plan, relations)
        for sheet, column in ((one, column) for one in plan.sheets if one in relations for column in plan.columns):
            relation = relations[sheet]
            pointed = resolve.target(design, plan, column)
            said = plan.headers_in(sheet, column)
            if pointed is None or not said or (len(pointed.table.key) > 1 and not _is_first(plan, column)):
                continue
            listed = relations.get(pointed.table.sheet)
            if listed is not None and resolve.is_across(plan, column, pointed, sheet):
                found += [(listed.source.title, one) for one in _doubled(design, plan, column, listed, tables)]
            if pointed.table is plan or resolve.is_across(plan, column, pointed, sheet):
                headers = resolve.naming(design, plan, column, sheet)[0] if pointed.table is not plan else said
                lost, more = _lost(tables.by_name[plan.name], plan, column, relation, headers)
                short = (
                    column.alike and len(headers) == 1 and tables.by_name[pointed.table.name].row_count <= MOST_NAMES
                )
                names = _names(design, plan, column, tables) if lost or short else []
                if short:
                    taken = _taken_for(relation.by_name[headers[0]], relation, pointed.table.name, names)
                    found += [(relation.source.title, one) for one in taken]
                if lost:
                    told = _told(lost, headers, pointed.table.name, names)
                    found += [(relation.source.title, one) for one in told]
                if more:
                    shown = shown_together(headers)
                    what = f"{shown} says {more:,} more things which {pointed.table.name} does not list"
                    found.append((relation.source.title, Doubt(what)))
    return tuple(dict.fromkeys(found))


def _said_by_one(design: Design, plan: TablePlan, relations: Mapping[str, Relation]) -> Iterator[tuple[str, Doubt]]:
    """The things that one sheet only names and of which the others say nothing, though they say more of such things.

    Anywhere a name is told that is a few letters off another sheet's, and any that is not on the list which a sheet is.
    """
    names = resolve.identity(plan)
    if len(plan.sheets) < 2 or len(names) > 1 or not relations.keys() >= {*plan.sheets}:
        return
    headers = {sheet: plan.headers_in(sheet, plan.by_name[names[0]]) for sheet in plan.sheets}
    said = {sheet: _texts(relations[sheet], headers[sheet]) for sheet in plan.sheets}
    lists = [sheet for sheet in plan.sheets if is_list(design, plan, sheet)]
    for sheet, own in said.items():
        others = {text for other in lists or said if other != sheet for text in said[other]}
        if sheet in lists:
            continue  # what else is on it is no fault
        lost = [text for text in own if text not in others]
        told = [{other for other in plan.sheets if plan.headers_in(other, one)} for one in plan.columns]
        only_named = {sheet} not in told and any(some and sheet not in some for some in told)
        is_told = bool(lists) or (only_named and len(lost) <= (1 - KNOWN) * len(own))
        silent = [relations[other].source.title for other in lists or plan.sheets if other != sheet]
        verb = "s" if len(silent) == 1 else ""
        nothing = f"of which {' and '.join(silent)} say{verb} nothing"
        if lists:
            nothing = f"which {' and '.join(silent)} do{'es' if verb else ''} not list"
        known = [(text,) for text in others]
        for text in lost[:MOST]:
            near = _nearest(text, known)
            if not is_told and (not near or any(map(str.isdigit, text))):
                continue
            column = relations[sheet].by_name[own[text]]
            rows = np.flatnonzero(column.codes == _code_of(column, text))
            places = tuple(relations[sheet].address(row, column) for row in rows[:PLACES].tolist())
            what = f"'{own[text]}' says '{text}', {nothing}"
            hint = (
                f"the nearest there is '{near}'"
                if near
                else f"it is one of the {plan.name}, and what else is said of them is blank"
            )
            yield relations[sheet].source.title, Doubt(what, places, hint, len(rows))
        if is_told and len(lost) > MOST:
            yield relations[sheet].source.title, Doubt(f"it names {len(lost) - MOST:,} more {plan.name}, {nothing}")


def is_list(design: Design, plan: TablePlan, sheet: str) -> bool:
    """Whether the rows of a sheet are no more than things of a table, each once."""
    base = next((one for one in design.tables_of(sheet) if one.grain is Grain.ROW), None)
    return base is not None and all((one.target or ("",))[0] == plan.name for one in base.stored)


def _texts(relation: Relation, headers: Sequence[str]) -> dict[str, str]:
    """What stands under headers, each with the first of them."""
    found: dict[str, str] = {}
    for header in headers:
        column = relation.by_name[header]
        for value in column.values.to_pylist():
            found.setdefault(kinds.show(value, column.kind), header)
    return found


def _code_of(column: Column, text: str) -> int:
    """The code of the value that is shown so."""
    return next(code for code, value in enumerate(column.values.to_pylist()) if kinds.show(value, column.kind) == text)


def _doubled(design: Design, plan: TablePlan, column: ColumnPlan, listed: Relation, tables: Tables) -> Iterator[Doubt]:
    """The names that a list of each thing once has in several rows after all.

    A sheet whose rows have a key of their own lists something else, and may well speak of a thing twice.
    """
    pointed = resolve.target(design, plan, column)
    assert pointed is not None
    names = resolve.naming(design, plan, column)[1]
    header = resolve.source(design, pointed.table, pointed.table.by_name[names[0]])
    base = design.base_of(pointed.table.sheet)
    own = {resolve.source(design, base, base.by_name[name]) for name in base.key}
    if header is None or header not in listed.by_name or not own & {header, None}:
        return
    cells = listed.by_name[header]
    counts = np.bincount(cells.codes[cells.codes != EMPTY], minlength=len(cells.values))
    if len(names) > 1 or len(counts) < UNIQUE * counts.sum():
        return
    for code in np.flatnonzero(counts > 1)[:MOST].tolist():
        rows = np.flatnonzero(cells.codes == code)
        said = "; ".join(_row_said(listed, int(row), header) for row in rows[:PLACES])
        what = f"{header} '{kinds.shown_at(cells, int(rows[0]))}' stands in {len(rows)} rows: {said}"
        places = tuple(listed.address(int(row), cells) for row in rows[:PLACES])
        yield Doubt(what, places, "delete the one that is wrong", len(rows))


def _row_said(relation: Relation, row: int, but: str) -> str:
    return ", ".join(kinds.shown_at(one, row) for one in relation.columns if one.name != but)


def _is_first(plan: TablePlan, column: ColumnPlan) -> bool:
    """Whether a column is the first of those that refer to a key of several."""
    assert column.target is not None
    return next(one for one in plan.columns if one.target and one.target[0] == column.target[0]) is column


def _lost(
    table: Table, plan: TablePlan, column: ColumnPlan, relation: Relation, headers: Sequence[str]
) -> tuple[list[tuple[tuple[str, ...], list[str], int]], int]:
    """The different names that find no row, each with some of the places where it stands and how often it does; and how
    many more there are."""
    cells = [relation.by_name[header] for header in headers]
    named = np.logical_or.reduce([one.codes != EMPTY for one in cells])
    if plan.grain is Grain.ROW:
        rows = np.flatnonzero(named & (table.by_name[column.name].codes == EMPTY))
    else:
        rows = _rows_of_thing(table, plan, column, cells, named)
    if not len(rows):
        return [], 0
    whole = reduce(combine, (with_blank(one.codes[rows], len(one.values)) for one in cells))
    groups, first, counts = np.unique(whole.codes, return_index=True, return_counts=True)
    told = []
    for place in np.argsort(first)[:MOST].tolist():
        here = rows[np.flatnonzero(whole.codes == groups[place])[:PLACES]].tolist()
        name = tuple(kinds.shown_at(one, here[0]) for one in cells)
        told.append((name, [relation.address(row, cells[0]) for row in here], int(counts[place])))
    return told, max(len(groups) - MOST, 0)


def _rows_of_thing(
    table: Table, plan: TablePlan, column: ColumnPlan, cells: Sequence[Column], named: np.ndarray
) -> np.ndarray:
    """The rows of the sheet that say of a thing what finds no row."""
    held = [(_kept(plan, column, one.name if len(cells) > 1 else column.source), one) for one in cells]
    kept = [(table.by_name[name], one) for name, one in held if name]
    lost_rows = np.flatnonzero(table.by_name[column.name].codes == EMPTY)
    if not kept or not len(lost_rows):
        return np.zeros(0, dtype=np.int64)
    lost = {tuple(kinds.shown_at(own, row) for own, _ in kept) for row in lost_rows.tolist()} - {("",) * len(kept)}
    whole = reduce(combine, (with_blank(one.codes, len(one.values)) for _, one in kept))
    first = first_rows(whole)
    is_lost = [row >= 0 and tuple(kinds.shown_at(one, row) for _, one in kept) in lost for row in first.tolist()]
    return np.flatnonzero(named & np.array(is_lost, dtype=bool)[whole.codes])


def _kept(plan: TablePlan, column: ColumnPlan, header: str | None) -> str:
    """The column beside a reference that keeps what stands under a header; blank if none does."""
    kept = (one for one in plan.columns if one.to is None and one.store and one.source == header)
    unmatched = (one for one in plan.columns if one.unmatched == column.name and header in (column.source, one.source))
    return next((one.name for one in (*unmatched, *kept)), "")


def _names(design: Design, plan: TablePlan, column: ColumnPlan, tables: Tables) -> list[tuple[str, ...]]:
    """What the rows of the other table are known by."""
    pointed = resolve.target(design, plan, column)
    assert pointed is not None
    columns = resolve.identity(plan) if pointed.table is plan else resolve.naming(design, plan, column)[1]
    table = tables.by_name[pointed.table.name]
    parts = [
        [*(kinds.show(value, table.by_name[name].kind) for value in table.by_name[name].values.to_pylist()), ""]
        for name in columns
    ]
    return [
        tuple(part[int(table.by_name[name].codes[row])] for part, name in zip(parts, columns, strict=True))
        for row in range(table.row_count)
    ]


def _told(
    lost: Sequence[tuple[tuple[str, ...], list[str], int]],
    headers: Sequence[str],
    table: str,
    names: Sequence[tuple[str, ...]],
) -> Iterator[Doubt]:
    shown = shown_together(headers)
    for name, places, count in lost:
        said = ", ".join(filter(None, name))
        same = [one for one in names if _could_be(name, one)]
        if len(same) > 1:
            what = f"{shown} says '{said}', and {len(same)} rows of {table} are called so"
            hint = f"they are {'; '.join(', '.join(one) for one in same[:PLACES])}"
        else:
            near = _nearest(said, names, ", " if len(name) > 1 else " ")
            what = f"{shown} says '{said}', which {table} does not list"
            hint = (
                f"the nearest there is '{near}'"
                if near
                else "the reference stays blank, and the cell is kept beside it"
            )
        yield Doubt(what, tuple(places), hint, count)


def _taken_for(column: Column, relation: Relation, table: str, names: Sequence[tuple[str, ...]]) -> Iterator[Doubt]:
    """The few names of a column with initials, beside others in full, each with whom it is taken for."""
    own = pa.array([plainly(kinds.show(value, column.kind)) for value in column.values.to_pylist()], pa.string())
    listed = {plainly(" ".join(one)): one for one in names}
    full = with_full_names(own, pa.array([*listed], pa.string()))
    short = np.flatnonzero(pc.not_equal(own, full).to_numpy(zero_copy_only=False))
    if len(short) >= FEW_SHORT * len(own):
        return
    for code in short[:MOST].tolist():
        rows = np.flatnonzero(column.codes == code)
        name = " ".join(listed[str(full[code])])
        what = f"'{column.name}' says '{kinds.shown_at(column, int(rows[0]))}', which is taken for '{name}' of {table}"
        places = tuple(relation.address(int(row), column) for row in rows[:PLACES])
        yield Doubt(what, places, "write the name in full if it is somebody else's", len(rows))


def _could_be(name: Sequence[str], listed: Sequence[str]) -> bool:
    """Whether a row is called so as far as the name goes."""
    if len(name) == len(listed):
        return all(own in ("", theirs) for own, theirs in zip(name, listed, strict=True))
    return set(plainly(" ".join(name)).split()) <= set(plainly(" ".join(listed)).split())


def is_near(said: str, listed: str) -> bool:
    """Whether a text is only a few letters off.

    >>> is_near("Grey Hreon", "Grey Heron"), is_near("Grey Heron", "Teal")
    (True, False)
    """
    wanted = plainly(said)
    return OSA.distance(wanted, plainly(listed)) <= int(len(said) * NEAR)


def _nearest(said: str, names: Sequence[tuple[str, ...]], between: str = ", ") -> str:
    """The listed name that is the fewest letters off, if these are few; else the only one with a word more or less;
    ``between`` stands between its parts.

    >>> _nearest("Corvik", [("Corvik Ltd",), ("Norden",)]), _nearest("Nordan", [("Corvik Ltd",), ("Norden",)])
    ('Corvik Ltd', 'Norden')
    """
    if len(names) > MOST_NAMES:
        return ""
    wanted = plainly(said)
    most = int(len(said) * NEAR)
    plain = [plainly(" ".join(one)) for one in names]
    near = [(OSA.distance(wanted, one, score_cutoff=most), name) for one, name in zip(plain, names, strict=True)]
    best = min(near, default=(most + 1, ("",)))
    if best[0] <= most:
        return between.join(best[1])
    own = {*wanted.split()}
    each = zip(({*one.split()} for one in plain), names, strict=True)
    longer = [name for words, name in each if own < words or words < own]
    return between.join(longer[0]) if len(longer) == 1 else ""
