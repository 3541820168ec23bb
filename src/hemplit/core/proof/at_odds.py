"""The cells in which a sheet says something else of a thing than other sheets do, under the same header.

    haul_outs: PZ-19 "Smew of Tarbny"    boats: PZ-19 "Smew of Tarnby"

They stand in a table of the sheet's own that refers to the thing, or beside each other in the table of the things.
"""

from __future__ import annotations

from itertools import combinations
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core import kinds
from hemplit.core.columns.codes import stack
from hemplit.core.columns.partners import Lookup
from hemplit.core.design import resolve
from hemplit.core.model.design import Grain
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import TEXT, Doubt
from hemplit.core.proof.strangers import MOST, PLACES, is_near
from hemplit.core.study.same import AGREE
from hemplit.core.texts.words import words
from hemplit.dataclasses import dataclass, replace

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

    import numpy.typing as npt

    from hemplit.core.model.design import ColumnPlan, Design, TablePlan
    from hemplit.core.model.relation import Relation
    from hemplit.core.model.tables import Table, TableColumn, Tables

#: Of fewer cells no share tells that two columns mean the same.
FEWEST = 5


def at_odds(
    design: Design, tables: Tables, relations: Mapping[str, Relation], held: Mapping[str, Table] | None = None
) -> tuple[tuple[str, Doubt], ...]:
    """By the title of its sheet, a doubt for each different cell that contradicts what others say of the thing.

    ``held`` are the tables with all that was said of the things before, where ``tables`` have only what sheets say now.
    Two columns say the same if they have the same header, and agree in nearly all rows. Of columns that do not, or have
    few, a cell is told that is a few letters off.
    """
    known = tables.by_name if held is None else held
    found: list[tuple[str, Doubt]] = []
    for plan in design.tables:
        if design.united(plan.sheet) is not None:
            continue  # what such sheets contradict each other in is told with their union
        if plan.name in tables.by_name and plan.grain is Grain.ROW and plan.sheet in relations:
            pairs = [*_beside_references(design, plan, tables, known)]
        elif plan.name in known and relations.keys() >= {*plan.sheets}:
            pairs = [*_beside_each_other(plan, known[plan.name])]
        else:
            continue
        for pair in pairs:
            relation = relations[pair.sheet]
            found += [(relation.source.title, one) for one in _differing(pair, relation)]
    return tuple(found)


@dataclass(frozen=True)
class _Pair:
    """What a sheet says under a header, and what others say of the same things: in some rows of ``theirs``.

    ``named`` names the rows, and ``there`` is where these are found.
    """

    sheet: str
    header: str
    own: TableColumn
    theirs: TableColumn
    rows: npt.NDArray[np.int64]
    named: TableColumn
    there: str
    of_rows: bool = False
    """Whether it is said in each row of the sheet, and not once of each thing."""


def _beside_references(design: Design, plan: TablePlan, tables: Tables, known: Mapping[str, Table]) -> Iterator[_Pair]:
    """The columns of a sheet's own rows that stand under the header of a column to whose table they refer."""
    table = tables.by_name[plan.name]
    for reference in plan.stored:
        pointed = resolve.target(design, plan, reference)
        if pointed is None or pointed.table is plan or len(pointed.table.key) > 1 or pointed.table.name not in known:
            continue
        if pointed.table.sheets == (plan.sheet,):
            continue
        things, cells = known[pointed.table.name], table.by_name[reference.name]
        key = things.by_name[pointed.table.key[0]]
        rows = _rows_of(key, cells)
        told = [one for one in _said(design, pointed.table, known) if one.column.name not in things.key]
        for own in (one for one in _said(design, plan, tables.by_name) if one.headers):
            header = own.headers[0]
            for theirs in told:
                if words(header) in map(words, theirs.headers):
                    named = key if key.kind == TEXT else theirs.column
                    yield _Pair(plan.sheet, header, own.column, theirs.column, rows, named, things.name, of_rows=True)


@dataclass(frozen=True)
class _Said:
    """What a column says in each row of its table, itself or by a list of names, and the headers of that."""

    headers: tuple[str, ...]
    column: TableColumn


