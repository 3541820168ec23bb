"""What SQLite has in its catalogue: which of it is ours, and whether it is as it was written."""

from __future__ import annotations

import re
from difflib import SequenceMatcher
from typing import TYPE_CHECKING, Any

import sqlalchemy as sa
from sqlalchemy.dialects import sqlite

from hemplit.core.kinds.calendar import directives
from hemplit.core.model.proof import Difference
from hemplit.targets import schema

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Mapping
    from typing import Any

    import sqlalchemy as sa

    from hemplit.core.model.relation import Kind
    from hemplit.core.model.tables import Tables

    #: Runs a statement and gives its rows.
    Run = Callable[[str], Iterable[Any]]
    #: By name: whether it is a table, an index, a view or a trigger, the table that it is on, and its statement.
    Catalogue = Mapping[str, tuple[str, str, str | None]]

OBJECTS = "hemplit_objects"
CREATE_OBJECTS = f"CREATE TABLE {OBJECTS} (name TEXT PRIMARY KEY NOT NULL, kind TEXT NOT NULL)"
LOADS = "hemplit_loads"
CREATE_LOADS = f"""CREATE TABLE {LOADS} (
    load INTEGER PRIMARY KEY NOT NULL, file TEXT NOT NULL, worksheet TEXT NOT NULL, sheet TEXT NOT NULL,
    mark TEXT NOT NULL, rows INTEGER NOT NULL, at TEXT NOT NULL, topup INTEGER NOT NULL, how TEXT NOT NULL,
    counts TEXT NOT NULL, left_out TEXT NOT NULL, seal TEXT NOT NULL
)"""


def asking(cursor: Any) -> Run:
    """Runs statements on a cursor."""

    def run(statement: str) -> Iterable[Any]:
        cursor.execute(statement)
        return list(cursor.fetchall())

    return run


def catalogue_of(run: Run) -> Catalogue:
    """All that the database has made."""
    listed = run("SELECT name, type, tbl_name, sql FROM sqlite_master ORDER BY rowid")
    return {name: (kind, of, sql) for name, kind, of, sql in listed}


def ours_in(there: Catalogue, run: Run) -> Iterator[str]:
    """What Hemplit made, as far as it is still there, tables first."""
    if OBJECTS in there:
        listed = {name for (name,) in run(f"SELECT name FROM {OBJECTS}")}
        yield from (name for kind in ("table", "view") for name in there if name in listed and there[name][0] == kind)


def expected_objects(tables: Tables) -> dict[str, tuple[str, str]]:
    """The statements by the names of what they make, as the catalogue keeps them."""
    described, dialect = schema.metadata(tables), sqlite.dialect()
    made = {OBJECTS: ("table", CREATE_OBJECTS), LOADS: ("table", CREATE_LOADS)}
    for table, statement in zip(tables.tables, schema.create_tables(described, tables, dialect), strict=True):
        made[table.name] = ("table", statement)
    for statement in schema.create_indexes(described, tables, dialect):
        name = re.match(r'CREATE INDEX ("(?:[^"]|"")+"|\S+) ON', statement)
        assert name is not None
        quoted = name[1].startswith('"')
        made[name[1][1:-1].replace('""', '"') if quoted else name[1]] = ("index", statement)
    for view in tables.views:
        made[view.name] = ("view", schema.create_view(described, view, dialect, written))
    return made


def compared(name: str, kind: str, statement: str, there: tuple[str, str, str | None] | None) -> Iterator[Difference]:
    """Where an object is not what its statement made of it, line by line."""
    if there is None or there[0] != kind:
        yield Difference(f"{kind} {name}", f"a {kind}", "nothing" if there is None else f"a {there[0]}")
        return
    one, two = ([line.strip() for line in (text or "").splitlines()] for text in (statement, there[2]))
    if statement == there[2]:
        return
    for tag, begin, end, start, stop in SequenceMatcher(None, one, two, autojunk=False).get_opcodes():
        if tag != "equal":
            yield Difference(
                f"{kind} {name}", " ".join(one[begin:end]) or "nothing", " ".join(two[start:stop]) or "nothing"
            )
    if one == two:
        yield Difference(f"{kind} {name}", "the statement as it was written", "another spelling of it")


def quote(name: str) -> str:
    """A name as a statement writes it."""
    return sqlite.dialect().identifier_preparer.quote(name)


def written(kind: Kind, column: sa.ColumnElement[Any]) -> sa.ColumnElement[Any]:
    """A stored value as the sheet writes it: dates in its order, yes and no in its words; numbers stay numbers."""
    if kind.word == "yes/no":
        yes, _, no = kind.form.partition("/")
        return sa.case((column.is_(True), yes), (column.is_(False), no))
    if kind.word in ("date", "time", "date and time"):
        return sa.func.strftime(directives(kind.form), column)
    return column
