"""The closure of dependencies, on names alone, without any data.

After Maier, "The Theory of Relational Databases" (1983), chapter 4.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence

    Rule = tuple[tuple[str, ...], str]


class Rules:
    """Rules that are asked for many closures: each takes as long as the rules that it meets, once for each column.

    After Beeri and Bernstein, "Computational problems related to the design of normal form relational schemas" (1979).
    """

    def __init__(self, rules: Sequence[Rule]) -> None:
        by_left: dict[tuple[str, ...], list[str]] = {}
        for left, right in rules:
            by_left.setdefault(left, []).append(right)
        self._rules = [(frozenset(left), rights) for left, rights in by_left.items()]
        self._of: dict[str, list[int]] = {}
        for place, (needed, _) in enumerate(self._rules):
            for name in needed:
                self._of.setdefault(name, []).append(place)

    def closure(self, columns: Iterable[str]) -> frozenset[str]:
        """All columns that the given ones decide, themselves among them.

        >>> sorted(Rules([(("Boat",), "Berth"), (("Berth",), "Dock")]).closure(["Boat"]))
        ['Berth', 'Boat', 'Dock']
        """
        known: set[str] = set()
        todo = [*columns, *(right for left, rights in self._rules if not left for right in rights)]
        lacking: dict[int, int] = {}
        while todo:
            name = todo.pop()
            if name in known:
                continue
            known.add(name)
            for place in self._of.get(name, ()):
                left, rights = self._rules[place]
                lacking[place] = lacking.get(place, len(left)) - 1
                if not lacking[place]:
                    todo += rights
        return frozenset(known)
