"""Further sheets × design × what a target holds → what is added to it: next month's file, with the same design.

Each sheet is shaped by the steps of the design, split, and met with what is held; all of it is added in one go or
nothing is. What was loaded is noted in the target, so that no file is taken twice and the proof knows all of them.
"""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from hemplit import files
from hemplit.core.model.acts import Act
from hemplit.core.model.loads import Ability, Load
from hemplit.core.model.progress import silent
from hemplit.core.model.proof import Check, Difference, LeftOutRow, Proof
from hemplit.core.model.relation import Doubt, are_open
from hemplit.core.model.tables import Tables
from hemplit.core.proof.at_odds import at_odds
from hemplit.core.proof.stored import check_stored
from hemplit.core.proof.strangers import strangers
from hemplit.core.shape.names import period_in
from hemplit.core.tables.merge import Added, rows_from
from hemplit.core.tables.names import nearly_known, new_names
from hemplit.core.tables.same import MOST
from hemplit.core.texts.moments import is_moment_header
from hemplit.dataclasses import dataclass, replace
from hemplit.design_file.read import at_line
from hemplit.errors import DesignError, InputError, TargetError
from hemplit.flow.again import proof_of, tables_seen
from hemplit.flow.fitting import file_of, in_order, title_of
from hemplit.flow.further import How, Step, added
from hemplit.flow.noted import LEFT_OUT_ENDING, known_by, mark_of, now, seen_from, write_left_out
from hemplit.flow.opening import open_design
from hemplit.flow.windows import Held, held_for

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Mapping

    from hemplit.core.model.design import Design, SheetPlan
    from hemplit.core.model.grid import Grid
    from hemplit.core.model.progress import Progress
    from hemplit.core.model.tables import Table
    from hemplit.core.tables.merge import Conflict
    from hemplit.targets.contract import Target


@dataclass(frozen=True)
class Topped:
    """What a topup did, or would do: the steps, the tables with their new rows, the proof, and what is to be told."""

    design: Design
    steps: tuple[Step, ...]
    held: Held
    before: Mapping[str, int]
    proof: Proof
    notes: tuple[str, ...]
    told: tuple[tuple[str, Doubt], ...]
    written: bool
    left_out: Path | None = None
    """The file in which the rows stand that were left out."""

    @property
    def tables(self) -> Mapping[str, Table]:
        """The tables with their new rows, as far as they were read."""
        return self.held.tables

    @property
    def why_not(self) -> str:
        """Why nothing was written; empty if it was."""
        if self.written:
            return ""
        if not self.steps:
            return "there is nothing new"
        return "it was not asked to be" if not any(step.stops for step in self.steps) else "there are contradictions"

    @property
    def conflicts(self) -> tuple[tuple[str, Conflict], ...]:
        """All of them, with the title of the sheet."""
        return tuple((step.title, one) for step in self.steps for one in step.merged.conflicts)

    @property
    def aside(self) -> tuple[tuple[str, LeftOutRow], ...]:
        """The rows that contradict the design and are left out, with the title of their sheet."""
        return tuple((step.title, _row(step.grid, row, why)) for step in self.steps for row, why in step.aside)

    @property
    def sheets(self) -> tuple[tuple[str, int, int], ...]:
        """Of each sheet its title, its rows, and how many of them were there already."""
        return tuple((step.title, len(step.is_new), step.known) for step in self.steps)

    @property
    def added(self) -> dict[str, Added]:
        """What came to each table."""
        changed = {name: len(rows) for name, rows in self.changed.items()}
        return {
            name: Added(
                table.row_count - self.before[name],
                self.held.unread[name] + table.row_count,
                new_names(self.design, table, self.before[name]),
                changed.get(name, 0),
            )
            for name, table in self.tables.items()
            if self.steps
        }

    @property
    def changed(self) -> dict[str, set[int]]:
        """The held rows of each table that are others now."""
        rows: dict[str, set[int]] = {}
        for step in self.steps:
            for name, some in step.merged.changed.items():
                rows.setdefault(name, set()).update(some[some < self.before[name]].tolist())
        return {name: some for name, some in rows.items() if some}

    @property
    def like(self) -> tuple[tuple[str, Doubt], ...]:
        """What is new in a list and nearly like something that it has, and all else that is to be told."""
        return (*self.told, *(("new", one) for one in nearly_known(self.design, self.tables, self.before)))

    @property
    def needs_a_look(self) -> bool:
        """Whether a person must look at it."""
        aside = any(step.aside for step in self.steps)
        return bool(self.conflicts) or are_open(self.like) or aside or not self.proof.holds


