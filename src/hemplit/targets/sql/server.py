"""What all targets on a database server share: one connection and one transaction for each thing that is done."""

from __future__ import annotations

import re
from abc import ABC, abstractmethod
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Any, ClassVar

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.columns.codes import distinct
from hemplit.core.model.progress import silent
from hemplit.core.model.proof import Difference
from hemplit.core.model.tables import Peek, Tables
from hemplit.core.tally.answer import groups_of_rows
from hemplit.dataclasses import replace
from hemplit.errors import TargetError, without_password
from hemplit.targets.rows import as_stored, check_signs, check_widths
from hemplit.targets.sql.dialect import MOST_IN_FOUR_BYTES
from hemplit.targets.sql.names import with_names
from hemplit.targets.sql.own import described, differing
from hemplit.targets.sql.rows import LOADS, NOTED, OBJECTS, noted, numbered
from hemplit.targets.sql.session import FromMemory
from hemplit.targets.sql.tally import explained, select_tally

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.loads import Ability, Load
    from hemplit.core.model.progress import Progress
    from hemplit.core.model.tables import Outline, Table, View
    from hemplit.core.model.tally import Groups, Part
    from hemplit.targets.sql.dialect import Dialect
    from hemplit.targets.sql.own import Described
    from hemplit.targets.sql.session import Putting, Session

#: The table, gone with the connection, that holds keys or rows which others are compared with.
WANTED = "hemplit_wanted"
TYPES = (
    "SELECT table_name, column_name, data_type, numeric_scale, character_maximum_length FROM information_schema.columns"
)
#: How what was read of a kind comes back; all else is text.
READ_AS = {"whole number": pa.int64(), "decimal": pa.float64()}
STORED_AS = {**READ_AS, "yes/no": pa.int64()}


