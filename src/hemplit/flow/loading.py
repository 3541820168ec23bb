"""Design × relations → tables → target, and the proof of it."""

from __future__ import annotations

from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from hemplit.at_once import beside
from hemplit.core.model.loads import Ability, Load, News
from hemplit.core.model.progress import silent
from hemplit.core.model.proof import Check, Difference, Proof
from hemplit.core.model.relation import are_open
from hemplit.core.model.tables import Tables
from hemplit.core.proof.alike import check_alike
from hemplit.core.proof.at_odds import at_odds
from hemplit.core.proof.compare import check_rejoin, check_structure
from hemplit.core.proof.strangers import strangers
from hemplit.core.tables.split import split
from hemplit.core.tally.saved import with_views
from hemplit.dataclasses import dataclass, replace
from hemplit.design_file.read import at_line
from hemplit.errors import CellError, DataError, DesignError, HemplitError, TargetError
from hemplit.flow.again import came_once, not_of_first_load, proof_of, replayed, tables_seen
from hemplit.flow.designs import DESIGN_ENDING, check_place, save_design
from hemplit.flow.news import news
from hemplit.flow.noted import check_loads, files_of, left_out_of, loads_of, mark_of, saved_again
from hemplit.flow.opening import open_design
from hemplit.flow.problems import split_as_told
from hemplit.flow.proving import (
    checks_of_saved,
    prove_rows,
    prove_tables,
    told_by_data,
    told_by_steps,
    unless_torn,
    with_target,
)
from hemplit.flow.reading import Sheets, read_for
from hemplit.flow.studying import draft, exceptions
from hemplit.flow.totals import contradicted, with_added

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.explain.exceptions import Exceptional
    from hemplit.core.model.design import Design
    from hemplit.core.model.progress import Progress
    from hemplit.core.model.relation import Doubt
    from hemplit.targets.contract import Target


@dataclass(frozen=True)
class Loaded:
    """What a target holds now, the proof of it, and what the steps found otherwise than when they were drafted."""

    design: Design
    tables: Tables
    proof: Proof
    sheets: Sheets
    left_out: Path | None = None
    """The file in which all rows stand that were left out, if there are more than a handful."""
    added: tuple[tuple[str, Doubt], ...] = ()
    """What is to be told of what was added since it was loaded."""
    design_path: Path | None = None
    """The file in which the design is kept that was drafted."""
    news: News | None = None
    """What is new since the load before, if this one replaces it."""
    unproven: tuple[str, ...] = ()
    """What of the proof the target cannot give, and why."""
    exceptions: tuple[Exceptional, ...] = ()
    """The few cells for which columns of a design that was drafted stand beside the things whose they would be."""

    @cached_property
    def told(self) -> tuple[tuple[str, Doubt], ...]:
        """By the title of the sheet."""
        steps, data = told_by_steps(self.sheets), told_by_data(self.design, self.tables, self.sheets)
        return (*steps, *self.added, *data)

    @property
    def needs_a_look(self) -> bool:
        """Whether a person must look at it: it is not proven, was told of something, or rows of data are left out."""
        return are_open(self.told) or self.proof.needs_a_look


# Loading and proving -------------------------------------------------------------------------------------------------


def load_sheets(
    sheets: Sheets,
    target: str,
    progress: Progress = silent,
    *,
    replace_target: bool,
    dry_run: bool = False,
    design: Design | None = None,
) -> Loaded:
    """Drafts unless a ``design`` is given, loads, proves, and writes the design beside the target.

    A ``dry_run`` writes nothing.
    """
    place = _free_target(target, replace_target)
    kept = place.beside(DESIGN_ENDING)
    check_place(kept, over_edited=False)
    drafted = draft(sheets, progress) if design is None else design
    with beside(_rows_of(sheets)) as begin:
        told = begin(lambda: exceptions(drafted, sheets) if design is None else ())
        loaded = _load(drafted, sheets, place, progress, over=replace_target, dry_run=dry_run)
        loaded = replace(loaded, exceptions=told())
    if dry_run:
        return loaded
    save_design(loaded.design, kept, over_edited=False)
    return replace(loaded, design_path=kept, left_out=left_out_of(loaded.proof.ledgers, place.beside))


