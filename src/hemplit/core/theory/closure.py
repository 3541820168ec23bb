"""The closure of dependencies, on names alone, without any data.

After Maier, "The Theory of Relational Databases" (1983), chapter 4.
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
