"""The design: the decisions. Which tables, columns, keys and references the sheets become, and why.

It is the one value that loading, proving, the design file and a person's edits all share.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from hemplit.core.model.findings import Formula
    from hemplit.core.model.relation import Kind, Step
    from hemplit.core.model.tally import Saved


class Purpose(StrEnum):
    """What the rows of a table are: the sheet's own, entries of its lists, what they speak of, words, pairs, ranges."""

    MAIN = "main"
    DETAIL = "detail"
    ENTITY = "entity"
    LOOKUP = "lookup"
    JUNCTION = "junction"
    RANGE = "range"


PURPOSES = tuple(Purpose)


@dataclass(frozen=True)
class SheetPlan:
    """One sheet that the design takes in, with the steps that shape it and the columns a person leaves out.

    A relation that a step of another sheet took out is one of its own: ``of`` is that sheet, ``part`` its name there.

    Sheets that tell of the same things are one sheet besides, which ``unites`` them. Each of ``same`` is one column:
    the header that it has in each of them, or a blank; the first ``by`` of them name the things.
    """

    name: str
    file: str
    sheet: str | None = None
    steps: tuple[Step, ...] = ()
    leave_out: tuple[str, ...] = ()
    of: str | None = None
    part: str = ""
    unites: tuple[str, ...] = ()
    same: tuple[tuple[str, ...], ...] = ()
    by: int = 1

    @property
    def is_read(self) -> bool:
        """Whether it stands in a file by itself."""
        return self.of is None and not self.unites


@dataclass(frozen=True)
class ColumnPlan:
    """One column of a table.

    ``source`` is the header it comes from, ``to`` the table (or ``table.column``) it refers to, ``ids`` the style of
    the ids that are made up for it; ``formula`` says that other columns give it, ``store`` whether it is kept anyway.

    A table may hold the same things from several places of the sheet, their roles: ``roles`` are the further headers of
    such a column. A column with both ``source`` and ``to`` refers to the thing that its header names. ``lowest`` is the
    header whose smallest value in each class a table of bands holds; ``part`` what a calendar says of its date.

    A reference to a table of another sheet names a row there: its headers say what stands in the columns ``named_by``,
    or in its key, in another writing where they are ``alike``. ``unmatched`` is the reference of which a column keeps
    the cells that name no row; ``along`` the reference and the column behind it from which the view takes a header that
    is not stored. ``unlike`` is the reference to what several sheets tell of, of which a column keeps the cells that
    say something else than the first of these sheets.
    """

    name: str
    kind: Kind | None = None
    source: str | None = None
    to: str | None = None
    ids: str | None = None
    required: bool = False
    formula: Formula | None = None
    store: bool = True
    why: str = ""
    roles: tuple[str, ...] = ()
    lowest: str | None = None
    part: str | None = None
    named_by: tuple[str, ...] = ()
    unmatched: str | None = None
    along: tuple[str, str] | None = None
    alike: bool = False
    unlike: str | None = None

    @property
    def is_made(self) -> bool:
        """Whether its values stand in no cell of their own: made-up ids, lower limits, and parts of a date."""
        return self.ids is not None or self.lowest is not None or self.part is not None

    @property
    def sources(self) -> tuple[str, ...]:
        """All headers it comes from, one for each role."""
        return (self.source, *self.roles) if self.source is not None else ()

    @property
    def target(self) -> tuple[str, str | None] | None:
        """The table and, where it is named, the column that this one refers to."""
        if self.to is None:
            return None
        table, _, column = self.to.partition(".")
        return table, column or None


class RuleKind(StrEnum):
    """What a rule asks of the cells of its columns.

    ``MIN``: no smaller number; ``ALLOWED``: a closed list; ``PATTERN``: codes of one look, A for a capital letter and 9
    for a digit; ``ONE_FILLED``: always one of two and never both; ``FILLED_ONLY_IF``: the first is filled exactly where
    the second has one of the values.
    """

    MIN = "min"
    ALLOWED = "allowed"
    PATTERN = "pattern"
    ONE_FILLED = "one_filled"
    FILLED_ONLY_IF = "filled_only_if"


