"""The few cells for which a column stays beside a thing, and is not said of it: most of the time, somebody mistyped.

    Job   Owner       Phone
    17    Ann Marsh   0171 220118        each Owner has one Phone, but for row 19; so each job has one,
    18    Tom Keel    0171 331004        and owners has none
    19    Ann Marsh   0171 220811
    20    Ann Marsh   0171 220118

The same goes for a list that each thing would have once, and for a code that stands in one row for another: it makes a
second thing of which all is said that is said of the first.
"""

from __future__ import annotations

import math
from functools import reduce
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core import kinds
from hemplit.core.columns.codes import Grouping, combine, first_rows, most_frequent, with_blank
from hemplit.core.design import resolve
from hemplit.core.model.design import Grain
from hemplit.core.model.findings import Breach, Near
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import TEXT
from hemplit.core.study.near import breaks_again, described
from hemplit.core.study.owned import said_of
from hemplit.core.texts.vocabulary import NAME
from hemplit.core.texts.words import is_identifier, is_person, stem_of, words
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.design import ColumnPlan, Design, TablePlan
    from hemplit.core.model.relation import Relation

    Rows = npt.NDArray[np.intp]

#: At most one row, or this share of them, breaks what somebody mistyped; and no more than a person looks at.
SHARE, MOST = 0.02, 20
#: Chance alone would bear the rest out in less than one of 10^LEAST tables. So none is told of 600 sheets of 8 to 40
#: rows without a typo, and the one that was made in half of those of 12 rows, and in five of six of 20 or more.
LEAST = 0.5
#: Of a thing so many columns say that it is the same, whatever it is called.
FEWEST_SAID = 2
#: So many rows tell most of the pairs that break often.
FIRST_ROWS = 5_000


@dataclass(frozen=True)
class Exceptional:
    """A column of a table, or a table of entries if ``column`` is blank, which would go to ``thing`` but for some rows.

    ``thing`` is the table of what determines it, or blank if nothing else is said of that, or if it would stay a code.
    """

    sheet: str
    table: str
    column: str
    thing: str
    near: Near


def exceptions(design: Design, relations: Mapping[str, Relation]) -> tuple[Exceptional, ...]:
    """Of each column, and of each list, the first that determines it but for a few rows; then the codes of which that
    is not told."""
    found: list[Exceptional] = []
    for plan in design.tables:
        if plan.grain is Grain.SUBSET or plan.sheet not in relations:
            continue
        found += _of_columns(design, plan, relations[plan.sheet])
        if plan.grain is Grain.ROW and relations[plan.sheet].again is None:
            found += _of_list(design, plan, relations)
    told = {breach.place for one in found for breach in one.near.breaches}
    things = (plan for plan in design.tables if plan.grain is Grain.VALUE and plan.sheet in relations)
    codes = [one for plan in things for one in _of_code(design, plan, relations[plan.sheet])]
    return (*found, *(one for one in codes if told.isdisjoint(breach.place for breach in one.near.breaches)))


@dataclass(frozen=True)
class _Left:
    """The headers by which a row says of which thing it speaks, the table of such things, blank if there is none, and
    the column of its own that leads there; in ``group`` which rows speak of the same, ``EMPTY`` if part of a name is
    blank."""

    headers: tuple[str, ...]
    thing: str
    along: str
    group: Grouping


def _lefts(design: Design, plan: TablePlan, relation: Relation) -> list[_Left]:
    """What the rows of a table speak of, itself or along further references, and codes of which nothing else is said.

    What there are fewest of comes first: where it breaks in the same rows, the phone of an order is its customer's.
    """
    found: dict[tuple[str, ...], _Left] = {}
    for headers, thing, along in _named(design, plan):
        if headers not in found and relation.by_name.keys() >= {*headers}:
            found[headers] = _Left(headers, thing, along, _grouped(relation, headers))
    return sorted(found.values(), key=lambda one: one.group.size)


def _called_like(header: str, others: Sequence[str], relation: Relation) -> list[_Left]:
    """What a header speaks of in its first words, of the other columns that stand beside it: for a skipper's phone the
    skipper, or both parts of the name, of which nothing else is said."""
    about = [one for one in others if one in relation.by_name and relation.by_name[one].kind == TEXT]
    about = [one for one in about if (stem := stem_of(one)) and stem == words(header)[: len(stem)] != words(header)]
    plain = [(one,) for one in about if NAME.issuperset(words(one)[len(stem_of(one)) :])]
    persons = [pair for pair in pairwise(about) if is_person(pair)]
    return [_Left(names, "", "", _grouped(relation, names)) for names in (*persons, *plain)]


