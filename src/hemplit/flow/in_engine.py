"""Files larger than memory → tables: drafted from a sample, verified, split and proven on all rows inside an engine.

What the rows that are not in the sample say against the draft goes into the sample, and it is drafted again, until
nothing stands against it.
"""

from __future__ import annotations

import tempfile
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.design import resolve
from hemplit.core.model.progress import silent
from hemplit.core.model.proof import Proof
from hemplit.core.model.relation import Doubt, are_open
from hemplit.core.proof.compare import as_one
from hemplit.core.tables.across import without_strangers
from hemplit.core.tables.same import with_united
from hemplit.core.tables.split import split
from hemplit.dataclasses import dataclass, replace
from hemplit.design_file.read import at_line
from hemplit.engines import SERVERS, engine_of, server_engine
from hemplit.engines.able import check_can
from hemplit.engines.checks import Against, against, against_made, against_united, kept_beside, not_calculated
from hemplit.engines.fill import AT, MADE, MOST_SHEETS, ROW, ROWS_OF_A_SHEET, Fill, staged
from hemplit.engines.partners import stage_partners
from hemplit.engines.proven import given_back, hangs_together, measured
from hemplit.engines.united import united_rows
from hemplit.errors import DataError, DesignError, InputError, TargetError, without_password
from hemplit.files import is_address
from hemplit.files.pieces import Whole
from hemplit.flow.designs import DESIGN_ENDING, check_place, save_design
from hemplit.flow.engine_ends import FolderEnd, Made, ServerEnd, held_as
from hemplit.flow.engine_rows import NO_ROWS, most_of, sheets_for, sheets_of, tables_of
from hemplit.flow.noted import left_out_of
from hemplit.flow.opening import is_design, open_design
from hemplit.flow.problems import split_as_told
from hemplit.flow.proving import ledgers_of, told_by_data, told_by_steps
from hemplit.flow.reading import replayed_but, shape_grids, take_apart
from hemplit.flow.staging import OF_THE_WHOLE, SHOWN, Contradiction, Plan, Rows, Staged, stage
from hemplit.flow.studying import draft
from hemplit.targets import target_for
from hemplit.targets.folder import FolderTarget
from hemplit.targets.sql.server import ServerTarget

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.design import Design
    from hemplit.core.model.progress import Progress
    from hemplit.core.model.tables import Tables
    from hemplit.engines.contract import Engine
    from hemplit.flow.engine_ends import End
    from hemplit.flow.reading import Sheets
    from hemplit.targets.contract import Target


#: So often a draft is corrected by rows that stand against it, before a person has to look.
ROUNDS = 12
AGAIN = "it was drafted again without it; if a row is wrong, correct it and load again"
BESIDE = "the cell is kept beside; correct it here or there, if it is a typo"


@dataclass(frozen=True)
class InEngine:
    """What was made inside an engine: the design, the tables without their rows, the proof, and the sheets that were
    taken as a whole.

    ``told`` says, each with the title of a sheet, which rows stood against a draft of the samples, or name nothing;
    ``statements`` are those that made the tables.
    """

    design: Design
    tables: Tables
    proof: Proof
    sheets: Sheets
    design_path: Path
    sampled: int
    notes: tuple[str, ...]
    statements: tuple[str, ...]
    told: tuple[tuple[str, Doubt], ...] = ()
    left_out: Path | None = None
    """The file with the rows that were left out, if there are many."""

    @property
    def needs_a_look(self) -> bool:
        """Whether a person should look at it."""
        return are_open(self.told) or self.proof.needs_a_look


def load(
    paths: Sequence[str], target: str, engine: str, progress: Progress = silent, *, memory: str = "", over: bool = False
) -> InEngine:
    """Splits and proves sheets inside an engine: files, or those of folders or patterns, into Parquet files; or the
    tables of a server into the same database.

    It drafts a design, and writes it beside them; or the one path is a design. Raises ``DesignError`` for what an
    engine cannot do, and rows that contradict a design; ``InputError`` for what is no regular file.
    """
    if memory and engine in SERVERS:
        raise InputError(f"--memory {memory}", "the server has its own", "leave it out")
    places = [path if is_address(path) else str(Path(path).absolute()) for path in paths]
    twice = next((path for path, place in zip(paths, places, strict=True) if places.count(place) > 1), None)
    if twice is not None:
        raise InputError(twice, "it is given twice", "name it once")
    path = Path(paths[0])
    text, design = open_design(path) if is_design(paths[0]) else ("", None)
    try:
        inside = partial(_in_database, engine) if engine in SERVERS else partial(_in_files, engine, memory)
        made = inside(paths, target, _Work(design, progress), over=over)
    except DesignError as error:
        if design is None:
            raise
        raise at_line(error, text, str(path)) from error
    return made if design is None else replace(made, design_path=path)


