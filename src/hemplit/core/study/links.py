"""Which columns of one relation take their values from a key of another: what is shown, with counts and no decision.

All distinct values of one kind are numbered together, so that each pair of columns is compared by codes alone; a
sample settles the pairs that have nothing in common. What is not found so is looked for once more as people write it:
without zeros in front, in other capitals, and with the parts of a name in one cell or in another order.
"""

from __future__ import annotations

from functools import reduce
from itertools import pairwise, product
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.columns.codes import combine, distinct, first_rows, tell_apart, with_blank
from hemplit.core.columns.partners import Lookup, described, plainly, with_full_names
from hemplit.core.model.findings import Link
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import ROW_NUMBER, TEXT
from hemplit.core.texts.twins import are_twins
from hemplit.core.texts.vocabulary import MOMENT, PART_OF_NAME
from hemplit.core.texts.words import is_identifier, stem_of, words
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.columns.partners import Cells
    from hemplit.core.model.findings import Findings
    from hemplit.core.model.relation import Column, Relation

#: Kinds of values by which rows are named, and those that people write in several ways.
NAMING = frozenset(("text", "whole number", "date", "date and time"))
WRITTEN = frozenset(("text", "whole number"))
#: A column refers to another if so large a share of its different values stands there; so many are looked at first.
KNOWN, SAMPLE, SAMPLE_KNOWN = 0.7, 200, 0.4
#: Of so large a share of its rows a column must tell apart which is meant, as a list may say one thing twice.
UNIQUE = 0.95
#: Keys of more columns are no names of things, and of very many keys the first are looked at.
MOST_COLUMNS, MOST_KEYS = 5, 12
#: So many values that stand in no list are compared with those of lists that are no longer.
MOST_NEAR, MOST_LISTED = 20, 1_000
#: Columns of more different values are not looked at as people write them.
MOST_WRITTEN = 20_000


@dataclass(frozen=True)
class _Pool:
    """A column whose distinct values are numbered together with those of all others that it is compared with."""

    sheet: str
    column: Column
    values: npt.NDArray[np.int32]


def links(
    relations: Mapping[str, Relation], findings: Mapping[str, Findings], things: Collection[tuple[str, str]] = ()
) -> tuple[Link, ...]:
    """The links between relations, which are given with their findings by name; the fullest first.

    ``things`` are columns that name something though rows repeat it, by relation and header.
    """
    found: list[Link] = []
    all_pools = _pools(relations)
    asked = _Asked(all_pools)
    for pools in all_pools:
        found += _single(pools, things)
    exact = {(one.child, one.headers[0], one.parent): one.known for one in found if not one.near}
    for parent, relation in relations.items():
        keys = list(_composite_keys(findings[parent]))[:MOST_KEYS]
        for child, other in relations.items():
            if child == parent:
                continue
            sides = _Sides(child, other, parent, relation, asked)
            alike = _key_by_headers(sides)
            found += (one for key in (*keys, *alike) for one in _by_several(sides, key))
            found += _described(sides)
    written = [one for one in _written(relations) if one.known > exact.get((one.child, one.headers[0], one.parent), 0)]
    better = {(one.child, one.headers, one.parent) for one in written}
    found = [one for one in found if not one.near or (one.child, one.headers, one.parent) not in better] + written
    found = [one for one in found if _may_be(one, relations[one.child], relations[one.parent])]
    return tuple(
        sorted(found, key=lambda one: (-one.known / one.different, one.child, one.parent, one.headers, one.key))
    )


def _pools(relations: Mapping[str, Relation]) -> list[list[_Pool]]:
    by_kind: dict[str, list[tuple[str, Column]]] = {}
    for sheet, relation in relations.items():
        for column in relation.columns:
            if column.kind.word in NAMING and len(column.values) > 0:
                by_kind.setdefault(column.kind.word, []).append((sheet, column))
    return [_numbered(some, [column.values for _, column in some]) for some in by_kind.values()]


def _numbered(columns: Sequence[tuple[str, Column]], values: Sequence[pa.Array]) -> list[_Pool]:
    encoded = pa.concat_arrays(values).dictionary_encode()
    numbers = encoded.indices.to_numpy().astype(np.int32)
    parts = np.split(numbers, np.cumsum([len(one) for one in values])[:-1])
    return [_Pool(sheet, column, part) for (sheet, column), part in zip(columns, parts, strict=True)]