def _row(grid: Grid, row: int, why: str) -> LeftOutRow:
    file, within = grid.source.row(row)
    return LeftOutRow(f"{file}row {within + 1}", why, tuple(column.text(row) for column in grid.columns))


def topup(path: Path, paths: Iterable[str], into: str, how: How | None = None, progress: Progress = silent) -> Topped:
    """Adds what is new in further sheets to a target that holds a design's tables.

    Raises ``InputError`` for a sheet that fits no sheet of the design, ``DesignError`` where its data contradict the
    design, ``TargetError`` if the target does not hold the tables.
    """
    # The database libraries take most of a second to import.
    from hemplit.targets import target_for

    how, paths = how or How(), tuple(paths)
    for one in paths:
        if files.is_address(one):
            hint = "save it as a CSV file, and add that, so that the proof finds it again"
            raise InputError(one, "what a server holds may be other tomorrow, and is not added from there", hint)
    text, design = open_design(path, write=not how.dry_run)
    target = target_for(into)
    if Ability.GROW in target.lacks:
        raise TargetError(target.text, target.lacks[Ability.GROW], "load all sheets into it again, with --replace")
    target.check_held()
    progress("reading the tables", 0, 1)
    notes: list[str] = [*design.told]
    try:
        further = in_order(design, _not_loaded(paths, target, how, notes), notes)
        topping = _Topping(design, target, how, held_for(design, target, further), notes)
        for grid, plan in further:
            progress(f"adding {grid.source.title}", 0, 1)
            topping.add(grid, plan)
    except DesignError as error:
        raise at_line(error, text, str(path)) from error
    topped = topping.topped()
    if topped.written:
        progress("writing", 0, 1)
        target.append(_new_rows(topped), _changed_rows(topped), topping.loads)
        checks = (*topped.proof.checks, *_check_held(target, topped))
        topped = replace(topped, proof=replace(topped.proof, checks=checks))
    if topped.aside and topped.written:
        return replace(topped, left_out=write_left_out(topped.aside, target.beside(LEFT_OUT_ENDING)))
    return topped


class _Topping:
    """The work of one topup: what was added so far, and what will be noted of it."""

    def __init__(self, design: Design, target: Target, how: How, held: Held, notes: list[str]) -> None:
        self.target, self.design, self.how, self.held, self.unread = target, design, how, held.tables, held.unread
        self.before = {name: table.row_count for name, table in self.held.items()}
        self.noted = target.loads()
        # What was kept once may be updated later.
        earlier = [one for one in self.noted if not how.updates or one.how in ("", how.conflicts.value)]
        self.known = {(*known_by(one.mark, Path(one.file)), one.worksheet, one.sheet) for one in earlier}
        self.notes = notes
        self.steps: list[Step] = []
        self.loads: list[Load] = []

    def _note_period(self, step: Step, plan: SheetPlan) -> None:
        """Rows that are known of a file that is named for another month may be those of that month."""
        old, new = period_in(plan.file), period_in(str(file_of(step.grid)))
        relation = step.sheets.relations[step.sheet]
        told = any(is_moment_header(column.name) for column in relation.columns)
        if step.known and old and new and old != new and not told:
            rows = "1 known row counts" if step.known == 1 else f"{step.known:,} known rows count"
            self.notes.append(
                f"{step.title} is named for {new}, {plan.file} for {old}, and no column says when: {rows} as of {old};"
                f" to keep them apart, have the step '{Act.FILE_NAME}' done"
            )

    def add(self, grid: Grid, plan: SheetPlan) -> None:
        """One further sheet, unless it was loaded already."""
        file, title, worksheet = file_of(grid), title_of(grid), str(grid.source.sheet or "")
        load = Load(seen_from(self.target.folder, file), worksheet, plan.name, mark_of(file), 0, now(), topup=True)
        known = (*known_by(load.mark, file), worksheet, plan.name)
        if known in self.known:
            self.notes.append(f"{title} was given twice, and is taken once")
            return
        changed = next((one for one in self.noted if (one.file, one.worksheet) == (load.file, worksheet)), None)
        if changed is not None:
            self.notes.append(f"{title} has changed since it was loaded on {changed.at[:10]}")
        step = added(self.design, plan, grid, self.held, self.how)
        self._note_period(step, plan)
        self.steps.append(step)
        self.held = dict(step.merged.tables)
        counts = {name: self.unread[name] + table.row_count for name, table in self.held.items()}
        left_out = tuple(one for one in self.how.left_out if one in step.sheets.relations[plan.name].by_name)
        self.loads.append(
            replace(load, rows=len(step.is_new), how=self.how.conflicts.value, counts=counts, left_out=left_out)
        )
        self.known.add(known)

    def topped(self) -> Topped:
        """What came of all of them. Raises ``DesignError`` if the tables would not give the sheets back."""
        stopped = any(step.stops for step in self.steps)
        proof = Proof((), ()) if stopped else proof_of(self.steps)
        if not proof.holds:
            raise _not_given_back(proof)
        told: list[tuple[str, Doubt]] = []
        for step in self.steps:
            seen, relations = tables_seen(step), step.sheets.relations
            told += (
                *strangers(self.design, seen, relations),
                *at_odds(self.design, seen, relations, step.merged.tables),
            )
        told += [(step.title, one) for step in self.steps for one in step.sheets.relations[step.sheet].told]
        told += [(step.title, one) for step in self.steps for one in _said_otherwise(step)]
        write = bool(self.loads) and not stopped and not self.how.dry_run
        steps, notes = tuple(self.steps), tuple(self.notes)
        held = Held(self.held, self.unread)
        return Topped(self.design, steps, held, self.before, proof, notes, tuple(told), write)


