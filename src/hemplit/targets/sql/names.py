"""Names that a database can hold, for tables, columns and the headers of a view."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.model.findings import BAND
from hemplit.core.model.tally import SavedTally
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Iterable

    from hemplit.core.model.tables import Reference, Table, Tables, View
    from hemplit.targets.sql.dialect import Dialect


def with_names(tables: Tables, dialect: Dialect, prefix: str = "") -> Tables:
    """The tables with names of tables, columns and views as a database can hold them, each table behind a prefix."""
    return _Naming(dialect, prefix).all(tables)


class _Naming:
    """What each name becomes."""

    def __init__(self, dialect: Dialect, prefix: str) -> None:
        self.fit, self.prefix = dialect.fit, prefix

    def all(self, tables: Tables) -> Tables:
        """All tables and views."""
        return replace(
            tables,
            tables=tuple(map(self.table, tables.tables)),
            views=tuple(map(self.view, tables.views)),
            named=tuple(map(self.view, tables.named)),
            tallies=tuple(map(self.saved, tables.tallies)),
        )

    def of(self, table: str) -> str:
        """The name of a table or view."""
        return self.fit(self.prefix + table)

    def fits(self, names: tuple[str, ...]) -> tuple[str, ...]:
        """Names of columns."""
        return tuple(map(self.fit, names))

    def table(self, table: Table) -> Table:
        """A table with all that belongs to it."""
        return replace(
            table,
            name=self.of(table.name),
            columns=tuple(replace(column, name=self.fit(column.name)) for column in table.columns),
            key=self.fits(table.key),
            unique=tuple(map(self.fits, table.unique)),
            references=tuple(map(self.reference, table.references)),
            rules=tuple(replace(rule, columns=self.fits(rule.columns)) for rule in table.rules),
        )

    def reference(self, one: Reference) -> Reference:
        """A reference and what it points to."""
        columns, others = self.fits(one.columns), self.fits(one.table_columns)
        return replace(one, columns=columns, table=self.of(one.table), table_columns=others)

    def path(self, way: tuple[Reference, ...]) -> tuple[Reference, ...]:
        """A way along references."""
        return tuple(map(self.reference, way))

    def saved(self, saved: SavedTally) -> SavedTally:
        """A saved question; what it calls its columns is seen to when it is written."""
        part = replace(saved.part, view=self.view(saved.part.view))
        return SavedTally(self.of(saved.name), replace(saved.tally, parts=(part,)))

    def view(self, view: View) -> View:
        """A view; its headers are seen to when it is written."""
        columns = []
        for column in view.columns:
            gathered, formula = column.gathered, column.formula
            columns.append(
                replace(
                    column,
                    path=self.path(column.path),
                    column=None if column.column is None else self.fit(column.column),
                    counted=None if column.counted is None else self.reference(column.counted),
                    gathered=None if gathered is None else replace(gathered, view=self.of(gathered.view)),
                    formula=replace(formula, detail=self.of(formula.detail))
                    if formula is not None and formula.operation == BAND
                    else formula,
                    otherwise=tuple((self.path(way), self.fit(name)) for way, name in column.otherwise),
                )
            )
        named = {"name": self.of(view.name), "base": self.of(view.base)}
        return replace(view, **named, columns=tuple(columns), lists=self.path(view.lists))


def labels_of(headers: Iterable[str], dialect: Dialect) -> dict[str, str]:
    """Headers as names of columns; most databases do not tell capitals from small letters there."""
    labels: dict[str, str] = {}
    taken: set[str] = set()
    for header in headers:
        name, count = dialect.fit(header), 1
        while name.lower() in taken:
            count += 1
            name = dialect.fit(f"{header} ({count})")
        labels[header] = name
        taken.add(name.lower())
    return labels
