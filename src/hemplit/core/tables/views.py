"""How the tables give a sheet back: every header, reached from the table of its rows along the fewest references."""

from __future__ import annotations

from itertools import count
from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.model.design import Feed
from hemplit.core.model.tables import Reference, View, ViewColumn
from hemplit.core.tables.gather import gathered, view_name
from hemplit.core.tables.same import headers_in
from hemplit.dataclasses import replace
from hemplit.errors import DesignError

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from hemplit.core.model.design import Design, SheetPlan, TablePlan
    from hemplit.core.model.relation import Relation
    from hemplit.core.model.tables import Table

#: The references to follow from the table of a sheet's rows.
Path = tuple[Reference, ...]


def _downward(design: Design, base: TablePlan, table: TablePlan) -> Reference:
    """The way from a table to another that refers to it."""
    up = next(one for one in resolve.references(design, table) if one.table == base.name)
    return Reference(up.table_columns, table.name, up.columns)


def _said_across(design: Design, table: TablePlan, feed: Feed, reference: Reference) -> Iterator[tuple[str, str]]:
    """The headers that stand in a table of another sheet behind a reference, each with the column that holds it."""
    for column in table.columns:
        pointed = resolve.target(design, table, column)
        said = column if column.along is None else table.by_name[column.along[0]]
        if said.name not in reference.columns or not resolve.speaks(design, table, said, feed):
            continue
        if column.along is not None:
            yield str(column.source), column.along[1]
        elif pointed is not None and resolve.is_across(table, column, pointed, feed.sheet):
            headers, names = resolve.naming(design, table, column, feed.sheet)
            if headers and len(pointed.table.key) == 1 and pointed.column.name not in names and not column.alike:
                yield from zip(headers, names, strict=True)


def view_of(design: Design, sheet: SheetPlan, relations: Mapping[str, Relation]) -> View:
    """Every header of the sheet, reached from the base table along the fewest references."""
    relation = relations[sheet.name]
    base = design.base_of(sheet.name)
    ways = _ways(design, sheet, {name: one.names for name, one in relations.items()})
    formulas = {header: column.formula for _, column, header in design.headers_of(sheet.name) if not column.store}
    columns = gathered(design, sheet, relations)
    for came in relation.columns:
        if came.name in ways.found:
            way, name = ways.found[came.name]
            otherwise = tuple(ways.otherwise.get(came.name, ()))
            columns.append((came.position, ViewColumn(came.name, came.kind, way, name, otherwise=otherwise)))
        elif formulas.get(came.name) is not None:
            columns.append((came.position, ViewColumn(came.name, came.kind, formula=formulas[came.name])))
        elif came.name not in sheet.leave_out:
            raise DesignError(
                f"sheets.{sheet.name}",
                f"{relation.source.title} has a column '{came.name}' that no table takes",
                f'run draft to add it, or write leave_out = ["{came.name}"] under [sheets.{sheet.name}]',
            )
    columns.sort(key=lambda column: column[0])
    lists = tuple(_lists(design, sheet))
    return View(view_name(design, sheet), sheet.name, base.name, tuple(column for _, column in columns), lists)


def view_of_stored(design: Design, sheet: SheetPlan, tables: Mapping[str, Table]) -> View:
    """Every header of a sheet that is not given, as far as its cells are stored in the tables."""
    base = design.base_of(sheet.name).name
    names = {one.name: resolve.headers(one) for one in design.sheets}
    ways = _ways(design, sheet, names)
    columns = []
    for header in names[sheet.name]:
        if header in ways.found:
            way, name = ways.found[header]
            kind = tables[way[-1].table if way else base].by_name[name].kind
            columns.append(ViewColumn(header, kind, way, name, otherwise=tuple(ways.otherwise.get(header, ()))))
    return View(view_name(design, sheet), sheet.name, base, tuple(columns), tuple(_lists(design, sheet)))


def said_by(design: Design, sheet: SheetPlan) -> list[tuple[Path, str]]:
    """Where the tables hold what a sheet says: the references to follow from the table of its rows, and the column."""
    ways = _ways(design, sheet, {one.name: resolve.headers(one) for one in design.sheets})
    return [*ways.found.values(), *(way for others in ways.otherwise.values() for way in others)]


def moved(view: View, column: ViewColumn, name: str, way: Path, cut: int) -> list[ViewColumn]:
    """A column under another name, with those that it follows from, reached over a way in place of the first steps."""
    onward = [((*way, *path[cut:]), held) for path, held in column.otherwise if path[:cut] == column.path[:cut]]
    gone = replace(column, header=name, path=(*way, *column.path[cut:]), otherwise=tuple(onward))
    if column.formula is None or column.column is not None:
        return [gone]
    names = count()
    columns: list[ViewColumn] = []
    operands = []
    for header in column.formula.operands:
        own = next(one for one in view.columns if one.header == header)
        operands.append(f"{name}.{next(names)}")
        columns += moved(view, own, operands[-1], way, cut)
    return [replace(gone, path=(), formula=replace(column.formula, operands=tuple(operands))), *columns]


