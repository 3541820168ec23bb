"""MariaDB and MySQL, to which every statement that creates something is final.

So the rows are first written into temporary tables, which go with the connection. All that stays is then made by one
statement of many parts, which the server carries out to its end even if nobody waits for it: the new tables beside the
old ones, then all renamed at once. While the old list of what Hemplit made is still there under another name, that has
not come to its end, and whoever comes next brings the old tables back.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, ClassVar

import pyarrow as pa
import pyarrow.compute as pc

from hemplit.errors import TargetError
from hemplit.servers.mariadb import SCHEMES, connect, database_of, fetched
from hemplit.targets.mariadb_sql import CATALOGUE, DEPENDENT, MARIADB, MOST_IN_INDEX, MYSQL
from hemplit.targets.rows import BATCH, as_texts
from hemplit.targets.sql.all_views import create_views
from hemplit.targets.sql.ddl import References, statements_of
from hemplit.targets.sql.dialect import Dialect
from hemplit.targets.sql.names import with_names
from hemplit.targets.sql.own import create_own, described
from hemplit.targets.sql.rows import LOADS, OBJECTS, literals, noted
from hemplit.targets.sql.server import WANTED, ServerTarget
from hemplit.targets.sql.session import Putting, Session, nobody

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Sequence

    from hemplit.core.model.loads import Load
    from hemplit.core.model.tables import Reference, Table, Tables
    from hemplit.targets.sql.own import Described

#: Rows go out in statements of so many bytes, a quarter of what servers take.
PACKET = 1 << 22
#: What the protocol puts around a statement, and more.
ROOM = 1 << 10
#: So many letters of what went wrong the server passes on.
MESSAGE = 128
#: So long another program may hold a table of ours before we give up; in seconds.
PATIENCE = 20
NEW, OLD, STAGE = "hemplit_new_", "hemplit_old_", "hemplit_stage_"
#: The part of the catalogue that is the statement of a view.
OF_VIEW = 6
LOCK_WAIT, LOST, FORBIDDEN = 1205, (2006, 2013, 1927, 1053, 0), (1044, 1142, 1143, 1227, 1370)
#: What is said when a file cannot grow, by the system's part of the server (3, 14, 20) or by the server itself.
FULL = (3, 14, 20, 1021, 1026, 1114)


class MariadbSession(Session):
    """A connection of PyMySQL."""

    def __init__(self, connection: Any) -> None:
        self.connection = connection

    @property
    def is_mysql(self) -> bool:
        """Whether the server is not MariaDB."""
        return "mariadb" not in str(self.connection.get_server_info()).lower()

    def run(self, statement: str) -> None:
        with self.connection.cursor() as cursor:
            cursor.execute(statement)

    def rows(self, query: str) -> list[tuple[Any, ...]]:
        with self.connection.cursor() as cursor:
            cursor.execute(query)
            return list(cursor.fetchall())

    def first(self, query: str) -> tuple[tuple[str, ...], tuple[tuple[str, ...], ...]]:
        with self.connection.cursor() as cursor:
            cursor.execute(query)
            return tuple(column[0] for column in cursor.description), tuple(map(as_texts, cursor.fetchall()))

    def put(self, table: str, rows: pa.Table, told: Callable[[int], None] = nobody) -> None:
        columns = ", ".join(map(MARIADB.quote, rows.column_names))
        start = f"INSERT INTO {MARIADB.quote(table)} ({columns}) VALUES "
        most = int(self.rows("SELECT @@max_allowed_packet")[0][0]) - len(start.encode()) - ROOM
        held: list[str] = []
        size = 0
        for batch in rows.to_batches(BATCH):
            joined = pc.binary_join_element_wise(
                *(literals(column, backslashes=True) for column in batch.columns), ", "
            )
            for row, length in zip(joined.to_pylist(), pc.binary_length(joined).to_pylist(), strict=True):
                if length > most:
                    raise TargetError(table, f"a row has {length:,} bytes", f"raise max_allowed_packet above {most:,}")
                if held and size + length > min(most, PACKET):
                    self.run(f"{start}({'), ('.join(held)})")
                    held, size = [], 0
                held.append(row)
                size += length + len("), (")
            told(batch.num_rows)
        if held:
            self.run(f"{start}({'), ('.join(held)})")

    def found(self, query: str) -> tuple[tuple[str, ...], list[tuple[Any, ...]]]:
        with self.connection.cursor() as cursor:
            cursor.execute(query)
            return tuple(column[0] for column in cursor.description), list(cursor.fetchall())

    def pieces(self, query: str, types: Sequence[pa.DataType]) -> Iterator[pa.Table]:
        return fetched(self.connection, query, types)


class MariadbTarget(ServerTarget):
    """A database on a MariaDB or MySQL server.

    >>> MariadbTarget.takes("mysql://ada@yard/boats"), MariadbTarget.takes("yard.sqlite")
    (True, False)
    """

    dialect: Dialect = MARIADB
    schemes: ClassVar = SCHEMES
    driver = "mysql+pymysql"
    undoes = False

    def _open(self) -> Any:
        return connect(self.url, self.text)

    def _session(self, connection: Any) -> MariadbSession:
        if self.schema:
            what = "MariaDB and MySQL have no schemas in a database"
            raise TargetError(self.text, what, "leave --schema out, and name the database in the address")
        session = MariadbSession(connection)
        self.dialect = MYSQL if session.is_mysql else MARIADB
        session.run(
            "SET SESSION sql_mode = 'STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION', group_concat_max_len = 16777216, "
            f"lock_wait_timeout = {PATIENCE}, innodb_lock_wait_timeout = {PATIENCE}"
        )
        return session

    def _told(self, error: Exception) -> TargetError | None:
        import pymysql

        if not isinstance(error, pymysql.Error):
            return None
        code, said = (error.args[0] if error.args else 0), str(error.args[-1] if error.args else "no reason is told")
        what, hint = " ".join(said.split()), ""
        if code in LOST:
            what, hint = (
                f"the connection was lost ({what or 'the server closed it'})",
                "try again; prove says what is there",
            )
        elif code == LOCK_WAIT:
            what, hint = "another program is using its tables", "try again when it is done"
        elif code in FORBIDDEN:
            what, hint = f"you may not do this there ({what})", "ask for the right, or name another database"
        elif code in FULL:
            what, hint = f"the disk of the server is full ({what})", "nothing was written"
        return TargetError(self.text, what, hint)

    def _database(self) -> str:
        return database_of(self.url)

    def _lock(self, session: Session) -> None:
        if session.rows(f"SELECT GET_LOCK({self._lock_name()}, 0)")[0][0] != 1:
            raise TargetError(self.text, "another load is writing to it", "try again when it is done")
        self._recover(session)

    def _lock_name(self) -> str:
        return self.dialect.literal(f"hemplit {self._database()}"[:64])

    def _present(self, session: Session) -> dict[str, str]:
        kinds = {"BASE TABLE": "table", "VIEW": "view"}
        query = "SELECT TABLE_NAME, TABLE_TYPE FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE()"
        return {str(name): kinds.get(str(kind), str(kind)) for name, kind in session.rows(query)}

    def _catalogue(self, session: Session) -> Described:
        kinds: dict[str, str] = {}
        lines: dict[str, list[str]] = {}
        query = f"SELECT * FROM ({self._lines()}) AS found ORDER BY name, part, place, line"
        for name, kind, part, _, line in session.rows(query):
            kinds[name] = kinds.get(name) or kind
            if kinds[name] == "view" and part == OF_VIEW and not line:
                raise TargetError(self.text, "you may not see how its views are made", "ask for the right SHOW VIEW")
            lines.setdefault(name, []).append(str(line))
        return {name: (kinds[name], "\n".join(some)) for name, some in lines.items()}

    def _lines(self) -> str:
        """The query of the catalogue; names of checks are of a table in MariaDB, and of a database in MySQL."""
        return CATALOGUE.format(same_table="" if self.dialect is MYSQL else "AND t.TABLE_NAME = c.TABLE_NAME")

    def _schema_literal(self) -> str:
        return "DATABASE()"

    def _references(self, session: Session) -> list[tuple[str, str]]:
        query = (
            "SELECT TABLE_NAME, REFERENCED_TABLE_NAME FROM information_schema.KEY_COLUMN_USAGE "
            "WHERE TABLE_SCHEMA = DATABASE() AND REFERENCED_TABLE_NAME IS NOT NULL ORDER BY 1, CONSTRAINT_NAME"
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
        self._check_dependent(session, old)
        self._check_lengths(tables)
        staged = with_names(tables, self.dialect, STAGE)
        for table, (name, created) in zip(tables.tables, statements_of(staged, self.dialect).items(), strict=True):
            session.run(created.create(References.NONE).replace("CREATE TABLE", "CREATE TEMPORARY TABLE", 1))
            rows.put(session, name, table)
        rows.linking()
        objects, noting = (
            statement.replace("CREATE TABLE ", f"CREATE TEMPORARY TABLE {STAGE}", 1)
            for statement in create_own(self.dialect)
        )
        session.run(objects)
        session.run(noting)
        made = {**described(tables, self.dialect), LOADS: ("table", "")}
        told = [(name, kind, said, "") for name, (kind, said) in made.items()]
        columns = [list(column) for column in zip(*told, strict=True)]
        session.put(STAGE + OBJECTS, pa.table(columns, names=["name", "kind", "statement", "held"]))
        if loads:
            files = noted(loads)
            session.put(STAGE + LOADS, files.add_column(0, "load", pa.array(range(1, files.num_rows + 1))))
        statements = [*self._beside(session, tables), *self._swap(session, old, tables)]
        number = session.rows("SELECT CONNECTION_ID()")[0][0]
        try:
            self._run_as_one(session, statements)
        except BaseException:
            self._bring_back(int(number))
            raise

    def _check_lengths(self, tables: Tables) -> None:
        """Raises ``TargetError`` for texts that are too long for a key."""
        for table in tables.tables:
            for some in (table.key, *table.unique, *(one.columns for one in table.references)):
                texts = [table.by_name[name] for name in some if table.by_name[name].kind.word == "text"]
                longest = [pc.max(pc.utf8_length(column.values)).as_py() or 0 for column in texts]
                if sum(longest) > MOST_IN_INDEX:
                    what = f"'{table.name}.{texts[0].name}' is in a key and holds a text of {max(longest):,} letters"
                    raise TargetError(
                        self.text, what, f"{self.dialect.name} has keys of {MOST_IN_INDEX}; give it an id"
                    )

    def _check_dependent(self, session: Session, old: Sequence[tuple[str, str]]) -> None:
        """Raises ``TargetError`` if what others made depends on a table of ours."""
        names = ", ".join(self.dialect.literal(name) for name, _ in (*old, (OBJECTS, ""), (LOADS, "")))
        for kind, name, on in session.rows(DEPENDENT.format(ours=names)):
            what = f"its {kind} '{name}', which Hemplit did not make, depends on '{on}'"
            raise TargetError(self.text, what, "load into another database, or drop it first")

    def _beside(self, session: Session, tables: Tables) -> Iterator[str]:
        """The statements that make the new tables beside the old ones, and try the views on them."""
        quote, fit = self.dialect.quote, self.dialect.fit
        new = with_names(tables, self.dialect, NEW)
        # References have names of the whole database, and the old ones still have theirs; MySQL's checks, too.
        sorts = "'FOREIGN KEY'" if self.dialect is MARIADB else "'FOREIGN KEY', 'CHECK'"
        named = (
            "SELECT CONSTRAINT_NAME FROM information_schema.TABLE_CONSTRAINTS "
            f"WHERE TABLE_SCHEMA = DATABASE() AND CONSTRAINT_TYPE IN ({sorts})"
        )
        taken = {str(name) for (name,) in session.rows(named)}
        schema = statements_of(new, self.dialect, taken=taken, prefix=NEW)
        for statement in create_own(self.dialect):
            yield statement.replace("CREATE TABLE ", f"CREATE TABLE {NEW}", 1)
        for name in (OBJECTS, LOADS):
            yield f"INSERT INTO {NEW}{name} SELECT * FROM {STAGE}{name}"
        for table, (name, created) in zip(tables.tables, schema.items(), strict=True):
            yield created.create(References.NONE)
            yield f"INSERT INTO {quote(name)} SELECT * FROM {quote(fit(STAGE + table.name))}"
        yield from (index for created in schema.values() for _, index in created.indexes)
        yield from (self._refused(table, reference) for table in new.tables for reference in table.references)
        # That is known by then, and the server would write each table anew to find out.
        yield "SET SESSION foreign_key_checks = 0"
        yield from (reference for created in schema.values() for reference in created.add_references())
        yield "SET SESSION foreign_key_checks = 1"
        views = dict(create_views(new, self.dialect))
        yield from views.values()
        if views:
            yield f"DROP VIEW {', '.join(map(quote, views))}"

    def _refused(self, table: Table, reference: Reference) -> str:
        """The statement that fails if a row of a table refers to none."""
        what = self.dialect.literal(f"a row of {table.name} refers to no row of {reference.table}"[:MESSAGE])
        orphans = self._orphans(table, reference)
        return f"IF EXISTS ({orphans}) THEN SIGNAL SQLSTATE '45000' SET MESSAGE_TEXT = {what}; END IF"

    def _orphans(self, table: Table, reference: Reference) -> str:
        """The query for rows of a table that refer to none."""
        quote = self.dialect.quote
        pairs = [(quote(one), quote(two)) for one, two in zip(reference.columns, reference.table_columns, strict=True)]
        same = " AND ".join(f"held.{one} = other.{two}" for one, two in pairs)
        said = " AND ".join(f"held.{one} IS NOT NULL" for one, _ in pairs)
        joined = f"{quote(table.name)} AS held LEFT JOIN {quote(reference.table)} AS other ON {same}"
        return f"SELECT 1 FROM {joined} WHERE {said} AND other.{pairs[0][1]} IS NULL"

    def _add(self, session: Session, table: Table) -> None:
        """Rows that refer to later ones of their table are looked at when all are there, not one by one."""
        own = [reference for reference in table.references if reference.table == table.name]
        if not own:
            super()._add(session, table)
            return
        session.run("SET SESSION foreign_key_checks = 0")
        super()._add(session, table)
        session.run("SET SESSION foreign_key_checks = 1")
        if any(session.rows(f"{self._orphans(table, reference)} LIMIT 1") for reference in table.references):
            what = f"a new row of '{table.name}' refers to nobody"
            raise TargetError(self.text, what, "nothing was written; correct the sheet")

    def _swap(self, session: Session, old: Sequence[tuple[str, str]], tables: Tables) -> Iterator[str]:
        """The statements that put the new tables in the place of the old ones."""
        quote, fit = self.dialect.quote, self.dialect.fit
        there = self._present(session)
        aside = [*(name for name, kind in old if kind == "table"), *(one for one in (LOADS, OBJECTS) if one in there)]
        if OBJECTS not in there:
            yield f"CREATE TABLE {OLD}{OBJECTS} LIKE {NEW}{OBJECTS}"
        moves = [(name, fit(OLD + name)) for name in aside]
        moves += [(fit(NEW + name), name) for name in (*tables.by_name, OBJECTS, LOADS)]
        yield _rename(self.dialect, moves)
        views = [quote(name) for name, kind in old if kind == "view"]
        if views:
            yield f"DROP VIEW {', '.join(views)}"
        yield from (statement for _, statement in create_views(tables, self.dialect))
        yield (
            f"UPDATE {OBJECTS} JOIN (SELECT name, GROUP_CONCAT(line ORDER BY part, place, line SEPARATOR '\n') AS told "
            f"FROM ({self._lines()}) AS found GROUP BY name) AS catalogue "
            f"ON catalogue.name = {OBJECTS}.name SET {OBJECTS}.held = catalogue.told"
        )
        yield "SET SESSION foreign_key_checks = 0"
        yield f"DROP TABLE {', '.join(quote(fit(OLD + name)) for name in aside if name != OBJECTS) or OLD + OBJECTS}"
        if aside:
            yield f"DROP TABLE {OLD}{OBJECTS}"

    def _run_as_one(self, session: Session, statements: Sequence[str]) -> None:
        """Runs statements as one, which the server brings to its end."""
        body = ";\n".join(statements)
        if self.dialect is MARIADB:
            session.run(f"BEGIN NOT ATOMIC\n{body};\nEND")
            return
        session.run("DROP PROCEDURE IF EXISTS hemplit_work")
        session.run(f"CREATE PROCEDURE hemplit_work()\nBEGIN\n{body};\nEND")
        try:
            session.run("CALL hemplit_work()")
        finally:
            session.run("DROP PROCEDURE hemplit_work")

    def _bring_back(self, number: int) -> None:
        """Ends the connection of that number, if it is still at work, and brings back what there was before."""
        with self.opened() as session:
            if session.rows(f"SELECT 1 FROM information_schema.PROCESSLIST WHERE ID = {number}"):
                session.run(f"KILL {number}")
            session.rows(f"SELECT GET_LOCK({self._lock_name()}, {PATIENCE})")
            self._recover(session)

    def _recover(self, session: Session) -> None:
        """Brings back what there was before a load that did not come to its end."""
        there, fit = self._present(session), self.dialect.fit
        statements = []
        if OLD + OBJECTS in there:
            before = session.rows(f"SELECT name, kind, statement FROM {OLD}{OBJECTS}")
            mine = session.rows(f"SELECT name, kind FROM {OBJECTS}") if OBJECTS in there else []
            aside = [str(name) for name, kind, _ in before if kind == "table"]
            if mine and all(fit(OLD + name) in there for name in aside):
                statements += [_drop(self.dialect, str(name), str(kind)) for name, kind in mine if name in there]
                statements.append(f"DROP TABLE {OBJECTS}")
                if before:
                    statements.append(_rename(self.dialect, [(fit(OLD + name), name) for name in (*aside, OBJECTS)]))
                    views = {str(name): str(said) for name, kind, said in before if kind == "view"}
                    statements += [
                        said for name, said in views.items() if there.get(name) != "view" or name in dict(mine)
                    ]
        left = [name for name in there if name.startswith((NEW, OLD))]
        if statements or left:
            session.run("SET SESSION foreign_key_checks = 0")
            for statement in statements:
                session.run(statement)
            there = self._present(session)
            for name in (name for name in left if name in there):
                session.run(_drop(self.dialect, name, there[name]))
            session.run("SET SESSION foreign_key_checks = 1")

    def _updating(self, table: str, same: str, told: str) -> str:
        return f"UPDATE {table} AS held JOIN {WANTED} ON {same} SET {told}"


def _rename(dialect: Dialect, moves: Sequence[tuple[str, str]]) -> str:
    """The statement that gives tables other names, all at once."""
    return "RENAME TABLE " + ", ".join(f"{dialect.quote(one)} TO {dialect.quote(other)}" for one, other in moves)


def _drop(dialect: Dialect, name: str, kind: str) -> str:
    return f"DROP {kind.upper()} {dialect.quote(name)}"
