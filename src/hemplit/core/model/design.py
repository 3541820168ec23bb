"""The design: the decisions. Which tables, columns, keys and references the sheets become, and why.

It is the one value that loading, proving, the design file and a person's edits all share.
"""

from __future__ import annotations

from enum import StrEnum
from functools import cached_property
from typing import TYPE_CHECKING

from hemplit.dataclasses import dataclass, replace

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

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


class Grain(StrEnum):
    """How many rows a sheet gives a table.

    ``ROW``: one for each of its rows; ``VALUE``: one for each different key; ``LIST``: one for each entry of the lists
    of a row of another table; ``SUBSET``: one for each row of another table that fills its columns.
    """

    ROW = "row"
    VALUE = "value"
    LIST = "list"
    SUBSET = "subset"


@dataclass(frozen=True)
class Feed:
    """Where rows of a table come from: a sheet, and which of the places in its rows that speak of such a thing."""

    sheet: str
    role: int = 0


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

    ``headers`` are those that it comes from, ``to`` the table (or ``table.column``) it refers to, ``ids`` the style of
    the ids that are made up for it; ``formula`` says that other columns give it, ``store`` whether it is kept anyway.

    A table may hold the same things from several places of a row, their roles: such a column has a header for each. It
    may hold them from several sheets: ``elsewhere`` has the headers in each of the others. A column with both headers
    and ``to`` refers to the thing that its header names. ``lowest`` is the header whose smallest value in each class a
    table of bands holds; ``part`` what a calendar says of its date.

    A reference to a table of another sheet names a row there: its headers say what stands in the columns ``named_by``,
    or in its key, in another writing where they are ``alike``. ``unmatched`` is the reference of which a column keeps
    the cells that name no row; ``along`` the reference and the column behind it, also over further ones, from which the
    view takes a header that is not stored. ``unlike`` is the reference to what several sheets tell of, of which a
    column keeps the cells that say something else than the first of these sheets.
    """

    name: str
    kind: Kind | None = None
    headers: tuple[str, ...] = ()
    to: str | None = None
    ids: str | None = None
    required: bool = False
    formula: Formula | None = None
    store: bool = True
    why: str = ""
    lowest: str | None = None
    part: str | None = None
    named_by: tuple[str, ...] = ()
    unmatched: str | None = None
    along: tuple[str, str] | None = None
    alike: bool = False
    unlike: str | None = None
    elsewhere: tuple[tuple[str, tuple[str, ...]], ...] = ()

    @property
    def source(self) -> str | None:
        """The header it comes from, of several the first."""
        return self.headers[0] if self.headers else None

    @property
    def all_headers(self) -> tuple[str, ...]:
        """All headers that it comes from, in whatever sheet, each once."""
        return tuple(dict.fromkeys((*self.headers, *(one for _, headers in self.elsewhere for one in headers))))

    @property
    def is_made(self) -> bool:
        """Whether its values stand in no cell of their own: made-up ids, lower limits, and parts of a date."""
        return self.ids is not None or self.lowest is not None or self.part is not None

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
    """One table, filled from the rows of its ``sheet``, and from others whose headers its columns name.

    ``grain`` is how many rows a sheet gives it; ``of`` the table to whose rows its lists belong, or with some of whose
    rows it goes on, under the same key. A sheet whose rows are only the combinations of independent lists has no table
    with a row for each.
    """

    name: str
    sheet: str
    purpose: Purpose
    key: tuple[str, ...]
    columns: tuple[ColumnPlan, ...]
    grain: Grain = Grain.VALUE
    unique: tuple[tuple[str, ...], ...] = ()
    why: str = ""
    rules: tuple[Rule, ...] = ()
    of: str | None = None

    @cached_property
    def by_name(self) -> dict[str, ColumnPlan]:
        return {column.name: column for column in self.columns}

    @cached_property
    def sheets(self) -> tuple[str, ...]:
        """The sheets whose rows fill it, its own first."""
        return tuple(dict.fromkeys((self.sheet, *(sheet for column in self.columns for sheet, _ in column.elsewhere))))

    @cached_property
    def feeds(self) -> tuple[Feed, ...]:
        """Where its rows come from: each of its sheets, once for each place in a row that speaks of such a thing."""
        return tuple(
            Feed(sheet, role)
            for sheet in self.sheets
            for role in range(
                max((len(self.headers_in(sheet, one)) for one in self.columns if one.to is None), default=1) or 1
            )
        )

    def headers_in(self, sheet: str, column: ColumnPlan) -> tuple[str, ...]:
        """The headers in one of its sheets from which a column comes."""
        return column.headers if sheet == self.sheet else dict(column.elsewhere).get(sheet, ())

    def feed_of(self, sheet: str, header: str) -> Feed | None:
        """Where a header of a sheet names such a thing."""
        naming = (column for column in self.columns if column.to is None and column.unmatched is None)
        own = (self.headers_in(sheet, column) for column in naming)
        return next((Feed(sheet, headers.index(header)) for headers in own if header in headers), None)

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

    def renamed(self, names: Mapping[str, str]) -> Passage:
        """The passage with other names for tables."""
        return replace(self, table=names.get(self.table, self.table), out_of=names.get(self.out_of, self.out_of))


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

    @property
    def files(self) -> str:
        """The files, of several worksheets with their names, for a person."""
        found: dict[str, list[str]] = {}
        for sheet in self.sheets:
            if sheet.file:
                found.setdefault(sheet.file, []).append(sheet.sheet or "")
        return ", ".join(file if len(names) == 1 else f"{file} [{', '.join(names)}]" for file, names in found.items())

    def sheet(self, name: str) -> SheetPlan:
        """The sheet of a name."""
        return next(sheet for sheet in self.sheets if sheet.name == name)

    def tables_of(self, sheet: str) -> tuple[TablePlan, ...]:
        """The tables that the rows of a sheet fill."""
        return tuple(table for table in self.tables if sheet in table.sheets)

    def headers_of(self, sheet: str) -> Iterator[tuple[TablePlan, ColumnPlan, str]]:
        """All headers of a sheet that tables take, with the table and the column."""
        for table in self.tables_of(sheet):
            for column in table.columns:
                for header in table.headers_in(sheet, column):
                    yield table, column, header

    def united(self, sheet: str) -> SheetPlan | None:
        """The sheet that unites one with others that tell of the same things."""
        return next((one for one in self.sheets if sheet in one.unites), None)

    def lists_of(self, sheet: str) -> tuple[TablePlan, ...]:
        """The independent lists whose combinations are the rows of a sheet."""
        return self._with_grain(sheet, Grain.LIST)

    def subsets_of(self, sheet: str) -> tuple[TablePlan, ...]:
        """The tables that go on with some rows of a sheet."""
        return self._with_grain(sheet, Grain.SUBSET)

    def base_of(self, sheet: str) -> TablePlan:
        """The table from which the rows of a sheet are put together again."""
        lists = self.lists_of(sheet)
        return self.by_name[str(lists[0].of)] if lists else self._with_grain(sheet, Grain.ROW)[0]

    def _with_grain(self, sheet: str, grain: Grain) -> tuple[TablePlan, ...]:
        return tuple(table for table in self.tables_of(sheet) if table.grain is grain)