def _lists(design: Design, sheet: SheetPlan) -> list[Reference]:
    base = design.base_of(sheet.name)
    return [_downward(design, base, listed) for listed in design.lists_of(sheet.name)]


def _ways(design: Design, sheet: SheetPlan, names: Mapping[str, Sequence[str]]) -> _Ways:
    """The ways to the headers of a sheet; ``names`` are the headers of each sheet."""
    ways = _Ways(design, sheet)
    lists = [(design.by_name[down.table], (down,)) for down in _lists(design, sheet)]
    ways.follow([(design.base_of(sheet.name), ()), *lists])
    united = design.united(sheet.name)
    if united is not None:
        ways.through(united, names)
    return ways


class _Ways:
    """The ways to the headers of a sheet: ``found`` the first to each, ``otherwise`` what hold it if that is blank."""

    def __init__(self, design: Design, sheet: SheetPlan) -> None:
        self.design, self.sheet = design, sheet
        self.found: dict[str, tuple[Path, str]] = {}
        self.otherwise: dict[str, list[tuple[Path, str]]] = {}
        #: What the sheet out of which this one was taken says under a header that both have.
        self.shared: dict[str, tuple[Path, str]] = {}
        #: What another sheet's table says behind a reference by that header, which may go by less than all of them.
        self.across: dict[str, tuple[Path, str]] = {}

    def follow(self, starts: list[tuple[TablePlan, Path]]) -> None:
        """All references from the tables of the sheet's rows, the nearest tables first."""
        first = Feed(self.sheet.name)
        queue = [(table, path, first) for table, path in starts]
        for further in self.design.subsets_of(self.sheet.name):
            queue.append((further, (_downward(self.design, starts[0][0], further),), first))
        seen: set[tuple[str, Feed]] = set()
        for table, path, feed in queue:
            self._own_columns(table, path, feed)
            seen.add((table.name, feed))
            for reference in resolve.references(self.design, table):
                onward = self._behind(table, path, feed, reference)
                if onward is not None and (reference.table, onward) not in seen:
                    queue.append((self.design.by_name[reference.table], (*path, reference), onward))
        # What a table of the sheet holds itself is as it was said.
        for header, way in (*self.across.items(), *self.shared.items()):
            self.found.setdefault(header, way)

    def _own_columns(self, table: TablePlan, path: Path, feed: Feed) -> None:
        found = self.found if feed.sheet == self.sheet.name else self.shared
        for column in table.stored:
            header = resolve.source(self.design, table, column, feed)
            if header is not None:
                found.setdefault(header, (path, column.name))
            elif column.unmatched is not None:
                self.otherwise.setdefault(str(column.source), []).append((path, column.name))

    def through(self, united: SheetPlan, names: Mapping[str, Sequence[str]]) -> None:
        """The ways over the table of what this sheet and others tell of; ``names`` are the headers of each of them."""
        base = self.design.base_of(united.name)
        here = self.design.base_of(self.sheet.name)
        reference = next((one for one in resolve.references(self.design, here) if one.table == base.name), None)
        if reference is None:
            return
        whole = _Ways(self.design, united)
        whole.follow([(base, ())])
        given = headers_in(united, names)
        kept = {header for column in here.columns if column.unlike is not None for header in column.headers}
        for header in names[self.sheet.name]:
            name = given[self.sheet.name, header]
            ways = [whole.found[name], *whole.otherwise.get(name, [])] if name in whole.found else []
            further = [((reference, *path), column) for path, column in ways]
            if further and header not in self.found:
                self.found[header] = further.pop(0)
                self.otherwise[header] = further
            elif header in kept:
                self.otherwise[header] = further

    def _behind(self, table: TablePlan, path: Path, feed: Feed, reference: Reference) -> Feed | None:
        """The feed by which to go on in the table behind a reference; None if nothing of the sheet stands there."""
        other = self.design.by_name[reference.table]
        for header, name in _said_across(self.design, table, feed, reference):
            further, held = resolve.held_behind(self.design, other, name)
            across = self.across if feed.sheet == self.sheet.name else self.shared
            across.setdefault(header, ((*path, reference, *further), held))
        referring = table.by_name[reference.columns[0]]
        if not resolve.speaks(self.design, table, referring, feed):
            return None  # of this thing nothing is said here
        sheet = next((one for one in (feed.sheet, self.sheet.name, self.sheet.of) if one in other.sheets), None)
        if sheet is None:
            return None
        own = next(iter(table.headers_in(feed.sheet, referring)), None)
        if own is None:
            return replace(feed, sheet=sheet)
        onward = other.feed_of(sheet, own)
        if onward is None:
            # A row names another row of its own table.
            named = referring.named_by or resolve.identity(other)
            self.found.setdefault(own, ((*path, reference), named[0]))
        return onward
