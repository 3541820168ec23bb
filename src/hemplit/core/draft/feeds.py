"""Tables of several sheets that hold the same things → one table, which all of these sheets fill.

    jobs: boats (reg, name, length)    lifts: regs (reg, boat_name, dock)    →    boats (reg, name, length, dock)

What they say otherwise of the same things stays in a column for each.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.design.check import check
from hemplit.core.draft.things import Match, Sheets, Sort, match_of
from hemplit.core.texts.words import unused
from hemplit.dataclasses import replace
from hemplit.errors import DesignError

if TYPE_CHECKING:
    from collections.abc import Collection, Mapping, Sequence

    from hemplit.core.model.design import ColumnPlan, Design, TablePlan
    from hemplit.core.model.relation import Relation


def fed(design: Design, relations: Mapping[str, Relation]) -> Design:
    """The design in which each sort of thing that several sheets name has one table."""
    sheets = Sheets(relations)
    made = _Feeding(design, sheets).all()
    # That the whole makes no sense is rare, and to find out at each step takes as long as all the rest.
    return made if makes_sense(made) else _Feeding(design, sheets, step_by_step=True).all()


def makes_sense(design: Design) -> bool:
    """Whether a design can be loaded: no table may refer to itself through others."""
    try:
        check(design)
    except DesignError:
        return False
    return True


class _Feeding:
    """The design as it is put together; ``step_by_step`` leaves apart what would make no sense together."""

    def __init__(self, design: Design, sheets: Sheets, *, step_by_step: bool = False) -> None:
        self.design, self.sheets, self.step_by_step = design, sheets, step_by_step
        self.met: list[str] = []
        self._sorts: dict[str, Sort] = {}

    def all(self) -> Design:
        """The design with all tables that hold the same things made one."""
        for name in [table.name for table in resolve.filling_order(self.design, self.design.tables)]:
            self.meet(name)
        return self.design

    def meet(self, name: str) -> None:
        """One table, after all that it refers to, with those of other sheets that were met before."""
        sort = self._sort(name)
        if not sort.is_sort:
            return
        found: list[tuple[Match, Sort, Sort]] = []
        for other in self.met:
            kept, gone = sorted((self._sort(other), sort), key=lambda one: one.rank)
            match = match_of(kept, gone)
            found += [(match, kept, gone)] if match is not None else []
        for match, kept, gone in sorted(found, key=lambda one: (-one[0].share, -one[0].shared, one[1].table.name)):
            if self._put_together(kept, gone, match):
                both = (kept.table.name, gone.table.name)
                self.met = [one for one in self.met if one not in both]
                # What both of them have in common with a third may be enough now.
                self.meet(_name(*both))
                return
        self.met.append(name)

    def _sort(self, name: str) -> Sort:
        """A table with what is said in it, as long as the design is the same."""
        if name not in self._sorts:
            self._sorts[name] = Sort(self.design, self.design.by_name[name], self.sheets)
        return self._sorts[name]

    def _put_together(self, kept: Sort, gone: Sort, match: Match) -> bool:
        """Makes two tables one; false if the design would make no sense then, and this is looked at."""
        design = put_together(self.design, kept, gone, match, _name(kept.table.name, gone.table.name))
        if self.step_by_step and not makes_sense(design):
            return False
        self.design = design
        self._sorts.clear()
        return True


def put_together(design: Design, kept: Sort, gone: Sort, match: Match, name: str) -> Design:
    """The design with one table of that name in the place of two."""
    made = replace(_both(kept, gone, match), name=name)
    names = {kept.table.name: name, gone.table.name: name}
    keys: dict[str, dict[str, str]] = {kept.table.name: {}} | {
        gone.table.name: dict(zip(gone.table.key, made.key, strict=True))
    }
    # An id that was made for one sheet says there in which role it has the things: the crew of a trip are skippers.
    roles = {column.name for column in gone.table.columns if column.ids is not None}
    tables = tuple(
        made if table.name == kept.table.name else _referring(table, name, keys, roles)
        for table in design.tables
        if table.name != gone.table.name
    )
    return replace(design, tables=tables, trail=tuple(one.renamed(names) for one in design.trail))


def _name(kept: str, gone: str) -> str:
    """The name for two tables: that of the one that stays, without its sheet's where the other had taken the rest."""
    return gone if kept.endswith(f"_{gone}") else kept


