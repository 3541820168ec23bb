"""The tables: what a design makes of its relations, ready for any target."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

from hemplit.dataclasses import dataclass, field

if TYPE_CHECKING:
    from collections.abc import Mapping

    import numpy as np
    import numpy.typing as npt
    import pyarrow as pa

    from hemplit.core.model.design import Purpose, Rule
    from hemplit.core.model.findings import Formula
    from hemplit.core.model.grid import Codes
    from hemplit.core.model.relation import Kind
    from hemplit.core.model.tally import SavedTally


@dataclass(frozen=True)
class TableColumn:
    """One stored column: ``codes`` of shape (rows,) into the distinct ``values``, ``EMPTY`` for a blank.

    A column that refers to another shares its ``values``, so that codes can be compared without looking at texts.
    """

    name: str
    kind: Kind
    codes: Codes
    values: pa.Array
    required: bool
    comment: str = ""
    """Where it comes from and why it is, in words."""


@dataclass(frozen=True)
class Reference:
    """Foreign key: these columns point to the key columns of a table."""

    columns: tuple[str, ...]
    table: str
    table_columns: tuple[str, ...]


@dataclass(frozen=True)
class Table:
    """One table with its rows, its keys and its references."""

    name: str
    purpose: Purpose
    columns: tuple[TableColumn, ...]
    key: tuple[str, ...]
    unique: tuple[tuple[str, ...], ...]
    references: tuple[Reference, ...]
    row_count: int
    rules: tuple[Rule, ...] = ()
    comment: str = ""

    @cached_property
    def by_name(self) -> dict[str, TableColumn]:
        return {column.name: column for column in self.columns}


@dataclass(frozen=True)
class Gathered:
    """Cells that stand as rows in the view of another relation: which ``column`` of it, the headers by which its rows
    belong to one here, and the ``order`` column.

    Either the one row where ``order`` is ``at``, or all values one after the other, ``between`` them this text.
    """

    view: str
    column: str
    by: tuple[str, ...]
    order: str
    at: str | int | float | None = None
    between: str = ""


@dataclass(frozen=True)
class ViewColumn:
    """One header of a sheet: the references to follow from the base table, then the column, or the formula, or where
    its cells are gathered from. ``otherwise`` are further ones that hold it, each where those before are blank.

    ``counted`` leads to rows of another table that refer to one here, of which it says how many there are. A
    ``hidden`` one is not shown: others are calculated from it.
    """

    header: str
    kind: Kind
    path: tuple[Reference, ...] = ()
    column: str | None = None
    formula: Formula | None = None
    gathered: Gathered | None = None
    otherwise: tuple[tuple[tuple[Reference, ...], str], ...] = ()
    counted: Reference | None = None
    hidden: bool = False


@dataclass(frozen=True)
class View:
    """How the tables, joined along their references, give one sheet back.

    One that gives none back, whose ``sheet`` is blank, shows values as they are stored, and not as a sheet writes them.
    ``lists`` lead from a row of the base table to the many rows of a list that belong to it; the rows of the sheet are
    all combinations of them.
    """

    name: str
    sheet: str
    base: str
    columns: tuple[ViewColumn, ...]
    lists: tuple[Reference, ...] = ()


@dataclass(frozen=True)
class Tables:
    """All tables, each after those it refers to, and one view per sheet.

    ``base_rows`` has for each row of a sheet that was split its row in the base table; ``silent``, by table and column,
    the rows of which no sheet that was split can say anything there. ``named`` are views that say names in the place of
    ids, and ``tallies`` the saved questions.
    """

    tables: tuple[Table, ...]
    views: tuple[View, ...]
    base_rows: Mapping[str, Codes] = field(default_factory=dict)
    named: tuple[View, ...] = ()
    tallies: tuple[SavedTally, ...] = ()
    silent: Mapping[tuple[str, str], npt.NDArray[np.bool_]] = field(default_factory=dict)

    @cached_property
    def by_name(self) -> dict[str, Table]:
        return {table.name: table for table in self.tables}

    @property
    def view_names(self) -> tuple[str, ...]:
        """The names of all views."""
        views = (one.name for one in (*self.views, *self.named))
        return (*views, *(one.name for one in self.tallies))


@dataclass(frozen=True)
class Peek:
    """What a target holds of one table or view: how many rows, the first of them, and what it refers to."""

    name: str
    kind: str
    rows: int
    columns: tuple[str, ...]
    first: tuple[tuple[str, ...], ...]
    refers_to: tuple[str, ...]


@dataclass(frozen=True)
class OutlineColumn:
    """What is told of a column: its type in words, whether it may not be blank, and whether a view calculates it.

    ``ranges`` is the table of ranges that gives what is calculated, ``of`` the column that they are ranges of.
    """

    name: str
    type: str
    required: bool
    calculated: bool = False
    ranges: str = ""
    of: str = ""


@dataclass(frozen=True)
class Outline:
    """A table without its rows."""

    name: str
    purpose: Purpose | None
    columns: tuple[OutlineColumn, ...]
    key: tuple[str, ...]
    unique: tuple[tuple[str, ...], ...]
    references: tuple[Reference, ...]

    @cached_property
    def by_name(self) -> dict[str, OutlineColumn]:
        return {column.name: column for column in self.columns}
