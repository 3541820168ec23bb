"""What SQLite has in its catalogue: which of it is ours, and whether it is as it was written."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, ClassVar

from hemplit.core.model.proof import Difference
from hemplit.targets.rows import lines_that_differ
from hemplit.targets.sql.all_views import create_views
from hemplit.targets.sql.ddl import statements_of
from hemplit.targets.sql.dialect import Dialect
from hemplit.targets.sql.reserved import SQLITE_WORDS
from hemplit.targets.sql.rows import LOADS, OBJECTS
from hemplit.targets.sql.terms import Term, call, case, cast, whole

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Mapping

    from hemplit.core.model.tables import TableColumn, Tables

    #: Runs a statement and gives its rows.
    Run = Callable[[str], Iterable[Any]]
    #: By name: whether it is a table, an index, a view or a trigger, the table that it is on, and its statement.
    Catalogue = Mapping[str, tuple[str, str, str | None]]

CREATE_OBJECTS = f"CREATE TABLE {OBJECTS} (name TEXT PRIMARY KEY NOT NULL, kind TEXT NOT NULL)"
CREATE_LOADS = f"""CREATE TABLE {LOADS} (
    load INTEGER PRIMARY KEY NOT NULL, file TEXT NOT NULL, worksheet TEXT NOT NULL, sheet TEXT NOT NULL,
    mark TEXT NOT NULL, rows INTEGER NOT NULL, at TEXT NOT NULL, topup INTEGER NOT NULL, how TEXT NOT NULL,
    counts TEXT NOT NULL, left_out TEXT NOT NULL, seal TEXT NOT NULL
)"""


#: What the letters of a form stand for, and how those are written that mean something else to the database.
CLASSES = {"9": "[0-9]", "A": "[A-Z]", "*": "[*]", "?": "[?]", "[": "[[]"}


#: A number with decimal places: DECIMAL to people, stored as a double, which holds the 15 digits of ours exactly.
#: DECIMAL alone would store 12.0 as the whole number 12, a third of which is 4, and a fifth 2.
DECIMAL = "DECIMAL REAL"
#: How SQLite is asked for a part of a date.
PARTS = {"year": "%Y", "month": "%m", "day": "%d"}


class SqliteDialect(Dialect):
    """Dates are texts to SQLite, and yes and no numbers."""

    name = "SQLite"
    reserved = SQLITE_WORDS
    most_columns = 2_000
    longest_comment = 0
    yes_is_one = True
    yes_no = ("1", "0")
    types: ClassVar = {**Dialect.types, "whole number": "INTEGER", "decimal": DECIMAL}
    first_only = "\n LIMIT 1 OFFSET 0"
    hundred = Term("(100.0 + 0.0)")

    def fitted_type(self, column: TableColumn, *, indexed: bool) -> str:
        return self.types[column.kind.word]  # to which a value is what it is

    def keeps_form(self, column: Term, form: str) -> Term:
        return column.compared("GLOB", self.value("".join(CLASSES.get(letter, letter) for letter in form)))

    def part(self, name: str, date: Term) -> Term:
        return cast(call("STRFTIME", self.value(PARTS[name]), date), "INTEGER")

    def weekday(self, date: Term) -> Term:
        return (cast(call("strftime", self.value("%w"), date), "INTEGER") + whole(6)) % whole(7) + whole(1)

    def week(self, date: Term) -> Term:
        thursday = call("date", date, self.value("-3 days"), self.value("weekday 4"))
        number = (cast(call("strftime", self.value("%j"), thursday), "INTEGER") + whole(6)) / whole(7)
        return self.joined(call("strftime", self.value("%Y-W"), thursday), call("printf", self.value("%02d"), number))

    def listed(self, column: str, order: str, source: str, between: str) -> str:
        given = self.literal(between)
        return f"SELECT group_concat(one, {given}) FROM (SELECT {column} AS one {source} ORDER BY {order}) AS many"

    def listed_number(self, number: Term) -> Term:
        return case([(cast(number, "INTEGER").compared("=", number), cast(number, "INTEGER"))], number)

    def as_double(self, number: Term) -> Term:
        return number  # all numbers with a point are


SQLITE = SqliteDialect()


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
    made = {OBJECTS: ("table", CREATE_OBJECTS), LOADS: ("table", CREATE_LOADS)}
    described = statements_of(tables, SQLITE)
    made |= {name: ("table", table.create()) for name, table in described.items()}
    made |= {name: ("index", index) for table in described.values() for name, index in table.indexes}
    return made | {name: ("view", statement) for name, statement in create_views(tables, SQLITE)}


def compared(name: str, kind: str, statement: str, there: tuple[str, str, str | None] | None) -> Iterator[Difference]:
    """Where an object is not what its statement made of it, line by line."""
    if there is None or there[0] != kind:
        yield Difference(f"{kind} {name}", f"a {kind}", "nothing" if there is None else f"a {there[0]}")
        return
    yield from lines_that_differ(f"{kind} {name}", statement, there[2] or "")
