"""One connection to a database server in one transaction, and where the rows come from that are put into its tables."""

from __future__ import annotations

from abc import ABC, abstractmethod
from typing import TYPE_CHECKING, Any, Protocol

import pyarrow as pa

from hemplit.targets.rows import Written, as_stored

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

    from hemplit.core.model.progress import Progress
    from hemplit.core.model.tables import Table, Tables


def nobody(rows: int) -> None:
    """Takes no notice of how many rows are written."""


class Session(ABC):
    """One connection to a server, in one transaction."""

    @abstractmethod
    def run(self, statement: str) -> None:
        """Runs a statement that gives nothing back."""

    @abstractmethod
    def rows(self, query: str) -> list[tuple[Any, ...]]:
        """The few rows of a query."""

    @abstractmethod
    def found(self, query: str) -> tuple[tuple[str, ...], list[tuple[Any, ...]]]:
        """The names of the columns of a query, and its few rows."""

    @abstractmethod
    def put(self, table: str, rows: pa.Table, told: Callable[[int], None] = nobody) -> None:
        """Writes rows into a table, by the fastest way that the server has, and tells how many after each batch."""

    @abstractmethod
    def pieces(self, query: str, types: Sequence[pa.DataType]) -> Iterator[pa.Table]:
        """The rows of a query in pieces, their columns called by their places.

        They have these types, or all are texts if what the query gives does not fit them.
        """

    @abstractmethod
    def first(self, query: str) -> tuple[tuple[str, ...], tuple[tuple[str, ...], ...]]:
        """The names of the columns of a query, and its few rows as texts."""

    def cells(self, query: str, types: Sequence[pa.DataType]) -> pa.Table:
        """The rows of a query, each column in one piece."""
        return pa.concat_tables(self.pieces(query, types)).combine_chunks()


class Putting(Protocol):
    """Where the rows of tables come from that are there, but empty."""

    def put(self, session: Session, name: str, table: Table) -> None:
        """Puts the rows of a table into the one of that name."""

    def linking(self) -> None:
        """All rows are written, and what holds the tables together comes next."""


class FromMemory:
    """Rows that are at hand."""

    def __init__(self, tables: Tables, progress: Progress) -> None:
        self._written = Written(tables, progress)
        self.linking = self._written.linking

    def put(self, session: Session, name: str, table: Table) -> None:
        session.put(name, as_stored(table), self._written.add)
