"""Tables that are held × tables of a further sheet → what is known, what is new, and what contradicts.

    held: boats (1 Teal, berth A3)      further: boats (1 Teal, berth B7), (2 Knot, berth A3)
    →     boat 1 is known and contradicts in its berth; Knot is new and gets the next id, 2

Things are known by what names them, records by their key or, where that is made up, by all their cells. What refers to
a known thing refers to the one that is held.
"""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa

from hemplit.core import kinds
from hemplit.core.columns.codes import Grouping, combine, stack, tell_apart, with_blank
from hemplit.core.design import resolve
from hemplit.core.design.ids import NUMBER, CodeBook
from hemplit.core.model.design import Grain
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.tables import Reference, Table, TableColumn
from hemplit.core.tables.entries import owner_of, spoken_of
from hemplit.core.tables.match import match
from hemplit.core.tables.periods import in_both_periods
from hemplit.core.texts.twins import are_twins
from hemplit.dataclasses import dataclass, field, replace
from hemplit.errors import DesignError, DoubledError

if TYPE_CHECKING:
    from collections.abc import Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.design import ColumnPlan, Design, TablePlan
    from hemplit.core.model.grid import Codes

    Rows = npt.NDArray[np.int64]
    Flags = npt.NDArray[np.bool_]


#: What a list says of an entry that only another has.
NO_ENTRY = "no such entry"


@dataclass(frozen=True)
class Conflict:
    """A cell of a known row that says something else now: which row by what names it, and both values."""

    table: str
    names: tuple[str, ...]
    column: str
    held: str
    further: str
    row: int
    further_row: int
    of_list: str = ""
    """Of an entry that the list of a row has, or lacks: the table in which ``further_row`` is that row."""

    @property
    def is_further_entry(self) -> bool:
        """Whether it is an entry that the list which is held has not."""
        return bool(self.of_list) and self.held == NO_ENTRY

    @property
    def is_like(self) -> bool:
        """Whether the one looks like a typo of the other."""
        return not self.of_list and are_twins(self.held, self.further)


@dataclass(frozen=True)
class Added:
    """What came to a table: its new rows, what new things and kinds are called, and how many rows are others now."""

    new: int
    rows: int
    names: tuple[str, ...] = ()
    changed: int = 0


@dataclass(frozen=True)
class Unsaid:
    """What is blank as nothing was said, by table and column: the ``held`` rows of which nothing was said so far, which
    are filled, and the ``further`` ones of which the further sheet says nothing either, which contradict nothing."""

    held: Mapping[tuple[str, str], Flags] = field(default_factory=dict)
    further: Mapping[tuple[str, str], Flags] = field(default_factory=dict)


@dataclass(frozen=True)
class Merged:
    """The tables as they become, the new rows behind those that are held.

    ``place`` gives for each row of a further table its row in the merged one; ``held`` how many were there before;
    ``changed`` the rows of each table that were there and are others now.
    """

    tables: Mapping[str, Table]
    place: Mapping[str, Rows]
    held: Mapping[str, int]
    conflicts: tuple[Conflict, ...]
    changed: Mapping[str, Rows] = field(default_factory=dict)


def merge(
    design: Design,
    held: Mapping[str, Table],
    further: Mapping[str, Table],
    unsaid: Unsaid | None = None,
    *,
    update: bool = False,
) -> Merged:
    """What the tables become by those of a further sheet; with ``update``, what contradicts replaces what is held.

    Raises ``DoubledError`` if two rows would be alike in what is to be unique.
    """
    merging = _Merging(design, dict(held), further, unsaid or Unsaid(), update=update)
    for plan in resolve.filling_order(design, design.tables):
        if plan.name in further:
            merging.table(plan)
    counts = {name: held[name].row_count for name in further}
    changed = {name: np.array(sorted(rows), dtype=np.int64) for name, rows in merging.changed.items()}
    return Merged(merging.tables, merging.place, counts, tuple(merging.conflicts), changed)


@dataclass(frozen=True)
class _Compared:
    """A column of held and further rows in codes of the same values, and the held row of each further one."""

    column: TableColumn
    mine: Codes
    theirs: Codes
    values: pa.Array
    known: Rows


