"""PostgreSQL: all of a load in one transaction, rows by COPY in the form of CSV."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, ClassVar

import pyarrow as pa
import pyarrow.csv

from hemplit.at_once import at_once
from hemplit.core.kinds.calendar import LETTERS
from hemplit.errors import TargetError
from hemplit.servers.postgresql import SCHEMES, connect, copied, database_of, first_line
from hemplit.targets.rows import BATCH, as_texts
from hemplit.targets.sql.all_views import create_views
from hemplit.targets.sql.ddl import References, statements_of
from hemplit.targets.sql.dialect import DIGITS, Dialect, pattern_of, places_of
from hemplit.targets.sql.names import with_names
from hemplit.targets.sql.own import create_own
from hemplit.targets.sql.reserved import POSTGRESQL_WORDS
from hemplit.targets.sql.rows import LOADS, OBJECTS
from hemplit.targets.sql.server import WANTED, ServerTarget
from hemplit.targets.sql.session import Putting, Session, nobody
from hemplit.targets.sql.terms import Term, call, cast
from hemplit.targets.sql.views import select_view

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

    from hemplit.core.model.loads import Load
    from hemplit.core.model.relation import Kind
    from hemplit.core.model.tables import TableColumn, Tables, View
    from hemplit.targets.sql.own import Described

#: From so many rows a view is read in ranges of its base table, by as many connections as a small server
#: has processors. Measured at 1,048,575 x 28: 7.7 s instead of 12.3.
LARGE, CONNECTIONS, RANGES = 200_000, 2, 4
#: So long another program may hold a table of ours before we give up; in milliseconds.
PATIENCE = 20_000
#: What sorting for an index, or a join, may take: five indexes on a million rows are made in 6.0 s, and in 6.7 with the
#: 64 MB that servers give by themselves.
MEMORY = "128MB"
#: What PostgreSQL calls the parts of a date, by the letters of a form.
PARTS = {"hh": "HH24", "mm": "MI", "ss": "SS", "T": '"T"'}


class PostgresqlDialect(Dialect):
    """Strict about types; the only one in which a name is counted in bytes."""

    name = "PostgreSQL"
    reserved: ClassVar[frozenset[str] | None] = POSTGRESQL_WORDS
    longest_name = 63
    most_columns = 1_600
    forbidden = "\x00"
    types: ClassVar = {
        **Dialect.types,
        "time": "TIME WITHOUT TIME ZONE",
        "date and time": "TIMESTAMP WITHOUT TIME ZONE",
    }

    def size_of(self, name: str) -> int:
        return len(name.encode())

    def fitted_type(self, column: TableColumn, *, indexed: bool) -> str:
        if column.kind.word == "decimal" and column.kind.form:
            places = places_of(column)
            return "NUMERIC" if places is None else f"NUMERIC({DIGITS + places}, {places})"
        return super().fitted_type(column, indexed=indexed)

    def dated(self, column: Term, kind: Kind) -> Term:
        form = kind.form
        for letters, directive, _ in LETTERS:
            form = form.replace(letters, directive)
        for letters, directive, _ in LETTERS:
            form = form.replace(directive, PARTS.get(letters, letters))
        return call("to_char", column, self.value(form.replace("T", PARTS["T"])))

    def keeps_form(self, column: Term, form: str) -> Term:
        return column.compared("~", self.value(f"^{pattern_of(form)}$"))

    def listed(self, column: str, order: str, source: str, between: str) -> str:
        return f"SELECT string_agg(CAST({column} AS text), {self.literal(between)} ORDER BY {order}) {source}"

    def weekday(self, date: Term) -> Term:
        return self.part("isodow", date)

    def week(self, date: Term) -> Term:
        return call("to_char", date, self.value('IYYY-"W"IW'))

    def rounded(self, number: Term, places: int) -> Term:
        return super().rounded(cast(number, "NUMERIC"), places)


POSTGRESQL = PostgresqlDialect()
#: All that there is to a table or view, line by line; ``{schema}`` is the name of the schema as a text.
CATALOGUE = """
WITH ours AS (
    SELECT oid, relname, relrowsecurity,
        CASE relkind WHEN 'v' THEN 'view' WHEN 'r' THEN 'table' ELSE 'relation' END AS kind
    FROM pg_class WHERE relnamespace = {schema}::regnamespace AND relkind IN ('r', 'v', 'm', 'p', 'f')
)
SELECT relname, kind, 1 AS part, attnum::int AS place, concat_ws(' ',
    quote_ident(attname), format_type(atttypid, atttypmod),
    CASE WHEN attnotnull THEN 'NOT NULL' END, 'DEFAULT ' || pg_get_expr(adbin, adrelid),
    'COMMENT ' || quote_literal(col_description(ours.oid, attnum))) AS line