def _may_be(one: Link, child: Relation, parent: Relation) -> bool:
    """Whether a link could be meant: not to entries of a list, nor by the key of the rows that these stood in, nor by
    row numbers that no sheet has; by the thing whose they are, to what another sheet says of it."""
    numbered = _is_counted(child, one.headers) or _is_counted(parent, one.key)
    apart = (child.source.path, child.source.sheet) != (parent.source.path, parent.source.sheet)
    is_owner = child.again is not None and apart
    return not parent.of and (is_owner or not {*one.headers} & {*child.of}) and not numbered


def _is_counted(relation: Relation, headers: Collection[str]) -> bool:
    """Whether rows are told apart by numbers that we gave them."""
    return ROW_NUMBER in headers and not relation.by_name[ROW_NUMBER].own


class _Asked:
    """What share of the values of one column stands in another, which rows a key finds, and what columns say together:
    each asked once."""

    def __init__(self, pools: Iterable[Sequence[_Pool]]) -> None:
        self._pools: dict[int, tuple[int, npt.NDArray[np.int32], int]] = {}
        for number, some in enumerate(pools):
            size = 1 + max(int(pool.values.max()) for pool in some)
            self._pools |= {id(pool.column): (number, pool.values, size) for pool in some}
        self._known: dict[tuple[int, int], bool] = {}
        self._lookups: dict[tuple[int, ...], Lookup] = {}
        self._said: dict[tuple[int, ...], _Said] = {}

    def lookup(self, key: Sequence[Column]) -> Lookup:
        """The rows that columns of a list name."""
        columns = tuple(map(id, key))
        if columns not in self._lookups:
            self._lookups[columns] = Lookup(_cells(key))
        return self._lookups[columns]

    def said(self, columns: Sequence[Column]) -> _Said:
        """The rows in which columns say something."""
        ids = tuple(map(id, columns))
        if ids not in self._said:
            self._said[ids] = _said_by(columns)
        return self._said[ids]

    def shares(self, column: Column, key: Column) -> bool:
        """Whether a column has most of its values from a key."""
        pair = id(column), id(key)
        if pair not in self._known:
            self._known[pair] = self._shares(*pair)
        return self._known[pair]

    def _shares(self, column: int, key: int) -> bool:
        if column not in self._pools or key not in self._pools or self._pools[column][0] != self._pools[key][0]:
            return False
        _, own, size = self._pools[column]
        there = np.zeros(size, dtype=bool)
        there[self._pools[key][1]] = True
        return _holds(there, own[:SAMPLE], SAMPLE_KNOWN) and _holds(there, own, KNOWN)


def _holds(there: npt.NDArray[np.bool_], values: npt.NDArray[np.int32], share: float) -> bool:
    """Whether such a share of values is there; of short lists, to count takes a fifth of the time of a mean."""
    return bool(np.count_nonzero(there[values]) >= share * len(values))


@dataclass(frozen=True)
class _Said:
    """The rows in which columns say something, and the first that says each different thing."""

    filled: npt.NDArray[np.intp]
    different: npt.NDArray[np.int64]


def _cells(columns: Sequence[Column]) -> list[Cells]:
    return [(column.codes, column.values) for column in columns]


def _said_by(columns: Sequence[Column], *, alike: bool = False) -> _Said:
    parts = [described(_cells(columns))] if alike else _cells(columns)
    filled = np.flatnonzero(np.max([codes for codes, _ in parts], axis=0) != EMPTY)
    whole = reduce(combine, (with_blank(codes[filled], len(values)) for codes, values in parts))
    different = first_rows(whole)
    return _Said(filled, filled[different[different != EMPTY]])


@dataclass(frozen=True)
class _Sides:
    """Two relations by name, of which the first may refer to the second, and what their columns have in common."""

    child: str
    other: Relation
    parent: str
    relation: Relation
    asked: _Asked


