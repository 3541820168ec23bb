"""A tally: numbers added up by columns of the tables, along their references."""

from __future__ import annotations

from decimal import Context, Decimal
from enum import StrEnum
from typing import TYPE_CHECKING

from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from hemplit.core.model.tables import View


#: As many digits as any sum of ours can have.
EXACT = Context(prec=60)


class Aggregate(StrEnum):
    """What becomes of the values of a group: as a person writes it before "of"."""

    SUM = "sum"
    NUMBER = "number"
    AVERAGE = "average"
    SMALLEST = "smallest"
    LARGEST = "largest"


class DatePart(StrEnum):
    """What is told of a date: as a person writes it before "of"."""

    YEAR = "year"
    QUARTER = "quarter"
    MONTH = "month"
    WEEK = "week"
    WEEKDAY = "weekday"


class Sign(StrEnum):
    """What a condition asks of a cell."""

    IS = "="
    IS_NOT = "!="
    LESS = "<"
    AT_MOST = "<="
    MORE = ">"
    AT_LEAST = ">="
    BLANK = "is blank"
    FILLED = "is filled"


@dataclass(frozen=True)
class Ask:
    """What somebody wants to know, in the words in which it was asked."""

    of: tuple[str, ...]
    by: tuple[str, ...] = ()
    across: str = ""
    where: tuple[str, ...] = ()


@dataclass(frozen=True)
class Saved:
    """A question that a design keeps under a name."""

    name: str
    ask: Ask


@dataclass(frozen=True)
class Flat:
    """Where a column of a tally stands in the flat sheets.

    ``links`` lead to another sheet first: the headers that name a row, that sheet, and its headers that name the row.
    """

    sheet: str
    header: str
    links: tuple[tuple[tuple[str, ...], str, tuple[str, ...]], ...] = ()


@dataclass(frozen=True)
class Grouped:
    """One column by which is told apart: its ``title``, the ``header`` in the view of its part, the part of its date.

    ``flat`` is None where the flat sheets cannot be followed so far.
    """

    title: str
    header: str
    part: DatePart | None = None
    flat: Flat | None = None


@dataclass(frozen=True)
class Measure:
    """What is counted: a column of a view, or its rows where there is no ``header``."""

    title: str
    aggregate: Aggregate
    header: str | None = None
    flat: Flat | None = None


@dataclass(frozen=True)
class Condition:
    """What a column must be for a row to count; ``values`` as the sheet writes them, any of which will do."""

    header: str
    sign: Sign
    values: tuple[str, ...] = ()
    flat: Flat | None = None


@dataclass(frozen=True)
class Part:
    """What has one row of one table for each that counts: its measures, and how all other columns are reached from it.

    ``view`` has the columns under headers of their own. ``each`` are the headers of ``sheet`` that tell two rows of
    the table apart, none where each row of the sheet is one; rows in which some of these are blank are told apart by
    the headers ``unnamed`` as well, if there are any.
    """

    view: View
    sheet: str
    each: tuple[str, ...]
    unnamed: tuple[str, ...]
    by: tuple[Grouped, ...]
    measures: tuple[Measure, ...]
    where: tuple[Condition, ...]

    @property
    def flats(self) -> tuple[Flat | None, ...]:
        """Where all that is asked for stands in the flat sheets."""
        return (
            *(one.flat for one in self.by),
            *(one.flat for one in self.where),
            *(one.flat for one in self.measures if one.header is not None),
        )


@dataclass(frozen=True)
class Tally:
    """All parts of an answer, grouped alike; the last group goes ``across`` if it is told so."""

    parts: tuple[Part, ...]
    across: bool = False

    @property
    def by(self) -> tuple[Grouped, ...]:
        return self.parts[0].by

    @property
    def measures(self) -> tuple[Measure, ...]:
        return tuple(measure for part in self.parts for measure in part.measures)


@dataclass(frozen=True)
class SavedTally:
    """What a saved question means: a tally of one part, which a view of that name answers."""

    name: str
    tally: Tally

    @property
    def part(self) -> Part:
        return self.tally.parts[0]


@dataclass(frozen=True)
class Summed:
    """What is known of the values of one group."""

    count: int = 0
    total: Decimal = Decimal(0)
    least: Decimal | None = None
    most: Decimal | None = None

    def __add__(self, other: Summed) -> Summed:
        least = [one for one in (self.least, other.least) if one is not None]
        most = [one for one in (self.most, other.most) if one is not None]
        return Summed(
            self.count + other.count,
            EXACT.add(self.total, other.total),
            min(least, default=None),
            max(most, default=None),
        )

    def value(self, aggregate: Aggregate) -> Decimal | int | None:
        """The number that is asked for; None where no cell is filled."""
        if aggregate is Aggregate.NUMBER:
            return self.count
        if not self.count:
            return None
        match aggregate:
            case Aggregate.SUM:
                return self.total
            case Aggregate.AVERAGE:
                return self.total / self.count
            case Aggregate.SMALLEST:
                return self.least
            case _:
                return self.most


#: The groups of a tally, each with what is known of every measure; None in a group is a blank.
Groups = dict[tuple[str | None, ...], tuple[Summed, ...]]
