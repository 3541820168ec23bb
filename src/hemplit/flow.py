"""The whole way in one place, and the Python interface: files, core and targets meet here and nowhere else.

files ─read→ Grid ─shape→ Relation ─study→ Findings ─draft→ Design ─split→ Tables ─write→ target ─prove→ Proof
"""

from __future__ import annotations

import os
import time
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

from hemplit import files
from hemplit.core import shape, study
from hemplit.core.draft import draft as draft_design
from hemplit.core.draft.naming import unused
from hemplit.core.draft.words import snake, words
from hemplit.core.model.proof import Check, Proof
from hemplit.core.proof import check_rejoin, check_stored, ledger
from hemplit.core.split import split
from hemplit.core.study.dependencies import TimeLimitError, silent, stream
from hemplit.design_file.read import at_line, from_toml
from hemplit.design_file.write import is_edited, to_toml
from hemplit.errors import DesignError, InputError, TargetError

if TYPE_CHECKING:
    from collections.abc import Callable, Iterable, Iterator, Mapping

    from hemplit.core.model.design import Design
    from hemplit.core.model.findings import Findings
    from hemplit.core.model.grid import Grid
    from hemplit.core.model.relation import Relation
    from hemplit.core.model.tables import Tables
    from hemplit.targets.contract import Target

    #: Told what is being done, how much of it is done, and how much there is.
    Progress = Callable[[str, int, int], None]

DESIGN_ENDING = ".design.toml"
#: In a sheet with more columns than this, pairs of columns decide nothing that anybody meant.
WIDE = 100


@dataclass(frozen=True)
class Sheets:
    """Sheets that were read and shaped, each under the name by which a design speaks of it."""

    grids: Mapping[str, Grid]
    relations: Mapping[str, Relation]


@dataclass(frozen=True)
class Loaded:
    """What a target holds now, and the proof of it."""

    design: Design
    tables: Tables
    proof: Proof


def read(paths: Iterable[str], progress: Progress = silent) -> Sheets:
    """Reads and shapes all sheets of the files.

    Raises ``InputError`` for the first that cannot be read.
    """
    grids: dict[str, Grid] = {}
    for path in paths:
        progress(f"reading {path}", 0, 1)
        found = files.read(path)
        for grid in found:
            stem = words(Path(path).name.split(".")[0])
            parts = (*stem, *words(grid.source.sheet or "")) if len(found) > 1 else stem
            grids[unused(snake(parts), grids, "sheet")] = grid
    relations = {}
    for name, grid in grids.items():
        progress(f"shaping {grid.source.title}", 0, 1)
        relations[name] = shape.shape(grid)
    return Sheets(grids, relations)


def read_as_it_is(path: str) -> Relation:
    """The relation of the one sheet of a file with every text unchanged; the first row is the header."""
    grids = files.read(path)
    if len(grids) > 1:
        names = ", ".join(str(grid.source.sheet) for grid in grids)
        raise InputError(path, f"it has {len(grids)} sheets ({names})", "save the one that is meant by itself")
    return shape.take_as_it_is(grids[0])


def findings(sheets: Sheets, progress: Progress = silent) -> dict[str, Findings]:
    """What the study of each sheet shows, under the name of the sheet; as deep as a draft needs it."""
    return {
        name: study_relation(relation, 2 if len(relation.columns) <= WIDE else 1, progress)
        for name, relation in sheets.relations.items()
    }


def study_relation(relation: Relation, depth: int | None, progress: Progress = silent) -> Findings:
    """What the study of one relation shows."""
    return study.study(relation, depth, lambda what, done, of: progress(f"{relation.source.title}: {what}", done, of))


@dataclass(frozen=True)
class Asked:
    """What dependencies are asked for: left sides of up to ``depth`` columns (None for any number), near ones up to a
    ``share`` of the rows, within ``seconds``; with ``ignore_blanks``, rows with a blank on the left say nothing."""

    depth: int | None = 3
    share: float = 0.02
    seconds: float | None = None
    ignore_blanks: bool = False


