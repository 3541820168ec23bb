"""Several values in a cell that another sheet lists, each in a row of its own, though nothing else shows a list.

    jobs   Job   Fitters        people   Fitter   Phone
           17    Ann, Ben                Ann      101
           18    Cas, Dee                Ben      102
                                         Cas      103
                                         Dee      104

Numbers stand in many lists, so that there the headers must speak of the same. They are taken out by the key that other
lists of the same rows have.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.model.acts import Act
from hemplit.core.model.relation import TEXT, Step
from hemplit.core.shape.alongside import alongside, and_further
from hemplit.core.shape.children import key_of
from hemplit.core.shape.working import Working, as_working
from hemplit.core.texts.listed import ANY, PLAIN, SEPARATORS, parts_of
from hemplit.core.texts.nouns import singular
from hemplit.core.texts.words import words

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from hemplit.core.model.relation import Column, Relation, Setting

#: Of so many different texts the decision is made.
LOOKED_AT = 5_000
#: At least so many values another sheet lists, and this share of them; the others may be typos.
FEWEST_LISTED, LISTED = 3, 0.9


def listed_apart(relations: Mapping[str, Relation]) -> dict[str, tuple[Step, ...]]:
    """The steps of those sheets that have several values in a cell which another sheet lists, each in a row of its own,
    by the names of the sheets."""
    found = {}
    for name, relation in relations.items():
        able = [column for column in relation.columns if column.own and column.kind == TEXT and _could_be_list(column)]
        others = (
            [one for other, some in relations.items() if other != name for one in _listings(other, some)]
            if able
            else []
        )
        steps: list[Step] = []
        for column in able:
            # What goes alongside one list is taken out with it.
            if not any(column.name in step.takes for step in steps):
                steps += _of_listed(relation, column, others)
        if steps:
            found[name] = tuple(sorted((*relation.steps, *steps), key=lambda step: Act(step.act).number))
    return found


def _listings(sheet: str, relation: Relation) -> Iterator[tuple[pa.Array, frozenset[str]]]:
    """The texts of each column that says nothing twice; numbers with the words for what they are."""
    for column in relation.columns:
        if FEWEST_LISTED <= len(column.values) == column.filled:
            if column.kind == TEXT:
                yield column.values, frozenset()
            elif column.kind.word == "whole number":
                yield pc.cast(column.values, pa.string()), _about(sheet) | _about(column.name)


def _about(header: str) -> frozenset[str]:
    """The words of a header or the name of a sheet, each in the singular."""
    return frozenset(map(singular, words(header)))


def _could_be_list(column: Column) -> bool:
    """Whether a text holds what could stand between values."""
    some = column.values.slice(0, LOOKED_AT)
    return len(some) > 1 and bool(pc.any(pc.match_substring_regex(some, ANY)).as_py())


def _of_listed(
    relation: Relation, column: Column, listings: Sequence[tuple[pa.Array, frozenset[str]]]
) -> Iterator[Step]:
    """A step for the column if its cells hold several values that a listing has, by what most of them are parted by."""
    texts = [str(text) for text in column.values.slice(0, LOOKED_AT).to_pylist()]
    parted = {by: [parts_of(text, by) for text in texts] for by in SEPARATORS}
    said = pa.array(sorted({*texts, *(part for lists in parted.values() for parts in lists for part in parts)}))
    listings = [(listing, about) for listing, about in listings if not about or about & _about(column.name)]
    known = [set(said.filter(pc.is_in(said, listing)).to_pylist()) for listing, _ in listings]
    able = [by for by, lists in parted.items() if any(_are_listed(texts, lists, listed) for listed in known)]
    if able:
        exact = {by: sum(map(str.__eq__, texts, map(PLAIN[by].join, parted[by]))) for by in able}
        by = max(able, key=exact.__getitem__)
        several = sum(len(parts) > 1 for parts in parted[by])
        working = as_working(relation)
        named = working.named(column.name)
        beside = alongside(named, by, [one for one in working.columns if one.own]) if named is not None else {}
        also = tuple(name for name, odd in beside.items() if not len(odd))
        further: tuple[tuple[str, Setting], ...] = (("alongside", also),) if also else ()
        key = _key(relation, working, (column.name, *also))
        why = f"{several:,} of {len(texts):,} distinct texts hold several values that another sheet lists"
        why += and_further(also)
        yield Step(Act.LISTS, (("column", column.name), ("into", column.name), ("by", by), *further, ("key", key)), why)


def _are_listed(texts: Sequence[str], parted: Sequence[Sequence[str]], listed: set[str]) -> bool:
    """Whether nearly all parts of the texts are listed, and none of those as a whole that have several."""
    whole = [text for text, parts in zip(texts, parted, strict=True) if len(parts) > 1]
    values = {part for parts in parted for part in parts}
    enough = bool(whole) and len(values & listed) >= max(FEWEST_LISTED, LISTED * len(values))
    return enough and listed.isdisjoint(whole)


def _key(relation: Relation, working: Working, without: Sequence[str]) -> tuple[str, ...]:
    """The key by which other lists are taken out of the rows, or what is found now."""
    taken = (step.texts("key") for step in relation.steps if step.takes and step.texts("key") and not step.proposed)
    return next(taken, ()) or key_of(working, without)
