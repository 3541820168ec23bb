"""Whether a design makes sense in itself, before any data is looked at: every fault is found with its place."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.design.feeds import check_feeds
from hemplit.core.model.design import Grain, Purpose
from hemplit.core.model.findings import BAND
from hemplit.errors import DesignError, Problems, nearest

if TYPE_CHECKING:
    from hemplit.core.model.design import ColumnPlan, Design, SheetPlan, TablePlan
    from hemplit.core.model.tally import Saved

#: Names that databases or Hemplit keep for themselves begin like this.
KEPT_PREFIXES = ("hemplit_", "sqlite_", "pg_")


def check(design: Design) -> None:
    """Raises ``DesignError`` for what contradicts itself, with all that does so in another table or sheet."""
    _check_names(design)
    problems = Problems()
    for table in design.tables:
        with problems.of_part():
            _check_keys(table)
    problems.check()
    for sheet in design.sheets:
        with problems.of_part():
            if sheet.unites:
                _check_united(design, sheet)
    for table in design.tables:
        with problems.of_part():
            check_feeds(design, table)
            _check_own_rows(design, table)
            _check_across(design, table)
            if table.purpose is Purpose.RANGE:
                _check_band(table)
    problems.check()
    resolve.filling_order(design, design.tables)
    for sheet in design.sheets:
        with problems.of_part():
            _check_sheet(design, sheet)
    for saved in design.tallies:
        with problems.of_part():
            _check_saved(design, saved)
    problems.check()


def _check_united(design: Design, sheet: SheetPlan) -> None:
    """Sheets that tell of the same things have each a table of its rows, which refers to that of the things."""
    place = f"sheets.{sheet.name}.unites"
    read = [one.name for one in design.sheets if one.is_read]
    for name in sheet.unites:
        if name not in read:
            raise DesignError(place, f"there is no sheet '{name}' that is read from a file", nearest(name, read))
        united = design.united(name)
        if united is not sheet or sheet.unites.count(name) > 1:
            raise DesignError(place, f"'{name}' is united twice", "take it out of one of them")
        base, things = (
            next((one for one in design.tables_of(each) if one.grain is Grain.ROW), None) for each in (name, sheet.name)
        )
        if base is None or things is None:
            raise DesignError(place, f"'{name if base is None else sheet.name}' has no table of its rows", "add one")
        if not any(one.table == things.name for one in resolve.references(design, base)):
            what = f"'{base.name}' does not refer to '{things.name}', in which stands what its sheet tells"
            raise DesignError(resolve.place(base), what, f'add a column with from = "HEADER", to = "{things.name}"')


def _check_names(design: Design) -> None:
    taken: dict[str, str] = {}
    for table in design.tables:
        _check_name(resolve.place(table), table.name)
        for column in table.columns:
            _check_name(resolve.place(table, column), column.name, kept=())
        other = taken.setdefault(table.name.lower(), table.name)
        if other != table.name:
            raise DesignError(resolve.place(table), f"'{other}' is the same name to a database", "rename one of them")
        columns: dict[str, str] = {}
        for column in table.columns:
            twin = columns.setdefault(column.name.lower(), column.name)
            if twin != column.name:
                raise DesignError(
                    resolve.place(table, column),
                    f"'{twin}' is the same name to a database",
                    "rename one of them",
                )


def _check_saved(design: Design, saved: Saved) -> None:
    """A saved question becomes a view, and no database has two things of one name."""
    place = f"tallies.{saved.name}"
    _check_name(place, saved.name)
    others = [*design.by_name, *(one.name for one in design.tallies if one is not saved)]
    if saved.name.lower() in (name.lower() for name in others):
        raise DesignError(place, f"'{saved.name}' is the same name to a database", "rename it")


def _check_name(place: str, name: str, kept: tuple[str, ...] = KEPT_PREFIXES) -> None:
    if not name.strip() or not name.isprintable():
        raise DesignError(place, f"'{name}' is no name", "give it one of letters and digits")
    prefix = next((one for one in kept if name.lower().startswith(one)), None)
    if prefix:
        raise DesignError(place, f"names that begin with '{prefix}' are kept", "rename it")


def _check_keys(table: TablePlan) -> None:
    stored = {column.name for column in table.stored}
    for field, columns in (("key", table.key), *(("unique", columns) for columns in table.unique)):
        if not columns:
            raise DesignError(f"{resolve.place(table)}.{field}", "it names no column", "name at least one")
        for name in columns:
            if name not in stored:
                computed = name in table.by_name
                raise DesignError(
                    f"{resolve.place(table)}.{field}",
                    f"'{name}' is computed and not stored" if computed else f"the table has no column '{name}'",
                    "write store = true" if computed else nearest(name, stored),
                )
    for rule in table.rules:
        missing = next((name for name in rule.columns if name not in stored), None)
        if missing is not None:
            hint = nearest(missing, stored)
            raise DesignError(f"{resolve.place(table)}.rules", f"the table stores no column '{missing}'", hint)
    if len([column for column in table.columns if column.ids is not None]) > 1:
        raise DesignError(resolve.place(table), "two columns have generated ids", "one is enough")
    made_up = next((column for column in table.columns if column.ids is not None), None)
    if made_up is not None and table.key != (made_up.name,):
        raise DesignError(
            resolve.place(table, made_up), "a generated id must be the key by itself", f'write key = ["{made_up.name}"]'
        )
    if made_up is not None and table.grain is not Grain.ROW and len(table.stored) == 1:
        raise DesignError(resolve.place(table), "it has only a generated id", "add a column, or delete the table")


def _check_own_rows(design: Design, table: TablePlan) -> None:
    """A row that named itself by itself could never be found, and one that names another needs a header for it."""
    for name in table.key:
        pointed = resolve.target(design, table, table.by_name[name])
        if pointed is not None and pointed.table.name == table.name:
            raise DesignError(
                resolve.place(table, table.by_name[name]),
                "a column of the key cannot refer to its own table",
                "take 'to' off, or the column out of the key",
            )
    for column in table.columns:
        if column.to == table.name and column.source is None:
            raise DesignError(
                resolve.place(table, column),
                "it refers to its own table by no header",
                "write from = \"HEADER\" beside 'to'",
            )


def _check_across(design: Design, table: TablePlan) -> None:
    """A reference to a table of another sheet says by which of its columns; what hangs on it names that reference."""
    for column in table.columns:
        pointed = resolve.target(design, table, column)
        across = pointed is not None and resolve.is_across(table, column, pointed)
        own = pointed is not None and pointed.table is table and table.grain is Grain.ROW
        if column.alike and not across:
            what = "'alike' is for a table of another sheet"
            raise DesignError(resolve.place(table, column), what, "take it out")
        if column.named_by and not (across or own):
            what = "'named_by' is for a table of another sheet, and for the rows of the own one"
            raise DesignError(resolve.place(table, column), what, "take it out")
        if pointed is not None and (across or column.named_by):
            known = [one.name for one in pointed.table.stored if _says_itself(design, pointed.table, one)]
            named = resolve.names(pointed, column)
            unknown = next((name for name in named if name not in known), None)
            if unknown is not None:
                what = f"'{pointed.table.name}' has no column '{unknown}' to know its rows by"
                raise DesignError(resolve.place(table, column), what, nearest(unknown, known))
            if len(named) != len(column.headers) and not column.alike:
                what = f"rows of '{pointed.table.name}' are known by {' + '.join(named)}"
                raise DesignError(resolve.place(table, column), what, "write as many headers in 'from'")
        through = column.unmatched or column.unlike or (column.along[0] if column.along else None)
        if through is None:
            continue
        reference = table.by_name.get(through)
        known = [one.name for one in table.columns if one.to is not None and one.source is not None]
        pointed = None if reference is None else resolve.target(design, table, reference)
        own = pointed is not None and pointed.table is table and table.grain is Grain.ROW
        if reference is None or pointed is None or not (own or resolve.is_across(table, reference, pointed)):
            what = f"'{through}' refers to no table of another sheet"
            raise DesignError(resolve.place(table, column), what, nearest(through, known))
        if column.unlike is not None and table.sheet not in _sheet_of(design, pointed.table).unites:
            what = f"'{pointed.table.name}' is not what sheet '{table.sheet}' tells of with others"
            raise DesignError(resolve.place(table, column), what, "take 'unlike' out")
        if column.along is not None:
            try:
                resolve.held_behind(design, pointed.table, column.along[1])
            except DesignError as error:
                raise DesignError(resolve.place(table, column), error.what, error.hint) from error


def _sheet_of(design: Design, table: TablePlan) -> SheetPlan:
    return next(one for one in design.sheets if one.name == table.sheet)


def _says_itself(design: Design, table: TablePlan, column: ColumnPlan) -> bool:
    """Whether a column holds what the sheet says: its own cells, or a key that is not made up."""
    pointed = resolve.target(design, table, column)
    return not column.is_made and (pointed is None or pointed.column.ids is None)


def _check_band(table: TablePlan) -> None:
    """A table of ranges has the lower limit for its key, and the class that begins there."""
    limits = [column.name for column in table.columns if column.lowest is not None]
    if len(table.columns) != 2 or len(limits) != 1 or table.key != (limits[0],):
        raise DesignError(
            resolve.place(table),
            "a table of bands has two columns, the lower limit, which is its key, and the name of the class",
            "see hemplit help design",
        )


def _check_sheet(design: Design, sheet: SheetPlan) -> None:
    tables = design.tables_of(sheet.name)
    _check_left_out(sheet, tables)
    rows = [table for table in tables if table.grain is Grain.ROW]
    lists = design.lists_of(sheet.name)
    if len(rows) != (0 if lists else 1):
        raise DesignError(
            f"sheets.{sheet.name}",
            f"{len(rows)} of its tables have each_row = true, and {'none' if lists else 'one'} must have it",
            "mark the table with a row per sheet row, or delete the section of the sheet, too",
        )
    for table in lists:
        _check_list(design, table, lists[0])
    _check_used_once(sheet.name, tables)
    base = design.base_of(sheet.name)
    for table in design.subsets_of(sheet.name):
        _check_some_rows(design, table, base)
    reached = _reached(design, sheet, [base, *lists, *design.subsets_of(sheet.name)])
    bands = {
        column.formula.detail for table in tables for column in table.columns if column.formula and is_band(column)
    }
    for name in sorted(bands):
        if name not in design.by_name or design.by_name[name].purpose is not Purpose.RANGE:
            raise DesignError(f"sheets.{sheet.name}", f"there is no table of bands '{name}'", "correct 'band'")
    for table in tables:
        if table.name not in reached and table.name not in bands:
            raise DesignError(
                resolve.place(table),
                f"no reference leads from '{base.name}' to it, so its rows could not be joined again",
                f'add a column with to = "{table.name}"',
            )
    _check_operands(sheet, tables)


def _reached(design: Design, sheet: SheetPlan, queue: list[TablePlan]) -> set[str]:
    """The tables to which references lead from those of a sheet's rows."""
    reached = {table.name for table in queue}
    for table in queue:
        for reference in resolve.references(design, table):
            other = design.by_name[reference.table]
            if other.sheet == sheet.of and other.grain is Grain.ROW:
                continue
            columns = [table.by_name[name] for name in reference.columns]
            feeds = [feed for feed in table.feeds if feed.sheet == sheet.name]
            if not any(resolve.speaks(design, table, one, feed) for one in columns for feed in feeds):
                continue  # of this the sheet says nothing
            if sheet.name not in other.sheets and all(table.headers_in(sheet.name, one) for one in columns):
                continue  # a row of another sheet, by its name
            if sheet.name not in other.sheets:
                raise DesignError(
                    resolve.place(table),
                    f"it refers to '{other.name}' of another sheet by no header",
                    'write the header that names its rows: from = "HEADER"',
                )
            if other.name not in reached:
                reached.add(other.name)
                queue.append(other)
    return reached