def study_ties(relation: Relation, asked: Asked, progress: Progress = silent) -> Findings:
    """Also the near dependencies, lists and bands; what the time does not suffice for is said in the findings."""
    watch = _watch(relation, asked.seconds, progress)
    return study.study_ties(relation, asked.depth, asked.share, watch, ignore_blanks=asked.ignore_blanks)


def stream_dependencies(
    relation: Relation, seconds: float | None, progress: Progress = silent
) -> Iterator[tuple[tuple[str, ...], tuple[str, ...], bool]]:
    """All minimal left sides with what each decides and whether it is a key, as they are found, in bounded memory.

    Raises ``TimeLimitError`` when ``seconds`` are over.
    """
    names = relation.names
    watch = _watch(relation, seconds, progress)
    for left, rights in stream(study.grouped(relation), relation.row_count, None, watch):
        decided = tuple(names[right] for right in rights if right < len(names))
        yield tuple(names[index] for index in left), decided, rights[-1] == len(names)


def _watch(relation: Relation, seconds: float | None, progress: Progress) -> Progress:
    """The progress that also ends the search when its time is over."""
    end = time.monotonic() + seconds if seconds is not None else None

    def watch(what: str, done: int, of: int) -> None:
        progress(f"{relation.source.title}: {what}", done, of)
        if end is not None and time.monotonic() > end:
            raise TimeLimitError(f"stopped after {seconds:g} s while {what} ({done:,} of {of:,})")

    return watch


def draft(sheets: Sheets, progress: Progress = silent) -> Design:
    """The design that Hemplit proposes for the sheets; the files in it are named as they were given."""
    return draft_design(findings(sheets, progress))


# Design files --------------------------------------------------------------------------------------------------------


def default_design_path(path: str) -> Path:
    """Where the design of a sheet or beside a target goes.

    >>> default_design_path("yard/jobs.csv").name
    'jobs.design.toml'
    """
    return Path(path).with_name(Path(path).name.rsplit(".", 1)[0] + DESIGN_ENDING)


def save_design(design: Design, path: Path, *, over_edited: bool) -> Design:
    """Writes the design, naming its sheets as seen from its own folder, and returns it as written.

    Raises ``DesignError`` instead of overwriting a design that a person edited, unless told to.
    """
    if path.is_dir():
        raise DesignError(str(path), "this is a folder", f"name a file, such as {path / ('NAME' + DESIGN_ENDING)}")
    if not over_edited:
        _refuse_edited(path)
    try:
        moved = replace(
            design, sheets=tuple(replace(sheet, file=_seen_from(path.parent, sheet.file)) for sheet in design.sheets)
        )
        unfinished = path.with_name(path.name + ".unfinished")
        unfinished.write_text(to_toml(moved, path.name), encoding="utf-8", newline="\n")
        unfinished.replace(path)
    except OSError as error:
        raise DesignError(str(path), f"it cannot be written ({error.strerror})", "choose another folder") from error
    return moved


def _refuse_edited(path: Path) -> None:
    if path.is_file() and is_edited(_design_text(path)):
        raise DesignError(
            str(path), "somebody has edited this design", "load it as it is, or draft over it with draft --replace"
        )


def _seen_from(folder: Path, file: str) -> str:
    try:
        return Path(os.path.relpath(file, folder)).as_posix()
    except ValueError:  # on another drive
        return Path(file).absolute().as_posix()


def _design_text(path: Path) -> str:
    try:
        return path.read_text(encoding="utf-8")
    except OSError as error:
        raise DesignError(str(path), f"it cannot be read ({error.strerror})", "check the name") from error
    except UnicodeDecodeError as error:
        raise DesignError(str(path), "this is not text in UTF-8", "save it as UTF-8") from error