def _both(kept: Sort, gone: Sort, match: Match) -> TablePlan:
    """One table of two."""
    table, other = kept.table, gone.table
    told = {gone.name.name: kept.name.name, **match.columns}
    given = {one: theirs for theirs, one in told.items()}
    columns = []
    for column in table.columns:
        if column.ids is not None or column.formula is not None:
            columns.append(column)
            continue
        theirs = other.by_name[given[column.name]] if column.name in given else None
        if theirs is None:
            columns.append(replace(column, required=False))
            continue
        said = dict(_headers(kept, column)) | dict(_headers(gone, theirs))
        headers = said.pop(table.sheet, ())
        required = column.required and theirs.required
        columns.append(replace(column, headers=headers, elsewhere=tuple(said.items()), required=required))
    taken = {column.name for column in columns}
    for column in other.columns:
        if column.ids is None and column.name not in told:
            name = unused(column.name, taken, f"{other.name}_{column.name}")
            taken.add(name)
            made = replace(column, name=name, headers=(), elsewhere=_headers(gone, column), required=False)
            columns.append(made)
    shared = set(given)
    titles = ", ".join(kept.sheets.relations[sheet].source.title for sheet in other.sheets)
    why = f"{table.why}; {titles} names {match.shared:,} of them, too"
    return replace(
        table,
        columns=tuple(columns),
        unique=tuple(names for names in table.unique if names == (kept.name.name,) or shared.isdisjoint(names)),
        rules=tuple(rule for rule in table.rules if shared.isdisjoint(rule.columns)),
        why=why,
    )


def _headers(sort: Sort, column: ColumnPlan) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """The headers of a column in each of the sheets of its table."""
    said = {
        sheet: tuple(
            header
            for feed in sort.table.feeds
            if feed.sheet == sheet
            for header in [sort.header(column, feed)]
            if header is not None
        )
        for sheet in sort.table.sheets
    }
    return tuple((sheet, headers) for sheet, headers in said.items() if headers)


def _referring(table: TablePlan, new: str, old: Mapping[str, Mapping[str, str]], roles: Collection[str]) -> TablePlan:
    """A table whose references to ``old`` ones are to a new one, by the names of its key columns or their ``roles``."""
    if not any(column.target is not None and column.target[0] in old for column in table.columns):
        return table
    renamed: dict[str, str] = {}
    columns = []
    for column in table.columns:
        target = column.target
        if target is None or target[0] not in old:
            columns.append(column)
            continue
        keys = {name: old[target[0]].get(name, name) for name in (target[1], column.name) if name is not None}
        to = new if target[1] is None else f"{new}.{keys[target[1]]}"
        name = column.name
        if not column.headers and keys[name] != name and name not in roles:
            name = unused(keys[name], {one.name for one in table.columns} - {name}, name)
        renamed[column.name] = name
        columns.append(replace(column, name=name, to=to))
    return _renamed(replace(table, columns=tuple(columns)), renamed)


def _renamed(table: TablePlan, names: Mapping[str, str]) -> TablePlan:
    """The table with other names for columns wherever it speaks of them."""

    def of(some: Sequence[str]) -> tuple[str, ...]:
        return tuple(names.get(name, name) for name in some)

    rules = tuple(replace(rule, columns=of(rule.columns)) for rule in table.rules)
    return replace(table, key=of(table.key), unique=tuple(map(of, table.unique)), rules=rules)
