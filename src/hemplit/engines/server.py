"""What the engines share that work in the database of the sheet: temporary tables on the connection of a target."""

from __future__ import annotations

from abc import ABC, abstractmethod
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any, ClassVar

import pyarrow as pa
import pyarrow.compute as pc

from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from hemplit.core.model.tables import Table, TableColumn
    from hemplit.engines.contract import EngineDialect, Staging
    from hemplit.targets.sql.session import Session


class ServerEngine(ABC):
    """Temporary tables on the connection of a target; they are gone with it."""

    dialect: EngineDialect
    #: The type for what rows come in, by Arrow's name.
    columns: ClassVar[Mapping[str, str]]
    #: What stands behind the columns of a table.
    options: ClassVar[str] = ""

    def __init__(self, session: Session) -> None:
        self.session = session
        self._known: set[str] = set()

    @contextmanager
    def working(self) -> Iterator[None]:
        """While a query of the engine runs, which may be set otherwise than what a target does."""
        yield

    @abstractmethod
    def ready(self, quoted: str, by: Sequence[str]) -> None:
        """Makes a table that is filled quick to read, which others find by some columns."""

    @abstractmethod
    def told_by(self, column: TableColumn) -> tuple[str, ...]:
        """Orders of the rows whose first ones have, besides the largest number, what decides the type of a column."""

    def stage(self, name: str) -> Staging:
        """Takes rows in pieces, and holds them under a name once all are there."""
        self._known.add(name)
        return _Staging(self, name)

    def create(self, name: str, query: str, by: Sequence[str]) -> None:
        """Makes a table of what a query finds, which others find by some columns."""
        self._known.add(name)
        with self.working():
            self.session.run(f"CREATE TEMPORARY TABLE {self.dialect.quote(name)} {self.options} AS {query}")
        self.ready(self.dialect.quote(name), [self.dialect.fit(one) for one in by])

    def rows(self, query: str) -> pa.Table:
        """What a query finds, which is little."""
        with self.working():
            names, rows = self.session.found(query)
        columns = zip(*rows, strict=True) if rows else [() for _ in names]
        return pa.table([pa.array(list(column)) for column in columns], names=list(names))

    def drop(self, names: Sequence[str]) -> None:
        """Takes away tables and staged rows, as far as they are there."""
        for name in self._known.intersection(names):
            self.session.run(f"DROP TABLE IF EXISTS {self.dialect.quote(name)}")
            self._known.remove(name)

    def with_extremes(self, table: Table, largest: Mapping[str, int]) -> Table:
        """The table with the values of its sample, and those of all rows that decide the types of its columns."""
        further: dict[str, list[Any]] = {name: [most] for name, most in largest.items()}
        for column in table.columns:
            further.setdefault(column.name, []).extend(self._first(table, column))
        return replace(table, columns=tuple(_with(one, further[one.name]) for one in table.columns))

    def _first(self, table: Table, column: TableColumn) -> Iterator[Any]:
        name = self.dialect.quote(column.name)
        for order in self.told_by(column):
            filled = f"SELECT {name} AS c0 FROM {self.dialect.quote(table.name)} WHERE {name} IS NOT NULL"
            yield from self.rows(f"{filled} ORDER BY {order} LIMIT 1").column(0).to_pylist()


def _with(column: TableColumn, further: Sequence[Any]) -> TableColumn:
    more = pa.array(further, column.values.type)
    return replace(column, values=pc.unique(pa.concat_arrays([column.values, more])))


class _Staging:
    """Puts pieces of rows into a temporary table."""

    def __init__(self, engine: ServerEngine, name: str) -> None:
        self._engine, self._name, self._is_there = engine, name, False

    def add(self, rows: pa.Table) -> None:
        """Further rows."""
        engine = self._engine
        quote, fit = engine.dialect.quote, engine.dialect.fit
        if not self._is_there:
            typed = ((field.name, engine.columns[str(field.type)]) for field in rows.schema)
            columns = ", ".join(f"{quote(name)} {kind}" for name, kind in typed)
            engine.session.run(f"CREATE TEMPORARY TABLE {quote(self._name)} ({columns}) {engine.options}")
            self._is_there = True
        engine.session.put(fit(self._name), rows.rename_columns([fit(name) for name in rows.column_names]))

    def close(self) -> None:
        """All rows are there."""
        self._engine.ready(self._engine.dialect.quote(self._name), ())
