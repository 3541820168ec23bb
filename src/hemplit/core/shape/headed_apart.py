"""Headers side by side that another sheet lists: what stands under them is told of what they name, in rows.

    stock   Part    Loft   Quay   Total        sheds   Shed   Foreman
            Rope       4      2       6                Loft   Ann
            Cleat     12      0      12                Quay   Ben

Under all of them stands the same sort of values, and another column says of what they are told: a list of all headers
with what each means is none of these.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.model.acts import Act
from hemplit.core.model.relation import TEXT, Step
from hemplit.core.shape.children import key_of
from hemplit.core.shape.working import SHOWN, as_working
from hemplit.core.texts.nouns import singular
from hemplit.core.texts.vocabulary import FREE_TEXT, NAME
from hemplit.core.texts.words import words
from hemplit.dataclasses import dataclass, replace

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from hemplit.core.model.relation import Column, Relation

#: A list of two things names two headers by accident less seldom than three of many, but then both of them.
FEWEST, FEW = 2, 3
VALUE = "Value"
#: A sheet that is headed so lists what another has for columns, each of which says something else.
OF_COLUMNS = frozenset("field column header heading variable attribute property measure parameter spalte feld".split())
#: And one that is headed so beside a description explains words.
OF_WORDS = frozenset("term word entry label abbreviation acronym".split())


@dataclass(frozen=True)
class Listing:
    """What a ``sheet`` lists, and what one of it is called."""

    sheet: str
    label: str
    listed: frozenset[str]


def headed_apart(relations: Mapping[str, Relation]) -> dict[str, tuple[Step, ...]]:
    """The steps of those sheets whose headers another sheet lists, each with its values in rows, by their names."""
    found = {}
    for name, relation in relations.items():
        listings = [one for other, some in relations.items() if other != name for one in _listings(other, some)]
        steps = (*(_called(step, listings) for step in relation.steps), *_of_headers(relation, listings))
        if steps != relation.steps:
            found[name] = tuple(sorted(steps, key=lambda step: Act(step.act).number))
    return found


def _listings(sheet: str, relation: Relation) -> Iterator[Listing]:
    """What each column lists that says nothing twice, called by its header, or by the sheet where that is "Name";
    none of a sheet that lists columns or explains words."""
    said = {word for column in relation.columns for word in words(column.name)}
    if OF_COLUMNS & said or (OF_WORDS & said and FREE_TEXT & said):
        return
    for column in relation.columns:
        if column.kind == TEXT and FEWEST <= len(column.values) == column.filled:
            bare = NAME.issuperset(words(column.name))
            label = " ".join(map(singular, words(sheet))).capitalize() if bare else column.name
            yield Listing(sheet, label, frozenset(map(str, column.values.to_pylist())))


def _called(step: Step, listings: Sequence[Listing]) -> Step:
    """The step, if it turns into rows what another sheet lists, with what one of these is called there; and done."""
    own, into, labels = step.text("label"), step.text("into"), step.texts("labels")
    able = listings if step.act == Act.SIDEWAYS and labels else ()
    listing = next((one for one in able if one.listed.issuperset(labels)), None)
    if listing is None or (words(own) == words(listing.label) and not step.proposed):
        return step
    into = into.removesuffix(own) + listing.label if into.endswith(f" by {own}") else into
    settings = {**dict(step.settings), "into": into, "label": listing.label}
    why = f"{step.why}; {listing.sheet} lists them"
    return replace(step, settings=tuple(settings.items()), why=why, proposed=False)


def _of_headers(relation: Relation, listings: Sequence[Listing]) -> Iterator[Step]:
    """A step for the columns whose headers a sheet lists."""
    taken = {header for step in relation.steps for header in step.takes}
    for listing in listings:
        members = [one for one in relation.columns if one.name in listing.listed and one.own and one.name not in taken]
        if not _are_told(members, relation, listing.listed):
            continue
        names = tuple(column.name for column in members)
        taken.update(names)
        settings = (
            ("into", f"{VALUE} by {listing.label}"),
            ("blocks", tuple((name,) for name in names)),
            ("names", (VALUE,)),
            ("labels", names),
            ("label", listing.label),
            ("key", key_of(as_working(relation), names)),
        )
        yield Step(Act.SIDEWAYS, settings, f"{listing.sheet} lists {', '.join(names[:SHOWN])}")


def _are_told(members: Sequence[Column], relation: Relation, listed: frozenset[str]) -> bool:
    """Whether columns side by side hold values of one sort for what a list has."""
    many = len(members) >= FEW or FEWEST <= len(members) == len(listed)
    rest = len(members) < sum(column.own for column in relation.columns)
    if not many or not rest or members[-1].position - members[0].position >= len(members):
        return False
    return all(one.kind.is_number for one in members) or _share_values(members)


def _share_values(members: Sequence[Column]) -> bool:
    """Whether each column has some text that another one has."""
    pools = [{*map(str, column.values.to_pylist())} for column in members]
    return all(not pool or any(pool & other for other in pools if other is not pool) for pool in pools)