def _in_files(engine: str, memory: str, paths: Sequence[str], target: str, work: _Work, *, over: bool) -> InEngine:
    if not FolderTarget.takes(target):
        raise TargetError(target, f"{engine} writes a folder of Parquet files", "name a folder: NAME/")
    place = FolderTarget(f"{target.partition('#')[0]}#parquet")
    place.check()
    _check_free(place, over=over)
    with (
        tempfile.TemporaryDirectory(prefix=".hemplit-", dir=place.path.absolute().parent) as folder,
        engine_of(engine, Path(folder), memory) as opened,
    ):
        if work.design is None:
            sheets = sheets_of(paths, Path(folder))
        else:
            sheets = sheets_for(work.design, Path(paths[0]).parent, Path(folder))
        return work.done(sheets, opened, FolderEnd(place, opened, over=over))


def _in_database(engine: str, paths: Sequence[str], target: str, work: _Work, *, over: bool) -> InEngine:
    place = target_for(target)
    sources = [sheet.file for sheet in work.design.sheets if sheet.is_read] if work.design else paths
    is_same = {source.partition("#")[0] for source in sources} == {target.partition("#")[0]}
    if not (isinstance(place, ServerTarget) and engine in place.schemes and is_same):
        what = "this engine splits tables of a database into others of the same database"
        raise TargetError(without_password(target), what, f"write {engine}://HOST/DATABASE#TABLE --into the same")
    _check_free(place, over=over)
    sheets = sheets_for(work.design, Path(), Path()) if work.design else tables_of(paths)
    with place.opened() as session:
        opened = server_engine(engine, session)
        end = ServerEnd(place, session, opened, over=over)
        made = work.done(sheets, opened, end)
    return replace(made, proof=replace(made.proof, checks=(*made.proof.checks, *end.committed())))


def _check_free(place: Target, *, over: bool) -> None:
    if place.exists() and not over:
        raise TargetError(place.text, "it exists already", "--replace replaces what Hemplit made; or name another")


