"""Files larger than memory → tables: drafted from a sample, verified, split and proven on all rows inside an engine.

What the rows that are not in the sample say against the draft goes into the sample, and it is drafted again, until
nothing stands against it.
"""

from __future__ import annotations

import tempfile
from collections import Counter
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core import shape
from hemplit.core.design import resolve
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.progress import silent
from hemplit.core.model.proof import Check, Difference, Ledger, Proof, Reason
from hemplit.core.model.relation import ROW_NUMBER, Doubt
from hemplit.core.proof.compare import check_cells
from hemplit.core.proof.ledger import Member, ledger
from hemplit.core.tables.split import split
from hemplit.design_file.read import at_line
from hemplit.engines import engine_of
from hemplit.engines.checks import Against, against, flat_query, joined_query, not_calculated
from hemplit.engines.fill import AT, IN_MEMORY, ROW, Fill, check_can, staged
from hemplit.errors import CellError, DataError, DesignError, TargetError
from hemplit.files.pieces import Pieces
from hemplit.flow.designs import DESIGN_ENDING, check_place, save_design
from hemplit.flow.opening import is_design, open_design
from hemplit.flow.reading import Sheets, decided_kinds, name_of, shape_grids, take_apart
from hemplit.flow.studying import draft
from hemplit.targets.folder import FolderTarget
from hemplit.targets.sql.dialect import DIGITS, MOST_IN_FOUR_BYTES

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence

    import numpy.typing as npt

    from hemplit.core.model.design import Design, SheetPlan
    from hemplit.core.model.grid import Grid
    from hemplit.core.model.progress import Progress
    from hemplit.core.model.relation import Relation
    from hemplit.core.model.tables import Table, Tables, View
    from hemplit.engines.contract import Engine

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
#: So many rows are shown of what differs.
SHOWN = 5
#: Decimal places beyond those of the sample that numbers may have; with more they are stored as doubles.
MORE_PLACES = 5


@dataclass(frozen=True)
class InEngine:
    """What was made inside an engine: the design, the tables without their rows, and the proof.

    ``told`` says which rows stood against a draft of the sample.
    """

    design: Design
    tables: Tables
    proof: Proof
    design_path: Path
    sampled: int
    notes: tuple[str, ...]
    told: tuple[Doubt, ...] = ()


def load(
    path: str, target: str, engine: str, progress: Progress = silent, *, memory: str = "", over: bool = False
) -> InEngine:
    """Splits and proves the sheet in a file, or the files of a folder or pattern, and writes Parquet files.

    It drafts a design, and writes it beside them; or ``path`` is a design. Raises ``DesignError`` for what an engine
    cannot do, and rows that contradict a design; ``InputError`` for what is no regular file.
    """
    place = _place(target, over=over)
    text, design = open_design(Path(path)) if is_design(path) else ("", None)
    if design is None:
        check_place(place.beside(DESIGN_ENDING), over_edited=False)
        files = path
    else:
        try:
            files = str(Path(path).parent / _sheet_of(design).file)
        except DesignError as error:
            raise at_line(error, text, path) from error
    beside = place.path.absolute().parent
    try:
        with (
            tempfile.TemporaryDirectory(prefix=".hemplit-", dir=beside) as folder,
            engine_of(engine, Path(folder), memory) as opened,
        ):
            work = _Work(Pieces(files, Path(folder)), opened, progress)
            if design is None:
                return work.drafted_and_done(place, over=over)
            return replace(work.done(design, place, over=over), design_path=Path(path))
    except DesignError as error:
        if design is None:
            raise
        raise at_line(error, text, path) from error


def _sheet_of(design: Design) -> SheetPlan:
    """The one sheet of a design. Raises ``DesignError`` if there are more, or it has steps that an engine cannot do."""
    first, *others = (sheet for sheet in design.sheets if sheet.is_read)
    if others:
        raise DesignError(f"sheets.{others[0].name}", "an engine takes one sheet", IN_MEMORY)
    for step in first.steps:
        if step.act in OF_THE_WHOLE and not step.proposed:
            raise DesignError(f"sheets.{first.name}", f"an engine cannot do the step '{step.act}'", IN_MEMORY)
    return first


