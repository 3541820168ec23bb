"""The embedded default: one SQLite file.

A new file is written beside its final name and put in place when it is whole. Into one that is there already the tables
go in one transaction. ``hemplit_objects`` remembers in it what is ours; nothing else is ever touched.

Two copies of SQLite are at work in this process, whose locks do not know each other: no file is open in both at once.
"""

from __future__ import annotations

import os
import re
import sqlite3
from contextlib import closing
from pathlib import Path
from typing import TYPE_CHECKING, Any

import adbc_driver_manager
import adbc_driver_sqlite.dbapi
import numpy as np
import pyarrow as pa

from hemplit.at_once import at_once
from hemplit.core.model.loads import Load
from hemplit.core.model.progress import silent
from hemplit.core.model.proof import Difference
from hemplit.core.model.tables import Peek
from hemplit.core.tally.answer import groups_of_rows
from hemplit.dataclasses import replace
from hemplit.disk import put_new, unfinished
from hemplit.errors import TargetError
from hemplit.servers.sqlite import connect
from hemplit.targets.rows import as_stored, as_texts, check_widths, told
from hemplit.targets.sql.rows import LOADS, NOTED, OBJECTS, numbered
from hemplit.targets.sql.tally import explained, select_tally
from hemplit.targets.sql.views import select_view
from hemplit.targets.sqlite_catalogue import (
    CREATE_LOADS,
    CREATE_OBJECTS,
    SQLITE,
    asking,
    catalogue_of,
    compared,
    expected_objects,
    ours_in,
)
from hemplit.targets.sqlite_rows import (
    ends_of,
    fetched,
    fill,
    note,
    read_rows,
    reason_of,
    row_id_of,
    update,
    want,
    without_bytes,
)
from hemplit.targets.sqlite_tally import large_tally

if TYPE_CHECKING:
    from collections.abc import Callable, Iterator, Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.loads import Ability
    from hemplit.core.model.progress import Progress
    from hemplit.core.model.tables import Outline, Table, Tables, View
    from hemplit.core.model.tally import Groups, Part
    from hemplit.targets.sqlite_catalogue import Catalogue, Run

ENDINGS = (".sqlite", ".sqlite3", ".db")
BEGINNING = b"SQLite format 3\x00"
#: What other programs leave beside a database that they did not close.
LEFTOVERS = ("-wal", "-journal")
#: The file counts only when it is whole and in place, so nothing needs to be made safe while it is written.
UNFINISHED = ("PRAGMA journal_mode = OFF", "PRAGMA synchronous = OFF")
#: From so many rows a view is read in pieces, two at a time, so that it needs little memory; the pieces have so many.
#: Measured at 1,048,575 x 28: 4.1 s instead of 7.7.
LARGE, PIECE, THREADS = 200_000, 1 << 16, 2
#: So many rows are picked in one query, which names them all. Measured: 4,096 to 16,384 take the same time,
#: 1,024 a third more.
PICKED = 1 << 13