def _single(pools: Sequence[_Pool], things: Collection[tuple[str, str]] = (), *, alike: bool = False) -> Iterator[Link]:
    """The links by one column."""
    size = 1 + max((int(pool.values.max()) for pool in pools), default=0)
    numbers: dict[int, npt.NDArray[np.float64]] = {}
    for parent in pools:
        is_thing = (parent.sheet, parent.column.name) in things
        if not is_thing and not _tells_apart(parent, alike=alike):
            continue
        there = np.zeros(size, dtype=bool)
        there[parent.values] = True
        for child in pools:
            if (
                child.column is parent.column
                or (is_thing and child.sheet == parent.sheet)
                or not _holds(there, child.values[:SAMPLE], SAMPLE_KNOWN)
            ):
                continue
            if alike and (
                child.sheet == parent.sheet or child.column.kind.word == parent.column.kind.word == "whole number"
            ):
                continue
            hit = there[child.values]
            known = int(np.count_nonzero(hit))
            near = 0 if alike or is_thing or known >= KNOWN * len(hit) else _near(child, parent, hit)
            # Of a few values one may be wrong, if the headers are the same.
            but_one = known > 1 and known == len(hit) - 1 and _is_called_like(child.column.name, parent.column.name)
            if (but_one and not alike) or known + near >= KNOWN * len(hit):
                codes = child.column.codes[child.column.codes != EMPTY]
                sides = child.sheet, (child.column.name,), parent.sheet, (parent.column.name,)
                matched = int(np.count_nonzero(hit[codes]))
                for one in (child.column, parent.column):
                    if id(one) not in numbers:
                        numbers[id(one)] = _whole_numbers(one)
                dense = _density(numbers[id(child.column)], numbers[id(parent.column)])
                yield Link(*sides, len(hit), known, len(codes), matched, len(parent.values), alike, dense, near)


def _near(child: _Pool, parent: _Pool, hit: npt.NDArray[np.bool_]) -> int:
    """How many values of a column are a slip away from one of the list, or lack a word, if a person can still overlook
    both: Corvik, of Corvik Ltd."""
    strange = child.column.values.filter(pa.array(~hit))
    if child.column.kind != TEXT or len(strange) > MOST_NEAR or len(parent.values) > MOST_LISTED:
        return 0
    listed = parent.column.values.to_pylist()
    return sum(
        any(are_twins(one, other) or other.startswith(f"{one} ") or one.startswith(f"{other} ") for other in listed)
        for one in strange.to_pylist()
    )


def _density(own: npt.NDArray[np.float64], theirs: npt.NDArray[np.float64]) -> float:
    """Of the whole numbers from the smallest to the largest of one side, the share that stands in the other."""
    if not len(own) or not len(theirs):
        return 1.0
    within = (theirs >= own.min()) & (theirs <= own.max())
    return float(np.count_nonzero(within)) / float(own.max() - own.min() + 1)


def _whole_numbers(column: Column) -> npt.NDArray[np.float64]:
    """The values of a column as numbers, if they are whole ones, with or without zeros in front."""
    digits = pc.match_substring_regex(pc.cast(column.values, pa.string()), "^-?[0-9]{1,15}$")
    if not pc.all(digits).as_py():
        return np.zeros(0)
    return pc.cast(column.values, pa.float64()).to_numpy(zero_copy_only=False)


def _tells_apart(pool: _Pool, *, alike: bool) -> bool:
    """Whether a column tells the rows apart in which it is filled, but for a few."""
    codes = pool.column.codes
    filled = int(np.count_nonzero(codes != EMPTY))
    if not filled > 1 or filled < UNIQUE * len(codes) or len(pool.values) < UNIQUE * filled:
        return False
    # Written plainly, different values can be the same.
    return not alike or len(distinct(pool.values)) >= UNIQUE * filled


def _written(relations: Mapping[str, Relation]) -> Iterator[Link]:
    """The links by one column that people write in different ways, to other relations only."""
    if len(relations) < 2:
        return
    some = [
        (sheet, column)
        for sheet, relation in relations.items()
        for column in relation.columns
        if column.kind.word in WRITTEN and 0 < len(column.values) <= MOST_WRITTEN
    ]
    if some:
        yield from _single(_numbered(some, _plain([column for _, column in some])), alike=True)


def _plain(columns: Sequence[Column]) -> list[pa.Array]:
    """The values of columns without what is only a matter of writing; a number is written in one way."""
    texts = [pc.cast(column.values, pa.string()) for column in columns]
    # What several sheets have is looked at once.
    encoded = pa.concat_arrays(texts).dictionary_encode()
    plain = pa.array([plainly(text) for text in encoded.dictionary.to_pylist()], pa.string())
    plain = with_full_names(plain, plain)
    starts = np.cumsum([0, *map(len, texts)]).tolist()
    return [
        own if column.kind.word == "whole number" else plain.take(encoded.indices.slice(start, len(own)))
        for column, own, start in zip(columns, texts, starts, strict=False)
    ]


