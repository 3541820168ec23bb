"""What the catalogue of a database says of tables, as SQLAlchemy reads it from any of them.

It is imported where a picture is drawn of a database, and nowhere else, as that takes a third of a second.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import sqlalchemy as sa

from hemplit.core.model.tables import Outline, OutlineColumn, Reference

if TYPE_CHECKING:
    from collections.abc import Callable, Sequence


def outlines_of(
    driver: str, connect: Callable[[], Any], names: Sequence[str], schema: str | None = None
) -> tuple[Outline, ...]:
    """The tables of these names, over a connection of SQLAlchemy's ``driver``; views are no tables."""
    engine = sa.create_engine(f"{driver}://", creator=connect, poolclass=sa.NullPool)
    with engine.connect() as connection:
        catalogue = sa.inspect(connection)
        there = set(catalogue.get_table_names(schema))
        return tuple(_outline(catalogue, name, schema) for name in names if name in there)


def _outline(catalogue: sa.Inspector, name: str, schema: str | None) -> Outline:
    key = tuple(catalogue.get_pk_constraint(name, schema)["constrained_columns"])
    columns = tuple(
        OutlineColumn(column["name"], str(column["type"]).split(" COLLATE")[0], not column["nullable"])
        for column in catalogue.get_columns(name, schema)
    )
    unique = tuple(tuple(filter(None, one["column_names"])) for one in catalogue.get_unique_constraints(name, schema))
    references = tuple(
        Reference(tuple(one["constrained_columns"]), one["referred_table"], tuple(one["referred_columns"]))
        for one in catalogue.get_foreign_keys(name, schema)
    )
    return Outline(name, None, columns, key, unique, references)
