"""What Hemplit keeps for itself in a database: what it made there and how that looked then, and what was loaded."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.model.proof import Difference
from hemplit.targets.rows import lines_that_differ
from hemplit.targets.sql.all_views import create_views
from hemplit.targets.sql.ddl import statements_of
from hemplit.targets.sql.rows import LOADS, NOTED, OBJECTS

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

    from hemplit.core.model.tables import Tables
    from hemplit.targets.sql.dialect import Dialect

    #: By name: whether it is a table or a view, and what makes it so in words of SQL.
    Described = Mapping[str, tuple[str, str]]

#: No name in a database is longer.
LONGEST_NAME = 64
NUMBERS = ("rows", "topup")


def create_own(dialect: Dialect) -> tuple[str, str]:
    """The statements that create the tables of ours: of what we made, and of what was loaded."""
    text, number = dialect.types["text"], dialect.types["whole number"]
    objects = {"name": f"VARCHAR({LONGEST_NAME})", **dict.fromkeys(("kind", "statement", "held"), text)}
    loads = {"load": number, **{name: number if name in NUMBERS else text for name in NOTED}}
    return _created(dialect, OBJECTS, objects), _created(dialect, LOADS, loads)


def _created(dialect: Dialect, name: str, columns: Mapping[str, str]) -> str:
    """The statement for a table whose first column is its key."""
    key, *_ = columns
    lines = [f"{dialect.quote(column)} {word} NOT NULL" for column, word in columns.items()]
    body = ", \n\t".join((*lines, f"PRIMARY KEY ({dialect.quote(key)})"))
    return f"CREATE TABLE {dialect.quote(name)} (\n\t{body}\n){dialect.table_end(None)}"


def described(tables: Tables, dialect: Dialect) -> dict[str, tuple[str, str]]:
    """What a design makes, in statements that know nothing of the values, so that a sheet that grew changes none."""
    made = {}
    for name, table in statements_of(tables, dialect, fitted=False).items():
        indexes = (index for _, index in table.indexes)
        made[name] = ("table", ";\n".join((table.create(), *indexes)))
    return made | {name: ("view", statement) for name, statement in create_views(tables, dialect)}


def differing(
    expected: Described, remembered: Mapping[str, tuple[str, str, str]], there: Described
) -> Iterator[Difference]:
    """Where a database is not as it was written: by what the design says, what was remembered, and its catalogue."""
    for name, (kind, statement) in expected.items():
        if name not in remembered:
            yield Difference(f"{OBJECTS} {name}", kind, "nothing")
        elif remembered[name][:2] != (kind, statement):
            yield from lines_that_differ(f"{kind} {name}", statement, remembered[name][1])
    for name, (kind, _, held) in remembered.items():
        if name not in expected and name != LOADS:
            yield Difference(f"{OBJECTS} {name}", "nothing", kind)
        elif there.get(name, ("",))[0] != kind:
            yield Difference(f"{kind} {name}", f"a {kind}", f"a {there[name][0]}" if name in there else "nothing")
        else:
            yield from lines_that_differ(f"{kind} {name}", held, there[name][1])
