"""The findings: what the study of a relation showed, with evidence and without any decision."""

from __future__ import annotations

from enum import Enum
from functools import cached_property
from typing import TYPE_CHECKING

from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from hemplit.core.model.grid import Source
    from hemplit.core.model.relation import Kind, Step


#: The operation of a column that follows from ranges.
BAND = "band"
#: The operation of a text that two others make up.
JOINED = "joined"
#: A sum to which a blank cell adds nothing.
TOTAL = "total"
#: The operation of a column that tells a part of a date.
DATE_PART = "part of date"
#: The operation of a date that is so many days after another; each database counts days in its own way.
DAYS_LATER = "days later"


@dataclass(frozen=True)
class ColumnFacts:
    """What can be counted of one column; lengths are in characters of the distinct texts."""

    name: str
    position: int
    kind: Kind
    rows: int
    filled: int
    distinct: int
    mean_length: float
    longest: int
    code_like: float
    """The share of distinct values that look like a code: short, without spaces, with a digit or in capitals."""
    list_like: float
    """The share of distinct values that hold a comma, semicolon, slash or bar."""
    agreement: float
    """The chance that two rows drawn at random agree in this column: the sum of the squared shares of its values."""
    examples: tuple[str, ...]
    amounts: bool = False
    """Whether the texts are amounts that are no numbers: some with a limit only, ``<0.5``, or with more digits than a
    number may have, or hours and minutes."""
    dates: bool = False
    """Whether most of the texts are dates or times, though not all: one was typed wrong, or says that there is none."""
    lowest: float | None = None
    """The smallest number; None for other kinds."""
    highest: float | None = None
    """The largest number; None for other kinds."""
    beside: bool = False
    """Whether it keeps the slips of another column."""
    in_order: bool = False
    """Whether no two rows say the same, and each says more than the one before, or each less."""
    anew: bool = False
    """Whether whole numbers count the rows from 1, and again and again anew."""

    @property
    def blanks(self) -> int:
        return self.rows - self.filled

    @property
    def repeats(self) -> bool:
        return self.distinct < self.filled


#: A dependency is certain if chance gives it in one of so many sheets, as a common logarithm, and weak past the other.
CERTAIN, LIKELY = -6.0, -2.0


class Strength(Enum):
    """How sure it is that a dependency is no coincidence."""

    CERTAIN = 1
    LIKELY = 2
    WEAK = 3


def strength_of(chance: float) -> Strength:
    """How strong what holds is, by the common logarithm of the probability that it would hold by chance.

    >>> strength_of(-200.0).name, strength_of(-0.3).name
    ('CERTAIN', 'WEAK')
    """
    return Strength.CERTAIN if chance <= CERTAIN else Strength.LIKELY if chance <= LIKELY else Strength.WEAK


@dataclass(frozen=True)
class Evidence:
    """How much a dependency has been put to the test.

    ``groups`` is how many different left sides there are, ``repeats`` how many cells of the right side only repeat what
    their left side says already, ``pairs`` how many pairs of rows could have contradicted it, and ``chance`` the common
    logarithm of the probability that it would hold if the right side were dealt out to the rows anew.
    """

    groups: int
    repeats: int
    pairs: int
    chance: float


@dataclass(frozen=True)
class Dependency:
    """Rows that agree in ``left`` agree in ``right``; an empty ``left`` says that the column is constant."""

    left: tuple[str, ...]
    right: str
    evidence: Evidence | None
    """None where there are so many dependencies that the evidence was not gathered for all."""
    blank_decides: bool = False
    """Whether the right side is filled in rows whose left side is blank."""


@dataclass(frozen=True)
class Breach:
    """A cell that breaks a dependency: what it says, what its siblings agree on, and whether it looks like a slip."""

    place: str
    value: str
    agreed: str
    twin: bool


@dataclass(frozen=True)
class Near:
    """A dependency that holds but for ``rows`` rows, a ``share`` of all; ``twins`` of them look like slips."""

    left: tuple[str, ...]
    right: str
    rows: int
    share: float
    twins: int
    breaches: tuple[Breach, ...]

    def told(self, breach: Breach) -> str:
        """What a cell says that breaks it, in words."""
        said = f"says '{breach.value}'" if breach.value else "is blank"
        others = f"say '{breach.agreed}'" if breach.agreed else "are blank"
        return f"{breach.place} {said}, the other rows of this {' + '.join(self.left)} {others}"


@dataclass(frozen=True)
class Multivalued:
    """Under each value of ``left`` the ``parts`` combine freely; in ``groups`` values more than one of them varies.

    ``separable`` says that the rows are nothing but these combinations, so that each part can be a list of its own: the
    left side is always filled, no row stands twice, and a blank in a list stands alone.
    """

    left: tuple[str, ...]
    parts: tuple[tuple[str, ...], ...]
    groups: int
    separable: bool


@dataclass(frozen=True)
class Band:
    """A column that follows from ranges of another: the lower limit and the class of each range, lowest first.

    ``values`` is how many different values of the other column bear this out.
    """

    name: str
    by: str
    limits: tuple[tuple[str, str], ...]
    values: int


