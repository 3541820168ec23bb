"""The proof and the ledger: whether the tables give the sheets back, and where every input cell went."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class SetAside:
    """Cells that are not carried over the same, and the reason."""

    reason: str
    cells: int


@dataclass(frozen=True)
class Ledger:
    """The account of all cells of one sheet; the parts add up to the whole."""

    sheet: str
    cells: int
    carried: int
    computed: int
    """Of the carried ones, those that the view computes again instead of storing them."""
    changes: tuple[SetAside, ...]
    """The cells that a step changed, by step."""
    set_aside: tuple[SetAside, ...]

    @property
    def changed(self) -> int:
        return sum(part.cells for part in self.changes)

    @property
    def adds_up(self) -> bool:
        return self.cells == self.carried + self.changed + sum(part.cells for part in self.set_aside)


@dataclass(frozen=True)
class Difference:
    """One place where what is there is not what should be."""

    place: str
    expected: str
    found: str


@dataclass(frozen=True)
class Check:
    """One thing that was compared: in words, how many of which unit (cells or rows), and where it differed."""

    what: str
    compared: int
    unit: str
    different: int
    differences: tuple[Difference, ...]


@dataclass(frozen=True)
class Proof:
    """All checks and ledgers; it holds when nothing differs and every ledger adds up."""

    checks: tuple[Check, ...]
    ledgers: tuple[Ledger, ...]

    @property
    def holds(self) -> bool:
        return all(not check.different for check in self.checks) and all(ledger.adds_up for ledger in self.ledgers)