FROM ours JOIN pg_attribute ON attrelid = ours.oid AND attnum > 0 AND NOT attisdropped
    LEFT JOIN pg_attrdef ON adrelid = ours.oid AND adnum = attnum
UNION ALL
SELECT relname, kind, 2, 0, quote_ident(conname) || ' ' || pg_get_constraintdef(pg_constraint.oid)
FROM ours JOIN pg_constraint ON conrelid = ours.oid WHERE contype IN ('c', 'f', 'p', 'u', 'x')
UNION ALL
SELECT relname, kind, 3, 0, pg_get_indexdef(indexrelid) || CASE WHEN indisvalid THEN '' ELSE ' INVALID' END
FROM ours JOIN pg_index ON indrelid = ours.oid
UNION ALL
SELECT relname, kind, 4, 0, pg_get_triggerdef(pg_trigger.oid) || CASE tgenabled WHEN 'O' THEN '' ELSE ' DISABLED' END
FROM ours JOIN pg_trigger ON tgrelid = ours.oid WHERE NOT tgisinternal
UNION ALL
SELECT relname, kind, 5, 0, pg_get_ruledef(pg_rewrite.oid)
FROM ours JOIN pg_rewrite ON ev_class = ours.oid WHERE rulename <> '_RETURN'
UNION ALL
SELECT relname, kind, 6, 0, 'COMMENT ' || quote_literal(obj_description(ours.oid, 'pg_class')) FROM ours
WHERE obj_description(ours.oid, 'pg_class') IS NOT NULL
UNION ALL
SELECT relname, kind, 7, 0, 'ROW LEVEL SECURITY' FROM ours WHERE relrowsecurity
UNION ALL
SELECT relname, kind, 8, 0, pg_get_viewdef(ours.oid) FROM ours WHERE kind = 'view'
ORDER BY relname, part, place, line
"""
PRESENT = """
SELECT relname, CASE relkind WHEN 'v' THEN 'view' WHEN 'r' THEN 'table' WHEN 'i' THEN 'index' ELSE 'relation' END
FROM pg_class WHERE relnamespace = {schema}::regnamespace
"""


class PostgresqlSession(Session):
    """One transaction on a connection of psycopg."""

    def __init__(self, connection: Any) -> None:
        self.connection = connection

    def run(self, statement: str) -> None:
        self.connection.execute(statement)

    def rows(self, query: str) -> list[tuple[Any, ...]]:
        return list(self.connection.execute(query).fetchall())

    def first(self, query: str) -> tuple[tuple[str, ...], tuple[tuple[str, ...], ...]]:
        cursor = self.connection.execute(query)
        return tuple(column.name for column in cursor.description), tuple(map(as_texts, cursor.fetchall()))

    def put(self, table: str, rows: pa.Table, told: Callable[[int], None] = nobody) -> None:
        columns = ", ".join(map(POSTGRESQL.quote, rows.column_names))
        how = pa.csv.WriteOptions(include_header=False, quoting_style="all_valid")
        with (
            self.connection.cursor() as cursor,
            cursor.copy(f"COPY {POSTGRESQL.quote(table)} ({columns}) FROM STDIN (FORMAT csv)") as copy,
        ):
            for batch in rows.to_batches(BATCH):
                block = pa.BufferOutputStream()
                pa.csv.write_csv(batch, block, how)
                copy.write(memoryview(block.getvalue()))
                told(batch.num_rows)

    def found(self, query: str) -> tuple[tuple[str, ...], list[tuple[Any, ...]]]:
        cursor = self.connection.execute(query)
        return tuple(column.name for column in cursor.description), list(cursor.fetchall())

    def pieces(self, query: str, types: Sequence[pa.DataType]) -> Iterator[pa.Table]:
        return copied(self.connection, query, types)


class PostgresqlTarget(ServerTarget):
    """A schema of a database on a PostgreSQL server.

    >>> PostgresqlTarget.takes("postgresql://ada@yard/boats"), PostgresqlTarget.takes("yard.sqlite")
    (True, False)
    """

    dialect = POSTGRESQL
    schemes: ClassVar = SCHEMES
    driver = "postgresql+psycopg"

    def _open(self) -> Any:
        return connect(self.url, self.text)

    def _session(self, connection: Any) -> PostgresqlSession:
        session = PostgresqlSession(connection)
        # Rows come in the order in which they went in, as far as one process reads from the beginning.
        session.run(
            f"SET lock_timeout = {PATIENCE}; SET DateStyle = 'ISO'; SET client_min_messages = 'error'; "
            "SET max_parallel_workers_per_gather = 0; SET synchronize_seqscans = off; "
            f"SET maintenance_work_mem = '{MEMORY}'; SET work_mem = '{MEMORY}'"
        )
        if not self.schema:
            self.schema = str(session.rows("SELECT current_schema()")[0][0] or "public")
        session.run(f"SET search_path = {POSTGRESQL.quote(self.schema)}")
        self._check_usable(session)
        return session

    def _check_usable(self, session: Session) -> None:
        """Raises ``TargetError`` for a schema without the right to use it, whose tables seem not to exist."""
        may = f"SELECT has_schema_privilege(oid, 'USAGE') FROM pg_namespace WHERE nspname = {self._schema_literal()}"
        if session.rows(may) == [(False,)]:
            what = f"you may not use the schema '{self.schema}'"
            raise TargetError(self.text, what, "ask for the right USAGE on it, or name another schema")

    def _told(self, error: Exception) -> TargetError | None:
        import psycopg
        from psycopg import errors

        if not isinstance(error, psycopg.Error):
            return None
        said = first_line(str(error))
        what, hint = said, ""
        if isinstance(error, errors.DependentObjectsStillExist):
            detail = first_line(str(error.diag.message_detail or said))
            what = f"what Hemplit did not make depends on what it would replace ({detail})"
            hint = "load into another schema, or drop it first"
        elif isinstance(error, errors.LockNotAvailable):
            what, hint = "another program is using its tables", "try again when it is done"
        elif isinstance(error, errors.InsufficientPrivilege):
            what, hint = f"you may not do this there ({said})", "ask for the right, or name another schema"
        elif isinstance(error, errors.DiskFull):
            what, hint = f"the disk of the server is full ({said})", "nothing was written"
        elif error.sqlstate is None or error.sqlstate.startswith(("08", "57P")):
            what, hint = f"the connection was lost ({said})", "try again; prove says what is there"
        return TargetError(self.text, what, hint)

    def _database(self) -> str:
        return database_of(self.url)

    def _lock(self, session: Session) -> None:
        got = session.rows(
            f"SELECT pg_try_advisory_xact_lock(hashtext({POSTGRESQL.literal('hemplit ' + self.schema)}))"
        )
        if not got[0][0]:
            raise TargetError(self.text, "another load is writing to it", "try again when it is done")

    def _present(self, session: Session) -> dict[str, str]:
        if not self._has_schema(session):
            return {}
        return {str(name): str(kind) for name, kind in session.rows(PRESENT.format(schema=self._literal()))}

    def _has_schema(self, session: Session) -> bool:
        return bool(session.rows(f"SELECT 1 FROM pg_namespace WHERE nspname = {self._schema_literal()}"))

    def _schema_literal(self) -> str:
        return POSTGRESQL.literal(self.schema)

    def _literal(self) -> str:
        """The schema as the text that the catalogue takes for one."""
        return POSTGRESQL.literal(POSTGRESQL.quote(self.schema))

    def _catalogue(self, session: Session) -> Described:
        lines: dict[str, list[str]] = {}
        kinds: dict[str, str] = {}
        if self._has_schema(session):
            for name, kind, _, _, line in session.rows(CATALOGUE.format(schema=self._literal())):
                kinds[name] = kind
                lines.setdefault(name, []).append(line)
        return {name: (kinds[name], "\n".join(some)) for name, some in lines.items()}

    def _references(self, session: Session) -> list[tuple[str, str]]:
        query = (
            "SELECT one.relname, other.relname FROM pg_constraint JOIN pg_class AS one ON one.oid = conrelid "
            "JOIN pg_class AS other ON other.oid = confrelid "
            f"WHERE contype = 'f' AND one.relnamespace = {self._literal()}::regnamespace ORDER BY 1, conname"
        )
        return [(str(one), str(other)) for one, other in session.rows(query)]

    def _replace(
        self,
        session: Session,
        old: Sequence[tuple[str, str]],
        tables: Tables,
        loads: Sequence[Load],
        rows: Putting,
    ) -> None:
        quote = POSTGRESQL.quote
        if not self._has_schema(session):
            session.run(f"CREATE SCHEMA {quote(self.schema)}")
        for kind in ("view", "table"):
            names = [quote(name) for name, one in old if one == kind]
            if names:
                session.run(f"DROP {kind.upper()} {', '.join(names)}")
        session.run(f"DROP TABLE IF EXISTS {OBJECTS}, {LOADS}")
        for statement in create_own(POSTGRESQL):
            session.run(statement)
        schema = statements_of(tables, POSTGRESQL)
        for created in schema.values():
            session.run(created.create(References.NONE))
        for table in tables.tables:
            rows.put(session, table.name, table)
        rows.linking()
        for statement in (
            *(reference for created in schema.values() for reference in created.add_references()),
            *(index for created in schema.values() for _, index in created.indexes),
            *(comment for created in schema.values() for comment in created.comments),
            *(statement for _, statement in create_views(tables, POSTGRESQL)),
        ):
            session.run(statement)
        self._remember(session, tables)
        self._note(session, loads)

    def view(self, view: View, tables: Tables) -> Iterator[pa.Table]:
        if tables.by_name[view.base].row_count < LARGE or view.lists:
            yield from super().view(view, tables)
            return
        fitted = with_names(tables, POSTGRESQL)
        named = next(new for old, new in zip(tables.views, fitted.views, strict=True) if old is view)
        base = POSTGRESQL.quote(named.base)
        with self.opened() as session:
            pages = f"pg_relation_size({POSTGRESQL.literal(base)}) / current_setting('block_size')::int"
            size = session.rows(f"SELECT {pages}")
        starts = [int(size[0][0]) * number // RANGES for number in range(RANGES)]

        def piece(number: int) -> list[pa.Table]:
            where = f"{base}.ctid >= '({starts[number]},0)'"
            if number + 1 < RANGES:
                where += f" AND {base}.ctid < '({starts[number + 1]},0)'"
            return list(self._cells_of(view, select_view(fitted, named, POSTGRESQL, where)))

        for pieces in at_once(piece, range(RANGES), CONNECTIONS):
            yield from pieces

    def _updating(self, table: str, same: str, told: str) -> str:
        return f"UPDATE {table} AS held SET {told} FROM {WANTED} WHERE {same}"