class _Work:
    """One load inside an engine, of a given design or one that is drafted."""

    #: The sheets as they were given, and as the design speaks of them: one of two tables is two.
    given: Mapping[str, Rows]
    rows: Mapping[str, Rows]
    engine: Engine
    fill: Fill

    def __init__(self, design: Design | None, progress: Progress) -> None:
        self.design, self.progress = design, progress
        self.staged: dict[str, Staged] = {}
        #: The sheets and what is taken out of them, in the order in which their rows are numbered.
        self.numbered: list[str] = []
        self.tables: list[str] = []
        self.statements: list[str] = []

    def done(self, sheets: Mapping[str, Rows], engine: Engine, end: End) -> InEngine:
        """Makes the tables in an engine and writes them, and the design beside them if it was drafted."""
        self.engine, self.given, self.rows = engine, sheets, sheets
        if self.design is not None:
            return self._finished(self._taken(self.design), end)
        kept = end.beside(DESIGN_ENDING)
        check_place(kept, over_edited=False)
        plan, told = self._agreed()
        made = self._finished(plan, end, told)
        return replace(made, design=save_design(plan.design, kept, over_edited=False), design_path=kept)

    def _agreed(self) -> tuple[Plan, tuple[tuple[str, Doubt], ...]]:
        """Drafts until no row stands against it, and says which did."""
        also: dict[str, npt.NDArray[np.int64]] = dict.fromkeys(self.given, NO_ROWS)
        told: dict[str, tuple[str, Doubt]] = {}
        for _ in range(ROUNDS):
            plan = self._drafted(also)
            found = self._found(plan)
            if not found:
                return plan, tuple(told.values())
            for one in found:
                told.setdefault(f"{one.where}: {one.what}", self._doubt(one))
            spots = {spot for one in found for spot in one.spots}
            more = {
                name: np.union1d(rows, [place for sheet, place in spots if sheet == name]).astype(np.int64)
                for name, rows in also.items()
            }
            if all(len(more[name]) == len(also[name]) for name in also):
                break
            also = more
        raise self._refusal(found[0], "whatever is drafted")

    def _found(self, plan: Plan) -> list[Contradiction]:
        """What stands against a design, as soon as a step shows any."""
        return [*self._staging(plan)] or [*self._made(plan)]

    def _taken(self, design: Design) -> Plan:
        """A given design, if no row stands against it."""
        check_can(design)
        plans = {sheet.name: sheet for sheet in design.sheets}
        shaped = {}
        for name, rows in self.rows.items():
            grid = rows.sample(most_of(rows), NO_ROWS)
            # A row that does not fit is found among all rows, and named as it stands there.
            shaped[name] = grid, replayed_but(grid, design, plans[name], grid.row_count)[0]
        sheets = take_apart(design, shaped)
        relations = sheets.relations
        if not all(isinstance(rows, Whole) for rows in self.rows.values()):
            # What a row of one sample names may stand in no row of another.
            relations = without_strangers(design, relations)
        plan = Plan(design, sheets, split_as_told(design, replace(sheets, relations=relations)))
        found = self._found(plan)
        if found:
            error = self._refusal(found[0])
            error.further = tuple(map(self._refusal, found[1:]))
            raise error
        return plan

    def _refusal(self, one: Contradiction, more: str = "") -> DataError:
        """The error for rows that stand against a design."""
        title, shown = self._shown(one)
        what = ", ".join(filter(None, (f"{title} {' and '.join(shown)}: {one.what}", more)))
        return DataError(one.where, what, "correct the rows, or the design")

    def _doubt(self, one: Contradiction, hint: str = AGAIN) -> tuple[str, Doubt]:
        """What rows say against a draft, with the title of their sheet."""
        title, shown = self._shown(one)
        return title, Doubt(one.what, shown, hint, len(one.spots))

    def _shown(self, one: Contradiction) -> tuple[str, tuple[str, ...]]:
        """The title of a sheet, and the first and the last of the rows that stand against a design, in words."""
        sheet = one.spots[0][0]
        spots = dict.fromkeys((one.spots[0], one.spots[-1]))
        titles = {name: f"{rows.source.title} " if name != sheet else "" for name, rows in self.rows.items()}
        return self.rows[sheet].source.title, tuple(
            f"{titles[name]}{self.rows[name].row(place)}" for name, place in spots
        )

    def _drafted(self, also: Mapping[str, npt.NDArray[np.int64]]) -> Plan:
        """A design of samples, in which rows stand that contradicted the one before."""
        self.progress("drafting from a sample", 0, 1)
        grids = {name: rows.sample(most_of(rows), also[name]) for name, rows in self.given.items()}
        without = {name: () if isinstance(rows, Whole) else OF_THE_WHOLE for name, rows in self.given.items()}
        sheets = shape_grids(grids, self.progress, without=without)
        of = {id(grid): self.given[name] for name, grid in grids.items()}
        self.rows = {name: of[id(grid)] for name, grid in sheets.grids.items()}
        design = draft(sheets, self.progress)
        check_can(design)
        return Plan(design, sheets, split(design, sheets.relations))

    def _staging(self, plan: Plan) -> Iterator[Contradiction]:
        """Stages all rows as the design shapes them, unless they are; the first that does not fit it stands against."""
        names = (*plan.sheets.relations, *(sheet.name for sheet in plan.design.sheets if sheet.unites))
        self.numbered += [name for name in names if name not in self.numbered]
        if len(self.numbered) > MOST_SHEETS:
            what = f"with their parts they are {len(self.numbered):,} sheets, and an engine takes {MOST_SHEETS:,}"
            raise InputError(f"{len(self.rows):,} sheets", what, "load some of them by themselves")
        for sheet in plan.read:
            before = self.staged.get(sheet)
            if before is None or before.how != plan.how_staged(sheet):
                self.engine.drop([staged(name) for name in plan.relations_of(sheet)])
                self.staged.pop(sheet, None)
                made = stage(plan, sheet, self.rows[sheet], self.engine, self._first_rows, self.progress)
                if isinstance(made, Contradiction):
                    yield made
                    return
                self.staged[sheet] = made

    @property
    def _first_rows(self) -> dict[str, int]:
        """The number of the first row of each sheet, and of what is taken out of it."""
        return {name: number * ROWS_OF_A_SHEET for number, name in enumerate(self.numbered)}

    def _made(self, plan: Plan) -> Iterator[Contradiction]:
        """Makes the tables in the engine, as long as nothing stands against them."""
        design, tables = plan.design, plan.tables
        self.engine.drop(self.tables)
        self.tables, self.statements = [], []
        sheets = with_united(design, plan.sheets.relations)
        names = {name: one.names for name, one in plan.sheets.relations.items()}
        self.fill = fill = Fill(design, self.engine.dialect, self._first_rows, names)
        for sheet in design.sheets:
            if sheet.unites:
                keys = [group[0] for group in sheet.same[: sheet.by]]
                self._create(staged(sheet.name), united_rows(fill, sheet), keys)
                yield from self._at(fill, against_united(self.engine, fill, sheet))
        for view in tables.views:
            yield from self._at(fill, not_calculated(self.engine, fill, tables, view))
        for table in resolve.filling_order(design, design.tables):
            self.progress(f"making {table.name}", 0, 1)
            self.tables += stage_partners(self.engine, fill, table, tables, sheets)
            found = [*self._at(fill, against(self.engine, fill, table, tables.by_name[table.name]))]
            if not found:
                self._create(MADE + table.name, fill.rows(table), resolve.identity(table))
                found = [*self._at(fill, against_made(self.engine, fill, table))]
            if found:
                yield from found
                return

    def _create(self, name: str, rows: str, by: Sequence[str]) -> None:
        """Makes a table in the engine, and keeps the statement."""
        self.tables.append(name)
        self.statements.append(f"CREATE TABLE {self.engine.dialect.quote(name)} AS\n{rows};")
        self.engine.create(name, rows, by)

    def _at(self, fill: Fill, found: Iterator[Against]) -> Iterator[Contradiction]:
        """What stands against a design, with the sheets and places of its rows."""
        for one in found:
            spots = self._spots(fill, one.rows)
            yield Contradiction(one.where, one.what, tuple(spots[row] for row in one.rows))

    def _spots(self, fill: Fill, wanted: Sequence[int]) -> dict[int, tuple[str, int]]:
        """The sheet and the place there of each of the rows with these numbers."""
        quote = fill.dialect.quote
        spots: dict[int, tuple[str, int]] = {}
        for number, name in enumerate(self.numbered):
            rows = [row for row in wanted if row // ROWS_OF_A_SHEET == number]
            if rows:
                few = f"{quote(ROW)} IN ({', '.join(map(str, rows))})"
                query = f"SELECT {quote(ROW)}, {quote(AT)} FROM {quote(staged(name))} WHERE {few}"
                numbers, places = (column.to_pylist() for column in self.engine.rows(query).columns)
                plan = fill.design.sheet(name)
                # Where a sheet unites others, the place is the number of a row of one of them.
                inner = self._spots(fill, places) if plan.unites else {}
                spots |= {
                    row: inner.get(place, (plan.of or name, place)) for row, place in zip(numbers, places, strict=True)
                }
        return spots

    def _finished(self, plan: Plan, end: End, told: Sequence[tuple[str, Doubt]] = ()) -> InEngine:
        """Proves the tables and writes them."""
        engine, fill = self.engine, self.fill
        self.progress("checking", 0, 1)
        counts = {name: count for one in self.staged.values() for name, count in one.counts.items()}
        held = held_as(plan.tables, fill)
        measures = {table.name: measured(engine, table) for table in held.tables}
        held = replace(held, tables=tuple(replace(one, row_count=measures[one.name].rows) for one in held.tables))
        sized = zip(plan.tables.tables, held.tables, strict=True)
        tables = replace(plan.tables, tables=tuple(replace(table, row_count=one.row_count) for table, one in sized))
        checks = [as_one(one.checks, SHOWN) for one in self.staged.values()]
        for view, shown in zip(tables.views, held.views, strict=True):
            checks.append(given_back(engine, fill, held, shown, counts[view.sheet]))
        checks += [hangs_together(engine, table, measures[table.name]) for table in held.tables]
        known = {(title, one.what) for title, one in told}
        told = (*told, *((title, one) for title, one in self._told(plan) if (title, one.what) not in known))
        written, more = end.write(Made(plan.design, tables, held, measures, counts), fill, checks, self.progress)
        in_pieces = tuple(one.ledger for one in self.staged.values() if one.ledger is not None)
        sheets = self._whole(plan)
        ledgers = (*ledgers_of(plan.design, sheets, plan.tables), *in_pieces)
        proof = Proof((*checks, *more), ledgers, sum(counts[name] for name in plan.read))
        return InEngine(
            plan.design,
            written,
            proof,
            sheets,
            Path(),
            sampled=sum(plan.sheets.relations[name].row_count for name in plan.read),
            notes=plan.sheets.notes,
            statements=tuple(self.statements),
            told=told,
            left_out=left_out_of(ledgers, end.beside),
        )

    def _whole(self, plan: Plan) -> Sheets:
        """The sheets that are staged as a whole."""
        sheets = plan.sheets
        grids = {name: grid for name, grid in sheets.grids.items() if isinstance(self.rows[name], Whole)}
        relations = {one: sheets.relations[one] for name in grids for one in sheets.family(name)}
        return replace(sheets, grids=grids, relations=relations)

    def _told(self, plan: Plan) -> Iterator[tuple[str, Doubt]]:
        """What stands in the sheets that a person should look at."""
        whole = self._whole(plan)
        yield from told_by_steps(whole)
        if whole.relations.keys() == plan.sheets.relations.keys():
            yield from told_by_data(plan.design, plan.tables, plan.sheets)
            return
        engine, fill = self.engine, self.fill
        for table in plan.design.tables:
            yield from (self._doubt(one, BESIDE) for one in self._at(fill, kept_beside(engine, fill, table)))
