"""Views for people: each table of records or things with names in the place of ids, and how many rows refer to it.

Things to which nothing refers are in them, with a nought.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.model.design import Purpose
from hemplit.core.model.relation import Kind
from hemplit.core.model.tables import Reference, View, ViewColumn
from hemplit.core.tables.views import moved
from hemplit.core.texts import nouns
from hemplit.core.texts.words import unused
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.model.design import Design, TablePlan
    from hemplit.core.model.tables import Table, Tables
    from hemplit.core.tables.views import Path

#: What holds records, or things that they speak of.
RECORDS = (Purpose.MAIN, Purpose.DETAIL, Purpose.ENTITY, Purpose.JUNCTION)
#: Nobody reads a view of more columns, and MariaDB joins 61 tables at most.
MOST_COLUMNS, MOST_JOINS = 200, 50
NUMBER = Kind("whole number")


def named_views(design: Design, tables: Tables) -> tuple[View, ...]:
    """The views, in the order of the tables; none of a table that has no ids and to which nothing refers."""
    taken = {name.lower() for name in (*tables.by_name, *tables.view_names)}
    views = []
    for plan in design.tables:
        if plan.purpose in RECORDS and plan.name in tables.by_name:
            columns = _Columns(design, tables, plan).all()
            joins = {column.path[:length] for column in columns for length in range(1, len(column.path) + 1)}
            tells_more = any(column.path or column.counted for column in columns)
            if tells_more and len(columns) <= MOST_COLUMNS and len(joins) <= MOST_JOINS:
                name = unused(f"{plan.name}_named".lower(), taken, "named")
                taken.add(name.lower())
                views.append(View(name, "", plan.name, tuple(columns)))
    return tuple(views)


class _Columns:
    """The columns of one view."""

    def __init__(self, design: Design, tables: Tables, plan: TablePlan) -> None:
        self.design, self.tables, self.plan = design, tables, plan
        self.taken: set[str] = set()

    def all(self) -> list[ViewColumn]:
        """Its own columns with names in the place of ids, then what is calculated, then who refers to it."""
        table = self.tables.by_name[self.plan.name]
        behind = {one.columns[0]: one for one in table.references if len(one.columns) == 1}
        columns: list[ViewColumn] = []
        for column in self.plan.stored:
            reference = behind.get(column.name)
            through = self._through(table, column.name)
            if through:
                columns += self._names(through, column.name.removesuffix("_id"))
                continue
            if reference is None or not self._is_made(reference):
                columns.append(self._column(column.name, table, (), column.name))
            if reference is not None:
                columns += self._names((reference,), column.name.removesuffix("_id"))
        return [*columns, *self._calculated(), *self._counted()]

    def _through(self, table: Table, name: str) -> Path:
        """The way to what has the made-up id that a column shares with a table which several columns refer to."""
        for whole in (one for one in table.references if len(one.columns) > 1 and name in one.columns):
            key = whole.table_columns[whole.columns.index(name)]
            further = (one for one in self.tables.by_name[whole.table].references if one.columns == (key,))
            made = next(filter(self._is_made, further), None)
            if made is not None:
                return (whole, made)
        return ()

    def _label(self, name: str) -> str:
        label = unused(name, self.taken, "column")
        self.taken.add(label)
        return label

    def _column(self, name: str, table: Table, path: Path, column: str) -> ViewColumn:
        return ViewColumn(self._label(name), table.by_name[column].kind, path, column)

    def _is_made(self, reference: Reference) -> bool:
        """Whether what is referred to is an id that was made up."""
        return self.design.by_name[reference.table].by_name[reference.table_columns[0]].is_made

    def _names(self, path: Path, base: str) -> Iterator[ViewColumn]:
        """What a person calls the thing behind a reference; of one that has a code, its name besides."""
        reference = path[-1]
        table = self.tables.by_name[reference.table]
        if self._is_made(reference):
            names = resolve.identity(self.design.by_name[reference.table])
            labels = {name: base if len(names) == 1 else f"{base}_{name.removesuffix('_id')}" for name in names}
        else:
            base = base.removesuffix(reference.table_columns[0]).rstrip("_") or one_of(reference.table)
            labels = {name: f"{base}_{name}" for name in _called(table)}
        for name, label in labels.items():
            further = next((one for one in table.references if one.columns == (name,)), None)
            if further is None or not self._is_made(further):
                yield self._column(label, table, path, name)
            elif further not in path:
                yield from self._names((*path, further), label)

    def _calculated(self) -> Iterator[ViewColumn]:
        """What follows from other columns in each row of the sheet."""
        view = next((one for one in self.tables.views if one.base == self.plan.name and not one.lists), None)
        for column in self.plan.columns:
            if view is None or column.store or column.formula is None:
                continue
            own = next((one for one in view.columns if one.header == column.source), None)
            if own is not None and own.formula is not None:
                shown, *others = moved(view, own, self._label(column.name), (), 0)
                yield shown
                yield from (replace(one, hidden=True) for one in others)

    def _counted(self) -> Iterator[ViewColumn]:
        """How many rows of each table refer to one; in what role, where a table does so more than once."""
        for table in self.tables.tables:
            pointing = [one for one in table.references if one.table == self.plan.name]
            in_roles = len(pointing) > 1 or table.name == self.plan.name
            for one in pointing:
                role = f"_as_{one.columns[0].removesuffix('_id')}" if in_roles else ""
                label = self._label(f"number_of_{table.name}{role}")
                yield ViewColumn(label, NUMBER, counted=Reference(one.table_columns, table.name, one.columns))


def one_of(table: str) -> str:
    """What one row of a table is called.

    >>> one_of("job_parts")
    'job_part'
    """
    *before, last = table.split("_")
    return "_".join((*before, nouns.singular(last)))


def _called(table: Table) -> list[str]:
    """The columns that hold the names of its rows."""
    own = {name for reference in table.references for name in reference.columns}
    texts = (one.name for one in table.columns if one.kind.word == "text" and one.name not in own)
    return [name for name in texts if name == "name" or name.endswith("_name")]
