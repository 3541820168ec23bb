"""The columns that a question can name, where each is held, and the ways between tables."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.model.tables import View, ViewColumn
from hemplit.dataclasses import dataclass, replace
from hemplit.errors import InputError, nearest

if TYPE_CHECKING:
    from collections.abc import Iterator

    from hemplit.core.model.design import Design, TablePlan
    from hemplit.core.model.tables import Reference, Table, Tables

    #: The references to follow from one table to another.
    Path = tuple[Reference, ...]


@dataclass(frozen=True)
class Held:
    """Where a column is held: the view that has it, a base table, and the path from there, as its ``column`` has it.

    The base is that of the view, or of a list in it, to whose rows no reference leads.
    """

    view: View
    base: str
    path: Path
    column: ViewColumn

    @property
    def home(self) -> str:
        return self.path[-1].table if self.path else self.base


class Known:
    """All columns by name, and the ways between the tables."""

    def __init__(self, design: Design, tables: Tables) -> None:
        self.design, self.tables = design, tables
        self.by_name: dict[str, list[Held]] = {}
        for view in tables.views:
            for column in view.columns:
                self._add(column.header, view, column)
        #: The columns of a name that no sheet has as a header.
        self.bare: dict[str, list[str]] = {}
        for plan in design.tables:
            self._name_columns_of(plan)
        for name, columns in [*self.bare.items()]:
            if name in self.by_name:
                del self.bare[name]
            else:
                self.by_name[name] = self.by_name[columns[0].casefold()]

    def _name_columns_of(self, plan: TablePlan) -> None:
        """Columns are known by their own names, too: as what the sheet has under its header, or as the table has it."""
        own = _own_view(self.tables.by_name[plan.name])
        for column in plan.columns:
            # A table that is named in several roles is none of them by its own name.
            named = (
                {header.casefold() for header in column.all_headers} if len(plan.feeds) == len(plan.sheets) else set()
            )
            headers = [one for header in sorted(named) for one in self.by_name.get(header, [])]
            helds = [one for one in headers if one.home == plan.name or (not column.store and one.base == plan.name)]
            stored = next((one for one in own.columns if one.header == column.name), None)
            if not helds and stored is not None:
                helds = [Held(own, plan.name, (), stored)]
            if helds:
                self.by_name[f"{plan.name}.{column.name}".casefold()] = helds
                self.bare.setdefault(column.name.casefold(), []).append(f"{plan.name}.{column.name}")

    def _add(self, name: str, view: View, column: ViewColumn) -> None:
        base, path = view.base, column.path
        for place, one in enumerate(column.path):
            if one not in self.tables.by_name[base if not place else column.path[place - 1].table].references:
                base, path = one.table, column.path[place + 1 :]  # down to the rows of a list
        held = Held(view, base, path, replace(column, path=path))
        helds = self.by_name.setdefault(name.casefold(), [])
        helds.append(held)
        for one in self.tables.by_name[held.home].references:
            if column.column in one.columns:  # what refers to a key is that key, in the table behind it
                key = one.table_columns[one.columns.index(column.column)]
                helds.append(Held(view, base, (*path, one), replace(column, path=(*path, one), column=key)))

    def held(self, name: str, option: str = "--of") -> list[Held]:
        """Where the columns of a name are held. Raises ``InputError`` if none is, or several tables have one."""
        found = self.by_name.get(name.casefold())
        columns = self.bare.get(name.casefold(), [])
        if len(columns) > 1:
            what = f"several tables have a column '{name}'"
            raise InputError(f"{option} {name}", what, f"say which: {' or '.join(columns)}")
        if not found:
            headers = dict.fromkeys(held.column.header for helds in self.by_name.values() for held in helds)
            raise InputError(f"{option} {name}", "no sheet and no table has such a column", nearest(name, headers))
        return found

    def of_rows(self, table: str) -> Held | None:
        """A column of the table's own sheet that tells its rows apart, if the sheet has one."""
        sheet = self.design.by_name[table].sheet
        own = next(
            (view for view in self.tables.views if (view.base, view.sheet, view.lists) == (table, sheet, ())), None
        )
        if own is not None:
            return Held(own, table, (), own.columns[0])
        helds = (one for helds in self.by_name.values() for one in helds if one.view.sheet == sheet)
        found = [one for one in helds if one.home == table and one.column.formula is None]
        return min(found, key=lambda one: len(one.path), default=None)

    def is_name(self, held: Held) -> bool:
        """Whether a column holds whole numbers that are keys, or refer to some."""
        table = self.tables.by_name[held.home]
        keys = {name for one in (table.key, *(reference.columns for reference in table.references)) for name in one}
        return held.column.kind.word == "whole number" and held.column.column in keys

    def grain(self, held: Held) -> Path:
        """The path to the table of which each row has one value of a column."""
        if held.column.formula is None:
            return held.path
        paths = [one.path for one in self._operands(held.view, held.column)]
        first = min(paths, key=len)
        shared = 0
        while shared < len(first) and all(path[shared] == first[shared] for path in paths):
            shared += 1
        return first[:shared]

    def _operands(self, view: View, column: ViewColumn) -> Iterator[ViewColumn]:
        """The stored columns that a column follows from."""
        if column.formula is None or column.column is not None:
            yield column
            return
        for header in column.formula.operands:
            yield from self._operands(view, next(one for one in view.columns if one.header == header))

    def is_united(self, table: str) -> bool:
        """Whether several sheets tell of the rows of a table, which may name them in several writings."""
        plan = self.design.by_name[table]
        sheets = {sheet.name for sheet in self.design.sheets if sheet.unites}
        return len(plan.sheets) > 1 or plan.sheet in sheets

    def ways(self, start: str, end: str) -> list[Path]:
        """The shortest ways along references from one table to another; none if there is none."""
        paths: list[Path] = [()]
        seen = {start}
        while paths:
            found = [path for path in paths if (path[-1].table if path else start) == end]
            if found:
                return found
            onward = []
            for path in paths:
                table = self.tables.by_name[path[-1].table if path else start]
                onward += [(*path, one) for one in table.references if one.table not in seen]
            seen |= {path[-1].table for path in onward}
            paths = onward
        return []

    def naming(self, view: View, path: Path, table: str) -> tuple[str, ...] | None:
        """The headers of a sheet that tell the rows of the table at a path apart; None if it does not have all."""
        found = []
        for name in resolve.identity(self.design.by_name[table]):
            places = [(path, name)]
            if path and name in path[-1].table_columns:
                places.append((path[:-1], path[-1].columns[path[-1].table_columns.index(name)]))
            elif name not in self.tables.by_name[table].by_name:
                return None
            further = self._behind(table, name)
            if further is not None:
                places.append(((*path, further[0]), further[1]))
            header = next(
                (one.header for place in places for one in view.columns if (one.path, one.column) == place), None
            )
            if header is None:
                return None
            found.append(header)
        return tuple(found)

    def _behind(self, table: str, name: str) -> tuple[Reference, str] | None:
        """The reference of a column, and the column of the table behind it that the sheet names it by."""
        reference = next((one for one in self.tables.by_name[table].references if one.columns == (name,)), None)
        if reference is None:
            return None
        names = resolve.identity(self.design.by_name[reference.table])
        return (reference, names[0]) if len(names) == 1 else None


def _own_view(table: Table) -> View:
    """A table as it is, under the names of its columns."""
    columns = tuple(ViewColumn(column.name, column.kind, (), column.name) for column in table.columns)
    return View(table.name, "", table.name, columns)
