"""The proof and the ledger: whether the tables give the sheets back, and where every input cell went."""

from __future__ import annotations

from hemplit.core.model.acts import Act
from hemplit.dataclasses import dataclass


@dataclass(frozen=True)
class Reason:
    """So many cells that share a fate, and why."""

    reason: str
    cells: int


#: So many rows that were left out are shown; where there are more, all of them go into a file.
HANDFUL = 5


@dataclass(frozen=True)
class LeftOutRow:
    """A row of the sheet that is in no table although something stands in it: where, by which step, and what."""

    place: str
    step: str
    texts: tuple[str, ...]


@dataclass(frozen=True)
class Change:
    """A cell that a step rewrote: the row as in its address, the header, what it said, and what is kept of it.

    ``at`` are its row and its column in the grid.
    """

    file: str
    row: int
    column: str
    before: str
    after: str
    step: str
    at: tuple[int, int]


@dataclass(frozen=True)
class Ledger:
    """The account of all cells of one sheet. Each has one fate, so that the four add up to all cells.

    ``unaccounted`` are cells of which nobody knows where they went, ``twice`` those that are claimed twice.
    """

    sheet: str
    cells: int
    stored: int
    calculated: int
    changes: tuple[Reason, ...]
    left_out: tuple[Reason, ...]
    rows: tuple[LeftOutRow, ...] = ()
    unaccounted: int = 0
    twice: int = 0

    @property
    def changed(self) -> int:
        return sum(part.cells for part in self.changes)

    @property
    def set_aside(self) -> int:
        return sum(part.cells for part in self.left_out)

    @property
    def adds_up(self) -> bool:
        parts = self.stored + self.calculated + self.changed + self.set_aside
        return self.cells == parts and not self.twice


#: So many differences are spelled out; the count tells how many there are.
SHOWN = 5


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
    rows: int = 0
    """How many rows the sheets have as shaped."""
    on_purpose: tuple[str, ...] = ()
    """What was done as asked, and stands in no ledger: files that were not read, cells of known rows replaced."""

    @property
    def holds(self) -> bool:
        return all(not check.different for check in self.checks) and all(ledger.adds_up for ledger in self.ledgers)

    @property
    def needs_a_look(self) -> bool:
        """Whether a person must look at it: it does not hold, or rows of data are left out, torn ones or as asked."""
        torn = any(row.step == Act.LONG_ROWS for ledger in self.ledgers for row in ledger.rows)
        return not self.holds or torn or bool(self.on_purpose)