def _not_loaded(paths: Iterable[str], target: Target, how: How, notes: list[str]) -> list[str]:
    """The files of which nothing was loaded as they are; the others need not be read."""
    loaded = [one for one in target.loads() if not how.updates or one.how in ("", how.conflicts.value)]
    marks = {known_by(one.mark, Path(one.file)) for one in loaded}
    kept = []
    for path in paths:
        for file in files.each_file(path):
            if Path(file).is_file() and known_by(mark_of(Path(file)), Path(file)) in marks:
                notes.append(f"{Path(file).name} was loaded already, and is passed over")
            else:
                kept.append(file)
    return kept


def stamps(paths: Iterable[str]) -> dict[str, tuple[int, int]]:
    """When each of the files was saved last, and its size; what is not there is left out."""
    made = {}
    for path in paths:
        for file in files.each_file(path.partition("#")[0] if not Path(path).exists() else path):
            if Path(file).is_file():
                state = Path(file).stat()
                made[file] = (state.st_mtime_ns, state.st_size)
    return made


def _said_otherwise(step: Step) -> Iterator[Doubt]:
    """What the sheet says of a thing otherwise than another, and is kept beside."""
    kept = [one for one in step.otherwise if one.kept]
    for one in kept[:MOST]:
        yield Doubt(one.what, (one.address,), "correct the one that is wrong")
    if len(kept) > MOST:
        yield Doubt(f"{len(kept) - MOST:,} more cells differ from another sheet", (), "", len(kept) - MOST)


def _not_given_back(proof: Proof) -> DesignError:
    first = next((check for check in proof.checks if check.different), None)
    if first is None or not first.differences:
        return DesignError("the design", "some cells of the sheet would be in no account", "draft it again")
    one = first.differences[0]
    what = f"{one.place} says '{one.expected}', and the tables would give back '{one.found}'"
    return DesignError("the design", what, "correct the sheet, or load all sheets again")


def _new_rows(topped: Topped) -> list[Table]:
    """The rows to add to each table, tables after those that they refer to."""
    order = [name for name in topped.tables if topped.tables[name].row_count > topped.before[name]]
    return [
        rows_from(topped.tables[name], np.arange(topped.before[name], topped.tables[name].row_count)) for name in order
    ]


def _changed_rows(topped: Topped) -> list[Table]:
    """The held rows that are others now."""
    return [rows_from(topped.tables[name], np.array(sorted(some))) for name, some in topped.changed.items()]


def _check_held(target: Target, topped: Topped) -> list[Check]:
    """Whether the target holds the new rows and those that were changed, and no more rows than it should."""

    def checked(table: Table) -> Check:
        keys = tuple(column for column in table.columns if column.name in table.key)
        stored = target.matching(table, target.expected(replace(table, columns=keys)))
        return check_stored(Tables((table,), ()), target.expected, lambda _: [stored])

    found = [checked(table) for table in (*_new_rows(topped), *_changed_rows(topped))]
    counts = target.counts(Tables(tuple(topped.tables.values()), ()))
    wanted = {name: topped.held.unread[name] + table.row_count for name, table in topped.tables.items()}
    odd = [
        Difference(f"table {name}", f"{wanted[name]:,} rows", f"{count:,} rows")
        for name, count in counts.items()
        if count != wanted[name]
    ]
    return [*found, Check("the tables have as many rows as they should", len(counts), "tables", len(odd), tuple(odd))]
