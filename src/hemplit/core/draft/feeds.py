"""Tables of several sheets that hold the same things → one table, which all of these sheets fill.

    jobs: boats (reg, name, length)    lifts: regs (reg, boat_name, dock)    →    boats (reg, name, length, dock)

Two tables hold the same things if they name them alike, have some of them in common, and say the same of those. What
they say otherwise stays in a column for each.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core.columns.codes import Grouping, first_rows, stack
from hemplit.core.design import resolve
from hemplit.core.draft.naming import singular, thing_words
from hemplit.core.model.design import Grain, Purpose
from hemplit.core.model.grid import EMPTY
from hemplit.core.texts.words import IDENTIFIER, NAME, is_identifier, unused, words
from hemplit.errors import DesignError

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    import pyarrow as pa

    from hemplit.core.model.design import ColumnPlan, Design, Feed, TablePlan
    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Kind, Relation

#: So large a share of the things of the smaller table must stand in the other: where the headers are the same words
#: or what is said of the things agrees, where they only have a word in common, and where nothing tells of it.
SAME_WORDS, SAME_WORD, NO_WORD = 0.3, 0.7, 0.9
#: Where nothing else tells of it, so many things must be in both.
TELLING = 3
#: Columns of one name that differ for more of the things than this do not say the same of the same things.
CONTRADICTED = 0.5


def fed(design: Design, relations: Mapping[str, Relation]) -> Design:
    """The design in which each sort of thing that several sheets name has one table."""
    feeding = _Feeding(design, relations)
    for name in [table.name for table in resolve.filling_order(design, design.tables)]:
        feeding.meet(name)
    return feeding.design


def are_same(design: Design, one: TablePlan, other: TablePlan, relations: Mapping[str, Relation]) -> bool:
    """Whether two tables hold the same sort of thing."""
    sheets = _Sheets(relations)
    sorts = _Sort(design, one, sheets), _Sort(design, other, sheets)
    return all(sort.is_sort for sort in sorts) and _match(*sorts) is not None


@dataclass(frozen=True)
class _Said:
    """What all places of a table say in a column: codes, with ``spoken`` where the sheet has a header for it."""

    codes: Codes
    values: pa.Array
    spoken: np.ndarray[tuple[int], np.dtype[np.bool_]]
    kind: Kind


@dataclass(frozen=True)
class _Match:
    """How the things of two tables agree: the ``columns`` of the second that say what one of the first says."""

    shared: int
    share: float
    columns: Mapping[str, str]
    agrees: bool
    contradicts: bool


class _Sort:
    """A table of things with what its sheets say of them."""

    def __init__(self, design: Design, table: TablePlan, sheets: _Sheets) -> None:
        self.design, self.table, self.sheets = design, table, sheets

    @property
    def is_sort(self) -> bool:
        """Whether it is a table of things or words that a single column names, with nothing but what sheets say."""
        table = self.table
        names = resolve.identity(table)
        plain = table.grain is Grain.VALUE and table.purpose in (Purpose.ENTITY, Purpose.LOOKUP) and len(names) == 1
        if not plain or table.by_name[names[0]].to is not None:
            return False
        return all(map(self._is_told, table.columns))

    def _is_told(self, column: ColumnPlan) -> bool:
        if column.lowest or column.unmatched or column.along or column.unlike or column.alike:
            return False
        if column.ids is not None or column.formula is not None:
            return True
        if column.to is not None and (
            column.target == (self.table.name, None)
            or any(feed.role and resolve.speaks(self.design, self.table, column, feed) for feed in self.table.feeds)
        ):
            return False
        return any(self.header(column, feed) is not None for feed in self.table.feeds)

    def header(self, column: ColumnPlan, feed: Feed) -> str | None:
        """The header under which a sheet says what stands in a column; of a reference what names the thing."""
        table: TablePlan = self.table
        headers = table.headers_in(feed.sheet, column)
        while not headers and column.to is not None:
            pointed = resolve.target(self.design, table, column)
            if (
                pointed is None
                or feed not in pointed.table.feeds
                or not resolve.speaks(self.design, table, column, feed)
            ):
                return None
            names = resolve.identity(pointed.table)
            if len(names) != 1:
                return None
            table, column = pointed.table, pointed.table.by_name[names[0]]
            headers = table.headers_in(feed.sheet, column)
        return headers[feed.role] if feed.role < len(headers) else None

    @cached_property
    def name(self) -> ColumnPlan:
        """The column that names the things."""
        return self.table.by_name[resolve.identity(self.table)[0]]

    @cached_property
    def named_by(self) -> list[str]:
        """The headers that name the things."""
        found = (self.header(self.name, feed) for feed in self.table.feeds)
        return [header for header in dict.fromkeys(found) if header is not None]

    @cached_property
    def about(self) -> frozenset[str]:
        """The words for the thing."""
        return frozenset().union(*map(thing_words, self.named_by), thing_words(self.table.name))

    def said(self, column: ColumnPlan) -> _Said | None:
        """What the places say in a column; None if sheets say it in different kinds of values."""
        return self.sheets.said(tuple((feed.sheet, self.header(column, feed)) for feed in self.table.feeds))


class _Sheets:
    """What the relations say under headers, each asked once."""

    def __init__(self, relations: Mapping[str, Relation]) -> None:
        self.relations = relations
        self._said: dict[tuple[tuple[str, str | None], ...], _Said | None] = {}

    def said(self, headers: tuple[tuple[str, str | None], ...]) -> _Said | None:
        """What stands under headers of sheets, one below the other; blanks where a sheet has none for it."""
        if headers not in self._said:
            self._said[headers] = self._stacked(headers)
        return self._said[headers]

    def _stacked(self, headers: tuple[tuple[str, str | None], ...]) -> _Said | None:
        rows, found = [], []
        for sheet, header in headers:
            rows.append(self.relations[sheet].row_count)
            found.append(None if header is None else self.relations[sheet].by_name.get(header))
        told = [cells for cells in found if cells is not None]
        if len({cells.kind for cells in told}) != 1:
            return None
        none = told[0].values[:0]
        parts = [
            (np.full(count, EMPTY, dtype=np.int32), none) if cells is None else (cells.codes, cells.values)
            for count, cells in zip(rows, found, strict=True)
        ]
        codes, values = stack(parts)
        spoken = np.repeat([cells is not None for cells in found], rows)
        return _Said(codes, values, spoken, told[0].kind)


class _Feeding:
    """The design as it is put together."""

    def __init__(self, design: Design, relations: Mapping[str, Relation]) -> None:
        self.design, self.sheets = design, _Sheets(relations)
        self.met: list[str] = []

    def meet(self, name: str) -> None:
        """One table, after all that it refers to, with those of other sheets that were met before."""
        sort = self._sort(name)
        if not sort.is_sort:
            return
        found: list[tuple[_Match, _Sort, _Sort]] = []
        for other in self.met:
            kept, gone = sorted((self._sort(other), sort), key=_rank)
            match = _match(kept, gone)
            found += [(match, kept, gone)] if match is not None else []
        for match, kept, gone in sorted(found, key=lambda one: (-one[0].share, -one[0].shared, one[1].table.name)):
            if self._put_together(kept, gone, match):
                both = (kept.table.name, gone.table.name)
                self.met = [one for one in self.met if one not in both]
                # What both of them have in common with a third may be enough now.
                self.meet(_name(*both))
                return
        self.met.append(name)

    def _sort(self, name: str) -> _Sort:
        return _Sort(self.design, self.design.by_name[name], self.sheets)

    def _put_together(self, kept: _Sort, gone: _Sort, match: _Match) -> bool:
        """Makes two tables one, if no table refers to itself through others then."""
        name = _name(kept.table.name, gone.table.name)
        made = replace(_both(kept, gone, match, self.sheets.relations), name=name)
        names = {kept.table.name: name, gone.table.name: name}
        keys: dict[str, dict[str, str]] = {kept.table.name: {}} | {
            gone.table.name: dict(zip(gone.table.key, made.key, strict=True))
        }
        tables = tuple(
            made if table.name == kept.table.name else _referring(table, name, keys)
            for table in self.design.tables
            if table.name != gone.table.name
        )
        trail = tuple(
            replace(one, table=names.get(one.table, one.table), out_of=names.get(one.out_of, one.out_of))
            for one in self.design.trail
        )
        design = replace(self.design, tables=tables, trail=trail)
        try:
            resolve.filling_order(design, design.tables)
        except DesignError:
            return False
        self.design = design
        return True


def _name(kept: str, gone: str) -> str:
    """The name for two tables: that of the one that stays, without its sheet's where the other had taken the rest."""
    return gone if kept.endswith(f"_{gone}") else kept