def _place(target: str, *, over: bool) -> FolderTarget:
    if not FolderTarget.takes(target):
        raise TargetError(target, "an engine writes a folder of Parquet files", "name a folder: NAME/")
    place = FolderTarget(f"{target.partition('#')[0]}#parquet")
    place.check()
    if place.exists() and not over:
        raise TargetError(place.text, "it exists already", "--replace replaces it; or name another")
    return place


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
        return tuple(step.act for step in self.sheet.steps), self.sheet.steps, kinds, names


class _Work:
    """One load inside an engine."""

    def __init__(self, pieces: Pieces, engine: Engine, progress: Progress) -> None:
        self.pieces, self.engine, self.progress = pieces, engine, progress
        self.staged_as: tuple[object, ...] | None = None
        self.counts: dict[str, int] = {}
        self.tables: list[str] = []
        self.checks: list[Check] = []
        self.ledger: Ledger | None = None

    def drafted_and_done(self, place: FolderTarget, *, over: bool) -> InEngine:
        """Drafts until nothing stands against it, and writes the tables and the design."""
        also = np.zeros(0, dtype=np.int64)
        told: dict[str, Doubt] = {}
        for _ in range(ROUNDS):
            plan = self._drafted(also)
            found = [*self._staged(plan)] or [*self._made(plan)]
            if not found:
                made = replace(self._finished(plan, place, over=over), told=tuple(told.values()))
                kept = place.beside(DESIGN_ENDING)
                return replace(made, design=save_design(plan.design, kept, over_edited=False), design_path=kept)
            for one in found:
                told.setdefault(f"{one.where}: {one.what}", self._doubt(one))
            more = np.union1d(also, [row for one in found for row in one.rows]).astype(np.int64)
            if len(more) == len(also):
                break
            also = more
        raise self._refusal(found[0], "whatever is drafted")

    def done(self, design: Design, place: FolderTarget, *, over: bool) -> InEngine:
        """Writes the tables of a given design, if nothing stands against it."""
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
        return self._finished(plan, place, over=over)

    def _refusal(self, one: Against, more: str = "") -> DataError:
        """The error for rows that stand against a design."""
        rows = " and ".join(self.pieces.row(row) for row in dict.fromkeys((one.rows[0], one.rows[-1])))
        what = ", ".join(filter(None, (f"{self.pieces.title} {rows}: {one.what}", more)))
        return DataError(one.where, what, "correct the rows, or the design")

    def _doubt(self, one: Against) -> Doubt:
        """What rows say against a draft, with the first and the last of them."""
        places = tuple(self.pieces.row(row) for row in dict.fromkeys((one.rows[0], one.rows[-1])))
        return Doubt(one.what, places, AGAIN, len(one.rows))

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
        self.staged_as = plan.how_staged

    def _account(self, plan: _Plan, grid: Grid, sheets: Sheets) -> None:
        """Adds what became of the cells of a piece."""
        views = {view.sheet: view for view in plan.tables.views}
        plans = {sheet.name: sheet for sheet in plan.design.sheets}
        relations = sheets.relations
        members = [Member(relations[name], views[name], plans[name]) for name in relations]
        self.ledger = _sum(self.ledger, ledger(grid, members))
        for relation in relations.values():
            if any(column.own for column in relation.columns):
                self.checks.append(check_cells(grid, relation))

    def _made(self, plan: _Plan) -> Iterator[Against]:
        """Makes the tables in the engine, as long as nothing stands against them."""
        design, tables = plan.design, plan.tables
        self.engine.drop(self.tables)
        self.tables = list(tables.by_name)
        fill = Fill(design, self.engine.dialect, {name: staged(name) for name in plan.sheets.relations})
        for view in tables.views:
            yield from self._at(fill, view.sheet, not_calculated(self.engine, fill, tables, view))
        for table in resolve.filling_order(design, design.tables):
            self.progress(f"making {table.name}", 0, 1)
            found = [*self._at(fill, table.sheet, against(self.engine, fill, table, tables.by_name[table.name]))]
            if found:
                yield from found
                return
            self.engine.create(table.name, fill.rows(table))

    def _at(self, fill: Fill, sheet: str, found: Iterator[Against]) -> Iterator[Against]:
        """What stands against a design, with the places of its rows in the file."""
        quote = fill.dialect.quote
        for one in found:
            rows = ", ".join(map(str, one.rows))
            query = f"SELECT {quote(ROW)}, {quote(AT)} FROM {quote(staged(sheet))} WHERE {quote(ROW)} IN ({rows})"
            place = dict(zip(*(column.to_pylist() for column in self.engine.rows(query).columns), strict=True))
            yield replace(one, rows=tuple(place[row] for row in one.rows))

    def _finished(self, plan: _Plan, place: FolderTarget, *, over: bool) -> InEngine:
        """Proves the tables and writes them."""
        dialect = self.engine.dialect
        fill = Fill(plan.design, dialect, {name: staged(name) for name in plan.sheets.relations})
        tables = replace(plan.tables, tables=tuple(map(self._counted, plan.tables.tables)), views=plan.tables.views)
        self.progress("checking", 0, 1)
        assert self.ledger is not None
        checks = [_summed(self.checks)]
        checks += [self._given_back(fill, tables, view) for view in tables.views]
        checks += [self._hangs_together(table) for table in tables.tables]

        def make(files: Mapping[str, Path]) -> None:
            for table in tables.tables:
                self.progress(f"writing {table.name}", 0, 1)
                self.engine.save(table.name, self._exact(table), ROW, files[table.name])
                checks.append(self._is_saved(table, files[table.name]))
            if any(check.different for check in checks):
                wrong = next(check for check in checks if check.different)
                raise TargetError(
                    place.text, f"NOT verified: {wrong.what}", "nothing was written; load it without --engine"
                )

        place.take(replace(tables, views=()), make, over=over)
        proof = Proof(tuple(checks), (self.ledger,), self.counts[plan.sheet.name])
        held = replace(tables, views=(), named=(), tallies=())
        return InEngine(plan.design, held, proof, Path(), plan.relation.row_count, plan.sheets.notes)

    def _counted(self, table: Table) -> Table:
        count = self.engine.rows(f"SELECT count(*) FROM {self.engine.dialect.quote(table.name)}")
        return replace(table, row_count=int(count.column(0)[0].as_py()))

    def _given_back(self, fill: Fill, tables: Tables, view: View) -> Check:
        """Whether the tables, joined again, have the cells of the sheet, in whatever order."""
        what = f"the tables joined again give all rows of {view.sheet}"
        return self._alike(what, flat_query(fill, view), joined_query(fill, tables, view), self.counts[view.sheet])

    def _exact(self, table: Table) -> dict[str, str]:
        """The columns of a table, each in the narrowest type that holds it exactly, as files of Parquet have them."""
        quote = self.engine.dialect.quote
        kept = {column.name: quote(column.name) for column in table.columns}
        whole = [column.name for column in table.columns if column.kind.word == "whole number"]
        if whole:
            most = ", ".join(f"max(abs({quote(name)}))" for name in whole)
            found = self.engine.rows(f"SELECT {most} FROM {quote(table.name)}").columns
            for name, value in zip(whole, found, strict=True):
                if (value[0].as_py() or 0) <= MOST_IN_FOUR_BYTES:
                    kept[name] = f"CAST({quote(name)} AS INTEGER)"
        for column in table.columns:
            if column.kind.word == "decimal" and column.kind.form:
                name = quote(column.name)
                least = max(len(column.kind.form) - 2, 0)
                tried = range(least, least + MORE_PLACES)
                more = ", ".join(f"count(CASE WHEN round({name}, {places}) <> {name} THEN 1 END)" for places in tried)
                found = self.engine.rows(f"SELECT {more} FROM {quote(table.name)}").columns
                places = next((one for one, count in zip(tried, found, strict=True) if not count[0].as_py()), None)
                if places is not None:
                    kept[column.name] = f"CAST({name} AS DECIMAL({DIGITS + places}, {places}))"
        return kept

    def _is_saved(self, table: Table, path: Path) -> Check:
        quote = self.engine.dialect.quote
        typed = (f"CAST({quote(one.name)} AS {self.engine.dialect.type_of(one.kind.word)})" for one in table.columns)
        columns = ", ".join(f"{value} AS c{place}" for place, value in enumerate(typed))
        held, written = (f"SELECT {columns} FROM {source}" for source in (quote(table.name), self.engine.saved(path)))
        return self._alike(f"the file holds all rows of {table.name}", held, written, table.row_count)

    def _alike(self, what: str, one: str, other: str, rows: int) -> Check:
        """Whether two queries find the same rows: as many, and with the same sums over all of them."""
        count = len(self.engine.rows(f"SELECT * FROM (\n{one}\n) AS found LIMIT 0").column_names)
        sums = ", ".join(("count(*)", *self.engine.dialect.summed([f"c{place}" for place in range(count)])))
        found = [self.engine.rows(f"SELECT {sums} FROM (\n{side}\n) AS found").to_pylist()[0] for side in (one, other)]
        if [*found[0].values()] == [*found[1].values()]:
            return Check(what, rows, "rows", 0, ())
        lost, more = (
            self.engine.rows(f"SELECT * FROM (\n{left}\nEXCEPT ALL\n{right}\n) AS differs LIMIT {SHOWN}").to_pylist()
            for left, right in ((one, other), (other, one))
        )
        differences = [Difference(what, _said(row), "no such row") for row in lost]
        differences += [Difference(what, "no such row", _said(row)) for row in more]
        return Check(what, rows, "rows", max(len(differences), 1), tuple(differences))

    def _hangs_together(self, table: Table) -> Check:
        """Whether keys are filled and there once, and each reference leads to a row."""
        quote = self.engine.dialect.quote
        name = quote(table.name)
        wrong: list[Difference] = []
        for key in (table.key, *table.unique):
            columns = ", ".join(map(quote, key))
            filled = " AND ".join(f"{quote(one)} IS NOT NULL" for one in key)
            query = f"SELECT {columns} FROM {name} WHERE {filled} GROUP BY {columns} HAVING count(*) > 1 LIMIT {SHOWN}"
            wrong += [Difference(table.name, "one row", _said(row)) for row in self.engine.rows(query).to_pylist()]
        required = [column.name for column in table.columns if column.required or column.name in table.key]
        blanks = ", ".join(f"count(*) - count({quote(one)})" for one in required)
        for one, count in zip(required, self.engine.rows(f"SELECT {blanks} FROM {name}").columns, strict=True):
            if count[0].as_py():
                wrong.append(Difference(f"{table.name}.{one}", "filled", f"{count[0].as_py():,} blanks"))
        for reference in table.references:
            pairs = zip(reference.columns, reference.table_columns, strict=True)
            same = " AND ".join(f"own.{quote(one)} = other.{quote(two)}" for one, two in pairs)
            filled = " AND ".join(f"own.{quote(one)} IS NOT NULL" for one in reference.columns)
            query = (
                f"SELECT own.* FROM {name} AS own WHERE {filled} AND NOT EXISTS "
                f"(SELECT 1 FROM {quote(reference.table)} AS other WHERE {same}) LIMIT {SHOWN}"
            )
            rows = self.engine.rows(query).to_pylist()
            wrong += [Difference(f"{table.name} → {reference.table}", "a row", _said(row)) for row in rows]
        what = f"{table.name}: each key is there once, and each reference leads to a row"
        return Check(what, table.row_count, "rows", len(wrong), tuple(wrong))


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


