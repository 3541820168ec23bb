"""Which sheets tell of the same things: they name them by the same keys, and say the same of them in other columns.

Evidence is counted in bits: a value that few things have says much where both sheets agree on it, and a single yes
or no says nothing.
"""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import at_rows, stack, tell_apart
from hemplit.core.columns.partners import Lookup
from hemplit.core.model.grid import EMPTY
from hemplit.core.texts.words import words
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.model.findings import Link
    from hemplit.core.model.relation import Column, Relation

#: So large a share of what both sheets say of the same things has to agree, beyond what would by accident.
AGREE = 0.8
#: Under the same header so large a share is enough, once sheets are known to tell of the same things; all or nothing
#: would part what people contradict each other in.
AGREE_BY_HEADER = 0.5
#: So many bits that two columns say the same are no accident, whatever was compared; and of headers with one word.
BITS, BITS_OF_NAMED = 12.0, 6.0
#: So many rows of a sheet, evenly spread, rule out the columns that cannot say the same: of so many in which both say
#: something, a share so far below is more than five deviations off.
SAMPLE, ENOUGH, MARGIN = 1_000, 200, 0.15


@dataclass(frozen=True)
class Alike:
    """A column of each of two sheets that say the same of the same things: in how many rows, of how many in which both
    say something, and the bits against an accident."""

    header: str
    other: str
    agreed: int
    rows: int
    bits: float


def alike_columns(link: Link, child: Relation, parent: Relation, things: Lookup) -> tuple[Alike, ...]:
    """The columns beside a link that say the same on both sides; none if it could be an accident.

    ``things`` finds the rows of the parent by the key that the link names.
    """
    free = [one for one in child.columns if one.name not in link.headers]
    others = [one for one in parent.columns if one.name not in link.key]
    tried = np.log2(max(len(free) * len(others), 1))
    pairs = [(one, other) for one in free for other in others if one.kind.word == other.kind.word]
    if child.row_count > SAMPLE:
        some = np.linspace(0, child.row_count - 1, SAMPLE).astype(np.int64)
        pairs = _could_agree(pairs, *_same_rows(link, child, things, some))
    if not pairs:
        return ()
    here, there = _same_rows(link, child, things, np.arange(child.row_count))
    found: list[Alike] = []
    named_alike: list[Alike] = []
    for column, other in pairs:
        made, agreement = _compared(column, other, here, there)
        shared = {*words(column.name)} & {*words(other.name)}
        if agreement >= AGREE and made.bits >= (BITS_OF_NAMED if shared else BITS) + tried:
            found.append(made)
        elif made.agreed and agreement >= AGREE_BY_HEADER and words(column.name) == words(other.name):
            named_alike.append(made)
    if found:
        found += named_alike
    found.sort(key=lambda one: (words(one.header) != words(one.other), -one.bits))
    chosen: list[Alike] = []
    for one in found:
        if one.header not in {other.header for other in chosen} and one.other not in {pair.other for pair in chosen}:
            chosen.append(one)
    return tuple(chosen)


def _same_rows(
    link: Link, child: Relation, things: Lookup, rows: npt.NDArray[np.int64]
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """Those of some rows of one sheet whose things the other tells of, too, and its rows, both of the same shape."""
    own = [at_rows(column.codes, column.values, rows) for column in map(child.by_name.__getitem__, link.headers)]
    partner = things.rows(own)
    found = partner != EMPTY
    return rows[found], partner[found]


def _could_agree(
    pairs: Sequence[tuple[Column, Column]], here: npt.NDArray[np.int64], there: npt.NDArray[np.int64]
) -> list[tuple[Column, Column]]:
    """The pairs of columns that a sample of the rows of the same things does not rule out."""
    left = []
    for word in dict.fromkeys(one.kind.word for one, _ in pairs):
        some = [pair for pair in pairs if pair[0].kind.word == word]
        columns = {("own", one.name): (one, here) for one, _ in some}
        columns |= {("other", other.name): (other, there) for _, other in some}
        said, _ = stack([at_rows(column.codes, column.values, rows) for column, rows in columns.values()])
        parts = dict(zip(columns, np.split(said, len(columns)), strict=True))
        for pair in some:
            own, theirs = parts["own", pair[0].name], parts["other", pair[1].name]
            rows = int(np.count_nonzero((own != EMPTY) & (theirs != EMPTY)))
            if rows < ENOUGH or np.count_nonzero((own == theirs) & (own != EMPTY)) >= (AGREE - MARGIN) * rows:
                left.append(pair)
    return left


def _compared(
    one: Column, other: Column, here: npt.NDArray[np.int64], there: npt.NDArray[np.int64]
) -> tuple[Alike, float]:
    """Two columns on the rows of the same things, and how much more they agree than by accident: all is 1."""
    codes, values = stack([(one.codes[here], one.values), (other.codes[there], other.values)])
    own, theirs = np.split(codes, 2)
    both = (own != EMPTY) & (theirs != EMPTY)
    rows = int(np.count_nonzero(both))
    if not rows:
        return Alike(one.name, other.name, 0, 0, 0.0), 0.0
    own, theirs = own[both], theirs[both]
    shares = [np.bincount(side, minlength=len(values)) / rows for side in (own, theirs)]
    agreed = own == theirs
    by_chance = float((shares[0] * shares[1]).sum())
    # One contradiction is what people look for; of few rows it is a large share.
    share = min(float(agreed.sum() + 1) / rows, 1.0)
    bits = float(-np.log2(shares[1][own[agreed]]).sum())
    alike = Alike(one.name, other.name, int(np.count_nonzero(agreed)), rows, bits)
    return alike, 1.0 if by_chance == 1 else (share - by_chance) / (1 - by_chance)


def same_things(found: Sequence[Link], relations: dict[str, Relation]) -> Iterator[tuple[Link, tuple[Alike, ...]]]:
    """The links between the keys of two sheets that say the same in other columns, too; each pair of sheets once."""
    seen: set[frozenset[str]] = set()

    @cache
    def names_rows(sheet: str, names: tuple[str, ...]) -> bool:
        columns = [relations[sheet].by_name[name] for name in names]
        filled = not any(column.blanks for column in columns)
        return filled and tell_apart([(column.codes, len(column.values)) for column in columns])

    @cache
    def lookup(sheet: str, names: tuple[str, ...]) -> Lookup:
        columns = [relations[sheet].by_name[name] for name in names]
        return Lookup([(column.codes, column.values) for column in columns])

    for link in found:
        sides = frozenset((link.child, link.parent))
        child, parent = relations[link.child], relations[link.parent]
        if len(sides) < 2 or sides in seen or link.alike or child.of or parent.of:
            continue
        if not names_rows(link.child, link.headers) or not names_rows(link.parent, link.key):
            continue
        alike = alike_columns(link, child, parent, lookup(link.parent, link.key))
        if alike:
            seen.add(sides)
            yield link, alike
