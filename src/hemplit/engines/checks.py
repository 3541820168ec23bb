"""What a design says of a sheet, asked of all its rows inside an engine: what stands against it, and the rows."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.model.design import Grain
from hemplit.core.model.findings import BAND
from hemplit.core.tables.across import is_kept
from hemplit.dataclasses import dataclass, replace
from hemplit.engines.fill import FEED, ROW, staged
from hemplit.engines.united import told_unlike
from hemplit.targets.sql.ddl import rule_of
from hemplit.targets.sql.names import labels_of
from hemplit.targets.sql.views import Query, select_view

if TYPE_CHECKING:
    from collections.abc import Collection, Iterator, Sequence

    from hemplit.core.model.design import SheetPlan, TablePlan
    from hemplit.core.model.tables import Table, TableColumn, Tables, View, ViewColumn
    from hemplit.engines.contract import Engine
    from hemplit.engines.fill import Fill

#: So many groups of rows that contradict are looked at in one go, and so many rows of them.
GROUPS, ROWS = 5, 25
OTHERWISE = "'{}' is not what another sheet says of the same thing"


@dataclass(frozen=True)
class Against:
    """What rows of a sheet say against a design: the place in the design, what is wrong, and the numbers of rows."""

    where: str
    what: str
    rows: tuple[int, ...]


def against(engine: Engine, fill: Fill, plan: TablePlan, table: Table) -> Iterator[Against]:
    """All that stands against one table, before it is made; those that it refers to are there."""
    cells = f"(\n{fill.cells(plan)}\n) AS cells"
    yield from _groups_against(engine, fill, plan, cells)
    strangers = [*_strangers(engine, fill, plan, kept=False), *_named_in_part(engine, fill, plan)]
    yield from strangers
    yield from _blanks_against(engine, fill, plan, cells, {one.where for one in strangers})
    for name, query in fill.lost_names(plan):
        what = f"what stands under {_header(fill, plan, name)} stands nowhere under the header that it names"
        yield from _found(engine, f"{resolve.place(plan)}.columns.{name}", what, query)
    for rule in table.rules:
        if all(plan.by_name[name].target is None for name in rule.columns):
            broken = f"NOT ({rule_of(rule, table, fill.dialect).text})"
            what = f"{' and '.join(_header(fill, plan, name) for name in rule.columns)} breaks a rule of the other rows"
            query = f"SELECT {fill.dialect.quote(ROW)} FROM {cells} WHERE {broken}"
            yield from _found(engine, resolve.place(plan), what, query)


def against_made(engine: Engine, fill: Fill, plan: TablePlan) -> Iterator[Against]:
    """What stands against one table once it is made: what its rows say of others, which may be rows of its own."""
    for column, query in fill.told_otherwise(plan):
        what = f"'{column.source}' is not what the other sheet says"
        yield from _found(engine, f"{resolve.place(plan)}.columns.{column.name}", what, query)


def against_united(engine: Engine, fill: Fill, plan: SheetPlan) -> Iterator[Against]:
    """The rows that say something else of a thing than an earlier sheet which tells of it, too."""
    for sheet, header, queries in told_unlike(fill, plan):
        own, first = (_rows(engine, query) for query in queries)
        if own:
            yield Against(f"sheets.{sheet}", OTHERWISE.format(header), (*own, *first))


def _found(engine: Engine, where: str, what: str, query: str) -> Iterator[Against]:
    """What stands against a design, if a query finds rows."""
    rows = _rows(engine, query)
    if rows:
        yield Against(where, what, rows)


def _groups_against(engine: Engine, fill: Fill, plan: TablePlan, cells: str) -> Iterator[Against]:
    """Rows of one thing that do not say the same of it, and keys that are there twice."""
    quote = fill.dialect.quote
    if plan.grain is Grain.ROW:
        own = [name for name in plan.key if not plan.by_name[name].is_made]
        if len(own) == len(plan.key):
            yield from _of_groups(engine, fill, plan, cells, [quote(name) for name in own], {own[0]: "count(*) > 1"})
        return
    names = resolve.identity(plan)
    blank = " OR ".join(f"{quote(name)} IS NULL" for name in names)
    unnamed = f"SELECT 1 FROM {cells} WHERE ({blank}) AND {fill.is_there(plan)} LIMIT 1"
    if names != plan.key and engine.rows(unnamed).num_rows:
        fill.unnamed.add(plan.name)
    told = [column.name for column in plan.stored if not column.is_made and column.name not in names]
    tests = {name: _differs(fill, plan, name) for name in told}
    yield from _of_groups(engine, fill, plan, cells, list(fill.group_terms(plan)), tests)


def kept_beside(engine: Engine, fill: Fill, plan: TablePlan) -> Iterator[Against]:
    """The rows of which a column keeps, by design, that they name nothing, or say something else of a thing."""
    yield from _strangers(engine, fill, plan, kept=True)
    quote = fill.dialect.quote
    for column in plan.stored:
        if column.unlike is not None:
            query = f"SELECT {quote(ROW)} FROM (\n{fill.cells(plan)}\n) AS cells WHERE {quote(column.name)} IS NOT NULL"
            yield from _found(engine, resolve.place(plan, column), OTHERWISE.format(column.source), query)


def _strangers(engine: Engine, fill: Fill, plan: TablePlan, *, kept: bool) -> Iterator[Against]:
    """Rows that name no row of another sheet's table, where a column keeps what they say or where none does."""
    for column, query in fill.strangers(plan):
        if is_kept(fill.design, plan, column) is not kept:
            continue
        header = _header(fill, plan, column.name)
        what = f"what stands under {header} names no row of '{(column.target or ('',))[0]}', or several"
        yield from _found(engine, resolve.place(plan, column), what, query)


