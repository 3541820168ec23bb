"""Tables of things with what their sheets say of them, and whether two of different sheets hold the same sort.

    jobs: boats (reg, name, length)    lifts: regs (reg, boat_name, dock)        →    3 of 4 are the same, names agree

Two tables hold the same things if they name them alike, have some of them in common, and say the same of those.
"""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.columns.codes import Grouping, distinct, first_rows, stack
from hemplit.core.design import resolve
from hemplit.core.design.feeds import of_one_sheet
from hemplit.core.draft.naming import singular, thing_words
from hemplit.core.draft.sorts import are_full_names
from hemplit.core.model.design import Grain, Purpose
from hemplit.core.model.grid import EMPTY
from hemplit.core.texts.vocabulary import IDENTIFIER, NAME
from hemplit.core.texts.words import is_identifier, words
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

    from hemplit.core.model.design import ColumnPlan, Design, Feed, TablePlan
    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Kind, Relation

#: So large a share of the things of the smaller table must stand in the other: where the headers are the same words
#: or what is said of the things agrees, where a list of words has the same header, where headers only have a word in
#: common, and where nothing tells of it. benchmarks/feeds.py: 152 of 158 things in one table with 0.1 to 0.3 for the
#: first and 135 with 0.6; from 0.3 to 0.9 the others make no difference there, nor do those below.
SAME_WORDS, SAME_LIST, SAME_WORD, NO_WORD = 0.3, 0.5, 0.7, 0.9
#: Where nothing else tells of it, so many things must be in both.
TELLING = 3
#: Columns of one name that differ for more of the things than this do not say the same of the same things.
CONTRADICTED = 0.5


#: A sheet, the header there that names things, and one under which something is said of them.
_Place = tuple[str, str, "str | None"]


@dataclass(frozen=True)
class _Said:
    """What is said in a column of each thing in each feed: codes, with ``spoken`` where there is a header for it."""

    codes: Codes
    values: pa.Array
    spoken: np.ndarray[tuple[int], np.dtype[np.bool_]]
    kind: Kind


@dataclass(frozen=True)
class Match:
    """How the things of two tables agree: the ``columns`` of the second that say what one of the first says, in up to
    ``agreed`` different values, and whether others say something else."""

    shared: int
    share: float
    columns: Mapping[str, str]
    agreed: int
    contradicts: bool


class Sort:
    """A table of things with what its sheets say of them."""

    def __init__(self, design: Design, table: TablePlan, sheets: Sheets) -> None:
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
        if column.alike or of_one_sheet(self.table, column):
            return False
        if column.ids is not None or column.formula is not None:
            return True
        further = (feed for feed in self.table.feeds if feed.role)
        if column.to is not None and any(resolve.speaks(self.design, self.table, column, feed) for feed in further):
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

    @property
    def is_keyed(self) -> bool:
        """Whether what names the things is their key."""
        return resolve.identity(self.table) == self.table.key

    @cached_property
    def named_by(self) -> list[str]:
        """The headers that name the things."""
        found = (self.header(self.name, feed) for feed in self.table.feeds)
        return [header for header in dict.fromkeys(found) if header is not None]

    @cached_property
    def about(self) -> frozenset[str]:
        """The words for the thing."""
        return frozenset().union(*map(thing_words, self.named_by), thing_words(self.table.name))

    @cached_property
    def rank(self) -> tuple[object, ...]:
        """The table that stays comes first: the one that says more of the things, and by the better key."""
        table = self.table
        return (
            not calculates(table),
            table.purpose is not Purpose.ENTITY,
            table.by_name[table.key[0]].ids is not None,
            not thing_words(self.named_by[0]),
            -len(table.columns),
            len(table.name),
            table.name,
        )

    def said(self, column: ColumnPlan) -> _Said | None:
        """What is said in a column of each thing; None if sheets say it in different kinds of values."""
        return self.sheets.said(
            tuple(
                (feed.sheet, str(self.header(self.name, feed)), self.header(column, feed)) for feed in self.table.feeds
            )
        )


class Sheets:
    """What the relations say under headers, each asked once."""

    def __init__(self, relations: Mapping[str, Relation]) -> None:
        self.relations = relations
        self._said: dict[tuple[_Place, ...], _Said | None] = {}
        self._first: dict[tuple[str, str], np.ndarray] = {}

    def said(self, places: tuple[_Place, ...]) -> _Said | None:
        """What stands in places of sheets, one below the other; blanks where a sheet has no header for it."""
        if places not in self._said:
            self._said[places] = self._stacked(places)
        return self._said[places]

    def _stacked(self, places: tuple[_Place, ...]) -> _Said | None:
        rows = [self._first_rows(sheet, named) for sheet, named, _ in places]
        found = [None if header is None else self.relations[sheet].by_name.get(header) for sheet, _, header in places]
        told = [cells for cells in found if cells is not None]
        if len({cells.kind for cells in told}) != 1:
            return None
        none = told[0].values[:0]
        parts = [
            (np.full(len(first), EMPTY, dtype=np.int32), none) if cells is None else (cells.codes[first], cells.values)
            for first, cells in zip(rows, found, strict=True)
        ]
        codes, values = stack(parts)
        spoken = np.repeat([cells is not None for cells in found], list(map(len, rows)))
        return _Said(codes, values, spoken, told[0].kind)

    def _first_rows(self, sheet: str, named: str) -> np.ndarray:
        """The first row of a sheet for each thing that a header names: all others say the same of it."""
        if (sheet, named) not in self._first:
            cells = self.relations[sheet].by_name[named]
            first = first_rows(Grouping(cells.codes + 1, len(cells.values) + 1))[1:]
            self._first[sheet, named] = first[first != EMPTY]
        return self._first[sheet, named]