@dataclass(frozen=True)
class Rule:
    """What the rows of a table keep: columns by name, and values as the sheet writes them.

    One that is only proposed is not enforced.
    """

    kind: RuleKind
    columns: tuple[str, ...]
    values: tuple[str, ...] = ()
    proposed: bool = False
    why: str = ""


@dataclass(frozen=True)
class TablePlan:
    """One table: ``each_row`` holds one row per row of its sheet, any other one row per different key.

    A sheet whose rows are only the combinations of independent lists has no table with a row for each; ``list_of`` is
    then, for each list, the table to whose rows the lists belong. ``some_of`` is the table of the sheet's rows for one
    that goes on with some of them: it has a row for each that fills its columns, under the same key.
    """

    name: str
    sheet: str
    purpose: Purpose
    key: tuple[str, ...]
    columns: tuple[ColumnPlan, ...]
    each_row: bool = False
    unique: tuple[tuple[str, ...], ...] = ()
    why: str = ""
    rules: tuple[Rule, ...] = ()
    list_of: str | None = None
    some_of: str | None = None

    @cached_property
    def by_name(self) -> dict[str, ColumnPlan]:
        return {column.name: column for column in self.columns}

    @property
    def is_calendar(self) -> bool:
        """Whether its rows are dates, each with what a calendar says of it."""
        return any(column.part is not None for column in self.columns)

    @property
    def role_count(self) -> int:
        """In how many places of a row of the sheet such a thing is spoken of."""
        return max((len(column.sources) for column in self.columns if column.to is None), default=1) or 1

    def role_of(self, header: str) -> int | None:
        """The role in which a header names such a thing."""
        own = (column.sources for column in self.columns if column.to is None and header in column.sources)
        return next((sources.index(header) for sources in own), None)

    @property
    def stored(self) -> tuple[ColumnPlan, ...]:
        return tuple(column for column in self.columns if column.store)


FORMS = ("first", "second", "third", "fourth")


@dataclass(frozen=True)
class Passage:
    """One passage to a higher normal form: the table that came out of another, with the headers that went along."""

    form: str
    table: str
    out_of: str
    headers: tuple[str, ...]
    why: str


@dataclass(frozen=True)
class Design:
    """All sheets and tables, tables in the order in which a person reads them, and the trail that led to them.

    ``told`` says what became of sections that somebody deleted; ``tallies`` are the questions that somebody saved.
    """

    sheets: tuple[SheetPlan, ...]
    tables: tuple[TablePlan, ...]
    trail: tuple[Passage, ...] = ()
    told: tuple[str, ...] = ()
    tallies: tuple[Saved, ...] = ()

    @cached_property
    def by_name(self) -> dict[str, TablePlan]:
        return {table.name: table for table in self.tables}

    def tables_of(self, sheet: str) -> tuple[TablePlan, ...]:
        return tuple(table for table in self.tables if table.sheet == sheet)

    def united(self, sheet: str) -> SheetPlan | None:
        """The sheet that unites one with others that tell of the same things."""
        return next((one for one in self.sheets if sheet in one.unites), None)

    def lists_of(self, sheet: str) -> tuple[TablePlan, ...]:
        """The independent lists whose combinations are the rows of a sheet."""
        return tuple(table for table in self.tables_of(sheet) if table.list_of is not None)

    def some_of(self, sheet: str) -> tuple[TablePlan, ...]:
        """The tables that go on with some rows of a sheet."""
        return tuple(table for table in self.tables_of(sheet) if table.some_of is not None)

    def base_of(self, sheet: str) -> TablePlan:
        """The table from which the rows of a sheet are put together again."""
        lists = self.lists_of(sheet)
        if lists:
            return self.by_name[str(lists[0].list_of)]
        return next(table for table in self.tables_of(sheet) if table.each_row)