class ServerTarget(ABC):
    """Tables in a schema of a database on a server; the address may name the schema behind a #."""

    dialect: Dialect
    schemes: ClassVar[tuple[str, ...]]
    #: What SQLAlchemy calls the driver.
    driver: ClassVar[str]
    lacks: Mapping[Ability, str] = {}
    holds_views = True
    #: Whether the end of a transaction undoes tables that it made.
    undoes: ClassVar[bool] = True
    folder: Path | None = None

    def __init__(self, text: str) -> None:
        self.url, _, self.schema = text.partition("#")
        self.text = without_password(text)

    @classmethod
    def takes(cls, text: str) -> bool:
        return text.partition("://")[0].lower() in cls.schemes and "://" in text

    # What each server does in its own way -----------------------------------------------------------------------------

    @abstractmethod
    def _open(self) -> Any:
        """Connects. Raises ``TargetError``."""

    @abstractmethod
    def _session(self, connection: Any) -> Session:
        """A session in the schema of the target."""

    @abstractmethod
    def _told(self, error: Exception) -> TargetError | None:
        """What an error of the driver means; None if it is not one."""

    @abstractmethod
    def _database(self) -> str:
        """The name of the database, as far as it is told."""

    @abstractmethod
    def _lock(self, session: Session) -> None:
        """Makes sure that no other process of ours writes there. Raises ``TargetError`` if one does."""

    @abstractmethod
    def _present(self, session: Session) -> dict[str, str]:
        """What there is in the schema: whether each name is a table, a view, or something else."""

    @abstractmethod
    def _catalogue(self, session: Session) -> Described:
        """The tables and views in the schema, as the catalogue tells of them."""

    @abstractmethod
    def _replace(
        self,
        session: Session,
        old: Sequence[tuple[str, str]],
        tables: Tables,
        loads: Sequence[Load],
        rows: Putting,
    ) -> None:
        """Makes new tables and views in the place of old ones, wholly or not at all."""

    @abstractmethod
    def _references(self, session: Session) -> list[tuple[str, str]]:
        """Each table with one that it refers to, in the order of their names."""

    @abstractmethod
    def _updating(self, table: str, same: str, told: str) -> str:
        """The statement that gives the rows ``held`` of a table what is ``told`` of the same rows in ``WANTED``."""

    # The contract -----------------------------------------------------------------------------------------------------

    def beside(self, ending: str) -> Path:
        return Path(re.sub(r"[^\w.-]", "_", self._database()) + ending)

    def check(self) -> None:
        with self.opened():
            pass

    def check_held(self) -> None:
        if not self.exists():
            raise TargetError(self.text, "Hemplit has loaded nothing into it", "load the design into it first")

    def exists(self) -> bool:
        with self.opened() as session:
            return OBJECTS in self._present(session)

    def ours(self) -> tuple[str, ...]:
        with self.opened() as session:
            return tuple(name for name, _ in self._ours(session, self._present(session)))

    def peek(self, rows: int) -> tuple[Peek, ...]:
        with self.opened() as session:
            made = self._ours(session, self._present(session))
            to = self._references(session)
            return tuple(self._peek(session, name, kind, rows, to) for name, kind in made)

    def _peek(self, session: Session, name: str, kind: str, rows: int, to: Sequence[tuple[str, str]]) -> Peek:
        quoted = self.dialect.quote(name)
        count = int(session.rows(f"SELECT count(*) FROM {quoted}")[0][0])
        columns, first = session.first(f"SELECT * FROM {quoted} LIMIT {rows}")
        pointed = tuple(dict.fromkeys(other for one, other in to if one == name))
        return Peek(name, kind, count, columns, first, pointed)

    def outlines(self) -> tuple[Outline, ...]:
        from hemplit.targets.sql.reflected import outlines_of  # a third of a second that no load needs

        names = self.ours()
        return outlines_of(self.driver, self._open, names, self.schema or None)

    def write(self, tables: Tables, loads: Sequence[Load] = (), *, over: bool, progress: Progress = silent) -> None:
        """Raises ``TargetError`` if the database refuses the tables, or others' tables stand in the way."""
        with self.opened() as session:
            self.write_in(session, tables, loads, FromMemory(tables, progress), over=over)

    def write_in(self, session: Session, tables: Tables, loads: Sequence[Load], rows: Putting, *, over: bool) -> None:
        """Makes the tables in a session that is open, whose end commits."""
        tables = with_names(tables, self.dialect)
        self._check_storable(tables)
        self._lock(session)
        there = self._present(session)
        old = self._ours(session, there)
        if OBJECTS in there and not over:
            what = "another program loaded into it in the meantime"
            raise TargetError(self.text, what, "nothing was written; load over it with --replace")
        names = {name.lower() for name, _ in old} | {OBJECTS, LOADS}
        for name in (*tables.by_name, *tables.view_names):
            other = next((one for one in there if one.lower() == name.lower()), None)
            if other is not None and other.lower() not in names:
                what = f"it holds a {there[other]} '{other}' that Hemplit did not make"
                raise TargetError(self.text, what, "rename the table in the design, or name another database")
        self._replace(session, old, tables, loads, rows)

    def _check_storable(self, tables: Tables) -> None:
        """Raises ``TargetError`` for what the database could not hold."""
        check_widths(tables, self.dialect.most_columns, self.text, self.dialect.name)
        check_signs(tables, self.dialect.forbidden, self.text, self.dialect.name)

    def expected(self, table: Table) -> pa.Table:
        return as_stored(table)

    def read(self, tables: Tables) -> dict[str, pa.Table]:
        with self.opened("it does not hold the tables of the design") as session:
            return {table.name: _named(table, session.cells(*self._rows(table))) for table in tables.tables}

    def rows(self, table: Table) -> Iterator[pa.Table]:
        with self.opened("it does not hold the tables of the design") as session:
            for piece in session.pieces(*self._rows(table)):
                yield _named(table, piece)

    def held(self, tables: Tables) -> dict[str, pa.Table]:
        return self.read(tables)

    def _rows(self, table: Table, source: str = "") -> tuple[str, list[pa.DataType]]:
        """The query for rows of a table, all or those that a source calls ``held``, and the types of its columns."""
        quote, fit = self.dialect.quote, self.dialect.fit
        columns = [f"held.{quote(fit(column.name))}" for column in table.columns]
        shown = [
            f"CASE WHEN {name} THEN 1 WHEN NOT {name} THEN 0 END" if column.kind.word == "yes/no" else name
            for name, column in zip(columns, table.columns, strict=True)
        ]
        query = f"SELECT {', '.join(shown)} FROM {source or quote(fit(table.name)) + ' AS held'}"
        return query, [STORED_AS.get(column.kind.word, pa.string()) for column in table.columns]

    def counts(self, tables: Tables) -> dict[str, int]:
        with self.opened("it does not hold the tables of the design") as session:
            return {
                table.name: int(session.rows(f"SELECT count(*) FROM {self._quoted(table.name)}")[0][0])
                for table in tables.tables
            }

    def _quoted(self, name: str) -> str:
        return self.dialect.quote(self.dialect.fit(name))

    def matching(self, table: Table, keys: pa.Table) -> pa.Table:
        with self.opened("it does not hold the tables of the design") as session:
            self._want(session, table.name, keys)
            names = [self._quoted(name) for name in keys.column_names]
            same = " AND ".join(f"held.{name} = wanted.{name}" for name in names)
            wanted = f"(SELECT DISTINCT {', '.join(names)} FROM {WANTED}) AS wanted"
            query, types = self._rows(table, f"{wanted} JOIN {self._quoted(table.name)} AS held ON {same}")
            return _named(table, session.cells(query, types))

    def _want(self, session: Session, table: str, rows: pa.Table) -> None:
        """Puts rows, some columns of a table, beside it for this session."""
        names = ", ".join(self._quoted(name) for name in rows.column_names)
        session.run(f"DROP TABLE IF EXISTS {WANTED}")
        session.run(f"CREATE TEMPORARY TABLE {WANTED} AS SELECT {names} FROM {self._quoted(table)} LIMIT 0")
        session.put(WANTED, rows.rename_columns([self.dialect.fit(name) for name in rows.column_names]))

    def loads(self) -> tuple[Load, ...]:
        with self.opened() as session:
            if LOADS not in self._present(session):
                return ()  # the proof of the structure tells
            names = ", ".join(map(self.dialect.quote, NOTED))
            load = self.dialect.quote("load")
            return numbered(session.rows(f"SELECT {load}, {names} FROM {LOADS} ORDER BY {load}"))

    def append(self, added: Sequence[Table], changed: Sequence[Table], loads: Sequence[Load]) -> None:
        new, others = (with_names(Tables(tuple(some), ()), self.dialect) for some in (added, changed))
        self._check_storable(new)
        with self.opened("the database refuses the rows") as session:
            self._lock(session)
            self._check_fit(session, (*new.tables, *others.tables))
            for table in new.tables:
                self._add(session, table)
            for table in others.tables:
                self._update(session, table)
            self._note(session, loads)

    def _update(self, session: Session, table: Table) -> None:
        """Gives rows of a table, known by their keys, other values."""
        quote = self.dialect.quote
        others = [column.name for column in table.columns if column.name not in table.key]
        if not others or not table.row_count:
            return
        self._want(session, table.name, as_stored(table))
        told, same = (
            between.join(f"{held}{quote(name)} = {WANTED}.{quote(name)}" for name in names)
            for names, between, held in ((others, ", ", self.dialect.own_column), (table.key, " AND ", "held."))
        )
        session.run(self._updating(quote(table.name), same, told))

    def _add(self, session: Session, table: Table) -> None:
        """Puts rows behind those of a table."""
        session.put(table.name, as_stored(table))

    def _check_fit(self, session: Session, tables: Sequence[Table]) -> None:
        """Raises ``TargetError`` for values that the columns, made for those before, would round, cut or refuse."""
        rows = session.rows(f"{TYPES} WHERE table_schema = {self._schema_literal()}")
        made = {(str(table), str(column)): told for table, column, *told in rows}
        for table in tables:
            for column in table.columns:
                sort, scale, length = made.get((table.name, column.name), ("", None, None))
                used = column.values.take(pa.array(distinct(column.codes[column.codes >= 0])))
                what, bad = _too_much(used, str(sort).lower(), scale, length)
                if bad is not None:
                    said = f"'{table.name}.{column.name}' holds {what} there, and a new row has '{bad}'"
                    raise TargetError(self.text, said, "correct the sheet, or load all sheets again with --replace")

    @abstractmethod
    def _schema_literal(self) -> str:
        """The name of the schema, as a text of SQL."""

    def _note(self, session: Session, loads: Sequence[Load]) -> None:
        """Writes down what was loaded."""
        if loads:
            before = int(session.rows(f"SELECT count(*) FROM {LOADS}")[0][0])
            told = noted(loads)
            numbers = pa.array(range(before + 1, before + 1 + told.num_rows))
            session.put(LOADS, told.add_column(0, "load", numbers))

    def _remember(self, session: Session, tables: Tables) -> None:
        """Writes down what was made, and what the catalogue says of it."""
        there = self._catalogue(session)
        made = {**described(tables, self.dialect), LOADS: ("table", "")}
        columns = zip(*((name, kind, said, there[name][1]) for name, (kind, said) in made.items()), strict=True)
        rows = pa.table([list(column) for column in columns], names=["name", "kind", "statement", "held"])
        session.put(OBJECTS, rows)

    def structure(self, tables: Tables) -> tuple[int, Sequence[Difference]]:
        """Compares what the catalogue says now with what it said when all had just been made as the design says."""
        expected = described(with_names(tables, self.dialect), self.dialect)
        with self.opened() as session:
            there = self._catalogue(session)
            try:
                rows = session.rows(f"SELECT name, kind, statement, held FROM {OBJECTS} ORDER BY name")
            except Exception as error:
                told = self._told(error)
                if told is None:
                    raise
                found = f"nothing ({told.what})"
                return len(expected), [Difference(OBJECTS, "the list of what Hemplit made", found)]
        remembered = {str(name): (str(kind), str(said), str(held)) for name, kind, said, held in rows}
        return len(expected), [*differing(expected, remembered, there)]

    def order(self, base: Table) -> npt.NDArray[np.int64]:
        return np.arange(base.row_count)

    def some_of_view(self, view: View, tables: Tables, picked: npt.NDArray[np.bool_]) -> Iterator[pa.Table] | None:
        return None

    def view(self, view: View, tables: Tables) -> Iterator[pa.Table]:
        return self._cells_of(view, f"SELECT * FROM {self._quoted(view.name)}")

    def _cells_of(self, view: View, query: str) -> Iterator[pa.Table]:
        """What a query gives of the columns of a view, in pieces."""
        types = [
            pa.string() if column.gathered is not None and column.gathered.between else _shown_as(column.kind.word)
            for column in view.columns
        ]
        with self.opened(f"the view '{view.name}' cannot be read") as session:
            yield from session.pieces(query, types)

    def tally(self, part: Part, tables: Tables, places: Mapping[str, int]) -> Groups:
        statement = self._tally(part, tables, plain=False)
        with self.opened("it does not hold the tables of the design") as session:
            return groups_of_rows(part, session.rows(statement), places)

    def tally_text(self, part: Part, tables: Tables) -> str:
        return explained(part, self._tally(part, tables, plain=True))

    def _tally(self, part: Part, tables: Tables, *, plain: bool) -> str:
        fitted = with_names(replace(tables, views=(part.view,)), self.dialect)
        part = replace(part, view=fitted.views[0])
        return select_tally(fitted, part, self.dialect, plain=plain)

    def _ours(self, session: Session, there: dict[str, str]) -> list[tuple[str, str]]:
        """What Hemplit made, as far as it is still there, with its kind, tables first."""
        if OBJECTS not in there:
            return []
        listed = [
            (str(name), str(kind)) for name, kind in session.rows(f"SELECT name, kind FROM {OBJECTS} ORDER BY name")
        ]
        return sorted(
            ((name, kind) for name, kind in listed if there.get(name) == kind and name != LOADS),
            key=lambda one: (one[1], one[0]),
        )

    @contextmanager
    def opened(self, doing: str = "") -> Iterator[Session]:
        """A session whose end commits; what the driver raises is told, and undoes all."""
        connection = self._open()
        try:
            session = self._session(connection)
            yield session
            connection.commit()
        except BaseException as error:
            told = self._told(error) if isinstance(error, Exception) else None
            self._undo(connection)
            if told is None:
                raise
            what = f"{doing} ({told.what})" if doing and not told.hint else told.what
            raise TargetError(self.text, what, told.hint or "look at the design, or load it again") from error
        finally:
            connection.close()

    def _undo(self, connection: Any) -> None:
        try:
            connection.rollback()
        except Exception as error:
            if self._told(error) is None:
                raise


def _named(table: Table, cells: pa.Table) -> pa.Table:
    return cells.rename_columns([column.name for column in table.columns])


def _too_much(values: pa.Array, sort: str, scale: Any, length: Any) -> tuple[str, Any]:
    """What a column holds, and the first value that is none of that; None if all are."""
    if sort in ("integer", "int") and pa.types.is_integer(values.type):
        bad = pc.greater(pc.abs(values), MOST_IN_FOUR_BYTES)
        what = f"numbers up to {MOST_IN_FOUR_BYTES:,}"
    elif sort in ("numeric", "decimal") and scale is not None and pa.types.is_floating(values.type):
        bad = pc.not_equal(pc.round(values, int(scale), round_mode="half_to_even"), values)
        what = f"{int(scale)} decimal places"
    elif sort in ("character varying", "varchar") and length is not None and pa.types.is_string(values.type):
        bad = pc.greater(pc.utf8_length(values), int(length))
        what = f"texts of {int(length)} letters"
    else:
        return "", None
    found = values.filter(bad)
    return what, found[0].as_py() if len(found) else None


def _shown_as(kind: str) -> pa.DataType:
    return READ_AS.get(kind, pa.string())