def load_design(
    path: Path,
    target: str,
    progress: Progress = silent,
    *,
    replace_target: bool,
    skip_broken: bool = False,
    dry_run: bool = False,
) -> Loaded:
    """Loads what a design file says, and proves; a ``dry_run`` writes nothing."""
    place = _free_target(target, replace_target)
    text, design = open_design(path, write=not dry_run)
    try:
        try:
            sheets = read_for(design, path.parent, progress, skip_broken=skip_broken)
        except CellError as error:
            error.further = _all_problems(error, design, path, text, skip_broken=skip_broken)
            raise
        loaded = _load(design, sheets, place, progress, over=replace_target, dry_run=dry_run)
        if dry_run:
            return loaded
        return replace(loaded, left_out=left_out_of(loaded.proof.ledgers, place.beside))
    except DesignError as error:
        raise at_line(error, text, str(path)) from error


def _all_problems(
    error: CellError, design: Design, path: Path, text: str, *, skip_broken: bool
) -> tuple[HemplitError, ...]:
    """What else is wrong beside the first cell that does not fit, once the rows of such cells are left out."""
    misfits: list[CellError] = []
    try:
        sheets = read_for(design, path.parent, skip_broken=skip_broken, misfits=misfits)
        split_as_told(design, sheets)
    except DataError as data:
        of_rows = (at_line(one, text, str(path)) for one in (data, *data.further) if isinstance(one, DesignError))
        return (*misfits[1:], *of_rows)
    except HemplitError:
        return (*misfits[1:],) or error.further
    return (*misfits[1:],)


def prove_design(path: Path, target: str, progress: Progress = silent, *, skip_broken: bool = False) -> Loaded:
    """Proves a design against what the target holds now."""
    place = target_of(target)
    text, design = open_design(path)
    try:
        sheets, loads, unknown = read_first_load(design, path.parent, place, progress, skip_broken=skip_broken)
        further = [one for one in loads if one.topup]
        tables = with_views(design, split(design, sheets.relations))
        notes = (
            f"{one} was saved again since it was loaded, and is compared as it is now"
            for one in saved_again(loads_of(sheets, tables, place), loads)
        )
        sheets = replace(sheets, notes=(*sheets.notes, *notes))
        if further:
            first = Loaded(design, tables, Proof((), ()), sheets)
            loaded = _prove_with_further(path.parent, first, place, further)
        else:
            proof = _prove(design, sheets, tables, place, progress)
            loaded = Loaded(design, tables, proof, sheets, unproven=_unproven(place))
    except DesignError as error:
        raise at_line(error, text, str(path)) from error
    not_read = (f"{Path(one).name} not read, as it is not loaded yet" for one in unknown)
    return replace(loaded, proof=replace(loaded.proof, on_purpose=(*loaded.proof.on_purpose, *not_read)))


def read_first_load(
    design: Design, folder: Path, place: Target, progress: Progress, *, skip_broken: bool = False
) -> tuple[Sheets, tuple[Load, ...], list[str]]:
    """The sheets that were loaded first, all loads, and files of the design that nobody has loaded yet."""
    place.check_held()
    loads = place.loads()
    later, unknown = not_of_first_load(design, folder, place.folder or Path(), loads)
    return read_for(design, folder, progress, skip_broken=skip_broken, without={*later, *unknown}), loads, unknown


def _prove_with_further(folder: Path, first: Loaded, target: Target, further: Sequence[Load]) -> Loaded:
    """Proves what was loaded ``first`` and all that was added since, as far as the files are there."""
    design, sheets, tables = first.design, first.sheets, first.tables
    proof = prove_tables(design, sheets, tables)
    steps, told = replayed(design, folder, tables, target, further)
    added = proof_of(steps)
    whole = Tables(tuple(steps[-1].merged.tables.values()) if steps else tables.tables, tables.views)
    structure = check_structure(*target.structure(tables))
    noted = check_loads(loads_of(sheets, tables, target), target.loads())
    if told:  # a file is gone or another
        counts = target.counts(whole)
        wrong = [
            Difference(f"table {name}", f"{further[-1].counts[name]:,} rows", f"{count:,} rows")
            for name, count in counts.items()
            if further[-1].counts.get(name) != count
        ]
        held = Check("the tables have as many rows as were added", len(counts), "tables", len(wrong), tuple(wrong))
    elif came_once(target.loads()):
        held = unless_torn(structure, "the tables", lambda: prove_rows(whole, target))
    else:
        held = unless_torn(structure, "the tables", lambda: check_alike(design, target.held(whole), whole.by_name))
    saved: list[Check] = []
    if not told and not contradicted(steps):
        relations = with_added(sheets.relations, steps)
        saved = checks_of_saved(structure, target, replace(whole, tallies=tables.tallies), relations)
    checks = (*proof.checks, *added.checks, held, structure, noted, *saved)
    proof = replace(
        proof,
        checks=checks,
        ledgers=(*proof.ledgers, *added.ledgers),
        rows=proof.rows + added.rows,
        on_purpose=(*proof.on_purpose, *added.on_purpose),
    )
    for step in steps:
        seen, others = tables_seen(step), step.sheets.relations
        told += (*strangers(step.design, seen, others), *at_odds(step.design, seen, others, step.merged.tables))
    return Loaded(design, tables, proof, sheets, added=tuple(told))


