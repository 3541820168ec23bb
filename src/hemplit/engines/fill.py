"""A design → the queries that make its tables out of staged sheets, inside an engine that runs SQL.

A staged sheet has a row for each row of the relation, under its headers, and in front of them ``ROW``, a number that no
other row of any sheet has, and ``AT``, the row of the sheet from which it came. What the core does with codes
(``core.tables.split``) is said here as joins and groups; both make the same tables.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.design import resolve
from hemplit.core.design.ids import NUMBER, style_of
from hemplit.core.model.design import Feed, Grain
from hemplit.core.tables.same import headers_in, keys_of
from hemplit.core.tally.labels import WEEKDAYS
from hemplit.dataclasses import dataclass, field
from hemplit.engines.able import IN_MEMORY, NOT_YET, inward_key, keeps_own, names_of_own
from hemplit.errors import DesignError
from hemplit.targets.sql.terms import Term, case, whole

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    from hemplit.core.model.design import ColumnPlan, Design, SheetPlan, TablePlan
    from hemplit.engines.contract import EngineDialect

#: The columns of a staged sheet that say which row it is and where it stood, and that of cells by which of the feeds of
#: their table they come; no header begins so.
ROW, AT, FEED = "hemplit_row", "hemplit_at", "hemplit_feed"
#: The rows of a sheet are numbered behind so many of each sheet before, and the cells of a table behind so many of each
#: feed before: no sheet has more rows, and 2,048 feeds fit into the numbers of all engines.
ROWS_OF_A_SHEET, ROWS_OF_A_FEED = 1 << 40, 1 << 52
MOST_SHEETS = ROWS_OF_A_FEED // ROWS_OF_A_SHEET


def staged(sheet: str) -> str:
    """The name of a staged sheet in the engine, which is none of a table.

    >>> staged("jobs")
    'hemplit_staged_jobs'
    """
    return f"hemplit_staged_{sheet}"


def partners_of(plan: TablePlan, column: ColumnPlan, sheet: str) -> str:
    """The name of the table that says which rows of another one a column names in a sheet."""
    return f"hemplit_partners_{plan.name}_{column.name}_{sheet}"


def said(place: int) -> str:
    """The columns of a table of partners: first what the headers say, then the key of what they name."""
    return f"said{place}"


#: What stands in front of the names of tables as long as they are only made.
MADE = "hemplit_made_"
#: Stands in a condition for the alias of what is joined by it; no name holds such a sign.
JOINED = "\0"


@dataclass
class _From:
    """The sources of one query: a staged sheet, and what is joined to it, each under an alias."""

    base: str
    joins: list[str] = field(default_factory=list)
    known: dict[tuple[object, ...], str] = field(default_factory=dict)

    def join(self, source: str, condition: str, letter: str = "t") -> str:
        """The alias of what is joined where a condition holds, in which ``JOINED`` stands for that alias."""
        name = f"{letter}{len(self.joins)}"
        self.joins.append(f"LEFT JOIN {source} AS {name} ON {condition.replace(JOINED, name)}")
        return name

    def __str__(self) -> str:
        return "\n  ".join((self.base, *self.joins))


class Fill:
    """The queries for the tables of one design; ``unnamed`` are the tables in which rows name nothing.

    Rows that name nothing are told apart by all that is said in them. ``first_rows`` has the number of the first row of
    each sheet, and ``names`` its headers.
    """

    def __init__(
        self,
        design: Design,
        dialect: EngineDialect,
        first_rows: Mapping[str, int],
        names: Mapping[str, Sequence[str]],
    ) -> None:
        self.design, self.dialect, self.first_rows, self.names = design, dialect, first_rows, names
        self.unnamed: set[str] = set()
        #: Tables of partners in which cells are blank.
        self.partly: set[str] = set()

    def rows(self, plan: TablePlan) -> str:
        """The query for the rows of a table, with ``ROW``: the order in which the sheet speaks of them."""
        return self._with_own_rows(plan, self._each_row(plan) if plan.grain is Grain.ROW else self._grouped(plan))

    def _with_own_rows(self, plan: TablePlan, rows: str) -> str:
        """The rows, with the made-up keys of those that a column names in its own table in the place of their names."""
        quote = self.dialect.quote
        named = {column.name: key for column in plan.stored if (key := inward_key(self.design, plan, column))}
        if not named:
            return rows
        aliases = {name: f"own{place}" for place, name in enumerate(named)}
        shown = [
            f"{aliases[column.name]}.{quote(named[column.name])} AS {quote(column.name)}"
            if column.name in named
            else f"found.{quote(column.name)}"
            for column in plan.stored
        ]
        names = {column: quote(names_of_own(self.design, plan, plan.by_name[column])[0]) for column in named}
        joins = "".join(
            f"\nLEFT JOIN found AS {alias} ON {alias}.{names[column]} = found.{quote(column)}"
            for column, alias in aliases.items()
        )
        return f"WITH found AS (\n{rows}\n) SELECT {', '.join((*shown, f'found.{quote(ROW)}'))} FROM found{joins}"

    def strangers(self, plan: TablePlan) -> Iterator[tuple[ColumnPlan, str]]:
        """The columns that name rows of other sheets' tables, or of which another keeps what names no row of their own,
        with the queries for the rows in which they name none."""
        quote = self.dialect.quote
        inward = [(one, plan.sheet) for one in plan.stored if keeps_own(self.design, plan, one)]
        for column, sheet in (*self._across(plan), *inward):
            sources = self._sheet(sheet)
            named, key = self._named(plan, column, Feed(sheet), sources, "s")
            inside = (column, sheet) in inward
            headers = column.headers if inside else resolve.naming(self.design, plan, column, sheet)[0]
            some = self.some_filled(headers, "s.")
            yield column, f"SELECT s.{quote(ROW)} FROM {sources} WHERE {some} AND {named}.{quote(key)} IS NULL"

    def named_in_part(self, plan: TablePlan) -> Iterator[tuple[ColumnPlan, tuple[str, ...], str]]:
        """The columns for which several headers name a row, with the query for rows in which only some are filled."""
        quote = self.dialect.quote
        for column, sheet in self.looked_up(plan):
            headers, _ = resolve.naming(self.design, plan, column, sheet)
            blank = " OR ".join(f"{quote(header)} IS NULL" for header in headers)
            rows = f"SELECT {quote(ROW)} FROM {quote(staged(sheet))}"
            yield column, headers, f"{rows} WHERE {self.some_filled(headers)} AND ({blank})"

    def _across(self, plan: TablePlan) -> Iterator[tuple[ColumnPlan, str]]:
        """The columns that name rows of other sheets' tables, each with a sheet in which it does."""
        for column in plan.stored:
            pointed = resolve.target(self.design, plan, column)
            if pointed is not None:
                yield from ((column, one) for one in plan.sheets if resolve.is_across(plan, column, pointed, one))

    def looked_up(self, plan: TablePlan) -> list[tuple[ColumnPlan, str]]:
        """The references for which partners are staged, each with the sheet."""
        return [
            (column, sheet)
            for column, sheet in self._across(plan)
            if column.alike or len(resolve.naming(self.design, plan, column, sheet)[0]) > 1
        ]

    def some_filled(self, headers: Sequence[str], of: str = "") -> str:
        """The condition that something stands under some of the headers."""
        return "(" + " OR ".join(f"{of}{self.dialect.quote(header)} IS NOT NULL" for header in headers) + ")"

    def told_otherwise(self, plan: TablePlan) -> Iterator[tuple[ColumnPlan, str]]:
        """The columns that are not stored as another sheet's table says the same, and the query for rows where not."""
        quote = self.dialect.quote
        for column in plan.columns:
            if column.along is not None:
                sources = self._sheet(plan.sheet)
                reference = plan.by_name[column.along[0]]
                named, key = self._named(plan, reference, Feed(plan.sheet), sources, "s")
                given = self._held_behind(plan, reference, column.along[1], named, sources)
                same = self.dialect.same(f"s.{quote(str(column.source))}", given)
                kept = any((one.unmatched, one.source) == (reference.name, column.source) for one in plan.columns)
                found = f" AND {named}.{quote(key)} IS NOT NULL" if kept else ""
                yield column, f"SELECT s.{quote(ROW)} FROM {sources} WHERE NOT ({same}){found}"

    def _held_behind(self, plan: TablePlan, reference: ColumnPlan, given: str, named: str, sources: _From) -> str:
        """What a view takes along a reference, whose rows have an alias, joined over further references to them."""
        quote, pointed = self.dialect.quote, resolve.target(self.design, plan, reference)
        assert pointed is not None
        further, held = resolve.held_behind(self.design, pointed.table, given)
        for step in further:
            (there,), (here,) = step.table_columns, step.columns
            named = sources.join(self.made(step.table), f"{JOINED}.{quote(there)} = {named}.{quote(here)}")
        return f"{named}.{quote(held)}"

    def lost_names(self, plan: TablePlan) -> Iterator[tuple[str, str]]:
        """The columns that name rows of their own table, each with the query for the rows in which they name none."""
        quote = self.dialect.quote
        for column in plan.stored:
            if inward_key(self.design, plan, column):
                cells = f"(\n{self.cells(plan)}\n) AS cells"
                name, own = quote(names_of_own(self.design, plan, column)[0]), quote(column.name)
                names = f"(SELECT {name} AS name FROM (\n{self.cells(plan)}\n) AS told) AS known"
                missing = f"{own} IS NOT NULL AND NOT EXISTS (SELECT 1 FROM {names} WHERE known.name = cells.{own})"
                yield column.name, f"SELECT {quote(ROW)} FROM {cells} WHERE {missing}"

    def _grouped(self, plan: TablePlan) -> str:
        quote = self.dialect.quote
        names = resolve.identity(plan)
        made = {ROW: f"min({self._place()})"}
        for column in plan.stored:
            if column.lowest is not None:
                made[column.name] = f"min({quote(_lowest(column))})"
            elif not column.is_made:
                made[column.name] = quote(column.name) if column.name in names else self.most(plan, column.name)
        columns = ",\n  ".join(f"{value} AS {quote(name)}" for name, value in made.items())
        grouped = ", ".join(self.group_terms(plan))
        cells = f"(\n{self.cells(plan)}\n) AS cells"
        found = f"SELECT\n  {columns}\nFROM {cells}\nWHERE {self.is_there(plan)}\nGROUP BY {grouped}"
        shown = []
        for column in plan.stored:
            name = quote(column.name)
            if column.ids is not None:
                name = f"{self._id(column.ids, f'row_number() OVER (ORDER BY {quote(ROW)})')} AS {name}"
            elif column.part is not None:
                name = f"{self._part(column.part, quote(plan.key[0]))} AS {name}"
            shown.append(name)
        return f"SELECT {', '.join((*shown, quote(ROW)))} FROM (\n{found}\n) AS found"

    def _id(self, ids: str, number: str) -> str:
        """The id for the things of a table that are counted from 1."""
        if ids == NUMBER:
            return number
        before, digits = style_of(ids)
        counted = f"({number} + {int(digits) - 1})"
        text = f"CAST({counted} AS {self.dialect.type_of('text')})"
        padded = f"CASE WHEN {counted} < {10 ** len(digits)} THEN lpad({text}, {len(digits)}, '0') ELSE {text} END"
        return f"concat({self.dialect.literal(before)}, {padded})"

    def _part(self, part: str, date: str) -> str:
        """What a calendar says of a date."""
        if part == "weekday":
            weekday = self.dialect.weekday(Term(date))
            named = enumerate(map(self.dialect.value, WEEKDAYS), 1)
            return case((weekday.compared("=", whole(day)), name) for day, name in named).text
        number = self.dialect.week_number(date) if part == "week" else f"EXTRACT({part.upper()} FROM {date})"
        return f"CAST({number} AS {self.dialect.type_of('whole number')})"

    def least(self, plan: TablePlan, name: str) -> str:
        """The smallest value of a column in a group."""
        return self.dialect.least(self._kind(plan, plan.by_name[name]), self.dialect.quote(name))

    def most(self, plan: TablePlan, name: str) -> str:
        """The largest value of a column in a group."""
        return self.dialect.most(self._kind(plan, plan.by_name[name]), self.dialect.quote(name))

    def made(self, table: str) -> str:
        """A table that is made, as a source of a query."""
        return self.dialect.quote(MADE + table)

    def group_terms(self, plan: TablePlan) -> Iterator[str]:
        """The terms by which cells are put into groups, one for each row of a table."""
        quote = self.dialect.quote
        names = resolve.identity(plan)
        yield from map(quote, names)
        if plan.name in self.unnamed:
            blank = " OR ".join(f"{quote(name)} IS NULL" for name in names)
            for column in _told(plan):
                if column.name not in names:
                    yield f"CASE WHEN {blank} THEN {quote(column.name)} END"

    def is_there(self, plan: TablePlan) -> str:
        """The condition for cells that tell of a row: some of them are filled."""
        quote = self.dialect.quote
        names = resolve.identity(plan)
        told = [column.name for column in _told(plan)]
        if plan.of is not None:
            told = [name for name in told if (plan.by_name[name].target or ("",))[0] != plan.of]
        elif names == plan.key:
            rest = [name for name in told if name not in names]
            filled = " AND ".join(f"{quote(name)} IS NOT NULL" for name in names)
            some = " OR ".join(f"{quote(name)} IS NOT NULL" for name in rest)
            return f"(({filled}) OR {some})" if rest else f"({filled})"
        return "(" + (" OR ".join(f"{quote(name)} IS NOT NULL" for name in told) or "1 = 0") + ")"

    def _place(self) -> str:
        """The place of cells: all rows of the first feed come before those of the second."""
        row, feed = self.dialect.quote(ROW), self.dialect.quote(FEED)
        return f"{feed} * {ROWS_OF_A_FEED} + {row}"

    def cells(self, plan: TablePlan) -> str:
        """The query for the cells of a table's columns with one row per row of its sheets, feed after feed."""
        return "\nUNION ALL\n".join(self._cells_in(plan, feed) for feed in plan.feeds)

    def _sheet(self, name: str) -> _From:
        return _From(f"{self.dialect.quote(staged(name))} AS s")

    def _cells_in(self, plan: TablePlan, feed: Feed) -> str:
        quote = self.dialect.quote
        sources = self._sheet(feed.sheet)
        shown = [f"s.{quote(ROW)}", f"{plan.feeds.index(feed)} AS {quote(FEED)}"]
        for column in plan.stored:
            if column.lowest is not None:
                shown.append(f"s.{quote(column.lowest)} AS {quote(_lowest(column))}")
            elif not column.is_made:
                shown.append(f"{self._cell(plan, column, feed, sources, 's')} AS {quote(column.name)}")
        return f"SELECT {', '.join(shown)}\nFROM {sources}"

    def _each_row(self, plan: TablePlan) -> str:
        quote = self.dialect.quote
        sources = self._sheet(plan.sheet)
        shown = []
        for column in plan.stored:
            if column.ids is not None:
                value = self._id(column.ids, f"s.{quote(ROW)} - {self.first_rows[plan.sheet] - 1}")
            else:
                value = self._cell(plan, column, plan.feeds[0], sources, "s")
            shown.append(f"{value} AS {quote(column.name)}")
        return f"SELECT {', '.join((*shown, f's.{quote(ROW)}'))}\nFROM {sources}"

    def _cell(self, plan: TablePlan, column: ColumnPlan, feed: Feed, sources: _From, alias: str) -> str:
        """What stands in a column in one row of a sheet, which is at hand under an alias."""
        quote = self.dialect.quote
        if not resolve.speaks(self.design, plan, column, feed):
            return f"CAST(NULL AS {self.dialect.type_of(self._kind(plan, column))})"
        if column.unmatched is not None:
            named, key = self._named(plan, plan.by_name[column.unmatched], feed, sources, alias)
            return f"CASE WHEN {named}.{quote(key)} IS NULL THEN {alias}.{quote(str(column.source))} END"
        if column.unlike is not None:
            return self._unlike(plan, column, sources, alias)
        pointed = resolve.target(self.design, plan, column)
        across = pointed is not None and resolve.is_across(plan, column, pointed, feed.sheet)
        if across or keeps_own(self.design, plan, column):
            named, key = self._named(plan, column, feed, sources, alias)
            return f"{named}.{quote(key)}"
        own = next(iter(plan.headers_in(feed.sheet, column)), None)
        inward = pointed is not None and pointed.table.name == plan.name
        header = own if inward else resolve.source(self.design, plan, column, feed)
        if header is not None:
            return f"{alias}.{quote(header)}"
        if pointed is None:
            raise DesignError(resolve.place(plan, column), "it has no content", "give it 'from', 'to' or 'ids'")
        other = pointed.table
        sheet = feed.sheet if feed.sheet in other.sheets else other.sheet
        found = feed if own is None else other.feed_of(sheet, own)
        there = Feed(sheet, 0 if found is None else found.role)
        name = self._joined(feed.sheet, other, there if there in other.feeds else Feed(sheet), sources, alias)
        return f"{name}.{quote(pointed.column.name)}"

    def _unlike(self, plan: TablePlan, column: ColumnPlan, sources: _From, alias: str) -> str:
        """What stands under a header where the sheets that tell of the same thing say something else."""
        quote, header = self.dialect.quote, str(column.source)
        pointed = resolve.target(self.design, plan, plan.by_name[str(column.unlike)])
        assert pointed is not None
        united = self.design.sheet(pointed.table.sheet)
        name = headers_in(united, self.names)[plan.sheet, header]
        same_thing = self.same_thing(united, plan.sheet, JOINED, alias)
        whole = sources.join(quote(staged(united.name)), same_thing, "united")
        said = f"{alias}.{quote(header)}"
        return f"CASE WHEN NOT ({self.dialect.same(said, f'{whole}.{quote(name)}')}) THEN {said} END"

    def same_thing(self, united: SheetPlan, sheet: str, whole: str = "u", own: str = "s") -> str:
        """The condition that a row of a united sheet tells of the same thing as one of the sheets that it unites."""
        quote, given = self.dialect.quote, headers_in(united, self.names)
        keys = keys_of(united, sheet)
        return " AND ".join(f"{whole}.{quote(given[sheet, key])} = {own}.{quote(key)}" for key in keys)

    def _named(self, plan: TablePlan, column: ColumnPlan, feed: Feed, sources: _From, alias: str) -> tuple[str, str]:
        """The alias of the rows of another sheet's table that rows of a sheet name, joined to them, and their key.

        Of the own table, of which a column keeps what names no row, it is that of the names, and their header.
        """
        if keeps_own(self.design, plan, column):
            return self._own(plan, column, feed, sources, alias)
        pointed = resolve.target(self.design, plan, column)
        assert pointed is not None
        headers, names = resolve.naming(self.design, plan, column, feed.sheet)
        known = (pointed.table.name, headers, names, alias)
        if known not in sources.known:
            quote, other = self.dialect.quote, pointed.table
            source, own = self.made(other.name), [f"{alias}.{quote(header)}" for header in headers]
            if (column, feed.sheet) in self.looked_up(plan):
                partners = partners_of(plan, column, feed.sheet)
                same = self.dialect.same if partners in self.partly else "{} = {}".format
                cells = (f"{alias}.{quote(header)}" for header in headers)
                found = sources.join(
                    quote(partners),
                    " AND ".join(same(f"{JOINED}.{said(place)}", cell) for place, cell in enumerate(cells)),
                )
                own = [f"{found}.{said(place)}" for place in range(len(headers), len(headers) + len(other.key))]
                names = other.key
            elif names not in (other.key, *other.unique) and (
                other.grain is Grain.ROW or names != resolve.identity(other)
            ):
                # What several rows are called names none of them.
                columns = ", ".join(map(quote, names))
                keys = ", ".join(f"min({quote(one)}) AS {quote(one)}" for one in other.key if one not in names)
                source = f"(SELECT {columns}, {keys} FROM {source} GROUP BY {columns} HAVING count(*) = 1)"
            equal = (f"{JOINED}.{quote(name)} = {cell}" for name, cell in zip(names, own, strict=True))
            sources.known[known] = sources.join(source, " AND ".join(equal))
        return sources.known[known], pointed.column.name

    def _own(self, plan: TablePlan, column: ColumnPlan, feed: Feed, sources: _From, alias: str) -> tuple[str, str]:
        """The alias of the names of a table's own rows, joined where rows of its sheet name them, and their header."""
        (name,) = names_of_own(self.design, plan, column)
        header = plan.headers_in(feed.sheet, plan.by_name[name])[0]
        known = (plan.name, column.headers, "own", alias)
        if known not in sources.known:
            quote = self.dialect.quote
            names = f"(SELECT DISTINCT {quote(header)} FROM {quote(staged(feed.sheet))})"
            same = f"{JOINED}.{quote(header)} = {alias}.{quote(column.headers[0])}"
            sources.known[known] = sources.join(names, same, "own")
        return sources.known[known], header

    def _kind(self, plan: TablePlan, column: ColumnPlan) -> str:
        if inward_key(self.design, plan, column):
            # Its name stands there until the rows have keys.
            return self._kind(plan, plan.by_name[names_of_own(self.design, plan, column)[0]])
        pointed = resolve.target(self.design, plan, column)
        if pointed is not None and pointed.column is not column:
            return self._kind(pointed.table, pointed.column)
        if column.ids is not None:
            return "whole number" if column.ids == NUMBER else "text"
        return column.kind.word if column.kind is not None else "text"

    def _joined(self, sheet: str, other: TablePlan, feed: Feed, sources: _From, alias: str) -> str:
        """The alias of the rows of another table that the rows of a sheet speak of, joined to them."""
        quote = self.dialect.quote
        known = (other.name, feed, alias)
        if known in sources.known:
            return sources.known[known]
        base = alias
        if feed.sheet != sheet:
            above = quote(staged(feed.sheet))
            base = sources.join(above, f"{JOINED}.{quote(AT)} = {alias}.{quote(AT)}", "above")
        cells = {
            column.name: self._cell(other, column, feed, sources, base) for column in other.stored if not column.is_made
        }
        names = resolve.identity(other)
        if other.grain is Grain.ROW and not cells.keys() >= set(names):
            raise DesignError(f"tables.{other.name}", f"nothing but a number names its rows; {NOT_YET}", IN_MEMORY)
        same = [f"{JOINED}.{quote(one)} = {cells[one]}" for one in names]
        if other.name in self.unnamed:
            same = [self.dialect.same(f"{JOINED}.{quote(one)}", cells[one]) for one in names]
            blank = " OR ".join(f"{cells[one]} IS NULL" for one in names)
            same += [
                f"({self.dialect.same(f'{JOINED}.{quote(one)}', cells[one])} OR NOT ({blank}))"
                for one in cells
                if one not in names
            ]
        sources.known[known] = sources.join(self.made(other.name), " AND ".join(same))
        return sources.known[known]


def _lowest(column: ColumnPlan) -> str:
    return f"hemplit_lowest_{column.name}"


def _told(plan: TablePlan) -> list[ColumnPlan]:
    """The columns of a table whose values stand in cells."""
    return [column for column in plan.stored if not column.is_made]
