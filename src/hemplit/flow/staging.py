"""Sheets larger than memory → staged sheets in an engine: all rows in pieces, shaped as a design says and checked.

A piece is shaped by the same code as a sheet in memory, which works on each row by itself.
"""

from __future__ import annotations

from functools import reduce
from hashlib import blake2b
from typing import TYPE_CHECKING, Protocol

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core import kinds, shape
from hemplit.core.columns.codes import combine, first_rows, with_blank
from hemplit.core.model.acts import Act
from hemplit.core.model.arrays import taken
from hemplit.core.model.relation import ROW_NUMBER
from hemplit.core.proof.compare import check_cells
from hemplit.core.proof.ledger import Member, added, ledger
from hemplit.dataclasses import dataclass
from hemplit.engines.fill import AT, ROW, staged
from hemplit.errors import CellError
from hemplit.files.pieces import Whole, check_names
from hemplit.flow.reading import Sheets, decided_kinds, take_apart

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping

    import numpy.typing as npt

    from hemplit.core.model.design import Design, SheetPlan
    from hemplit.core.model.grid import Grid, Source
    from hemplit.core.model.progress import Progress
    from hemplit.core.model.proof import Check, Ledger
    from hemplit.core.model.relation import Relation
    from hemplit.core.model.tables import Tables
    from hemplit.engines.contract import Engine
    from hemplit.files.pieces import Piece

#: What is done to each row by itself, so that pieces of a file can be shaped one by one.
ROW_BY_ROW = (
    Act.BLANK_ROWS, Act.HEADER, Act.TIDY, Act.BLANK_WORDS, Act.READ_NUMBERS, Act.READ_DATES, Act.FILE_NAME,
    Act.SIDEWAYS, Act.LISTS, Act.PARTS,
)  # fmt: skip
OF_THE_WHOLE = tuple(act for act in Act if act not in ROW_BY_ROW)
#: So many rows are named that do not fit.
SHOWN = 5


class Rows(Protocol):
    """A sheet that is read in pieces."""

    @property
    def source(self) -> Source:
        """Where it lies."""

    @property
    def row_count(self) -> int:
        """How many rows there are below the header."""

    @property
    def column_count(self) -> int:
        """How many columns there are."""

    def __iter__(self) -> Iterator[Piece]: ...

    def row(self, place: int) -> str:
        """The row at a place, in words."""

    def sample(self, most: int, also: npt.NDArray[np.int64]) -> Grid:
        """A grid of no more rows than that, in runs that lie evenly over all, and of those at further places."""


@dataclass(frozen=True)
class Contradiction:
    """What rows say against a design: the place there, what is wrong, and the sheet and place of each row."""

    where: str
    what: str
    spots: tuple[tuple[str, int], ...]


@dataclass(frozen=True)
class Plan:
    """A design with the samples that it was drafted from, and the tables that it makes of these."""

    design: Design
    sheets: Sheets
    tables: Tables

    @property
    def read(self) -> Mapping[str, SheetPlan]:
        """The sheets that stand in files, by their names."""
        return {sheet.name: sheet for sheet in self.design.sheets if sheet.is_read}

    def relations_of(self, sheet: str) -> dict[str, Relation]:
        """The relation of a sheet, and those that are taken out of it, as they are in the sample."""
        return {name: self.sheets.relations[name] for name in self.sheets.family(sheet)}

    def how_staged(self, sheet: str) -> tuple[object, ...]:
        """What decides how the rows of a sheet are staged."""
        plan = self.read[sheet]
        kinds = tuple(sorted((str(key), str(kind)) for key, kind in decided_kinds(self.design, plan).items()))
        names = tuple((name, one.names) for name, one in self.relations_of(sheet).items())
        # What a step saw when it was drafted decides nothing.
        steps = ((step.act, [one for one in step.settings if one[0] != "seen"]) for step in plan.steps)
        return tuple(map(str, steps)), kinds, names


@dataclass(frozen=True)
class Staged:
    """A sheet whose rows are staged: how, how many rows each of its relations has, and what became of its cells.

    Of a sheet that is staged as a whole the account can be made when all is done.
    """

    how: tuple[object, ...]
    counts: Mapping[str, int]
    checks: tuple[Check, ...]
    ledger: Ledger | None