def _rank(sort: _Sort) -> tuple[object, ...]:
    """The table that stays comes first: the one that says more of the things, and by the better key."""
    table = sort.table
    return (
        not _calculates(table),
        table.purpose is not Purpose.ENTITY,
        table.by_name[table.key[0]].ids is not None,
        not thing_words(sort.named_by[0]),
        -len(table.columns),
        len(table.name),
        table.name,
    )


def _calculates(table: TablePlan) -> bool:
    """Whether a table has columns that follow from others, which only its own sheet can have."""
    return any(column.formula is not None for column in table.columns)


def _match(one: _Sort, other: _Sort) -> _Match | None:
    """How the things of two tables agree; None if they are not the same sort of thing."""
    apart = {*one.table.sheets}.isdisjoint(other.table.sheets)
    if not apart or len(one.table.key) != len(other.table.key) or (_calculates(one.table) and _calculates(other.table)):
        return None
    names = one.said(one.name), other.said(other.name)
    if names[0] is None or names[1] is None or names[0].kind != names[1].kind:
        return None
    are_words = Purpose.LOOKUP in (one.table.purpose, other.table.purpose)
    shared = int(pc.sum(pc.is_in(names[1].values, names[0].values)).as_py() or 0)
    if not shared or (are_words and not _in_common(one, other)):
        return None
    codes, values = stack([(said.codes, said.values) for said in names if said is not None])
    mine, theirs = np.split(codes, [len(names[0].codes)])
    both = np.isin(np.arange(len(values)), mine) & np.isin(np.arange(len(values)), theirs)
    fewest = min(len(names[0].values), len(names[1].values))
    columns: dict[str, str] = {}
    contradicts = agrees = False
    for column, pair in _pairs(one, other):
        cells = one.said(column), other.said(pair)
        if cells[0] is None or cells[1] is None or cells[0].kind != cells[1].kind:
            continue
        differ, asked, different = _compared(cells[0], cells[1], mine, theirs, both)
        if not differ:
            columns[pair.name] = column.name
            agrees = agrees or (asked > 1 and different > 1)
        contradicts = contradicts or differ > CONTRADICTED * asked
    match = _Match(shared, shared / fewest, columns, agrees, contradicts)
    return match if _is_same(one, other, match, names[0].kind.word == "text") else None


