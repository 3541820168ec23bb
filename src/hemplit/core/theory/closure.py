"""Closure and minimal cover of dependencies, on names alone, without any data.

After Maier, "The Theory of Relational Databases" (1983), chapters 4 and 5.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    Rule = tuple[tuple[str, ...], str]


def closure(columns: Iterable[str], rules: Sequence[Rule]) -> frozenset[str]:
    """All columns that the given ones decide, themselves among them.

    >>> sorted(closure(["Boat"], [(("Boat",), "Berth"), (("Berth",), "Dock")]))
    ['Berth', 'Boat', 'Dock']
    """
    known = set(columns)
    grown = True
    while grown:
        grown = False
        for left, right in rules:
            if right not in known and known.issuperset(left):
                known.add(right)
                grown = True
    return frozenset(known)


def minimal_cover(rules: Sequence[Rule]) -> tuple[Rule, ...]:
    """The rules without those that follow from the others, later ones dropped first.

    >>> minimal_cover([(("Boat",), "Berth"), (("Berth",), "Dock"), (("Boat",), "Dock")])
    ((('Boat',), 'Berth'), (('Berth',), 'Dock'))
    """
    kept = list(rules)
    for rule in reversed(rules):
        others = [other for other in kept if other != rule]
        if rule[1] in closure(rule[0], others):
            kept = others
    return tuple(kept)
