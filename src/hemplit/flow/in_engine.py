"""Files larger than memory → tables: drafted from a sample, verified, split and proven on all rows inside an engine.

What the rows that are not in the sample say against the draft goes into the sample, and it is drafted again, until
nothing stands against it.
"""

from __future__ import annotations

import tempfile
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core import shape
from hemplit.core.design import resolve
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.progress import silent
from hemplit.core.model.proof import Check, Ledger, Proof
from hemplit.core.model.relation import ROW_NUMBER, Doubt
from hemplit.core.proof.compare import as_one, check_cells
from hemplit.core.proof.ledger import Member, added, ledger
from hemplit.core.tables.split import split
from hemplit.dataclasses import dataclass, replace
from hemplit.design_file.read import at_line
from hemplit.engines import SERVERS, engine_of, server_engine
from hemplit.engines.checks import Against, against, not_calculated
from hemplit.engines.fill import AT, IN_MEMORY, MADE, ROW, Fill, check_can, staged
from hemplit.engines.proven import counted, given_back, hangs_together
from hemplit.errors import CellError, DataError, DesignError, InputError, TargetError, without_password
from hemplit.files import is_address
from hemplit.files.pieces import Pieces
from hemplit.files.table_rows import TableRows
from hemplit.flow.designs import DESIGN_ENDING, check_place, save_design
from hemplit.flow.engine_ends import FolderEnd, Made, ServerEnd, held_as
from hemplit.flow.opening import is_design, open_design
from hemplit.flow.reading import Sheets, decided_kinds, name_of, shape_grids, take_apart
from hemplit.flow.studying import draft
from hemplit.targets import target_for
from hemplit.targets.folder import FolderTarget
from hemplit.targets.sql.server import ServerTarget

if TYPE_CHECKING:
    from collections.abc import Iterator

    import numpy.typing as npt

    from hemplit.core.model.design import Design, SheetPlan
    from hemplit.core.model.grid import Grid
    from hemplit.core.model.progress import Progress
    from hemplit.core.model.relation import Relation
    from hemplit.core.model.tables import Tables
    from hemplit.engines.contract import Engine
    from hemplit.files.pieces import Piece
    from hemplit.flow.engine_ends import End
    from hemplit.targets.contract import Target


#: A draft is made from so many rows at most: on sheets of 10^6 rows it is that of all rows, but for what only they
#: contradict.
SAMPLE = 100_000
#: So often a draft is corrected by rows that stand against it, before a person has to look.
ROUNDS = 12
#: What is done to each row by itself, so that pieces of a file can be shaped one by one.
ROW_BY_ROW = (
    Act.BLANK_ROWS, Act.HEADER, Act.TIDY, Act.BLANK_WORDS, Act.READ_NUMBERS, Act.READ_DATES, Act.FILE_NAME,
    Act.SIDEWAYS, Act.LISTS, Act.PARTS,
)  # fmt: skip
OF_THE_WHOLE = tuple(act for act in Act if act not in ROW_BY_ROW)
AGAIN = "it was drafted again without it; if a row is wrong, correct it and load again"
#: So many rows are named that do not fit.
SHOWN = 5


class Rows(Protocol):
    """A sheet that is read in pieces."""

    title: str
    row_count: int

    def __iter__(self) -> Iterator[Piece]: ...

    def row(self, place: int) -> str:
        """The row at a place, in words."""

    def sample(self, most: int, also: npt.NDArray[np.int64]) -> Grid:
        """A grid of no more rows than that, in runs that lie evenly over all, and of those at further places."""


@dataclass(frozen=True)
class InEngine:
    """What was made inside an engine: the design, the tables without their rows, and the proof.

    ``told`` says which rows stood against a draft of the sample, ``statements`` are those that made the tables.
    """

    design: Design
    tables: Tables
    proof: Proof
    design_path: Path
    sampled: int
    notes: tuple[str, ...]
    statements: tuple[str, ...]
    told: tuple[Doubt, ...] = ()

    @property
    def needs_a_look(self) -> bool:
        """Whether a person should look at it."""
        return bool(self.told) or not self.proof.holds