def _is_same(one: _Sort, other: _Sort, match: _Match, is_text: bool) -> bool:
    """Whether two tables are of the same sort of thing."""
    same_words = any(words(header) == words(theirs) for header in one.named_by for theirs in other.named_by)
    same_word = _in_common(one, other)
    if match.contradicts and not (is_text and same_words):
        return False
    if match.agrees and (is_text or same_words or same_word):
        return match.share >= SAME_WORDS
    if not is_text:
        return False  # numbers are the same by accident
    if same_words:
        return match.share >= SAME_WORDS
    if same_word:
        return match.share >= SAME_WORD
    return match.share >= NO_WORD and match.shared >= TELLING


def _in_common(one: _Sort, other: _Sort) -> bool:
    """Whether headers that name the things of two tables are the same, or have a word for the thing in common."""
    pairs = [(header, theirs) for header in one.named_by for theirs in other.named_by]
    return any(words(mine) == words(theirs) or thing_words(mine) & thing_words(theirs) for mine, theirs in pairs)


def _pairs(one: _Sort, other: _Sort) -> Iterator[tuple[ColumnPlan, ColumnPlan]]:
    """The columns of two tables that could say the same, by their headers; each of them once."""
    about = one.about | other.about
    mine, theirs = (
        [
            (sort.header(column, feed), column)
            for column in sort.table.columns
            if column is not sort.name and column.ids is None and column.formula is None
            for feed in sort.table.feeds[:1]
        ]
        for sort in (one, other)
    )
    for header, column in mine:
        said = _beside(header, about)
        alike = [pair for their, pair in theirs if said is not None and _beside(their, about) == said]
        own = [own for my, own in mine if _beside(my, about) == said]
        if len(alike) == 1 and len(own) == 1 and alike[0].target == column.target:
            yield column, alike[0]


def _beside(header: str | None, about: frozenset[str]) -> frozenset[str] | None:
    """What a header says besides naming the thing."""
    if header is None:
        return None
    said = words(header)
    rest = frozenset(singular((word,))[0] for word in said if word not in IDENTIFIER | NAME) - about
    return rest | {"code"} if is_identifier(said[-1:]) else rest