def _check_left_out(sheet: SheetPlan, tables: tuple[TablePlan, ...]) -> None:
    """A header cannot be in a table and left out."""
    for table in tables:
        for column in table.columns:
            taken = table.headers_in(sheet.name, column)
            both = next((header for header in taken if header in sheet.leave_out), None)
            if both is not None:
                raise DesignError(
                    f"sheets.{sheet.name}.leave_out",
                    f"'{both}' is left out, and {resolve.place(table, column)} takes it",
                    "do one of the two",
                )


def _check_list(design: Design, table: TablePlan, first: TablePlan) -> None:
    """Whether a list belongs to the rows of a table of its sheet, the same as the other lists do."""
    place = f"{resolve.place(table)}.list_of"
    owner = design.by_name.get(str(table.of))
    if owner is None or owner.sheet != table.sheet or owner.grain is Grain.LIST:
        known = [other.name for other in design.tables_of(table.sheet) if other.grain is not Grain.LIST]
        raise DesignError(place, f"sheet '{table.sheet}' has no such table '{table.of}'", nearest(str(table.of), known))
    if table.of != first.of:
        raise DesignError(
            place, f"'{first.name}' is a list of '{first.of}'", "let all lists of a sheet belong to one table"
        )
    if not any(reference.table == owner.name for reference in resolve.references(design, table)):
        raise DesignError(place, f"no column refers to '{owner.name}'", f'add a column with to = "{owner.name}"')


