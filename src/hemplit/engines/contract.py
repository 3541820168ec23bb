"""What every engine can do, and how its SQL differs from that of others."""

from __future__ import annotations

from abc import abstractmethod
from typing import TYPE_CHECKING, Protocol, Self

from hemplit.targets.sql.dialect import Dialect

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence
    from pathlib import Path

    import pyarrow as pa


class EngineDialect(Dialect):
    """How an engine writes what engines write differently, besides what all databases do."""

    tells_capitals = False
    """Whether two columns may differ only in capitals."""
    is_asked_at_once = False
    """Whether one long question takes less time than several short ones."""

    def quote(self, name: str) -> str:
        """A name as a statement writes it, and as the engine can hold it."""
        return super().quote(self.fit(name))

    @abstractmethod
    def same(self, one: str, other: str) -> str:
        """The condition that two expressions say the same; two blanks do."""

    def least(self, kind: str, value: str) -> str:
        """The smallest value of a kind in a group."""
        del kind
        return f"min({value})"

    def most(self, kind: str, value: str) -> str:
        """The largest value of a kind in a group."""
        del kind
        return f"max({value})"

    def week_number(self, date: str) -> str:
        """The number of the week of ISO 8601."""
        return f"EXTRACT(WEEK FROM {date})"

    @abstractmethod
    def type_of(self, kind: str) -> str:
        """The type for a kind of values."""

    @abstractmethod
    def summed(self, columns: Sequence[str]) -> tuple[str, ...]:
        """Expressions over all rows that differ if these do, in whatever order the rows come."""


class Staging(Protocol):
    """Rows on their way into an engine."""

    def add(self, rows: pa.Table) -> None:
        """Further rows."""

    def close(self) -> None:
        """All rows are there."""


class Engine(Protocol):
    """A place where SQL runs over more rows than memory holds."""

    dialect: EngineDialect

    def stage(self, name: str) -> Staging:
        """Takes rows in pieces, and holds them under a name once all are there."""

    def create(self, name: str, query: str, by: Sequence[str]) -> None:
        """Makes a table of what a query finds, which others find by some columns."""

    def rows(self, query: str) -> pa.Table:
        """What a query finds, which is little."""

    def drop(self, names: Sequence[str]) -> None:
        """Takes away tables and staged rows, as far as they are there."""


class FileEngine(Engine, Protocol):
    """An engine that writes files."""

    def __enter__(self) -> Self:
        """It is there until the end of the block."""

    def __exit__(self, *raised: object) -> None:
        """Lets go of all that it made."""

    def save(self, name: str, columns: Mapping[str, str], order: str, path: Path) -> None:
        """Writes columns of a table as a Parquet file, each as the expression that is given for it."""

    def saved(self, path: Path) -> str:
        """A source of a query: the rows of a Parquet file."""