def _grouped(relation: Relation, headers: Sequence[str]) -> Grouping:
    """Which rows say the same under some headers, ``EMPTY`` where one of them is blank."""
    columns = [relation.by_name[name] for name in headers]
    whole = reduce(combine, (with_blank(one.codes, len(one.values)) for one in columns))
    filled = np.logical_and.reduce([one.codes != EMPTY for one in columns])
    return Grouping(np.where(filled, whole.codes, np.int32(EMPTY)), whole.size)


def _named(design: Design, plan: TablePlan) -> Iterator[tuple[tuple[str, ...], str, str]]:
    """The headers by which the rows of a table name each thing that they speak of, the table of such things, and the
    column that leads there."""
    reached = {plan.name: ""}
    to_look_at = [plan]
    for table in to_look_at:
        for column in table.stored:
            along = reached[table.name] or column.name
            pointed = resolve.target(design, table, column)
            header = resolve.header(design, table, column)
            if pointed is None:
                if table is plan and is_identifier(words(header)) and plan.key != (column.name,):
                    yield (header,), "", along
                continue
            names = resolve.identity(pointed.table)
            within = pointed.table.sheet == plan.sheet
            if len(names) == 1 or not within:
                yield (header,), pointed.table.name, along
            else:
                named = (resolve.header(design, pointed.table, pointed.table.by_name[name]) for name in names)
                yield tuple(named), pointed.table.name, along
            if within and pointed.table.name not in reached:
                reached[pointed.table.name] = along
                to_look_at.append(pointed.table)


def _of_columns(design: Design, plan: TablePlan, relation: Relation) -> Iterator[Exceptional]:
    said_by = [column for column in plan.stored if column.name not in plan.key and _is_said(column)]
    headers = {resolve.header(design, plan, column): column.name for column in said_by}
    rights = [relation.by_name[header] for header in headers if header in relation.by_name]
    lefts = _lefts(design, plan, relation)
    rows = _rows(design, plan, relation)
    for right in rights:
        said = with_blank(right.codes, len(right.values))
        # A customer with a second order is no exception, and one whose name stands there twice may be.
        own = headers[right.name] if is_identifier(words(right.name)) else ""
        able = [left for left in lefts if left.along != own]
        first = _first_broken(able, said, rows, len(lefts) * len(rights))
        if first is None:
            more = _called_like(right.name, [one for one in headers if one != right.name], relation)
            first = _first_broken(more, said, rows, (len(lefts) + len(more)) * len(rights))
        if first is not None:
            left, at, agreed = first
            near = described(relation, left.headers, right, at, agreed, len(rows))
            yield Exceptional(relation.source.title, plan.name, headers[right.name], left.thing, near)


def _of_code(design: Design, plan: TablePlan, relation: Relation) -> Iterator[Exceptional]:
    """A code of a thing that stands in a row beside all that others say with another one."""
    code, *others = resolve.identity(plan)
    named = resolve.header(design, plan, plan.by_name[code])
    headers = [
        resolve.header(design, plan, column) for column in plan.stored if column.name != code and _is_said(column)
    ]
    said = tuple(header for header in headers if header in relation.by_name)
    if others or not is_identifier(words(named)) or named not in relation.by_name or len(said) < FEWEST_SAID:
        return
    right, group = relation.by_name[named], _grouped(relation, said)
    rows = np.flatnonzero(right.codes != EMPTY)
    broken = _broken(group, with_blank(right.codes, len(right.values)), rows, len(relation.columns))
    if broken is not None:
        near = described(relation, said, right, *broken, relation.row_count)
        yield Exceptional(relation.source.title, plan.name, code, "", near)


def _is_said(column: ColumnPlan) -> bool:
    """Whether a column holds what the rows say, and not only where they differ from other sheets."""
    return not (column.unmatched or column.unlike or column.along)