@dataclass(frozen=True)
class SharedValues:
    """Two columns whose values come from one pool, ``common`` of them in both; ``alike`` are pairs of columns that say
    the same of them on either side. In ``cells`` they stand, where a row that says the same on both sides counts once.
    """

    one: str
    other: str
    common: int
    cells: int
    alike: tuple[tuple[str, str], ...] = ()

    @property
    def turned(self) -> SharedValues:
        """The same, the second column first."""
        alike = tuple((theirs, own) for own, theirs in self.alike)
        return SharedValues(self.other, self.one, self.common, self.cells, alike)


@dataclass(frozen=True)
class Link:
    """Columns of one relation whose values stand in columns of another that tell its rows apart.

    Of ``different`` values ``known`` stand there, and of ``rows`` that are filled ``matched``; ``of`` is how many
    different ones there are; of the whole numbers from the smallest to the largest that refer, the share ``dense`` is
    there, so that others would match by accident. ``alike`` ones say the same in another writing, or in other columns.
    Where fewer are known, ``near`` tells of how many more the list has one that is a slip away.
    """

    child: str
    headers: tuple[str, ...]
    parent: str
    key: tuple[str, ...]
    different: int
    known: int
    rows: int
    matched: int
    of: int
    alike: bool = False
    dense: float = 1.0
    near: int = 0


@dataclass(frozen=True)
class FilledWhere:
    """A column that is filled in exactly those ``rows`` rows in which another has one of the ``values``."""

    name: str
    by: str
    values: tuple[str, ...]
    rows: int


@dataclass(frozen=True)
class Formula:
    """A column that others compute: the operation over the operands, rounded to ``places`` decimal places.

    ``detail`` is the text between joined texts, the constant that is added, or the part of a date.
    """

    operation: str
    operands: tuple[str, ...]
    places: int = 0
    detail: str = ""


@dataclass(frozen=True)
class Computed:
    """A column and the formula that gives its value in ``rows`` rows, but for the cells that ``breaches`` names."""

    name: str
    formula: Formula
    rows: int
    breaking: int = 0
    breaches: tuple[Breach, ...] = ()


@dataclass(frozen=True)
class Trouble:
    """Something a person should look at: what, in how many cells or rows, where (up to a few), and what to do."""

    what: str
    count: int
    places: tuple[str, ...]
    hint: str


@dataclass(frozen=True)
class Findings:
    """All that is known of one relation before anything is decided."""

    source: Source
    row_count: int
    steps: tuple[Step, ...]
    columns: tuple[ColumnFacts, ...]
    keys: tuple[tuple[str, ...], ...]
    dependencies: tuple[Dependency, ...]
    computed: tuple[Computed, ...]
    trouble: tuple[Trouble, ...]
    depth: int | None
    """The most columns on the left that were looked for; None for any number."""
    unfinished: str
    """What a time limit left undone, in words; empty if nothing."""
    near: tuple[Near, ...] = ()
    multivalued: tuple[Multivalued, ...] = ()
    bands: tuple[Band, ...] = ()
    shared: tuple[SharedValues, ...] = ()
    filled_where: tuple[FilledWhere, ...] = ()
    of_sorts: frozenset[tuple[str, str]] = frozenset()
    """Columns that are filled for one sort of rows, each with the column that says of which sort a row is."""
    one_filled: tuple[tuple[str, str], ...] = ()
    closed_lists: tuple[tuple[str, tuple[str, ...]], ...] = ()
    code_forms: tuple[tuple[str, str], ...] = ()
    """Columns whose codes are all of one form, ``A`` standing for a capital letter and ``9`` for a digit."""
    nearly: frozenset[tuple[str, str]] = frozenset()
    """Columns that decide another but for a few rows: those that do exactly together with a second, or the other way
    round."""
    breaks_again: frozenset[tuple[str, str]] = frozenset()
    """Those of them in which the rows that break say the same again and again, as slips do not."""
    slips: frozenset[tuple[str, str]] = frozenset()
    """Those in which each row that breaks says the same but for a sign."""
    where_filled: tuple[Dependency, ...] = ()
    """What hold only in the rows whose left side, of one column, is filled; it is blank in a few."""
    counted: tuple[tuple[str, str, str], ...] = ()
    """Two columns and one that counts the rows under both from 1, and under neither of them alone."""
    crossed: tuple[tuple[str, str, str], ...] = ()
    """Two columns and one behind them that says when: together they tell apart rows for most things at most times."""
    of: tuple[str, ...] = ()
    """The columns that a relation shares with the one it was taken from; empty for a sheet's own."""
    in_blocks: bool = False
    """Whether its rows stood side by side in a row of that one."""

    @cached_property
    def by_name(self) -> dict[str, ColumnFacts]:
        return {facts.name: facts for facts in self.columns}

    def before(self, name: str) -> tuple[ColumnFacts, ...]:
        """The columns that stand before one, of those that are left beside lists and groups that were taken out."""
        return self.columns[: self.columns.index(self.by_name[name])]

    def behind(self, name: str) -> tuple[ColumnFacts, ...]:
        """The columns that stand behind one, as ``before``."""
        return self.columns[self.columns.index(self.by_name[name]) + 1 :]

    @cached_property
    def mistyped(self) -> frozenset[tuple[str, str]]:
        """The columns that decide another but for cells that somebody may have mistyped, as they say nothing again."""
        return self.nearly - self.breaks_again

    @cached_property
    def held(self) -> tuple[Dependency, ...]:
        """All dependencies, those too that hold where the left side is filled."""
        return (*self.dependencies, *self.where_filled)