def load(
    path: str, target: str, engine: str, progress: Progress = silent, *, memory: str = "", over: bool = False
) -> InEngine:
    """Splits and proves a sheet inside an engine: the file, or the files of a folder or pattern, into Parquet files; or
    the table of a server into the same database.

    It drafts a design, and writes it beside them; or ``path`` is a design. Raises ``DesignError`` for what an engine
    cannot do, and rows that contradict a design; ``InputError`` for what is no regular file.
    """
    if memory and engine in SERVERS:
        raise InputError(f"--memory {memory}", "the server has its own", "leave it out")
    text, design = open_design(Path(path)) if is_design(path) else ("", None)
    try:
        source = path if design is None else _source_of(design, Path(path).parent)
        inside = partial(_in_database, engine) if engine in SERVERS else partial(_in_files, engine, memory)
        made = inside(source, target, _Work(design, progress), over=over)
    except DesignError as error:
        if design is None:
            raise
        raise at_line(error, text, path) from error
    return made if design is None else replace(made, design_path=Path(path))


def _in_files(engine: str, memory: str, source: str, target: str, work: _Work, *, over: bool) -> InEngine:
    if not FolderTarget.takes(target):
        raise TargetError(target, f"{engine} writes a folder of Parquet files", "name a folder: NAME/")
    place = FolderTarget(f"{target.partition('#')[0]}#parquet")
    place.check()
    _check_free(place, over=over)
    with (
        tempfile.TemporaryDirectory(prefix=".hemplit-", dir=place.path.absolute().parent) as folder,
        engine_of(engine, Path(folder), memory) as opened,
    ):
        return work.done(Pieces(source, Path(folder)), opened, FolderEnd(place, opened, over=over))


def _in_database(engine: str, source: str, target: str, work: _Work, *, over: bool) -> InEngine:
    place = target_for(target)
    is_same = source.partition("#")[0] == target.partition("#")[0]
    if not (isinstance(place, ServerTarget) and engine in place.schemes and is_same):
        what = "this engine splits a table of a database into tables of the same database"
        raise TargetError(without_password(target), what, f"write {engine}://HOST/DATABASE#TABLE --into the same")
    _check_free(place, over=over)
    rows = TableRows(source)
    with place.opened() as session:
        opened = server_engine(engine, session)
        end = ServerEnd(place, session, opened, over=over)
        made = work.done(rows, opened, end)
    return replace(made, proof=replace(made.proof, checks=(*made.proof.checks, *end.committed())))


def _check_free(place: Target, *, over: bool) -> None:
    if place.exists() and not over:
        raise TargetError(place.text, "it exists already", "--replace replaces what Hemplit made; or name another")


def _source_of(design: Design, folder: Path) -> str:
    sheet = _sheet_of(design)
    if is_address(sheet.file):
        return f"{sheet.file}#{sheet.sheet}"
    return str(folder / sheet.file)


def _sheet_of(design: Design) -> SheetPlan:
    """The one sheet of a design. Raises ``DesignError`` if there are more, or it has steps that an engine cannot do."""
    first, *others = (sheet for sheet in design.sheets if sheet.is_read)
    if others:
        raise DesignError(f"sheets.{others[0].name}", "an engine takes one sheet", IN_MEMORY)
    for step in first.steps:
        if step.act in OF_THE_WHOLE and not step.proposed:
            raise DesignError(f"sheets.{first.name}", f"an engine cannot do the step '{step.act}'", IN_MEMORY)
    return first


@dataclass(frozen=True)
class _Plan:
    """A design with the sample that it was drafted from, and the tables that it makes of this."""

    design: Design
    sheets: Sheets
    tables: Tables

    @property
    def sheet(self) -> SheetPlan:
        return next(sheet for sheet in self.design.sheets if sheet.is_read)

    @property
    def relation(self) -> Relation:
        return self.sheets.relations[self.sheet.name]

    @property
    def how_staged(self) -> tuple[object, ...]:
        """What decides how rows are staged."""
        kinds = tuple(sorted((str(key), str(kind)) for key, kind in decided_kinds(self.design, self.sheet).items()))
        names = tuple((name, one.names) for name, one in self.sheets.relations.items())
        # What a step saw when it was drafted decides nothing.
        steps = ((step.act, [one for one in step.settings if one[0] != "seen"]) for step in self.sheet.steps)
        return tuple(map(str, steps)), kinds, names