def _check_some_rows(design: Design, table: TablePlan, base: TablePlan) -> None:
    """Whether a table goes on with the rows of the sheet's own table, under the same key."""
    place = f"{resolve.place(table)}.some_of"
    if table.of != base.name or base.grain is not Grain.ROW:
        raise DesignError(place, f"'{table.of}' has no row for each row of the sheet", f'write some_of = "{base.name}"')
    up = [one for one in resolve.references(design, table) if one.table == base.name]
    if not up or up[0].columns != table.key:
        raise DesignError(place, f"its key must refer to '{base.name}'", f'give its key column to = "{base.name}"')


def is_band(column: ColumnPlan) -> bool:
    """Whether a column is a class that follows from the ranges of a number."""
    return column.formula is not None and column.formula.operation == BAND


def _is_home(column: ColumnPlan) -> bool:
    """Whether the cells of its header stand in this column and in no other table."""
    return column.to is None and column.unmatched is None and column.along is None and column.unlike is None


def _check_used_once(sheet: str, tables: tuple[TablePlan, ...]) -> None:
    used: dict[str, tuple[TablePlan, ColumnPlan]] = {}
    for table in tables:
        for column in table.columns:
            for header in table.headers_in(sheet, column) if not is_band(column) and _is_home(column) else ():
                other = used.setdefault(header, (table, column))
                if other[1] is not column:
                    raise DesignError(
                        resolve.place(table, column),
                        f"'{header}' is used twice: also in {resolve.place(*other)}",
                        "take one of the two lines out, or let it refer with 'to'",
                    )


def _check_operands(sheet: SheetPlan, tables: tuple[TablePlan, ...]) -> None:
    columns = [(table, column) for table in tables for column in table.columns]
    given = {header for table, column in columns if column.store for header in table.headers_in(sheet.name, column)}
    todo = [
        (table, column)
        for table, column in columns
        if not column.store and column.formula is not None and table.headers_in(sheet.name, column)
    ]
    while todo:
        ready = [
            (table, column) for table, column in todo if column.formula and given.issuperset(column.formula.operands)
        ]
        if not ready:
            table, column = todo[0]
            assert column.formula is not None
            lacking = next(name for name in column.formula.operands if name not in given)
            raise DesignError(
                resolve.place(table, column),
                f"it is computed from '{lacking}', which no table of sheet '{sheet.name}' stores",
                "write store = true, or add that column",
            )
        given.update(header for table, column in ready for header in table.headers_in(sheet.name, column))
        todo = [one for one in todo if one not in ready]
