"""What Hemplit keeps for itself in a database: what it made there and how that looked then, and what was loaded."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import sqlalchemy as sa
from sqlalchemy.schema import CreateTable

from hemplit.core.model.proof import Difference
from hemplit.core.model.tables import Tables
from hemplit.targets.rows import lines_that_differ
from hemplit.targets.sql.all_views import create_views
from hemplit.targets.sql.ddl import create_indexes, create_tables, metadata
from hemplit.targets.sql.rows import LOADS, NOTED, OBJECTS

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

    from hemplit.targets.sql.dialect import Dialect

    #: By name: whether it is a table or a view, and what makes it so in words of SQL.
    Described = Mapping[str, tuple[str, str]]

#: No name in a database is longer.
LONGEST_NAME = 64
NUMBERS = ("rows", "topup")


def create_own(dialect: Dialect) -> tuple[str, str]:
    """The statements that create the tables of ours: of what we made, and of what was loaded."""
    schema = sa.MetaData()
    text, number = dialect.types["text"], dialect.types["whole number"]
    options: dict[str, Any] = dict(dialect.table_options)
    objects = sa.Table(
        OBJECTS,
        schema,
        sa.Column("name", sa.String(LONGEST_NAME), primary_key=True),
        *(sa.Column(name, text, nullable=False) for name in ("kind", "statement", "held")),
        **options,
    )
    loads = sa.Table(
        LOADS,
        schema,
        sa.Column("load", number, primary_key=True, autoincrement=False),
        *(sa.Column(name, number if name in NUMBERS else text, nullable=False) for name in NOTED),
        **options,
    )
    first, second = (str(CreateTable(one).compile(dialect=dialect.sql)).strip() for one in (objects, loads))
    return first, second


def described(tables: Tables, dialect: Dialect) -> dict[str, tuple[str, str]]:
    """What a design makes, in statements that know nothing of the values, so that a sheet that grew changes none."""
    schema = metadata(tables, dialect, fitted=False)
    made = {}
    for table, (name, statement) in zip(tables.tables, create_tables(schema, tables, dialect), strict=True):
        indexes = (index for _, index in create_indexes(schema, Tables((table,), ()), dialect))
        made[name] = ("table", ";\n".join((statement, *indexes)))
    return made | {name: ("view", statement) for name, statement in create_views(schema, tables, dialect)}


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
