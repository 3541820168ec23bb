"""Where the tables go that an engine made: a folder of Parquet files, or the database in which it made them."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

from hemplit.core.proof.compare import check_structure
from hemplit.core.tally.saved import with_views
from hemplit.dataclasses import dataclass, replace
from hemplit.engines.checks import compared, view_query, written_query
from hemplit.engines.fill import MADE, ROW
from hemplit.engines.proven import alike, exact, holds
from hemplit.errors import TargetError
from hemplit.targets.sql.names import with_names

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence
    from pathlib import Path

    from hemplit.core.model.design import Design
    from hemplit.core.model.progress import Progress
    from hemplit.core.model.proof import Check
    from hemplit.core.model.tables import Table, Tables
    from hemplit.engines.contract import FileEngine
    from hemplit.engines.fill import Fill
    from hemplit.engines.proven import Measures
    from hemplit.engines.server import ServerEngine
    from hemplit.targets.folder import FolderTarget
    from hemplit.targets.sql.server import ServerTarget
    from hemplit.targets.sql.session import Session


@dataclass(frozen=True)
class Made:
    """The tables of a design, without their rows, and as the engine holds them, under names of its own."""

    design: Design
    tables: Tables
    held: Tables
    measures: Mapping[str, Measures]
    """What all rows of each table tell, by the name that the engine has for it."""
    counts: Mapping[str, int]
    """How many rows each sheet has."""


class End(Protocol):
    """Where tables go."""

    def beside(self, ending: str) -> Path:
        """The file of that ending that belongs to it."""

    def write(self, made: Made, fill: Fill, before: Sequence[Check], progress: Progress) -> tuple[Tables, list[Check]]:
        """Writes the tables, and compares what was written with what the engine holds.

        Wholly or, with a ``TargetError``, not at all: not if anything differs, ``before`` or now.
        """


def _refuse(where: str, checks: Sequence[Check], written: str = "nothing was written") -> None:
    wrong = next((check for check in checks if check.different), None)
    if wrong is not None:
        shown = f" ({wrong.differences[0].expected}: {wrong.differences[0].found})" if wrong.differences else ""
        raise TargetError(where, f"NOT verified: {wrong.what}{shown}", f"{written}; load it without --engine")


class FolderEnd:
    """A folder of Parquet files."""

    def __init__(self, place: FolderTarget, engine: FileEngine, *, over: bool) -> None:
        self._place, self._engine, self._over = place, engine, over
        self.beside = place.beside

    def write(self, made: Made, fill: Fill, before: Sequence[Check], progress: Progress) -> tuple[Tables, list[Check]]:
        del fill
        _refuse(self._place.text, before)
        checks: list[Check] = []

        def make(files: Mapping[str, Path]) -> None:
            for table, held in zip(made.tables.tables, made.held.tables, strict=True):
                progress(f"writing {table.name}", 0, 1)
                columns = exact(self._engine, held, made.measures[held.name].largest)
                self._engine.save(held.name, columns, ROW, files[table.name])
                checks.append(holds(self._engine, held, self._engine.saved(files[table.name])))
            _refuse(self._place.text, checks)

        tables = replace(made.tables, views=(), named=(), tallies=())
        self._place.take(tables, make, over=self._over)
        return tables, checks


class ServerEnd:
    """The database in which the engine works, in one transaction where that undoes tables."""

    def __init__(self, target: ServerTarget, session: Session, engine: ServerEngine, *, over: bool) -> None:
        self._target, self._session, self._engine, self._over = target, session, engine, over
        self.beside = target.beside
        self._tables: Tables | None = None

    def write(self, made: Made, fill: Fill, before: Sequence[Check], progress: Progress) -> tuple[Tables, list[Check]]:
        _refuse(self._target.text, before)
        sized = tuple(
            replace(
                self._engine.with_extremes(held, made.measures[held.name].largest),
                name=table.name,
                references=table.references,
            )
            for table, held in zip(made.tables.tables, made.held.tables, strict=True)
        )
        tables = with_views(made.design, replace(made.tables, tables=sized))
        self._target.write_in(self._session, tables, (), _FromEngine(fill, made, progress), over=self._over)
        fitted = with_names(tables, self._engine.dialect)
        checks = [
            holds(self._engine, held, self._engine.dialect.quote(table.name))
            for table, held in zip(fitted.tables, made.held.tables, strict=True)
        ]
        for view in tables.views:
            sides = written_query(fill, view), view_query(fill, view)
            what, columns = f"view {view.name} gives the sheet back", len(compared(view))
            checks.append(alike(self._engine, what, sides, columns, made.counts[view.sheet]))
        _refuse(self._target.text, checks, "nothing was written" if self._target.undoes else "the tables are there")
        self._tables = tables
        return tables, checks

    def committed(self) -> list[Check]:
        """Whether the structure is as it was written, once the transaction is over."""
        assert self._tables is not None
        return [check_structure(*self._target.structure(self._tables))]


class _FromEngine:
    """Rows of tables that the engine holds in the same database."""

    def __init__(self, fill: Fill, made: Made, progress: Progress) -> None:
        self._fill, self._progress = fill, progress
        pairs = zip(made.tables.tables, made.held.tables, strict=True)
        fit = fill.dialect.fit
        self._held = {fit(table.name): held for table, held in pairs}

    def put(self, session: Session, name: str, table: Table) -> None:
        self._progress(f"writing {table.name}", 0, 1)
        quote = self._fill.dialect.quote
        columns = ", ".join(quote(column.name) for column in table.columns)
        held = quote(self._held[table.name].name)
        session.run(f"INSERT INTO {quote(name)} ({columns}) SELECT {columns} FROM {held} ORDER BY {quote(ROW)}")

    def linking(self) -> None:
        self._progress("making references, indexes and views", 0, 1)


def held_as(tables: Tables, fill: Fill) -> Tables:
    """The tables under the names that the engine has for them."""
    return with_names(tables, fill.dialect, MADE)