def _named_in_part(engine: Engine, fill: Fill, plan: TablePlan) -> Iterator[Against]:
    """Rows that name a row of another sheet's table by some of the cells, where no column keeps which."""
    for column, headers, query in fill.named_in_part(plan):
        if not is_kept(fill.design, plan, column):
            named = " and ".join(f"'{header}'" for header in headers)
            yield from _found(engine, resolve.place(plan, column), f"only some of {named} are filled", query)


def _blanks_against(engine: Engine, fill: Fill, plan: TablePlan, cells: str, but: Collection[str]) -> Iterator[Against]:
    """Rows in which nothing stands where something has to, ``but`` in columns of which more is known."""
    quote = fill.dialect.quote
    required = [one.name for one in plan.stored if not one.is_made and (one.required or one.name in plan.key)]
    if not required:
        return
    blanks = ", ".join(f"count(*) - count({quote(name)}) AS b{place}" for place, name in enumerate(required))
    counts = engine.rows(f"SELECT {blanks} FROM {cells} WHERE {fill.is_there(plan)}").columns
    for name, count in zip(required, counts, strict=True):
        where = f"{resolve.place(plan)}.columns.{name}"
        if count[0].as_py() and where not in but:
            query = f"SELECT {quote(ROW)} FROM {cells} WHERE {quote(name)} IS NULL AND {fill.is_there(plan)}"
            what = f"{_header(fill, plan, name)} is blank"
            yield from _found(engine, where, what, query)


def _header(fill: Fill, plan: TablePlan, name: str) -> str:
    """The header by which a person knows a column."""
    return f"'{resolve.header(fill.design, plan, plan.by_name[name])}'"


def _differs(fill: Fill, plan: TablePlan, name: str) -> str:
    """The condition that the rows of one thing do not all say the same in a column."""
    quoted = fill.dialect.quote(name)
    column = plan.by_name[name]
    feeds = enumerate(plan.feeds)
    speaking = [str(place) for place, feed in feeds if resolve.speaks(fill.design, plan, column, feed)]
    of = "count(*)"
    if len(speaking) < len(plan.feeds):
        of = f"sum(CASE WHEN {fill.dialect.quote(FEED)} IN ({', '.join(speaking)}) THEN 1 ELSE 0 END)"
    differ = f"{fill.least(plan, name)} <> {fill.most(plan, name)}"
    return f"({differ} OR (count({quoted}) > 0 AND count({quoted}) < {of}))"


def _of_groups(
    engine: Engine, fill: Fill, plan: TablePlan, cells: str, terms: Sequence[str], tests: dict[str, str]
) -> Iterator[Against]:
    """What stands against columns in groups of rows, of which the first are shown."""
    if not tests:
        return
    quote = fill.dialect.quote
    named = [f"{term} AS g{place}" for place, term in enumerate(terms)]
    flags = [f"{test} AS f{place}" for place, test in enumerate(tests.values())]
    least = [f"{fill.least(plan, name)} AS m{place}" for place, name in enumerate(tests)]
    bad = (
        f"SELECT {', '.join((*named, *flags, *least))} FROM {cells} WHERE {fill.is_there(plan)} "
        f"GROUP BY {', '.join(terms)} HAVING {' OR '.join(tests.values())} LIMIT {GROUPS}"
    )
    found = engine.rows(bad)
    same = " AND ".join(fill.dialect.same(f"bad.g{place}", term) for place, term in enumerate(terms))
    for place, name in enumerate(tests):
        if any(found.column(f"f{place}").to_pylist()):
            of_groups = f"SELECT {quote(ROW)} FROM {cells} JOIN (\n{bad}\n) AS bad ON {same} WHERE f{place}"
            usual = fill.dialect.same(quote(name), f"bad.m{place}")
            # A thing may have very many rows, and those that say something else come late.
            sides = _rows(engine, f"{of_groups} AND {usual}"), _rows(engine, f"{of_groups} AND NOT ({usual})")
            few, many = sorted(sides, key=len)
            header, *named = (_header(fill, plan, one) for one in (name, *resolve.identity(plan)))
            what = f"rows of one {' and '.join(named)} do not all say the same under {header}"
            if plan.grain is Grain.ROW:
                what = f"rows have the same {' and '.join(named)}"
            yield Against(f"{resolve.place(plan)}.columns.{name}", what, (*few, *many))