def calculates(table: TablePlan) -> bool:
    """Whether a table has columns that follow from others, which only its own sheet can have."""
    return any(column.formula is not None for column in table.columns)


def match_of(one: Sort, other: Sort, *, linked: bool = False) -> Match | None:
    """How the things of two tables agree; None if they are not the same sort of thing.

    Numbers are the same by accident, unless the sheets are known to be ``linked`` by them.
    """
    apart = {*one.table.sheets}.isdisjoint(other.table.sheets)
    names_of = {one.table.name, other.table.name}
    referred = {column.target[0] for sort in (one, other) for column in sort.table.columns if column.target}
    if not apart or referred & names_of or len(one.table.key) != len(other.table.key):
        return None
    if calculates(one.table) and calculates(other.table):
        return None
    if {one.is_keyed, other.is_keyed} == {True, False} and not (one.name.required and other.name.required):
        return None  # a row without a name can have a made-up key only
    names = one.said(one.name), other.said(other.name)
    if names[0] is None or names[1] is None or names[0].kind != names[1].kind:
        return None
    are_words = one.table.purpose is other.table.purpose is Purpose.LOOKUP
    in_both = names[1].values.filter(pc.is_in(names[1].values, names[0].values))
    shared = len(in_both)
    if not shared or (are_words and not _in_common(one, other) and not are_full_names(in_both)):
        return None
    codes, values = stack([(said.codes, said.values) for said in names if said is not None])
    mine, theirs = np.split(codes, [len(names[0].codes)])
    both = np.isin(np.arange(len(values)), mine) & np.isin(np.arange(len(values)), theirs)
    fewest = min(len(names[0].values), len(names[1].values))
    columns: dict[str, str] = {}
    contradicts, agreed = False, 0
    for column, pair in _pairs(one, other):
        cells = one.said(column), other.said(pair)
        if cells[0] is None or cells[1] is None or cells[0].kind != cells[1].kind:
            continue
        differ, asked, different = _compared(cells[0], cells[1], mine, theirs, both)
        if not differ:
            columns[pair.name] = column.name
            agreed = max(agreed, different if asked > 1 else 0)
        contradicts = contradicts or differ > CONTRADICTED * asked
    match = Match(shared, shared / fewest, columns, agreed, contradicts)
    told = linked or names[0].kind.word == "text"
    return match if _is_same(one, other, match, is_told=told) else None


def _is_same(one: Sort, other: Sort, match: Match, *, is_told: bool) -> bool:
    """Whether two tables are of the same sort of thing; ``is_told`` is whether their names alone can tell of it."""
    same_words = any(words(header) == words(theirs) for header in one.named_by for theirs in other.named_by)
    same_word = _in_common(one, other)
    if match.contradicts and not (is_told and same_words):
        return False
    if match.agreed >= TELLING or (match.agreed > 1 and (is_told or same_words or same_word)):
        return match.share >= SAME_WORDS
    if not is_told:
        return False
    if same_words:
        are_words = Purpose.LOOKUP in (one.table.purpose, other.table.purpose)
        return match.share >= (SAME_LIST if are_words else SAME_WORDS)
    if same_word:
        return match.share >= SAME_WORD
    return match.share >= NO_WORD and match.shared >= TELLING


def _in_common(one: Sort, other: Sort) -> bool:
    """Whether headers that name the things of two tables are the same, or have a word for the thing in common."""
    pairs = [(header, theirs) for header in one.named_by for theirs in other.named_by]
    return any(words(mine) == words(theirs) or thing_words(mine) & thing_words(theirs) for mine, theirs in pairs)


def _pairs(one: Sort, other: Sort) -> Iterator[tuple[ColumnPlan, ColumnPlan]]:
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
        if column.to is not None:
            # Each thing refers to one of that sort, whatever it is called.
            alike, own = ([pair for _, pair in some if pair.target == column.target] for some in (theirs, mine))
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
    return int(differs.sum()), len(asked), len(distinct(said[0][~differs & (said[0] != EMPTY)]))


def _first(things: Codes, spoken: np.ndarray[tuple[int], np.dtype[np.bool_]], size: int) -> np.ndarray:
    """The first place that speaks of each thing, ``EMPTY`` for none."""
    places = np.flatnonzero(spoken & (things != EMPTY))
    found = first_rows(Grouping(things[places], size))
    return np.append(places, EMPTY)[found]


def are_same(design: Design, one: TablePlan, other: TablePlan, relations: Mapping[str, Relation]) -> bool:
    """Whether two tables hold the same sort of thing."""
    sheets = Sheets(relations)
    sorts = Sort(design, one, sheets), Sort(design, other, sheets)
    return all(sort.is_sort for sort in sorts) and match_of(*sorts) is not None
