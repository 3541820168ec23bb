"""What a colleague sees of a design: the sheets with their trouble marked in place, rows of tables, what goes wrong.

Nothing here is decided; it is shown from the sheets, the design and the tables.
"""

from __future__ import annotations

from functools import reduce
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core import kinds
from hemplit.core.columns.codes import Grouping, combine, distinct, first_rows, with_blank
from hemplit.core.explain.anomaly import lead_of
from hemplit.core.explain.present import sheet_of
from hemplit.core.model.design import Grain
from hemplit.core.model.grid import EMPTY, column_letters
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.explain.story import Passing, Story
    from hemplit.core.model.design import Design, Passage, TablePlan
    from hemplit.core.model.diagram import Picture
    from hemplit.core.model.grid import Grid
    from hemplit.core.model.proof import Change, Proof
    from hemplit.core.model.relation import Relation
    from hemplit.core.model.tables import Table, Tables

#: So many rows and columns of a sheet are shown, and of those farther down that a step changed or left out.
ROWS, COLUMNS, FARTHER = 7, 18, 4
#: So many rows above the first row of data, and of each table.
ABOVE, FIRST = 3, 4
#: So many columns of a sheet are shown as they repeat each other.
WIDE = 5


@dataclass(frozen=True)
class Cell:
    """A cell as the sheet has it; ``now`` is what a step made of it, ``again`` says that an earlier row says it."""

    text: str
    now: str | None = None
    again: bool = False


@dataclass(frozen=True)
class SheetRow:
    """A row of a sheet with its number in its file; ``why`` it was left out, if it was."""

    file: str
    number: int
    cells: tuple[Cell, ...]
    why: str = ""


@dataclass(frozen=True)
class Home:
    """A column of a sheet: its letters, its header, and the tables that its cells go to."""

    letters: str
    header: str
    tables: tuple[str, ...]


@dataclass(frozen=True)
class Marked:
    """The first rows of a sheet and some farther down, with what was found in them."""

    title: str
    homes: tuple[Home, ...]
    rows: tuple[SheetRow, ...]
    row_count: int
    column_count: int


@dataclass(frozen=True)
class Excerpt:
    """The first rows of a table as a person would write them."""

    name: str
    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    row_count: int


@dataclass(frozen=True)
class Lost:
    """Why a table of its own is better when rows come or go: what one cannot yet write, and what goes with a row."""

    insert: str
    delete: str


@dataclass(frozen=True)
class Stage:
    """One table that comes out of another: how its columns repeated, what it holds, what went wrong without it.

    ``lead`` are the headers that determine the others, none where it was taken out of lists.
    """

    passing: Passing
    lead: tuple[str, ...]
    before: Excerpt | None
    after: Excerpt
    lost: Lost | None


@dataclass(frozen=True)
class Walk:
    """The way from the sheets to the tables: ``stages`` by chapter, ``changes`` by sheet, both by titles."""

    title: str
    sheets: tuple[Marked, ...]
    story: Story
    stages: Mapping[str, tuple[Stage, ...]]
    picture: Picture
    tables: Tables
    excerpts: tuple[Excerpt, ...]
    changes: Mapping[str, tuple[Change, ...]]
    proof: Proof


def marked(
    design: Design, sheet: str, grid: Grid, relations: Mapping[str, Relation], changes: Iterable[Change]
) -> Marked:
    """A sheet with its trouble; ``relations`` are its own and those that were taken out of it, by their names."""
    now = {change.at: change.after for change in changes}
    homes: dict[int, tuple[str, list[str]]] = {}
    again = np.zeros((grid.row_count, len(grid.columns)), dtype=bool)
    for name, relation in relations.items():
        for column in relation.columns:
            places = [place for place in column.places or (column.position,) if 0 <= place < len(grid.columns)]
            tables = [table for table in design.tables_of(name) if _holds(table, name, column.name)]
            for place in places:
                _, known = homes.setdefault(place, (column.name, []))
                known += [table.name for table in tables if table.name not in known]
            if len(places) == 1 and tables and column.own:
                said = (column.codes != EMPTY) & ~relation.is_beside(column)
                known_rows = _said_again(lead_of(design, tables[0], name), tables[0], relation, said)
                again[relation.grid_rows[known_rows], places[0]] = True
        for place, told_before in relation.said_again():
            again[told_before, place] = True
    own = relations[sheet]
    kept = distinct(np.concatenate([relation.grid_rows for relation in relations.values()]))
    why = {
        row: part.reason for relation in relations.values() for part in relation.account for row in part.rows.tolist()
    }
    first = int(kept[0]) if len(kept) else 0
    shown = set(range(max(first - ABOVE, 0), min(first + ROWS, grid.row_count)))
    shown |= set(sorted({row for row, _ in now} - shown)[:FARTHER])
    gone = set(range(first, grid.row_count)) - set(kept.tolist())
    shown |= set(sorted(row for row in gone - shown if _says_something(grid, row))[:FARTHER])
    width = min(len(grid.columns), COLUMNS)
    rows = tuple(
        SheetRow(
            grid.source.row(row)[0].strip(),
            grid.source.row(row)[1] + 1,
            tuple(
                Cell(grid.columns[place].text(row), now.get((row, place)), bool(again[row, place]))
                for place in range(width)
            ),
            _why_gone(row, first, why) if row not in kept else "",
        )
        for row in sorted(shown)
    )
    named = tuple(
        Home(column_letters(place), header, tuple(tables))
        for place in range(width)
        for header, tables in [homes.get(place, ("", []))]
    )
    return Marked(own.source.title, named, rows, len(kept), len(grid.columns))