def _compared(
    one: _Said, other: _Said, mine: Codes, theirs: Codes, both: np.ndarray[tuple[int], np.dtype[np.bool_]]
) -> tuple[int, int, int]:
    """For how many things in both tables a column differs, of how many, and how many different values agree.

    ``mine`` and ``theirs`` are the things in codes of the same values.
    """
    codes, _ = stack([(one.codes, one.values), (other.codes, other.values)])
    cells = np.split(codes, [len(one.codes)])
    first = [_first(things, said.spoken, len(both)) for things, said in ((mine, one), (theirs, other))]
    asked = np.flatnonzero(both & (first[0] != EMPTY) & (first[1] != EMPTY))
    said = [side[rows[asked]] for side, rows in zip(cells, first, strict=True)]
    differs = said[0] != said[1]
    return int(differs.sum()), len(asked), len(np.unique(said[0][~differs & (said[0] != EMPTY)]))


def _first(things: Codes, spoken: np.ndarray[tuple[int], np.dtype[np.bool_]], size: int) -> np.ndarray:
    """The first place that speaks of each thing, ``EMPTY`` for none."""
    places = np.flatnonzero(spoken & (things != EMPTY))
    found = first_rows(Grouping(things[places], size))
    return np.append(places, EMPTY)[found]


def _both(kept: _Sort, gone: _Sort, match: _Match, relations: Mapping[str, Relation]) -> TablePlan:
    """One table of two."""
    table, other = kept.table, gone.table
    told = {gone.name.name: kept.name.name, **match.columns}
    given = {one: theirs for theirs, one in told.items()}
    columns = []
    for column in table.columns:
        if column.ids is not None or column.formula is not None:
            columns.append(column)
            continue
        theirs = other.by_name[given[column.name]] if column.name in given else None
        if theirs is None:
            columns.append(replace(column, required=False))
            continue
        said = dict(_headers(kept, column)) | dict(_headers(gone, theirs))
        headers = said.pop(table.sheet, ())
        required = column.required and theirs.required
        columns.append(replace(column, headers=headers, elsewhere=tuple(said.items()), required=required))
    taken = {column.name for column in columns}
    for column in other.columns:
        if column.ids is None and column.name not in told:
            name = unused(column.name, taken, f"{other.name}_{column.name}")
            taken.add(name)
            made = replace(column, name=name, headers=(), elsewhere=_headers(gone, column), required=False)
            columns.append(made)
    shared = set(given)
    titles = ", ".join(relations[sheet].source.title for sheet in other.sheets)
    why = f"{table.why}; {titles} names {match.shared:,} of them, too"
    return replace(
        table,
        columns=tuple(columns),
        unique=tuple(names for names in table.unique if names == (kept.name.name,) or shared.isdisjoint(names)),
        rules=tuple(rule for rule in table.rules if shared.isdisjoint(rule.columns)),
        why=why,
    )


def _headers(sort: _Sort, column: ColumnPlan) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """The headers of a column in each of the sheets of its table."""
    said = {
        sheet: tuple(
            header
            for feed in sort.table.feeds
            if feed.sheet == sheet
            for header in [sort.header(column, feed)]
            if header is not None
        )
        for sheet in sort.table.sheets
    }
    return tuple((sheet, headers) for sheet, headers in said.items() if headers)


def _referring(table: TablePlan, new: str, old: Mapping[str, Mapping[str, str]]) -> TablePlan:
    """A table whose references to ``old`` ones are to a new one, under its name of their key columns."""
    renamed: dict[str, str] = {}
    columns = []
    for column in table.columns:
        target = column.target
        if target is None or target[0] not in old:
            columns.append(column)
            continue
        keys = {name: old[target[0]].get(name, name) for name in (target[1], column.name) if name is not None}
        to = new if target[1] is None else f"{new}.{keys[target[1]]}"
        name = column.name
        if not column.headers and keys[name] != name:
            name = unused(keys[name], {one.name for one in table.columns} - {name}, name)
        renamed[column.name] = name
        columns.append(replace(column, name=name, to=to))
    return _renamed(replace(table, columns=tuple(columns)), renamed)


def _renamed(table: TablePlan, names: Mapping[str, str]) -> TablePlan:
    """The table with other names for columns wherever it speaks of them."""

    def of(some: Sequence[str]) -> tuple[str, ...]:
        return tuple(names.get(name, name) for name in some)

    rules = tuple(replace(rule, columns=of(rule.columns)) for rule in table.rules)
    return replace(table, key=of(table.key), unique=tuple(map(of, table.unique)), rules=rules)
