"""All views of a database: of the sheets, with names in the place of ids, and of saved questions."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.targets.sql.tally import select_tally
from hemplit.targets.sql.views import create_view

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.model.tables import Tables
    from hemplit.targets.sql.dialect import Dialect


def create_views(tables: Tables, dialect: Dialect) -> Iterator[tuple[str, str]]:
    """The name of each view with the statement that creates it, each after those it reads."""
    for view in (*tables.views, *tables.named):
        yield view.name, create_view(tables, view, dialect)
    for saved in tables.tallies:
        select = select_tally(tables, saved.part, dialect, plain=True)
        yield saved.name, f"CREATE VIEW {dialect.quote(saved.name)} AS\n{select}"