def _sum(before: Ledger | None, one: Ledger) -> Ledger:
    """The accounts of two pieces of one sheet as one."""
    if before is None:
        return one

    def added(two: tuple[Reason, ...], other: tuple[Reason, ...]) -> tuple[Reason, ...]:
        cells = Counter({reason.reason: reason.cells for reason in two})
        cells.update({reason.reason: reason.cells for reason in other})
        return tuple(Reason(reason, many) for reason, many in cells.items())

    return replace(
        before,
        cells=before.cells + one.cells,
        stored=before.stored + one.stored,
        calculated=before.calculated + one.calculated,
        changes=added(before.changes, one.changes),
        left_out=added(before.left_out, one.left_out),
        rows=(*before.rows, *one.rows),
        unaccounted=before.unaccounted + one.unaccounted,
        twice=before.twice + one.twice,
    )


def _summed(checks: Sequence[Check]) -> Check:
    """The checks of all pieces as one."""
    compared, different = (sum(getattr(one, name) for one in checks) for name in ("compared", "different"))
    shown = tuple(one for check in checks for one in check.differences)
    return Check(checks[0].what, compared, checks[0].unit, different, shown[:SHOWN])


def _said(row: Mapping[str, object]) -> str:
    return ", ".join("" if value is None else str(value) for value in row.values())