class _Merging:
    def __init__(
        self,
        design: Design,
        tables: dict[str, Table],
        further: Mapping[str, Table],
        unsaid: Unsaid,
        *,
        update: bool,
    ) -> None:
        self.design, self.tables, self.further, self.unsaid, self.update = design, tables, further, unsaid, update
        self.held = dict(tables)
        self.counts = {name: table.row_count for name, table in tables.items()}
        self.place: dict[str, Rows] = {}
        self.conflicts: list[Conflict] = []
        self.changed: dict[str, set[int]] = {}

    def table(self, plan: TablePlan) -> None:
        """One table, after all that it refers to."""
        before, given = self.tables[plan.name], self.further[plan.name]
        if any(column.lowest for column in plan.columns):
            # The limits that are known hold; what does not follow from them would not be given back.
            self.place[plan.name] = np.full(given.row_count, EMPTY, dtype=np.int64)
            return
        own = self._with_held_keys(plan, given)
        said = [column for column in plan.stored if not self._is_numbered(plan, column)]
        names = self._names(plan, said)
        known = self._known(before, own, names, [column.name for column in said], plan)
        new = np.flatnonzero(known == EMPTY)
        place = known.copy()
        place[new] = before.row_count + np.arange(len(new))
        self.place[plan.name] = place
        self._check_entries(plan, own, known)
        columns = []
        for column in plan.stored:
            one, other = before.by_name[column.name], own[column.name]
            if self._is_numbered(plan, column):
                columns.append(self._numbered(column, one, new))
                continue
            if column.to == plan.name:
                other = self._own_rows(plan, column, given, place, columns)
            codes, values = stack([(one.codes, one.values), (other.codes, other.values)])
            mine, theirs = codes[: before.row_count], codes[before.row_count :]
            if column.name not in names:
                named = [own[name] for name in names]
                mine = self._met(plan, named, _Compared(one, mine, theirs, values, known))
            columns.append(
                TableColumn(column.name, one.kind, np.concatenate([mine, theirs[new]]), values, one.required)
            )
        merged = replace(before, columns=tuple(columns), row_count=before.row_count + len(new))
        for alike in (plan.key, *plan.unique):
            self._check_unique(plan, merged, alike)
        self.tables[plan.name] = merged

    def _names(self, plan: TablePlan, said: Sequence[ColumnPlan]) -> tuple[str, ...]:
        """What a row is known by."""
        sayable = {column.name for column in said}
        names = resolve.identity(plan)
        if not sayable.issuperset(names):
            names = next((columns for columns in plan.unique if sayable.issuperset(columns)), ())
        others = tuple(column.name for column in said if column.to != plan.name)
        return names or others

    def _with_held_keys(self, plan: TablePlan, given: Table) -> dict[str, TableColumn]:
        """The columns of a further table; what refers to others names the rows that these have become."""
        own = {column.name: column for column in given.columns}
        for reference in given.references:
            if reference.table == plan.name or reference.table not in self.place:
                continue
            rows = match(given, reference, self.further[reference.table])
            became = np.append(self.place[reference.table], EMPTY)[rows]
            for name, key in zip(reference.columns, reference.table_columns, strict=True):
                there = self.tables[reference.table].by_name[key]
                codes = np.append(there.codes, np.int32(EMPTY))[became]
                own[name] = replace(own[name], codes=codes, values=there.values, kind=there.kind)
        return own

    def _known(
        self,
        before: Table,
        own: Mapping[str, TableColumn],
        names: Sequence[str],
        said: Sequence[str],
        plan: TablePlan,
    ) -> Rows:
        """For each further row the row that is held of the same thing; of equal records each counts once."""
        known = _partners(before, own, names)
        blank = np.logical_or.reduce([own[name].codes == EMPTY for name in names])
        if blank.any() and tuple(names) != plan.key:
            known[blank] = _partners(before, own, said)[blank]
        return known

    def _is_numbered(self, plan: TablePlan, column: ColumnPlan) -> bool:
        """Whether the values of a column only count: made-up ids and the numbers of rows."""
        return column.ids is not None or resolve.numbers_rows(self.design, plan, column)

    def _numbered(self, column: ColumnPlan, one: TableColumn, new: Rows) -> TableColumn:
        """Numbers that go on behind those that are held."""
        if column.ids is not None and column.ids != NUMBER:
            taken = set(one.values.to_pylist())
            book = CodeBook(column.ids)
            codes = (code for _ in range(len(taken) + len(new)) for code in book.codes([None]))
            further = [code for code in codes if code not in taken][: len(new)]
            values = pa.concat_arrays([one.values, pa.array(further, one.values.type)])
        else:
            first = max((value for value in one.values.to_pylist() if value is not None), default=0) + 1
            values = pa.concat_arrays([one.values, pa.array(range(first, first + len(new)), one.values.type)])
        codes_of_new = len(one.values) + np.arange(len(new), dtype=np.int32)
        return replace(one, codes=np.concatenate([one.codes, codes_of_new]).astype(np.int32), values=values)

    def _own_rows(
        self, plan: TablePlan, column: ColumnPlan, given: Table, place: Rows, columns: Sequence[TableColumn]
    ) -> TableColumn:
        """A reference to the table's own rows, by the key that they have become."""
        key = next((one for one in columns if one.name == plan.key[0]), None)
        if key is None:
            what = "the key of a table whose rows refer to each other must stand before that reference"
            raise DesignError(resolve.place(plan, column), what, "move its line up")
        reference = Reference((column.name,), plan.name, plan.key)
        became = np.append(place, EMPTY)[match(given, reference, given)]
        # What is no row of the further sheet is one of those that are held.
        became = np.where(became == EMPTY, match(given, reference, self.tables[plan.name]), became)
        codes = np.append(key.codes, np.int32(EMPTY))[became]
        return replace(given.by_name[column.name], codes=codes, values=key.values, kind=key.kind)

    def _check_entries(self, plan: TablePlan, own: Mapping[str, TableColumn], known: Rows) -> None:
        """Entries that the list of a known row has more or fewer than the one that is held."""
        above = owner_of(self.design, plan)
        references = () if above is None else self.further[plan.name].references
        reference = next((one for one in references if above is not None and one.table == above.name), None)
        if above is None or reference is None:
            return
        merged, before = self.tables[above.name], self.tables[plan.name]
        # What the further sheet only speaks of has its rows in the table that is held.
        place = self.place.get(above.name)
        spoken = spoken_of(self.design, plan, merged, self.further) if place is None else place
        row_of = np.full(merged.row_count + 1, EMPTY, dtype=np.int64)
        row_of[spoken] = spoken if place is None else np.arange(len(place))
        row_of[self.counts[above.name] :] = EMPTY
        owner = match(replace(self.further[plan.name], columns=tuple(own.values())), reference, merged)
        was_there = row_of[owner] != EMPTY
        if place is None:
            was_there &= np.isin(owner, spoken_of(self.design, plan, merged, self.held))
        held, given = in_both_periods(self.design, plan, before, own)
        for row in np.flatnonzero(was_there & (known == EMPTY) & given).tolist():
            self._entry(plan, reference, own, row, (above.name, int(row_of[owner[row]])))
        by = row_of[match(before, reference, merged)]
        lacking = (by != EMPTY) & held
        lacking[known[known != EMPTY]] = False
        for row in np.flatnonzero(lacking).tolist():
            self._entry(plan, reference, before.by_name, row, (above.name, int(by[row])), is_held=True)

    def _entry(
        self,
        plan: TablePlan,
        reference: Reference,
        cells: Mapping[str, TableColumn],
        row: int,
        at: tuple[str, int],
        *,
        is_held: bool = False,
    ) -> None:
        """An entry that only one of two lists has."""
        others = [column for column in cells.values() if column.name not in reference.columns]
        said = ", ".join(self._said(plan, column.name, kinds.shown_at(column, row)) for column in others)
        owned = tuple(self._said(plan, name, kinds.shown_at(cells[name], row)) for name in reference.columns)
        headers = " + ".join(self._header(plan, column.name) for column in others)
        values = (said, NO_ENTRY) if is_held else (NO_ENTRY, said)
        self.conflicts.append(Conflict(plan.name, owned, headers, *values, EMPTY, at[1], at[0]))

    def _met(self, plan: TablePlan, named: Sequence[TableColumn], cells: _Compared) -> Codes:
        """The cells of the held rows, in which blanks are filled, and replaced what the further ones say otherwise."""
        said = plan.name, cells.column.name
        rows = np.flatnonzero(cells.known != EMPTY)
        if said in self.unsaid.further:
            rows = rows[~self.unsaid.further[said][rows]]
        there = cells.known[rows]
        differs = cells.mine[there] != cells.theirs[rows]
        fills = differs & (cells.mine[there] == EMPTY)
        fills &= self.unsaid.held[said][there] if said in self.unsaid.held else False
        for row in rows[differs & ~fills].tolist():
            self._conflict(plan, named, cells, row)
        taken = differs if self.update else fills
        if not taken.any():
            return cells.mine
        self.changed.setdefault(plan.name, set()).update(there[taken].tolist())
        mine = cells.mine.copy()
        mine[there[taken]] = cells.theirs[rows[taken]]
        return mine

    def _conflict(self, plan: TablePlan, named: Sequence[TableColumn], cells: _Compared, row: int) -> None:
        """A cell of a known row that says something else."""
        there, column = int(cells.known[row]), plan.by_name[cells.column.name]
        said = tuple(self._said(plan, one.name, kinds.shown_at(one, row)) for one in named)
        blank = "" if column.unlike is None else "as others say"
        one, other = (
            blank if code == EMPTY else self._said(plan, column.name, _shown(cells, code))
            for code in (int(cells.mine[there]), int(cells.theirs[row]))
        )
        header = self._header(plan, column.name)
        self.conflicts.append(Conflict(plan.name, said, header, one, other, there, row))

    def _said(self, plan: TablePlan, name: str, text: str) -> str:
        """What a cell says to a person: of a made-up id the name of the thing that has it."""
        pointed = resolve.target(self.design, plan, plan.by_name[name])
        if text and pointed is not None and pointed.column.to is not None and pointed.table is not plan:
            return self._said(pointed.table, pointed.column.name, text)
        if not text or pointed is None or pointed.column.ids is None:
            return text
        table = self.tables[pointed.table.name]
        key = table.by_name[pointed.column.name]
        rows = (row for row in range(table.row_count) if kinds.shown_at(key, row) == text)
        row = next(rows, None)
        if row is None:
            return text
        named = [table.by_name[one] for one in resolve.identity(pointed.table) if one != pointed.column.name]
        return ", ".join(self._said(pointed.table, one.name, kinds.shown_at(one, row)) for one in named) or text

    def _header(self, plan: TablePlan, name: str) -> str:
        return resolve.header(self.design, plan, plan.by_name[name])

    def _check_unique(self, plan: TablePlan, merged: Table, names: Sequence[str]) -> None:
        columns = [merged.by_name[name] for name in names]
        if tell_apart([(column.codes, len(column.values)) for column in columns]):
            return
        filled = np.flatnonzero(np.logical_and.reduce([column.codes != EMPTY for column in columns]))
        whole = reduce(combine, (Grouping(column.codes[filled], len(column.values)) for column in columns))
        alike = filled[whole.codes == np.bincount(whole.codes).argmax()]
        speaking = np.flatnonzero(np.isin(self.place[plan.name], alike))
        here = int(self.place[plan.name][speaking[-1]]) if len(speaking) else int(alike[-1])
        other = int(alike[alike != here][0])
        texts = (self._said(plan, one.name, kinds.shown_at(one, here)) for one in columns)
        cells = ", ".join(f"{self._header(plan, name)} '{text}'" for name, text in zip(names, texts, strict=True))
        known = [merged.by_name[name] for name in resolve.identity(plan) if name not in names]
        both = [", ".join(self._said(plan, one.name, kinds.shown_at(one, at)) for one in known) for at in (other, here)]
        what = f"{cells} would stand in two rows of {plan.name}" + (f", {both[0]} and {both[1]}" if known else "")
        hint = "correct the sheet, or " + ("choose another key" if names == plan.key else "take it out of 'unique'")
        if not len(speaking):  # the tables that are held are so already
            raise DesignError(resolve.place(plan), what, hint)
        raise DoubledError(resolve.place(plan), what, hint, plan.name, int(speaking[-1]))