class _Work:
    """One load inside an engine, of a given design or one that is drafted."""

    pieces: Rows
    engine: Engine

    def __init__(self, design: Design | None, progress: Progress) -> None:
        self.design, self.progress = design, progress
        self.staged_as: tuple[object, ...] | None = None
        self.counts: dict[str, int] = {}
        self.tables: list[str] = []
        self.statements: list[str] = []
        self.checks: list[Check] = []
        self.ledger: Ledger | None = None

    def done(self, pieces: Rows, engine: Engine, end: End) -> InEngine:
        """Makes the tables in an engine and writes them, and the design beside them if it was drafted."""
        self.pieces, self.engine = pieces, engine
        if self.design is not None:
            return self._finished(self._taken(self.design), end)
        kept = end.beside(DESIGN_ENDING)
        check_place(kept, over_edited=False)
        plan, told = self._agreed()
        made = replace(self._finished(plan, end), told=told)
        return replace(made, design=save_design(plan.design, kept, over_edited=False), design_path=kept)

    def _agreed(self) -> tuple[_Plan, tuple[Doubt, ...]]:
        """Drafts until no row stands against it, and says which did."""
        also = np.zeros(0, dtype=np.int64)
        told: dict[str, Doubt] = {}
        for _ in range(ROUNDS):
            plan = self._drafted(also)
            found = [*self._staged(plan)] or [*self._made(plan)]
            if not found:
                return plan, tuple(told.values())
            for one in found:
                told.setdefault(f"{one.where}: {one.what}", self._doubt(one))
            more = np.union1d(also, [row for one in found for row in one.rows]).astype(np.int64)
            if len(more) == len(also):
                break
            also = more
        raise self._refusal(found[0], "whatever is drafted")

    def _taken(self, design: Design) -> _Plan:
        """A given design, if no row stands against it."""
        check_can(design)
        sheet = _sheet_of(design)
        grid = self.pieces.sample(SAMPLE, np.zeros(0, dtype=np.int64))
        sheets = take_apart(design, sheet.name, grid, shape.replay(grid, sheet.steps, decided_kinds(design, sheet)))
        plan = _Plan(design, sheets, split(design, sheets.relations))
        found = [*self._staged(plan)] or [*self._made(plan)]
        if found:
            error = self._refusal(found[0])
            error.further = tuple(map(self._refusal, found[1:]))
            raise error
        return plan

    def _refusal(self, one: Against, more: str = "") -> DataError:
        """The error for rows that stand against a design."""
        what = ", ".join(filter(None, (f"{self.pieces.title} {' and '.join(self._shown(one))}: {one.what}", more)))
        return DataError(one.where, what, "correct the rows, or the design")

    def _doubt(self, one: Against) -> Doubt:
        """What rows say against a draft."""
        return Doubt(one.what, self._shown(one), AGAIN, len(one.rows))

    def _shown(self, one: Against) -> tuple[str, ...]:
        """The first and the last of the rows that stand against a design, in words."""
        return tuple(self.pieces.row(row) for row in dict.fromkeys((one.rows[0], one.rows[-1])))

    def _drafted(self, also: npt.NDArray[np.int64]) -> _Plan:
        """A design of a sample, in which rows stand that contradicted the one before."""
        self.progress("drafting from a sample", 0, 1)
        grid = self.pieces.sample(SAMPLE, also)
        sheets = shape_grids({name_of(grid): grid}, self.progress, without=OF_THE_WHOLE)
        design = draft(sheets, self.progress)
        check_can(design)
        return _Plan(design, sheets, split(design, sheets.relations))

    def _staged(self, plan: _Plan) -> Iterator[Against]:
        """Stages all rows as the design shapes them, unless they are; the first that does not fit it stands against."""
        if self.staged_as == plan.how_staged:
            return
        self.engine.drop([staged(name) for name in self.counts])
        self.staged_as = None
        writers = {name: self.engine.stage(staged(name)) for name in plan.sheets.relations}
        self.counts, self.checks, self.ledger = dict.fromkeys(writers, 0), [], None
        done = 0
        for piece in self.pieces:
            self.progress("reading", done, self.pieces.row_count)
            try:
                made = shape.replay(piece.grid, plan.sheet.steps, decided_kinds(plan.design, plan.sheet))
            except CellError as error:
                if not error.rows:
                    raise
                rows = tuple(int(piece.places[row]) for row in error.rows[:SHOWN])
                yield Against(f"sheets.{plan.sheet.name}", error.what, rows)
                return
            sheets = take_apart(plan.design, plan.sheet.name, piece.grid, made)
            above = self.counts[plan.sheet.name]
            for name, relation in sheets.relations.items():
                numbers = self.counts[name] + np.arange(relation.row_count)
                at = {ROW: pa.array(numbers), AT: pa.array(piece.places[relation.grid_rows])}
                writers[name].add(pa.table({**at, **_rows(relation, plan.sheets.relations[name], above)}))
                self.counts[name] += relation.row_count
            self._account(plan, piece.grid, sheets)
            done += piece.grid.row_count - 1
        for writer in writers.values():
            writer.close()
        pa.default_memory_pool().release_unused()
        self.staged_as = plan.how_staged

    def _account(self, plan: _Plan, grid: Grid, sheets: Sheets) -> None:
        """Adds what became of the cells of a piece."""
        views = {view.sheet: view for view in plan.tables.views}
        plans = {sheet.name: sheet for sheet in plan.design.sheets}
        relations = sheets.relations
        members = [Member(relations[name], views[name], plans[name]) for name in relations]
        self.ledger = ledger(grid, members) if self.ledger is None else added(self.ledger, ledger(grid, members))
        for relation in relations.values():
            if any(column.own for column in relation.columns):
                self.checks.append(check_cells(grid, relation))

    def _made(self, plan: _Plan) -> Iterator[Against]:
        """Makes the tables in the engine, as long as nothing stands against them."""
        design, tables = plan.design, plan.tables
        self.engine.drop(self.tables)
        self.tables, self.statements = [MADE + name for name in tables.by_name], []
        fill = self._fill(plan)
        for view in tables.views:
            yield from self._at(fill, view.sheet, not_calculated(self.engine, fill, tables, view))
        for table in resolve.filling_order(design, design.tables):
            self.progress(f"making {table.name}", 0, 1)
            found = [*self._at(fill, table.sheet, against(self.engine, fill, table, tables.by_name[table.name]))]
            if found:
                yield from found
                return
            rows = fill.rows(table)
            self.statements.append(f"CREATE TABLE {fill.made(table.name)} AS\n{rows};")
            self.engine.create(MADE + table.name, rows, resolve.identity(table))

    def _at(self, fill: Fill, sheet: str, found: Iterator[Against]) -> Iterator[Against]:
        """What stands against a design, with the places of its rows in the file."""
        quote = fill.dialect.quote
        for one in found:
            rows = ", ".join(map(str, one.rows))
            query = f"SELECT {quote(ROW)}, {quote(AT)} FROM {quote(staged(sheet))} WHERE {quote(ROW)} IN ({rows})"
            place = dict(zip(*(column.to_pylist() for column in self.engine.rows(query).columns), strict=True))
            yield replace(one, rows=tuple(place[row] for row in one.rows))

    def _finished(self, plan: _Plan, end: End) -> InEngine:
        """Proves the tables and writes them."""
        engine, fill = self.engine, self._fill(plan)
        self.progress("checking", 0, 1)
        assert self.ledger is not None
        held = held_as(plan.tables, fill)
        held = replace(held, tables=tuple(counted(engine, table) for table in held.tables))
        sized = zip(plan.tables.tables, held.tables, strict=True)
        tables = replace(plan.tables, tables=tuple(replace(table, row_count=one.row_count) for table, one in sized))
        checks = [as_one(self.checks, SHOWN)]
        for view, shown in zip(tables.views, held.views, strict=True):
            checks.append(given_back(engine, fill, held, shown, self.counts[view.sheet]))
        checks += [hangs_together(engine, table) for table in held.tables]
        written, more = end.write(Made(plan.design, tables, held, self.counts), fill, checks, self.progress)
        proof = Proof((*checks, *more), (self.ledger,), self.counts[plan.sheet.name])
        count, statements = plan.relation.row_count, tuple(self.statements)
        return InEngine(plan.design, written, proof, Path(), count, plan.sheets.notes, statements)

    def _fill(self, plan: _Plan) -> Fill:
        return Fill(plan.design, self.engine.dialect, {name: staged(name) for name in plan.sheets.relations})


def _rows(relation: Relation, wanted: Relation, above: int) -> dict[str, pa.Array]:
    """The columns of a relation as they are staged, in the types of the relation of the sample.

    Rows that we numbered ourselves go on behind those ``above``.
    """
    columns = {}
    for name in wanted.names:
        column = relation.by_name[name]
        values = column.values.cast(wanted.by_name[name].values.type)
        values = pc.add(values, above) if name == ROW_NUMBER and not column.own else values
        columns[name] = values.take(pa.array(column.codes, mask=column.codes == EMPTY))
    return columns
