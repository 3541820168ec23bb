"""Headers of columns that belong beside each other: the two sides of something (``From``, ``To``), and its levels."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.texts.words import words

if TYPE_CHECKING:
    from collections.abc import Sequence

#: Where the headers say no more than from and to.
WAY = ("place",)
#: Words that say the two sides of something, by what stands on them.
SIDES = {
    WAY: ("from to", "origin destination", "origin dest", "departure arrival", "pickup dropoff"),
    ("team",): ("home away", "home visitor", "home visitors", "home guest"),
    ("party",): ("sender recipient", "sender receiver", "buyer seller"),
}
#: The levels under such a word are numbered from the widest.
LEVEL = frozenset("level tier lvl ebene stufe niveau nivel".split())


def of_sides(headers: Sequence[str]) -> tuple[str, ...]:
    """What stands on both sides of something, if two headers differ only in which side they say.

    >>> of_sides(["From", "To"]), of_sides(["Crane From", "Crane To"]), of_sides(["Skipper", "Mate"])
    (('place',), ('place',), ())
    """
    said: list[set[str]] = [{*words(header)} for header in headers]
    sides = said[0].union(*said) - said[0].intersection(*said)
    return next((what for what, pairs in SIDES.items() for pair in pairs if {*pair.split()} == sides), ())


def other_side(header: str, other: str) -> bool:
    """Whether headers speak of different sides of something.

    >>> other_side("Away Club", "Home Points"), other_side("Away Club", "Away Points"), other_side("Club", "Home Boat")
    (True, False, False)
    """
    said, others = {*words(header)}, {*words(other)}
    pairs = [{*pair.split()} for pairs in SIDES.values() for pair in pairs]
    return any(len(pair & said) == len(pair & others) == 1 and pair <= said | others for pair in pairs)


def is_level_below(header: str, other: str) -> bool:
    """Whether headers say that one column has the parts of what another has: by numbers, or as it is a sub-category.

    >>> is_level_below("Level 2", "Level 1"), is_level_below("Subgroup", "Group"), is_level_below("Dock", "Pier")
    (True, True, False)
    """
    said, above = words(header), words(other)
    sub = said == ("sub", *above) or said == (f"sub{above[0]}", *above[1:]) if above else False
    counted = len(said) > 1 and said[:-1] == above[:-1] and said[-2] in LEVEL
    return sub or (
        counted and all(one[-1].isdecimal() for one in (said, above)) and int(said[-1]) == int(above[-1]) + 1
    )