def _holds(table: TablePlan, sheet: str, header: str) -> bool:
    return any(header in table.headers_in(sheet, column) for column in table.columns)


def _says_something(grid: Grid, row: int) -> bool:
    return any(column.text(row).strip() for column in grid.columns)


def _why_gone(row: int, first: int, why: Mapping[int, str]) -> str:
    return why.get(row, "above the table" if row < first else "blank")


def _said_again(
    named_by: Sequence[str], table: TablePlan, relation: Relation, filled: npt.NDArray[np.bool_]
) -> npt.NDArray[np.int64]:
    """The rows in which a cell says of a thing what an earlier row says of it."""
    lead = [relation.by_name[name] for name in named_by if name in relation.by_name]
    if table.grain is not Grain.VALUE or not lead:
        return np.zeros(0, dtype=np.int64)
    groups = reduce(combine, (with_blank(column.codes, len(column.values)) for column in lead))
    first = first_rows(Grouping(groups.codes, groups.size))[groups.codes]
    known = np.logical_and.reduce([column.codes != EMPTY for column in lead])
    return np.flatnonzero(filled & known & (first < np.arange(relation.row_count)))


def repeated(design: Design, passage: Passage, relation: Relation) -> Excerpt | None:
    """The first rows of a sheet in the columns that a table took out of it, as they repeat each other."""
    table = design.by_name[passage.table]
    names = [
        name
        for name in dict.fromkeys((*lead_of(design, table, sheet_of(design, passage)), *passage.headers))
        if name in relation.by_name
    ]
    columns = [relation.by_name[name] for name in names[:WIDE]]
    if not columns:
        return None
    rows = tuple(
        tuple(kinds.shown_at(column, row) for column in columns) for row in range(min(FIRST + 1, relation.row_count))
    )
    return Excerpt(relation.source.title, tuple(column.name for column in columns), rows, relation.row_count)


def as_read(grid: Grid, relation: Relation) -> Excerpt:
    """The first rows of a sheet in the cells of which lists or groups were taken out, as they stand there."""
    places = {
        place: header
        for column in relation.columns[::-1]  # the place of an entry stands in no cells, and its values come before it
        for place, header in zip(column.places or (column.position,), column.headers or (column.name,), strict=False)
        if 0 <= place < len(grid.columns)
    }
    known = distinct(relation.grid_rows)
    rows = tuple(
        tuple(grid.columns[place].text(row) for place in sorted(places)) for row in known[: FIRST + 1].tolist()
    )
    named = tuple(places[place] for place in sorted(places))
    return Excerpt(relation.source.title, named, rows, len(known))


def excerpt(table: Table) -> Excerpt:
    """The first rows of a table."""
    rows = tuple(
        tuple(kinds.shown_at(column, row) for column in table.columns) for row in range(min(FIRST, table.row_count))
    )
    return Excerpt(table.name, tuple(column.name for column in table.columns), rows, table.row_count)


def lost_without(design: Design, passage: Passage, relation: Relation) -> Lost | None:
    """What could not be written, and what would go, if a table had not come out of another."""
    table = design.by_name[passage.table]
    named_by = lead_of(design, table, sheet_of(design, passage))
    lead = [name for name in named_by if name in relation.by_name]
    headers = [name for name in passage.headers if name in relation.by_name and name not in lead]
    if not lead or not headers or table.grain in (Grain.ROW, Grain.LIST):
        return None
    columns = [relation.by_name[name] for name in lead]
    known = np.flatnonzero(np.logical_and.reduce([column.codes != EMPTY for column in columns]))
    if not len(known):
        return None
    groups = reduce(combine, (Grouping(column.codes[known], len(column.values)) for column in columns))
    counts = np.bincount(groups.codes)
    rarest = int(np.where(counts > 0, counts, counts.max() + 1).argmin())
    rows = known[groups.codes == rarest]
    value = " + ".join(kinds.shown_at(column, int(rows[0])) for column in columns)
    said, what = " + ".join(lead), " and ".join(headers[:2])
    only = f"the only row of {said} {value}" if len(rows) == 1 else f"the {len(rows)} rows of {said} {value}"
    at = relation.row(int(rows[0]))
    return Lost(
        f"A new {said} with its {what} cannot be written down before something else brings a row for it.",
        f"Whoever deletes {only} ({at}{', …' if len(rows) > 1 else ''}) deletes its {what}, too.",
    )
