"""What a design says implicitly: from which header a column really comes, which columns make up a reference, and the
order in which tables can be filled. Raises ``DesignError`` where the design contradicts itself.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.model.acts import Act
from hemplit.core.model.relation import ROW_NUMBER
from hemplit.core.model.tables import Reference
from hemplit.dataclasses import dataclass, replace
from hemplit.errors import DesignError, nearest

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.model.design import ColumnPlan, Design, Feed, SheetPlan, TablePlan


@dataclass(frozen=True)
class Target:
    """Where a referring column points."""

    table: TablePlan
    column: ColumnPlan


def place(table: TablePlan, column: ColumnPlan | None = None) -> str:
    """How messages name a spot of the design.

    >>> from hemplit.core.model.design import Purpose, TablePlan
    >>> place(TablePlan("boats", "jobs", Purpose.ENTITY, ("boat_id",), ()))
    'tables.boats'
    """
    return f"tables.{table.name}" + (f".columns.{column.name}" if column else "")


def target(design: Design, table: TablePlan, column: ColumnPlan) -> Target | None:
    """The table and key column that a column refers to, or None if it refers to nothing."""
    if column.target is None:
        return None
    table_name, column_name = column.target
    other = design.by_name.get(table_name)
    if other is None:
        raise DesignError(
            place(table, column), f"there is no table '{table_name}'", nearest(table_name, design.by_name)
        )
    if column_name is None:
        if len(other.key) != 1:
            raise DesignError(
                place(table, column),
                f"the key of '{table_name}' has {len(other.key)} columns",
                f'write to = "{table_name}.{other.key[0]}", and a column for each of the others',
            )
        column_name = other.key[0]
    if column_name not in other.key:
        raise DesignError(
            place(table, column),
            f"'{column_name}' is not in the key of '{table_name}'",
            nearest(column_name, other.key),
        )
    return Target(other, other.by_name[column_name])


def source(design: Design, table: TablePlan, column: ColumnPlan, feed: Feed | None = None) -> str | None:
    """The header from which the values of a column come, in a feed; None for made-up ids and references to them.

    A reference to a natural key comes from the header of that key, unless it has one of its own.
    """
    feed = feed or table.feeds[0]
    pointed = target(design, table, column)
    headers = table.headers_in(feed.sheet, column)
    own = headers[feed.role] if feed.role < len(headers) else None
    if column.unmatched is not None:
        return None
    if pointed is None:
        return own
    if column.named_by or is_across(table, column, pointed, feed.sheet):
        return None if column.alike else own if pointed.column.name in names(pointed, column) else None
    if not headers and (column.elsewhere or feed.sheet != table.sheet):
        return None  # of this the sheet says nothing
    there = _there(pointed, feed)
    inner = source(design, pointed.table, pointed.column, there)
    if not headers or inner is None:
        return inner
    # Another of the headers that tell of the thing, such as its name, says in which role the thing is meant.
    in_key = pointed.table.headers_in(there.sheet, pointed.column)
    return own if own in in_key or pointed.table.feed_of(there.sheet, str(own)) is None else None


def speaks(design: Design, table: TablePlan, column: ColumnPlan, feed: Feed) -> bool:
    """Whether a column can have content in the rows of a feed.

    A reference without headers follows the thing that the same feed gives the other table; where one sheet says it by a
    header, each does.
    """
    pointed = target(design, table, column)
    headers = table.headers_in(feed.sheet, column)
    if pointed is not None and headers:
        return feed.role == 0
    if headers or column.elsewhere or feed.sheet != table.sheet:
        return feed.role < len(headers)
    return pointed is None or _there(pointed, feed) in pointed.table.feeds


def _there(pointed: Target, feed: Feed) -> Feed:
    """The feed of the table behind a reference: the same, or that of the sheet out of which this one was taken."""
    return feed if feed.sheet in pointed.table.sheets else replace(feed, sheet=pointed.table.sheet)


def header(design: Design, table: TablePlan, column: ColumnPlan, feed: Feed | None = None) -> str:
    """The header by which a person knows a column: of a reference to a made-up id that of what names the thing.

    The name of the column where the sheet has no such header.
    """
    feed = feed or table.feeds[0]
    headers = table.headers_in(feed.sheet, column)
    if feed.role < len(headers):
        return headers[feed.role]
    pointed = target(design, table, column)
    if pointed is not None and pointed.column.ids is not None:
        return header(design, pointed.table, pointed.table.by_name[identity(pointed.table)[0]])
    return source(design, table, column, table.feeds[0]) or column.name


def is_across(table: TablePlan, column: ColumnPlan, pointed: Target, sheet: str | None = None) -> bool:
    """Whether a column names, in one of the sheets or in any, rows of a table that this sheet does not fill."""
    sheets = table.sheets if sheet is None else (sheet,)
    return any(table.headers_in(one, column) and one not in pointed.table.sheets for one in sheets)


def names(pointed: Target, column: ColumnPlan) -> tuple[str, ...]:
    """The columns of a table of another sheet in which stands what the headers of a reference say."""
    if column.named_by:
        return column.named_by
    return (pointed.column.name,) if pointed.column.ids is None else identity(pointed.table)


def naming(
    design: Design, table: TablePlan, column: ColumnPlan, sheet: str | None = None
) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The headers that together name a row of a table of another sheet, and the columns there that say the same.

    Where the key has several columns, each of the columns that refer to it has one of the headers.
    """
    pointed = target(design, table, column)
    assert pointed is not None
    if len(pointed.table.key) == 1:
        return table.headers_in(sheet or table.sheet, column), names(pointed, column)
    others = [(one, target(design, table, one)) for one in table.columns if one.source is not None]
    own = [(str(one.source), to.column.name) for one, to in others if to is not None and to.table is pointed.table]
    return tuple(header for header, _ in own), tuple(name for _, name in own)