def stage(
    plan: Plan, sheet: str, rows: Rows, engine: Engine, first_rows: Mapping[str, int], progress: Progress
) -> Staged | Contradiction:
    """Stages the rows of one sheet, numbered from the ``first_rows`` of its relations on.

    Or says which are the first that its steps and types do not fit.
    """
    wanted = plan.relations_of(sheet)
    for relation in wanted.values() if not engine.dialect.tells_capitals else ():
        check_names(rows.source.title, relation.names)
    writers = {name: engine.stage(staged(name)) for name in wanted}
    counts = dict.fromkeys(writers, 0)
    checks: list[Check] = []
    found: Ledger | None = None
    once = {step.text("into") for step in plan.read[sheet].steps if step.flag("once")}
    told = {name: _Told(sheet) for name, one in wanted.items() if one.source.part in once}
    done = 0
    for piece in rows:
        progress(f"reading {rows.source.title}", done, rows.row_count)
        try:
            relations = wanted if isinstance(rows, Whole) else _shaped(plan, sheet, piece.grid).relations
        except CellError as error:
            if not error.rows:
                raise
            rows_against = (*error.rows[:SHOWN], *error.against[:SHOWN])
            spots = tuple((sheet, int(piece.places[row])) for row in rows_against)
            return Contradiction(f"sheets.{sheet}", error.what, spots)
        above = counts[sheet]
        for name, relation in relations.items():
            new = told[name].new_of(relations[sheet], relation, piece.places) if name in told else None
            if isinstance(new, Contradiction):
                return new
            some = np.arange(relation.row_count) if new is None else np.flatnonzero(new)
            first = first_rows[name] + counts[name]
            numbers = np.arange(first, first + len(some))
            at = {ROW: pa.array(numbers), AT: pa.array(piece.places[relation.grid_rows[some]])}
            writers[name].add(pa.table({**at, **_rows(relation, wanted[name], above, some)}))
            counts[name] += len(some)
        if not isinstance(rows, Whole):
            account = _account(plan, piece.grid, relations)
            found = account if found is None else added(found, account)
        checks += [
            check_cells(piece.grid, relation)
            for relation in relations.values()
            if any(column.own for column in relation.columns)
        ]
        done += piece.grid.row_count - 1
    for writer in writers.values():
        writer.close()
    pa.default_memory_pool().release_unused()
    return Staged(plan.how_staged(sheet), counts, tuple(checks), found)


def _shaped(plan: Plan, sheet: str, grid: Grid) -> Sheets:
    """A piece of a sheet as the design shapes it."""
    sheet_plan = plan.read[sheet]
    made = shape.replay(grid, sheet_plan.steps, decided_kinds(plan.design, sheet_plan))
    return take_apart(plan.design, {sheet: (grid, made)})


def _account(plan: Plan, grid: Grid, relations: Mapping[str, Relation]) -> Ledger:
    """What became of the cells of a piece."""
    views = {view.sheet: view for view in plan.tables.views}
    return ledger(grid, [Member(one, views[name], plan.design.sheet(name)) for name, one in relations.items()])


def _rows(relation: Relation, wanted: Relation, above: int, some: npt.NDArray[np.int64]) -> dict[str, pa.Array]:
    """The columns of some rows of a relation as they are staged, in the types of the relation of the sample.

    Rows that we numbered ourselves go on behind those ``above``.
    """
    columns = {}
    for name in wanted.names:
        column = relation.by_name[name]
        values = column.values.cast(wanted.by_name[name].values.type)
        values = pc.add(values, above) if name == ROW_NUMBER and not column.own else values
        columns[name] = taken(values, column.codes[some])
    return columns


class _Told:
    """What the pieces so far tell of things of which each is told once, and where: all that is kept of each is a sum
    that no other text has."""

    def __init__(self, sheet: str) -> None:
        self.sheet = sheet
        self.known: dict[tuple[str, ...], tuple[bytes, int]] = {}

    def new_of(
        self, whole: Relation, child: Relation, places: npt.NDArray[np.int64]
    ) -> npt.NDArray[np.bool_] | Contradiction:
        """Which rows of what was taken out of a piece tell of things that no piece before has."""
        said: dict[int, list[tuple[str, ...]]] = {}
        for row, place in enumerate(child.grid_rows.tolist()):
            entry = tuple(kinds.shown_at(column, row) for column in child.columns[len(child.of) :])
            said.setdefault(place, []).append(entry)
        key = [whole.by_name[name] for name in child.of]
        named = reduce(combine, (with_blank(one.codes, len(one.values)) for one in key))
        known = set()
        for row in first_rows(named).tolist():
            place = int(whole.grid_rows[row])
            thing = tuple(kinds.shown_at(column, row) for column in key)
            told = blake2b(repr(said.get(place, [])).encode(), digest_size=16).digest()
            before, there = self.known.setdefault(thing, (told, int(places[place])))
            if before != told:
                what = f"'{child.source.part}' of {', '.join(thing)} is not the same in all rows"
                return Contradiction(
                    f"sheets.{self.sheet}", what, ((self.sheet, there), (self.sheet, int(places[place])))
                )
            if there != places[place]:
                known.add(place)
        return ~np.isin(child.grid_rows, list(known))