def _rows(engine: Engine, query: str) -> tuple[int, ...]:
    found = engine.rows(f"SELECT DISTINCT * FROM (\n{query}\n) AS found ORDER BY 1 LIMIT {ROWS}")
    return tuple(int(row) for row in found.column(0).to_pylist())


def not_calculated(engine: Engine, fill: Fill, tables: Tables, view: View) -> Iterator[Against]:
    """The rows in which a column is not what its formula gives."""
    calculated = [one for one in view.columns if one.formula is not None and one.formula.operation != BAND]
    stored = [one for one in view.columns if one.column is not None]
    if not calculated:
        return
    fit = fill.dialect.fit
    name = fit(staged(view.sheet))
    base = tables.by_name[view.base]
    columns = tuple(
        replace(_column_of(tables, base, one), name=fit(one.header), required=False) for one in (*stored, *calculated)
    )
    flat = replace(base, name=name, columns=columns, key=(), unique=(), references=(), rules=())
    shown = (
        *(replace(one, path=(), column=fit(one.header), otherwise=()) for one in stored),
        *(replace(one, path=(), column=None) for one in calculated),
    )
    pseudo = replace(tables, tables=(flat,), views=(), named=(), tallies=())
    query = Query(pseudo, replace(view, base=name, columns=shown), fill.dialect)
    quote = fill.dialect.quote
    for one in calculated:
        value = query.value(one.header).text
        same = fill.dialect.same(
            _as_number(fill, value, one), _as_number(fill, f"{quote(name)}.{quote(one.header)}", one)
        )
        rows = _rows(engine, f"SELECT {quote(ROW)} FROM {quote(name)} WHERE NOT ({same})")
        if rows:
            yield Against(f"sheets.{view.sheet}", f"'{one.header}' is not what its formula gives", rows)


def _column_of(tables: Tables, base: Table, one: ViewColumn) -> TableColumn:
    holder = tables.by_name[one.path[-1].table] if one.path else base
    return holder.columns[0] if one.column is None else holder.by_name[one.column]


def _as_number(fill: Fill, value: str, one: ViewColumn) -> str:
    return f"CAST({value} AS {fill.dialect.type_of('decimal')})" if one.kind.is_number else value


def flat_query(fill: Fill, view: View) -> str:
    """The cells of a staged sheet, as far as its view gives them back."""
    quote = fill.dialect.quote
    shown = ", ".join(
        f"{_as_number(fill, quote(one.header), one)} AS c{place}" for place, one in enumerate(compared(view))
    )
    return f"SELECT {shown} FROM {quote(staged(view.sheet))}"


def joined_query(fill: Fill, tables: Tables, view: View) -> str:
    """The same cells out of the tables joined again."""
    columns = compared(view)
    values = select_view(tables, replace(view, sheet="", columns=columns), fill.dialect)
    return f"{_labelled(fill, columns)} FROM (\n{values}\n) AS joined"


def written_query(fill: Fill, view: View) -> str:
    """The cells of a staged sheet as the sheet writes them, as far as its view gives them back."""
    columns = compared(view)
    values = [
        fill.dialect.quote(one.header)
        if one.formula is not None
        else fill.dialect.written(one.kind, fill.dialect.column(one.header)).text
        for one in columns
    ]
    shown = (_as_number(fill, value, one) for value, one in zip(values, columns, strict=True))
    named = ", ".join(f"{value} AS c{place}" for place, value in enumerate(shown))
    return f"SELECT {named} FROM {fill.dialect.quote(staged(view.sheet))}"


def view_query(fill: Fill, view: View) -> str:
    """The cells that a view gives back, in the database that holds it."""
    return f"{_labelled(fill, view.columns)} FROM {fill.dialect.quote(view.name)}"


def _labelled(fill: Fill, columns: Sequence[ViewColumn]) -> str:
    """The beginning of a query for what a view of these columns gives back."""
    labels = labels_of((one.header for one in columns), fill.dialect)
    compared = (one for one in columns if one.gathered is None)
    shown = (_as_number(fill, fill.dialect.quote(labels[one.header]), one) for one in compared)
    return f"SELECT {', '.join(f'{value} AS c{place}' for place, value in enumerate(shown))}"


def compared(view: View) -> tuple[ViewColumn, ...]:
    """The columns that stand in the sheet's own relation."""
    return tuple(one for one in view.columns if one.gathered is None)