def without_unused(design: Design, merged: Merged) -> Merged:
    """The tables without new things and kinds to which nothing refers, as what spoke of them was not taken."""
    tables = dict(merged.tables)
    for plan in reversed(resolve.filling_order(design, design.tables)):
        named = [
            match(other, reference, tables[plan.name])
            for other in tables.values()
            for reference in other.references
            if reference.table == plan.name
        ]
        if named and plan.grain is not Grain.ROW and plan.name in merged.held:
            used = np.arange(tables[plan.name].row_count) < merged.held[plan.name]
            used[np.concatenate([rows[rows != EMPTY] for rows in named])] = True
            tables[plan.name] = rows_from(tables[plan.name], np.flatnonzero(used))
    return replace(merged, tables=tables)


def rows_from(table: Table, rows: Rows) -> Table:
    """Some rows of a table."""
    columns = tuple(replace(column, codes=column.codes[rows]) for column in table.columns)
    return replace(table, columns=columns, row_count=len(rows))


def _shown(cells: _Compared, code: int) -> str:
    return kinds.show(cells.values[code].as_py(), cells.column.kind)


def _partners(before: Table, own: Mapping[str, TableColumn], names: Sequence[str]) -> Rows:
    """For each further row a held one that is the same in those columns, each of equal ones once, else ``EMPTY``."""
    rows = before.row_count
    parts = []
    for name in names:
        one, other = before.by_name[name], own[name]
        codes, values = stack([(one.codes, one.values), (other.codes, other.values)])
        parts.append(with_blank(codes, len(values)))
    whole: Grouping = reduce(combine, parts)
    mine, theirs = whole.codes[:rows], whole.codes[rows:]
    counts = np.bincount(mine, minlength=whole.size)
    starts = np.cumsum(counts) - counts
    in_order = np.append(np.argsort(mine, kind="stable"), EMPTY)
    rank = _rank(theirs, whole.size)
    return np.where(rank < counts[theirs], in_order[np.minimum(starts[theirs] + rank, rows)], EMPTY).astype(np.int64)


def _rank(codes: Codes, size: int) -> Rows:
    """The how manieth of its group each row is, counted from 0."""
    order = np.argsort(codes, kind="stable")
    counts = np.bincount(codes, minlength=size)
    starts = np.cumsum(counts) - counts
    rank = np.empty(len(codes), dtype=np.int64)
    rank[order] = np.arange(len(codes)) - starts[codes[order]]
    return rank