class SqliteTarget:
    """A SQLite file.

    >>> SqliteTarget.takes("yard.sqlite"), SqliteTarget.takes("yard.csv")
    (True, False)
    """

    lacks: Mapping[Ability, str] = {}
    holds_views = True

    def __init__(self, text: str) -> None:
        self.text = text
        self.path = Path(text)
        self.folder: Path | None = self.path.absolute().parent
        self._made: tuple[Tables, Mapping[str, tuple[str, str]]] | None = None

    @classmethod
    def takes(cls, text: str) -> bool:
        return "://" not in text and Path(text).suffix.lower() in ENDINGS

    def beside(self, ending: str) -> Path:
        return self.path.with_name(self.path.name.rsplit(".", 1)[0] + ending)

    def _objects(self, tables: Tables) -> Mapping[str, tuple[str, str]]:
        """What writing makes and the proof expects; a tenth of a second for a dozen tables, and so made once."""
        if self._made is None or self._made[0] is not tables:
            self._made = (tables, expected_objects(tables))
        return self._made[1]

    def check(self) -> None:
        if self.path.is_dir():
            raise TargetError(self.text, "this is a folder", "name a file in it")
        if not self.path.parent.is_dir():
            raise TargetError(self.text, "its folder does not exist", f"make the folder {self.path.parent} first")
        if self.exists():
            self._check_database()
            if not os.access(self.path, os.W_OK):
                raise TargetError(self.text, "it may not be written to", "choose another file")
            return
        if not os.access(self.path.parent, os.W_OK):
            raise TargetError(self.text, "nothing may be written to its folder", "choose another folder")
        for ending in LEFTOVERS:
            leftover = Path(f"{self.path}{ending}")
            if leftover.exists():
                raise TargetError(
                    self.text,
                    f"another program left {leftover.name} beside it, which would mix old rows into a new file",
                    "delete or move it",
                )

    def _check_database(self) -> None:
        try:
            with self.path.open("rb") as file:
                beginning = file.read(len(BEGINNING))
        except OSError as error:
            raise self._unwritable(error) from error
        if beginning and beginning != BEGINNING:
            raise TargetError(self.text, "this is not a SQLite database", "name another file")

    def _unwritable(self, error: OSError) -> TargetError:
        return TargetError(self.text, f"it cannot be written ({error.strerror})", "close it in other programs")

    def exists(self) -> bool:
        return self.path.exists()

    def ours(self) -> tuple[str, ...]:
        if not self.exists():
            return ()
        try:
            with closing(self._open()) as connection:
                return tuple(ours_in(catalogue_of(connection.execute), connection.execute))
        except sqlite3.Error as error:
            raise TargetError(self.text, f"it cannot be read ({error})", "close it in other programs") from error

    def peek(self, rows: int) -> tuple[Peek, ...]:
        found = []
        try:
            with closing(self._open()) as connection:
                there = catalogue_of(connection.execute)
                for name in ours_in(there, connection.execute):
                    quoted = SQLITE.quote(name)
                    count = connection.execute(f"SELECT count(*) FROM {quoted}").fetchone()[0]
                    cursor = connection.execute(f"SELECT * FROM {quoted} LIMIT {rows}")
                    columns = tuple(column[0] for column in cursor.description)
                    first = tuple(map(as_texts, cursor))
                    listed = connection.execute(f"PRAGMA foreign_key_list({quoted})").fetchall()
                    to = tuple(dict.fromkeys(str(row[2]) for row in reversed(listed)))
                    found.append(Peek(name, there[name][0], count, columns, first, to))
        except sqlite3.Error as error:
            raise TargetError(self.text, f"it cannot be read ({error})", "close it in other programs") from error
        return tuple(found)

    def outlines(self) -> tuple[Outline, ...]:
        from hemplit.targets.sql.reflected import outlines_of  # a third of a second that no load needs

        return outlines_of("sqlite", self._open, self.ours())

    def _open(self) -> sqlite3.Connection:
        return connect(self.path)

    def write(self, tables: Tables, loads: Sequence[Load] = (), *, over: bool, progress: Progress = silent) -> None:
        """Raises ``TargetError`` if the database refuses the tables, or others' tables stand in the way."""
        check_widths(tables, SQLITE.most_columns, self.text, SQLITE.name)
        try:
            if over and self.exists():
                self._write_over(tables, loads, progress)
            else:
                self._write_new(tables, loads, progress)
        except OSError as error:
            raise self._unwritable(error) from error
        except (sqlite3.Error, adbc_driver_manager.Error) as error:
            said = " ".join(str(error).split())
            if "database is locked" in said:
                raise TargetError(self.text, "another program is writing to it", "try again when it is done") from error
            if "readonly" in said or "disk" in said:
                raise TargetError(self.text, f"it cannot be written ({said})", "look at the disk") from error
            raise TargetError(self.text, f"the database refuses the tables ({said})", "look at the design") from error

    def _write_new(self, tables: Tables, loads: Sequence[Load], progress: Progress) -> None:
        try:
            with unfinished(self.path) as made:
                with (
                    adbc_driver_sqlite.dbapi.connect(str(made), autocommit=True) as connection,
                    connection.cursor() as cursor,
                ):
                    for pragma in UNFINISHED:
                        cursor.execute(pragma)
                    fill(cursor, tables, self._objects(tables), progress)
                    note(cursor, loads)
                put_new(made, self.path)
        except FileExistsError as error:
            what = "another program made this file in the meantime"
            raise TargetError(self.text, what, "nothing was written; load with --replace, or name another") from error

    def _write_over(self, tables: Tables, loads: Sequence[Load], progress: Progress) -> None:
        with (
            adbc_driver_sqlite.dbapi.connect(str(self.path.absolute()), autocommit=False) as connection,
            connection.cursor() as cursor,
        ):
            try:
                # The first thing that is written takes the lock, so that what is seen then stays so.
                cursor.execute(CREATE_OBJECTS.replace("TABLE", "TABLE IF NOT EXISTS", 1))
                there = catalogue_of(asking(cursor))
                ours = set(ours_in(there, asking(cursor)))
                self._check_others(there, ours, tables, asking(cursor))
                for kind in ("view", "table"):
                    for name, (its_kind, _, _) in there.items():
                        if its_kind == kind and (name in ours or name in (OBJECTS, LOADS)):
                            cursor.execute(f"DROP {kind.upper()} {SQLITE.quote(name)}")
                fill(cursor, tables, self._objects(tables), progress)
                note(cursor, loads)
                connection.commit()
            except BaseException:
                connection.rollback()
                raise

    def _check_others(self, there: Catalogue, ours: set[str], tables: Tables, run: Run) -> None:
        """Raises ``TargetError`` if a table or view that is not ours is in the way, or refers to one of ours."""
        wanted = {name.lower() for name in (*tables.by_name, *tables.view_names)}
        gone = {name.lower() for name in ours}
        for name, (kind, of, sql) in there.items():
            if name in ours or of in ours or {OBJECTS, LOADS} & {name, of} or not sql:
                continue
            if name.lower() in wanted:
                what = f"it holds a {kind} '{name}' that Hemplit did not make"
                raise TargetError(self.text, what, "rename the table in the design, or name another file")
            referred = {str(row[2]).lower() for row in run(f"PRAGMA foreign_key_list({SQLITE.quote(name)})")}
            spoken_of = set() if kind == "table" else {word.lower() for word in re.findall(r"\w+", sql)}
            on = sorted((referred | spoken_of) & gone)
            if on:
                what = f"its {kind} '{name}', which Hemplit did not make, depends on '{on[0]}'"
                raise TargetError(self.text, what, "load into another file, or drop it first")

    def expected(self, table: Table) -> pa.Table:
        """Dates and times are ISO texts, yes and no are 1 and 0."""
        return as_stored(table)

    def check_held(self) -> None:
        if not self.exists():
            raise TargetError(self.text, "there is no such file", "load the design into it first")
        self._check_database()

    def read(self, tables: Tables) -> dict[str, pa.Table]:
        held = {}
        try:
            with self._arrow() as connection:
                for table in tables.tables:
                    held[table.name] = read_rows(connection, table)
        except (adbc_driver_manager.Error, OSError) as error:
            what = f"it does not hold the tables of the design ({reason_of(error)})"
            raise TargetError(self.text, what, "load the design again") from error
        return held

    def rows(self, table: Table) -> Iterator[pa.Table]:
        row_id = row_id_of(table)

        def piece(where: str) -> pa.Table:
            with self._arrow() as connection:
                return read_rows(connection, table, where)

        try:
            yield from at_once(piece, [""] if row_id is None else self._ranges(table, row_id), THREADS)
        except (adbc_driver_manager.Error, OSError) as error:
            what = f"it does not hold the tables of the design ({reason_of(error)})"
            raise TargetError(self.text, what, "load the design again") from error

    def held(self, tables: Tables) -> dict[str, pa.Table]:
        """All rows of each table."""
        counts = self.counts(tables)
        counted = tuple(replace(one, row_count=counts[one.name]) for one in tables.tables)
        return self.read(replace(tables, tables=counted))

    def counts(self, tables: Tables) -> dict[str, int]:
        """How many rows each table has."""
        try:
            with closing(self._open()) as connection:
                return {
                    table.name: connection.execute(f"SELECT count(*) FROM {SQLITE.quote(table.name)}").fetchone()[0]
                    for table in tables.tables
                }
        except sqlite3.Error as error:
            what = f"it does not hold the tables of the design ({error})"
            raise TargetError(self.text, what, "load the design into it first") from error

    def matching(self, table: Table, keys: pa.Table) -> pa.Table:
        """The rows of a table with one of these keys."""
        columns = ", ".join(f"held.{SQLITE.quote(column.name)}" for column in table.columns)
        try:
            with self._arrow() as connection, connection.cursor() as cursor:
                own = want(cursor, keys)
                query = f"SELECT {columns} FROM {own(table.name)} ORDER BY held.rowid"
                found = without_bytes(fetched(connection, query, keys.num_rows))
                return found.rename_columns([one.name for one in table.columns])
        except (adbc_driver_manager.Error, OSError) as error:
            what = f"it does not hold the tables of the design ({reason_of(error)})"
            raise TargetError(self.text, what, "load the design again") from error

    def loads(self) -> tuple[Load, ...]:
        """What was loaded into it; nothing is known of a target that is older than this list."""
        names = ", ".join(NOTED)
        try:
            with closing(self._open()) as connection:
                if catalogue_of(connection.execute).get(LOADS, ("", "", None))[2] != CREATE_LOADS:
                    return ()  # the proof of the structure tells
                rows = connection.execute(f"SELECT load, {names} FROM {LOADS} ORDER BY load").fetchall()
        except sqlite3.Error as error:
            raise TargetError(self.text, f"it cannot be read ({error})", "close it in other programs") from error
        return numbered(rows)

    def append(self, added: Sequence[Table], changed: Sequence[Table], loads: Sequence[Load]) -> None:
        """Puts rows behind those that are held, and others in the place of those with their key, or does nothing."""
        with (
            adbc_driver_sqlite.dbapi.connect(str(self.path.absolute()), autocommit=False) as connection,
            connection.cursor() as cursor,
        ):
            try:
                for table in added:
                    cursor.adbc_ingest(table.name, as_stored(table), mode="append")
                for table in changed:
                    update(cursor, table)
                note(cursor, loads)
                for table in added:
                    self._check_references(cursor, table)
                connection.commit()
            except adbc_driver_manager.Error as error:
                connection.rollback()
                what = f"the database refuses the rows ({reason_of(error)})"
                raise TargetError(self.text, what, "nothing was written") from error
            except BaseException:
                connection.rollback()
                raise

    def _check_references(self, cursor: Any, table: Table) -> None:
        """Raises ``TargetError`` if one of these rows refers to none."""
        if not table.references:
            return
        keyed = tuple(column for column in table.columns if column.name in table.key)
        own = want(cursor, as_stored(replace(table, columns=keyed)))
        for reference in table.references:
            pairs = [*zip(reference.columns, reference.table_columns, strict=True)]
            same = " AND ".join(f"held.{SQLITE.quote(one)} = other.{SQLITE.quote(two)}" for one, two in pairs)
            said = " AND ".join(f"held.{SQLITE.quote(one)} IS NOT NULL" for one, _ in pairs)
            cursor.execute(
                f"SELECT 1 FROM {own(table.name)} LEFT JOIN {SQLITE.quote(reference.table)} AS other ON {same} "
                f"WHERE {said} AND other.{SQLITE.quote(pairs[0][1])} IS NULL LIMIT 1"
            )
            if cursor.fetchall():
                what = f"a new row of '{table.name}' refers to no row of '{reference.table}'"
                raise TargetError(self.text, what, "nothing was written")

    def _arrow(self) -> Any:
        return adbc_driver_sqlite.dbapi.connect(f"{self.path.absolute().as_uri()}?mode=ro")

    def structure(self, tables: Tables) -> tuple[int, Sequence[Difference]]:
        """Compares the statements in the catalogue, which hold all that there is to a table, an index or a view."""
        expected = self._objects(tables)
        ours = {name.lower() for name in (OBJECTS, LOADS, *tables.by_name, *tables.view_names)}
        try:
            with closing(self._open()) as connection:
                there = catalogue_of(connection.execute)
                rows = connection.execute(f"SELECT name, kind FROM {OBJECTS}").fetchall()
                objects = {(str(name), str(kind)) for name, kind in rows}
        except sqlite3.Error as error:
            return len(expected), [Difference(OBJECTS, "the list of what Hemplit made", f"nothing ({error})")]
        found = [
            difference
            for name, (kind, statement) in expected.items()
            for difference in compared(name, kind, statement, there.get(name))
        ]
        for name, (kind, of, sql) in there.items():
            if of.lower() in ours and name not in expected and sql:
                found.append(Difference(f"{kind} {name} on {of}", "nothing", " ".join(sql.split())))
        wanted = {(name, kind) for name, (kind, _) in expected.items() if name not in (OBJECTS, LOADS)}
        for name, kind in sorted(wanted ^ objects):
            there_now = (name, kind) in objects
            found.append(Difference(f"{OBJECTS} {name}", *(("nothing", kind) if there_now else (kind, "nothing"))))
        return len(expected), found

    def order(self, base: Table) -> npt.NDArray[np.int64]:
        key = base.by_name[base.key[0]] if len(base.key) == 1 else None
        if key is None or key.kind.word != "whole number":
            return np.arange(base.row_count)
        return np.argsort(key.values.to_numpy(zero_copy_only=False)[key.codes], kind="stable")

    def view(self, view: View, tables: Tables) -> Iterator[pa.Table]:
        base = tables.by_name[view.base]
        row_id = row_id_of(base)
        whole = base.row_count < LARGE or view.lists or row_id is None
        return self._where(view, tables, lambda: [""] if whole else self._ranges(base, str(row_id)))

    def some_of_view(self, view: View, tables: Tables, picked: npt.NDArray[np.bool_]) -> Iterator[pa.Table] | None:
        base = tables.by_name[view.base]
        row_id = row_id_of(base)
        if row_id is None:
            return None
        return self._where(view, tables, lambda: self._picks(base, row_id, picked[self.order(base)]))

    def _where(self, view: View, tables: Tables, conditions: Callable[[], list[str]]) -> Iterator[pa.Table]:
        """The query of the view, which is known to be what the catalogue says, under one condition after another."""
        whole = f"SELECT * FROM {SQLITE.quote(view.name)}"

        def piece(where: str) -> pa.Table:
            query = select_view(tables, view, SQLITE, where) if where else whole
            return self._cells(query, tables.by_name[view.base].row_count)

        try:
            yield from at_once(piece, conditions(), THREADS)
        except adbc_driver_manager.Error as error:
            what = f"the view '{view.name}' cannot be read ({reason_of(error)})"
            raise TargetError(self.text, what, "load the design again") from error

    def _ranges(self, table: Table, row_id: str) -> list[str]:
        """The conditions for one range of the rows of a table after another, in their order."""
        number = f"{SQLITE.quote(table.name)}.{row_id}"
        held = self._cells(ends_of(table.name, row_id), 1)
        first, last = (column[0].as_py() or 0 for column in held.columns)
        step = max(PIECE * (last - first + 1) // max(table.row_count, 1), 1)
        starts = range(first, last + 1, step)
        return [f"{number} BETWEEN {start} AND {start + step - 1} ORDER BY {number}" for start in starts]

    def _picks(self, table: Table, row_id: str, picked: npt.NDArray[np.bool_]) -> list[str]:
        """The conditions for some rows, picked by their place among all; none if there are more of these, or fewer."""
        source = SQLITE.quote(table.name)
        number = f"{source}.{row_id}"
        there = self._cells(f"SELECT {row_id} FROM {source} ORDER BY {row_id}", len(picked))
        if there.num_rows != len(picked):
            return []  # no row has the place that it had
        numbers = there.column(0).combine_chunks().filter(pa.array(picked)).to_pylist()
        some = (numbers[start : start + PICKED] for start in range(0, len(numbers), PICKED))
        return [f"{number} IN ({', '.join(map(str, one))}) ORDER BY {number}" for one in some]

    def tally(self, part: Part, tables: Tables, places: Mapping[str, int]) -> Groups:
        if tables.by_name[part.view.base].row_count >= LARGE:
            return self._large_tally(part, tables)
        statement = select_tally(tables, part, SQLITE)
        try:
            with closing(self._open()) as connection:
                return groups_of_rows(part, map(told, connection.execute(statement)), places)
        except sqlite3.Error as error:
            what = f"it does not hold the tables of the design ({error})"
            raise TargetError(self.text, what, "load the design again") from error

    def _large_tally(self, part: Part, tables: Tables) -> Groups:
        try:
            return large_tally(part, tables, self._cells)
        except (adbc_driver_manager.Error, pa.ArrowInvalid) as error:
            what = f"it does not hold the tables of the design ({reason_of(error)})"
            raise TargetError(self.text, what, "load the design again") from error

    def tally_text(self, part: Part, tables: Tables) -> str:
        return explained(part, select_tally(tables, part, SQLITE, plain=True))

    def _cells(self, query: str, rows: int) -> pa.Table:
        with self._arrow() as connection:
            table = without_bytes(fetched(connection, query, rows))
        return table.rename_columns([str(place) for place in range(table.num_columns)])