def _of_list(design: Design, plan: TablePlan, relations: Mapping[str, Relation]) -> Iterator[Exceptional]:
    """The same for what was taken out of each row of a sheet, as a whole."""
    child, sheet = relations[plan.sheet], design.sheet(plan.sheet).of or ""
    base = next((one for one in design.tables_of(sheet) if one.grain is Grain.ROW), None)
    if base is None or sheet not in relations:
        return
    parent = relations[sheet]
    lefts = _lefts(design, base, parent)
    said = said_of(parent, child, parent.row_count)
    first = _first_broken(lefts, said, np.arange(parent.row_count), len(lefts))
    if first is not None:
        left, at, agreed = first
        like = first_rows(said)[agreed]
        breaches = [_entries(parent, child, *pair) for pair in zip(at.tolist(), like.tolist(), strict=True)]
        near = Near(left.headers, child.source.part, len(at), len(at) / parent.row_count, 0, tuple(breaches))
        yield Exceptional(child.source.title, plan.name, "", left.thing, near)


def _entries(parent: Relation, child: Relation, row: int, like: int) -> Breach:
    """What the list of one row says, and that of another, with the first cell in which they differ."""
    own, other = (_said(child, int(parent.grid_rows[one])) for one in (row, like))
    odd = next((at for at, text in own.items() if text not in other.values()), None)
    missing = next((at for at, text in other.items() if text not in own.values()), None)
    position = child.columns[len(child.of)].position
    if child.block is not None:
        block = child.block[next(one for one in (odd, missing, *own, *other) if one is not None)]
        position = next(one.places[block] for one in child.columns if one.places and one.places[block] >= 0)
    place = child.source.address(int(parent.grid_rows[row]), position)
    return Breach(place, ", ".join(own.values()), ", ".join(other.values()), twin=False)


def _said(child: Relation, row: int) -> dict[int, str]:
    """The entries that were taken out of a row of the grid, by their rows, without the place of each."""
    told = child.columns[len(child.of) : -1]
    rows = np.flatnonzero(child.grid_rows == row).tolist()
    return {at: " ".join(kinds.shown_at(column, at) for column in told) for at in rows}


def _rows(design: Design, plan: TablePlan, relation: Relation) -> Rows:
    """The rows of a sheet that give a table its rows, each once."""
    if plan.grain is Grain.ROW:
        return np.arange(relation.row_count)
    headers = [resolve.header(design, plan, plan.by_name[name]) for name in resolve.identity(plan)]
    key = [relation.by_name[name] for name in headers if name in relation.by_name]
    if not key:
        return np.arange(relation.row_count)
    first = first_rows(reduce(combine, (with_blank(one.codes, len(one.values)) for one in key)))
    return np.sort(first[first >= 0])


def _first_broken(
    lefts: Sequence[_Left], said: Grouping, rows: Rows, asked: int
) -> tuple[_Left, Rows, npt.NDArray[np.int64]] | None:
    """The first that determines what is said but for a few rows, with these and what the others say."""
    broken = ((left, _broken(left.group, said, rows, asked)) for left in lefts)
    return next(((left, *some) for left, some in broken if some is not None), None)


def _broken(group: Grouping, said: Grouping, rows: Rows, asked: int) -> tuple[Rows, npt.NDArray[np.int64]] | None:
    """The rows that say something else than most of their group do, and what these say; None unless they are few, more
    rows of each group agree, and all that would hardly be so by chance in one of so many that are asked for."""
    for some in (rows[:FIRST_ROWS], rows) if len(rows) > FIRST_ROWS else (rows,):
        filled = some[group.codes[some] != EMPTY]
        if not len(filled):
            return None
        own, others = Grouping(group.codes[filled], group.size), Grouping(said.codes[filled], said.size)
        agreed = most_frequent(own, others)[own.codes]
        odd = np.flatnonzero(others.codes != agreed)
        if len(odd) > min(max(1, int(SHARE * len(rows))), MOST):
            return None
    if not len(odd) or breaks_again(own, others, odd):
        return None
    like = np.bincount(own.codes[others.codes == agreed], minlength=own.size)
    unlike = np.bincount(own.codes[odd], minlength=own.size)
    there = np.flatnonzero(unlike)
    if (like[there] <= np.maximum(unlike[there], 1)).any():
        return None
    repeats = len(filled) - np.count_nonzero(np.bincount(own.codes)) - len(odd)
    shares = np.bincount(others.codes) / len(filled)
    chances = math.log10(math.comb(len(filled), len(odd)) * asked)
    if repeats * -math.log10(np.sum(shares * shares)) < LEAST + chances:
        return None
    return filled[odd], agreed[odd]