def _said(design: Design, plan: TablePlan, tables: Mapping[str, Table]) -> Iterator[_Said]:
    """What the columns of a table say, and the names in lists to which they refer."""
    table = tables[plan.name]
    for column in plan.stored:
        pointed = resolve.target(design, plan, column)
        if _is_plain(column):
            yield _Said(tuple(column.all_headers), table.by_name[column.name])
        elif pointed is not None and pointed.column.ids is not None and pointed.table.name in tables:
            names = resolve.identity(pointed.table)
            if len(names) == 1 and not resolve.is_across(plan, column, pointed):
                listed = tables[pointed.table.name]
                rows = _rows_of(listed.by_name[pointed.column.name], table.by_name[column.name])
                named = listed.by_name[names[0]]
                said = replace(named, name=column.name, codes=np.append(named.codes, np.int32(EMPTY))[rows])
                listing = pointed.table.by_name[names[0]]
                headers = tuple(column.all_headers) or pointed.table.headers_in(plan.sheet, listing)
                yield _Said(headers, said)


def _rows_of(key: TableColumn, cells: TableColumn) -> npt.NDArray[np.int64]:
    """The row of a key for each cell that names one."""
    return Lookup([(key.codes, key.values)]).rows([(cells.codes, cells.values.cast(key.values.type))])


def _beside_each_other(plan: TablePlan, table: Table) -> Iterator[_Pair]:
    """The columns of things that two sheets say under the same header."""
    said = [
        (sheet, column, headers[0])
        for column in filter(_is_plain, plan.stored)
        for sheet in plan.sheets
        for headers in [plan.headers_in(sheet, column)]
        if len(headers) == 1 and column.name not in plan.key
    ]
    every = np.arange(table.row_count)
    for (sheet, theirs, header), (other, own, its) in combinations(said, 2):
        if sheet != other and own is not theirs and words(header) == words(its):
            named = table.by_name[resolve.identity(plan)[0]]
            yield _Pair(other, its, table.by_name[own.name], table.by_name[theirs.name], every, named, sheet)


def _is_plain(column: ColumnPlan) -> bool:
    kept = column.unmatched or column.unlike or column.along
    return column.to is None and column.ids is None and column.formula is None and not kept


def _differing(pair: _Pair, relation: Relation) -> Iterator[Doubt]:
    if pair.own.kind != TEXT or pair.theirs.kind != TEXT:
        return
    known = np.append(pair.theirs.codes, EMPTY)[pair.rows].astype(np.int32)
    codes, values = stack([(pair.own.codes, pair.own.values), (known, pair.theirs.values)])
    mine, its = np.split(codes, 2)
    both = (mine != EMPTY) & (its != EMPTY)
    differs = np.flatnonzero(both & (mine != its))
    asked = int(np.count_nonzero(both))
    mean_the_same = asked >= FEWEST and len(differs) <= (1 - AGREE) * asked
    texts = [str(text) for text in values.to_pylist()] if len(differs) else []
    cells = relation.by_name[pair.header]
    shown = [kinds.show(value, cells.kind) for value in cells.values.to_pylist()] if len(differs) else []
    told: dict[tuple[int, str, str], list[int]] = {}
    for row in differs.tolist():
        own, theirs = texts[mine[row]], texts[its[row]]
        if mean_the_same or is_near(own, theirs):
            told.setdefault((int(pair.rows[row]), own, theirs), []).append(row)
    for (thing, own, theirs), of_thing in list(told.items())[:MOST]:
        what = f"'{pair.header}' of {_shown(pair.named, thing)} is '{own}', and '{theirs}' in {pair.there}"
        said = [code for code, text in enumerate(shown) if text == own]
        rows = np.array(of_thing) if pair.of_rows else np.flatnonzero(np.isin(cells.codes, said))
        places = tuple(relation.address(row, cells) for row in rows[:PLACES].tolist())
        yield Doubt(what, places, "correct it here, or where the others say it", len(rows))
    if len(told) > MOST:
        yield Doubt(f"'{pair.header}' differs from {pair.there} in {len(told) - MOST:,} more cells")


def _shown(column: TableColumn, row: int) -> str:
    return str(column.values[int(column.codes[row])])
