"""Which sheets tell of the same things: they name them by the same keys, and say the same of them in other columns.

Evidence is counted in bits: a value that few things have says much where both sheets agree on it, and a single yes
or no says nothing.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import stack
from hemplit.core.columns.partners import partners
from hemplit.core.model.grid import EMPTY
from hemplit.core.texts.words import words

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.model.findings import Link
    from hemplit.core.model.relation import Column, Relation

#: So large a share of what both sheets say of the same things has to agree, beyond what would by accident.
AGREE = 0.8
#: So many bits that two columns say the same are no accident, whatever was compared; and of headers with one word.
BITS, BITS_OF_NAMED = 12.0, 6.0


@dataclass(frozen=True)
class Alike:
    """A column of each of two sheets that say the same of the same things: in how many rows, of how many in which both
    say something, and the bits against an accident."""

    header: str
    other: str
    agreed: int
    rows: int
    bits: float


def alike_columns(link: Link, child: Relation, parent: Relation) -> tuple[Alike, ...]:
    """The columns beside a link that say the same on both sides; none if it could be an accident."""
    own = [(child.by_name[name].codes, child.by_name[name].values) for name in link.headers]
    theirs = [(parent.by_name[name].codes, parent.by_name[name].values) for name in link.key]
    partner = partners(own, theirs)
    here = np.flatnonzero(partner != EMPTY)
    pairs = list(_pairs(link, child, parent, here, partner[here]))
    pairs.sort(key=lambda one: (words(one.header) != words(one.other), -one.bits))
    chosen: list[Alike] = []
    for one in pairs:
        if one.header not in {other.header for other in chosen} and one.other not in {pair.other for pair in chosen}:
            chosen.append(one)
    return tuple(chosen)


def _pairs(
    link: Link,
    child: Relation,
    parent: Relation,
    here: npt.NDArray[np.intp],
    there: npt.NDArray[np.int64],
) -> Iterator[Alike]:
    free = [one for one in child.columns if one.name not in link.headers]
    others = [one for one in parent.columns if one.name not in link.key]
    tried = np.log2(max(len(free) * len(others), 1))
    for one in free:
        for other in others:
            if one.kind.word == other.kind.word:
                made = _compared(one, other, here, there)
                named = bool({*words(one.name)} & {*words(other.name)})
                if made is not None and made.bits >= (BITS_OF_NAMED if named else BITS) + tried:
                    yield made


def _compared(one: Column, other: Column, here: npt.NDArray[np.intp], there: npt.NDArray[np.int64]) -> Alike | None:
    """Two columns on the rows of the same things; None if they do not agree more than by accident."""
    codes, values = stack([(one.codes[here], one.values), (other.codes[there], other.values)])
    own, theirs = np.split(codes, 2)
    both = (own != EMPTY) & (theirs != EMPTY)
    rows = int(np.count_nonzero(both))
    if not rows:
        return None
    own, theirs = own[both], theirs[both]
    shares = [np.bincount(side, minlength=len(values)) / rows for side in (own, theirs)]
    agreed = own == theirs
    by_chance = float((shares[0] * shares[1]).sum())
    # One contradiction is what people look for; of few rows it is a large share.
    share = min(float(agreed.sum() + 1) / rows, 1.0)
    if by_chance == 1 or (share - by_chance) / (1 - by_chance) < AGREE:
        return None
    bits = float(-np.log2(shares[1][own[agreed]]).sum())
    return Alike(one.name, other.name, int(np.count_nonzero(agreed)), rows, bits)


def same_things(found: Sequence[Link], relations: dict[str, Relation]) -> Iterator[tuple[Link, tuple[Alike, ...]]]:
    """The links between the keys of two sheets that say the same in other columns, too; each pair of sheets once."""
    seen: set[frozenset[str]] = set()
    for link in found:
        sides = frozenset((link.child, link.parent))
        child, parent = relations[link.child], relations[link.parent]
        if len(sides) < 2 or sides in seen or link.alike or child.of or parent.of:
            continue
        if not _names_rows(child, link.headers) or not _names_rows(parent, link.key):
            continue
        alike = alike_columns(link, child, parent)
        if alike:
            seen.add(sides)
            yield link, alike


def _names_rows(relation: Relation, names: Sequence[str]) -> bool:
    """Whether columns are filled in all rows and tell them apart."""
    columns = [relation.by_name[name] for name in names]
    if any(column.blanks for column in columns):
        return False
    rows = np.unique(np.stack([column.codes for column in columns]), axis=1) if len(columns) > 1 else columns[0].values
    return (rows.shape[1] if len(columns) > 1 else len(rows)) == relation.row_count