def identity(plan: TablePlan) -> tuple[str, ...]:
    """The columns whose values tell one row of the table from another in the sheet.

    The key; where that is made up, the first unique columns, or else all columns.
    """
    made_up = {column.name for column in plan.stored if column.is_made}
    if not made_up.intersection(plan.key):
        return plan.key
    natural = tuple(column.name for column in plan.stored if column.name not in made_up)
    return next((columns for columns in plan.unique if made_up.isdisjoint(columns)), natural)


def references(design: Design, table: TablePlan) -> tuple[Reference, ...]:
    """The references of a table, each with all columns of the key it points to."""
    simple: list[Reference] = []
    composite: dict[str, dict[str, str]] = {}
    for column in table.columns:
        pointed = target(design, table, column)
        if pointed is None:
            continue
        if len(pointed.table.key) == 1:
            simple.append(Reference((column.name,), pointed.table.name, pointed.table.key))
        else:
            composite.setdefault(pointed.table.name, {})[pointed.column.name] = column.name
    for name, given in composite.items():
        key = design.by_name[name].key
        lacking = [part for part in key if part not in given]
        if lacking:
            raise DesignError(
                place(table),
                f"the reference to '{name}' lacks its key column '{lacking[0]}'",
                f'add a column with to = "{name}.{lacking[0]}"',
            )
        simple.append(Reference(tuple(given[part] for part in key), name, key))
    return tuple(simple)


def held_behind(design: Design, table: TablePlan, given: str) -> tuple[tuple[Reference, ...], str]:
    """Where the cells stand of which a column tells: the references to follow from its table, and the column there.

    What it tells of a reference by another name than the key is that name; ``given`` may lead over references itself.
    Raises ``DesignError`` where there is no such column, or what it names has several.
    """
    name, *further = given.split(".", 1)
    column = table.by_name.get(name)
    if column is None or not column.store:
        raise DesignError(place(table), f"'{table.name}' has no column '{name}'", nearest(name, table.by_name))
    pointed = target(design, table, column)
    said = () if pointed is None else names(pointed, column)
    if not further and (pointed is None or said == (pointed.column.name,)):
        return (), name
    if pointed is None:
        raise DesignError(place(table, column), "it refers to no table", "write the name of a reference before the dot")
    if len(said) > 1 and not further:
        raise DesignError(place(table, column), "it names something by several columns", f"write {name}.COLUMN for one")
    onward, held = held_behind(design, pointed.table, further[0] if further else said[0])
    return (Reference((name,), pointed.table.name, pointed.table.key), *onward), held


def filling_order(design: Design, tables: Sequence[TablePlan]) -> tuple[TablePlan, ...]:
    """The tables, each after all that it refers to, otherwise in the given order."""
    done: dict[str, TablePlan] = {}
    open_: list[str] = []

    def visit(table: TablePlan) -> None:
        if table.name in done:
            return
        if table.name in open_:
            circle = " → ".join([*open_[open_.index(table.name) :], table.name])
            raise DesignError(
                f"tables.{table.name}", f"the references run in a circle: {circle}", "take one of these references out"
            )
        open_.append(table.name)
        for reference in references(design, table):
            if reference.table != table.name:
                visit(design.by_name[reference.table])
        open_.pop()
        done[table.name] = table

    for table in tables:
        visit(table)
    return tuple(done.values())


def numbers_rows(design: Design, table: TablePlan, column: ColumnPlan) -> bool:
    """Whether a column has the numbers that were given to the rows of a sheet, which has none of its own."""
    return column.source == ROW_NUMBER and ROW_NUMBER not in headers(design.sheet(table.sheet))


def headers(sheet: SheetPlan) -> tuple[str, ...]:
    """The names of the columns of a sheet that is read, once its steps are done.

    >>> from hemplit.core.model.design import SheetPlan
    >>> from hemplit.core.model.relation import Step
    >>> named = Step(Act.HEADER, (("names", ("Job", "Crew", "Skipper")),))
    >>> apart = Step(Act.LISTS, (("column", "Crew"), ("by", "comma"), ("into", "Crew")))
    >>> parts = Step(Act.PARTS, (("column", "Skipper"), ("names", ("First Name", "Last Name"))))
    >>> headers(SheetPlan("jobs", "jobs.csv", steps=(named, apart, parts)))
    ('Job', 'First Name', 'Last Name')
    """
    names: dict[str, None] = {}
    for step in sheet.steps:
        if step.proposed:
            continue
        if step.act in (Act.SIDEWAYS, Act.LISTS, Act.PARTS):
            names = {name: None for name in names if name not in step.takes}
        if step.act in (Act.LABELS, Act.HEADER, Act.PARTS):
            names |= dict.fromkeys(step.texts("names"))
        elif step.act in (Act.FILE_NAME, Act.SECTIONS):
            names[step.text("name")] = None
    return tuple(names)