def target_of(text: str) -> Target:
    # The database libraries take most of a second to import, and only loading and proving need them.
    from hemplit.targets import target_for

    return target_for(text)


def _free_target(target: str, replace_target: bool) -> Target:
    place = target_of(target)
    place.check()
    if place.exists() and not replace_target:
        raise TargetError(
            place.text,
            "it exists already",
            "--replace replaces what Hemplit made in it and nothing else; or name another",
        )
    return place


def replaced(target: str) -> tuple[str, ...]:
    """The tables and views that loading over a target replaces; all else in it stays."""
    place = target_of(target)
    place.check()
    return place.ours()


def _load(
    design: Design, sheets: Sheets, target: Target, progress: Progress, *, over: bool, dry_run: bool = False
) -> Loaded:
    progress("splitting into tables", 0, 1)
    with beside(_rows_of(sheets)) as begin:
        # Those of a large file take a second, in which the tables can be made.
        begin(lambda: [mark_of(file) for grid in sheets.grids.values() for file in files_of(grid)])
        tables = with_views(design, split_as_told(design, sheets))
        progress("checking", 0, 1)
        proof = prove_tables(design, sheets, tables)
    if not proof.holds:
        raise _not_given_back(design, sheets, tables)
    loads = loads_of(sheets, tables, target)
    new = news(design, tables, loads, target) if over else None
    held = tables if target.holds_views else replace(tables, views=(), named=(), tallies=())
    loaded = Loaded(design, held, proof, sheets, added=_told_by(new), news=new)
    if dry_run:
        return loaded
    progress("writing", 0, 1)
    target.write(tables, loads, over=over, progress=progress)
    progress("checking", 0, 1)
    try:
        proof = with_target(design, proof, sheets, tables, target)
        return replace(loaded, proof=proof, unproven=_unproven(target))
    except KeyboardInterrupt as stopped:
        raise KeyboardInterrupt("the new tables are loaded, but not verified") from stopped


def _told_by(new: News | None) -> tuple[tuple[str, Doubt], ...]:
    """What is to be told of a load over an earlier one."""
    if new is None:
        return ()
    return (*(("gone", one) for one in new.gone), *(("new", one) for one in new.like))


def _rows_of(sheets: Sheets) -> int:
    return max((relation.row_count for relation in sheets.relations.values()), default=0)


def _not_given_back(design: Design, sheets: Sheets, tables: Tables) -> DesignError:
    """The error for tables that would not give the sheets back, before anything is written."""
    for view in tables.views:
        for column in view.columns:
            header, relation = column.header, sheets.relations[view.sheet]
            check = check_rejoin(relation, tables, view, only=header) if column.gathered is None else None
            if check is not None and check.different:
                first = check.differences[0]
                places = [
                    f"tables.{table.name}.columns.{one.name}"
                    for table, one, taken in design.headers_of(view.sheet)
                    if header == taken
                ]
                what = f"{first.place} says '{first.expected}', and the tables would give back '{first.found}'"
                hint = "correct the formula, or write store = true"
                return DesignError((places or [f"sheets.{view.sheet}"])[0], what, hint)
    return DesignError(f"sheets.{tables.views[0].sheet}", "some of its cells would be in no account", "draft it again")


def _unproven(target: Target) -> tuple[str, ...]:
    return tuple(why for ability, why in target.lacks.items() if ability is not Ability.GROW)


def _prove(design: Design, sheets: Sheets, tables: Tables, target: Target, progress: Progress) -> Proof:
    progress("checking", 0, 1)
    return with_target(design, prove_tables(design, sheets, tables), sheets, tables, target)