def read_for(design: Design, folder: Path, progress: Progress = silent) -> Sheets:
    """Reads the sheets that a design names, and shapes them by its steps and kinds."""
    grids: dict[str, Grid] = {}
    relations: dict[str, Relation] = {}
    for sheet in design.sheets:
        path = str(folder / sheet.file)
        progress(f"reading {path}", 0, 1)
        found = {grid.source.sheet: grid for grid in files.read(path)}
        if sheet.sheet not in found:
            raise InputError(path, f"it has no sheet '{sheet.sheet}' with content", "correct 'sheet' in the design")
        kinds = {
            column.source: column.kind
            for table in design.tables_of(sheet.name)
            for column in table.columns
            if column.source is not None and column.kind is not None
        }
        grids[sheet.name] = found[sheet.sheet]
        relations[sheet.name] = shape.replay(found[sheet.sheet], sheet.steps, kinds)
    return Sheets(grids, relations)


# Loading and proving -------------------------------------------------------------------------------------------------


def load_sheets(sheets: Sheets, target: str, *, replace_target: bool, progress: Progress = silent) -> Loaded:
    """Drafts, loads, proves, and writes the design beside the target."""
    place = _free_target(target, replace_target)
    beside = default_design_path(target)
    _refuse_edited(beside)
    loaded = _load(draft(sheets, progress), sheets, place, progress)
    save_design(loaded.design, beside, over_edited=False)
    return loaded


def load_design(path: Path, target: str, *, replace_target: bool, progress: Progress = silent) -> Loaded:
    """Loads what a design file says, and proves."""
    place = _free_target(target, replace_target)
    text = _design_text(path)
    design = from_toml(text, str(path))
    sheets = read_for(design, path.parent, progress)
    try:
        return _load(design, sheets, place, progress)
    except DesignError as error:
        raise at_line(error, text, str(path)) from error


def prove_design(path: Path, target: str, progress: Progress = silent) -> Loaded:
    """Proves a design against what the target holds now."""
    place = _target(target)
    text = _design_text(path)
    design = from_toml(text, str(path))
    sheets = read_for(design, path.parent, progress)
    try:
        tables = split(design, sheets.relations)
    except DesignError as error:
        raise at_line(error, text, str(path)) from error
    return Loaded(design, tables, _prove(design, sheets, tables, place, progress))


def _target(text: str) -> Target:
    # The database libraries take most of a second to import, and only loading and proving need them.
    from hemplit.targets import target_for

    return target_for(text)


def _free_target(target: str, replace_target: bool) -> Target:
    place = _target(target)
    place.check()
    if place.exists() and not replace_target:
        raise TargetError(target, "it exists already", "load over it with --replace, or name another target")
    return place


def _load(design: Design, sheets: Sheets, target: Target, progress: Progress) -> Loaded:
    progress("splitting", 0, 1)
    tables = split(design, sheets.relations)
    progress("writing", 0, 1)
    target.write(tables)
    return Loaded(design, tables, _prove(design, sheets, tables, target, progress))


def _prove(design: Design, sheets: Sheets, tables: Tables, target: Target, progress: Progress) -> Proof:
    progress("proving", 0, 1)
    views = {view.sheet: view for view in tables.views}
    checks = [check_rejoin(sheets.relations[sheet.name], tables, views[sheet.name]) for sheet in design.sheets]
    expected = {table.name: target.expected(table) for table in tables.tables}
    checks.append(check_stored(tables, expected, target.read(tables)))
    checks += [_check_view(sheets.relations[view.sheet], target.view_rows(view), view.name) for view in tables.views]
    ledgers = tuple(
        ledger(sheets.grids[sheet.name], sheets.relations[sheet.name], views[sheet.name], sheet)
        for sheet in design.sheets
    )
    return Proof(tuple(checks), ledgers)


def _check_view(relation: Relation, rows: int, name: str) -> Check:
    what = f"view {name} has as many rows as {relation.source.title}"
    return Check(what, relation.row_count, "rows", abs(rows - relation.row_count), ())


def is_design(path: str) -> bool:
    """Whether a file on the command line is a design and not a sheet."""
    return path.lower().endswith(".toml")