def _composite_keys(findings: Findings) -> Iterator[tuple[str, ...]]:
    """The keys of several columns that name something."""
    facts = findings.by_name
    for key in findings.keys:
        if 1 < len(key) <= MOST_COLUMNS and all(facts[name].kind.word in NAMING for name in key):
            yield key


def _key_by_headers(sides: _Sides) -> Iterator[tuple[str, ...]]:
    """The fewest columns that tell the rows apart, of those that another relation has under headers that end so."""
    shared = [
        column
        for column in sides.relation.columns
        if column.kind.word in NAMING
        and not column.blanks
        and any(_ends_like(one.name, column.name) and sides.asked.shares(one, column) for one in sides.other.columns)
    ]
    if 1 < len(shared) <= MOST_COLUMNS and _tell_apart(shared):
        kept = list(shared)
        for column in shared:
            rest = [one for one in kept if one is not column]
            # The hour of a day tells nothing without the day, even where the sheet has only one; nor half a name.
            whole = (MOMENT | PART_OF_NAME).isdisjoint(words(column.name))
            kept = rest if rest and whole and _tell_apart(rest) else kept
        if len(kept) > 1:
            yield tuple(column.name for column in kept)


def _tell_apart(columns: Sequence[Column]) -> bool:
    return tell_apart([(column.codes, len(column.values)) for column in columns])


def _by_several(sides: _Sides, key: Sequence[str]) -> Iterator[Link]:
    """The columns of another relation that together take their values from a key."""
    wanted = [sides.relation.by_name[name] for name in key]
    able = [[column for column in sides.other.columns if sides.asked.shares(column, one)] for one in wanted]
    tried = (columns for columns in product(*able) if len({column.name for column in columns}) == len(columns))
    made = [_link(sides, columns, wanted) for columns in tried]
    able_links = [one for one in made if one.known >= KNOWN * one.different]
    if able_links:
        yield max(able_links, key=lambda one: (_alike_headers(one), one.known / max(one.different, 1)))


def _alike_headers(one: Link) -> int:
    return sum(_ends_like(header, name) for header, name in zip(one.headers, one.key, strict=False))


def _is_called_like(header: str, name: str) -> bool:
    """Whether a header ends like another, though it does not say that its values are numbers: Policy, Policy No."""
    return _ends_like(header, name) or (is_identifier(words(name)) and words(header) == stem_of(name) != ())


def _ends_like(header: str, name: str) -> bool:
    said, wanted = words(header), words(name)
    return bool(wanted) and said[-len(wanted) :] == wanted


def _link(sides: _Sides, columns: Sequence[Column], key: Sequence[Column], *, alike: bool = False) -> Link:
    """A link with its counts."""
    said = _said_by(columns, alike=True) if alike else sides.asked.said(columns)
    lookup = Lookup(_cells(key), alike=True) if alike else sides.asked.lookup(key)
    found = lookup.rows(_cells(columns)) != EMPTY
    return Link(
        sides.child,
        tuple(column.name for column in columns),
        sides.parent,
        tuple(column.name for column in key),
        len(said.different),
        int(np.count_nonzero(found[said.different])),
        len(said.filled),
        int(np.count_nonzero(found[said.filled])),
        sides.relation.row_count,
        alike,
    )


def _described(sides: _Sides) -> Iterator[Link]:
    """The column that has in one cell what a list has in two, the parts of a name, with what else it takes."""
    parts = [column for column in sides.relation.columns if PART_OF_NAME.intersection(words(column.name))]
    for pair in pairwise(parts):
        _, names = described([(column.codes, column.values) for column in pair])
        known = set(names.to_pylist())
        for column in sides.other.columns:
            if column.kind.word != "text" or not 0 < len(column.values) <= MOST_WRITTEN:
                continue
            said = with_full_names(
                pa.array([plainly(str(text)) for text in column.values.to_pylist()]), names
            ).to_pylist()
            if sum(text in known for text in said) < KNOWN * len(said):
                continue
            further = [one for one in sides.relation.columns if one not in pair and one.kind.word in NAMING]
            able = [
                (one, also)
                for one in further
                if not _tell_apart([one]) and _tell_apart([*pair, one])
                for also in sides.other.columns
                if also is not column and sides.asked.shares(also, one)
            ]
            found = [_link(sides, [column], pair, alike=True)]
            found += [_link(sides, [column, also], [*pair, one], alike=True) for one, also in able]
            best = max(found, key=lambda one: (one.matched / max(one.rows, 1), -len(one.headers)))
            if best.matched >= KNOWN * best.rows:
                yield best
