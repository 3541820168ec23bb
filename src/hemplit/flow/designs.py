"""Design files: where they go, what is never written over, and a draft over one that a person edited."""

from __future__ import annotations

import os
from pathlib import Path
from typing import TYPE_CHECKING

from hemplit.core.draft.redraft import Redrafted, chose_otherwise, chosen_steps, new_corrections, without_idle
from hemplit.core.draft.redraft import redraft as redraft_design
from hemplit.core.draft.wishes import NO_WISHES, Wishes
from hemplit.core.explain.story import rows_of
from hemplit.core.model.design import Grain, Purpose
from hemplit.core.model.progress import silent
from hemplit.core.tables.same import with_united
from hemplit.dataclasses import replace
from hemplit.design_file.read import at_line, from_toml, text_of
from hemplit.design_file.update import has_line, with_column, with_step
from hemplit.design_file.write import is_edited, to_toml, without_mark
from hemplit.disk import write_whole
from hemplit.errors import DesignError
from hemplit.files import is_address
from hemplit.flow.opening import copy_of, is_design, open_design
from hemplit.flow.reading import shape_by
from hemplit.flow.studying import draft

if TYPE_CHECKING:
    from hemplit.core.model.design import Design, TablePlan
    from hemplit.core.model.progress import Progress
    from hemplit.flow.reading import Sheets

DESIGN_ENDING = ".design.toml"


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
    check_place(path, over_edited=over_edited)
    moved = _at(path, design)
    try:
        write_whole(path, to_toml(moved, path.name))
    except OSError as error:
        raise DesignError(str(path), f"it cannot be written ({error.strerror})", "choose another folder") from error
    return moved


def _at(path: Path, design: Design) -> Design:
    """The design with its sheets named as seen from a folder."""
    return replace(
        design,
        sheets=tuple(
            replace(sheet, file=_seen_from(path.parent, sheet.file)) if sheet.is_read else sheet
            for sheet in design.sheets
        ),
    )


def check_place(path: Path, *, over_edited: bool) -> None:
    """Raises ``DesignError`` if a design may not be written there: what is no design is never overwritten."""
    if path.is_dir():
        raise DesignError(str(path), "this is a folder", f"name a file, such as {path / ('NAME' + DESIGN_ENDING)}")
    if not is_design(str(path)):
        raise DesignError(str(path), "a design is a file that ends in .toml", f"name it {path.stem}{DESIGN_ENDING}")
    if not path.parent.is_dir() or not os.access(path.parent, os.W_OK):
        raise DesignError(str(path), "its folder is not there, or may not be written to", "choose another folder")
    if path.exists() and "[sheets." not in text_of(path):
        raise DesignError(str(path), "there is another file of this name, which is no design", "name another file")
    if not over_edited:
        _refuse_edited(path)


def is_edited_design(path: Path) -> bool:
    """Whether there is a design that a person edited."""
    return path.is_file() and is_edited(text_of(path))


def row_counts(design: Design, sheets: Sheets) -> dict[str, int]:
    """How many rows each table will have, as far as that is known before the sheets are split."""
    relations = with_united(design, sheets.relations)
    counts = {}
    for table in design.tables:
        if table.sheet in relations and table.purpose is not Purpose.RANGE and table.grain is not Grain.LIST:
            own = relations[table.sheet].row_count
            counts[table.name] = own if table.grain is Grain.ROW else rows_of(design, table, relations)
    return counts


def redraft(path: Path, sheets: Sheets, progress: Progress = silent, wishes: Wishes = NO_WISHES) -> Redrafted:
    """What is new for an edited design, and what a draft would do now otherwise; nothing is written.

    A step that stands there with a # before it is known, and somebody decided against it.
    """
    text, design = open_design(path)
    fresh = draft(sheets, progress, wishes)
    made = redraft_design(design, fresh)
    made = replace(made, steps=tuple(one for one in made.steps if not has_line(text, one)))
    new = new_corrections(made.steps)
    if not chose_otherwise(design, fresh, new):
        return made
    steps = {
        sheet.name: chosen_steps(sheet, drafted, new)
        for sheet in design.sheets
        for drafted in fresh.sheets
        if drafted.name == sheet.name and sheet.is_read
    }
    shaped = shape_by(steps, sheets)
    of = {name: [shaped.relations[one] for one in shaped.family(name)] for name in steps}
    steps = {name: without_idle(own, of[name]) for name, own in steps.items()}
    chosen = draft(shape_by(steps, sheets), progress, wishes)
    # What would be kept beside is no news where somebody corrects it.
    made = replace(made, steps=tuple(one for one in made.steps if one not in new or one.fresh in steps[one.sheet]))
    by_choice = redraft_design(design, chosen)
    if _tables_read(path, fresh) != design.tables:
        return replace(by_choice, steps=made.steps)
    if _tables_read(path, chosen) == design.tables:
        return made
    done = tuple(replace(one, safe=one.safe or one in new) for one in made.steps)
    return replace(made, added=(), steps=done, gone=(), otherwise=by_choice.otherwise, anew=chosen)


def _tables_read(path: Path, design: Design) -> tuple[TablePlan, ...]:
    """The tables of a design as they are read from its file."""
    return from_toml(to_toml(design, path.name), str(path)).tables


def update_design(path: Path, made: Redrafted) -> Path:
    """Writes new columns and steps into an edited design, and returns where it is kept as it was."""
    text = text_of(path)
    new = _updated(text, path, made) if made.anew is None else without_mark(to_toml(_at(path, made.anew), path.name))
    from_toml(new, str(path))
    copy = copy_of(path)
    write_whole(copy, text)
    write_whole(path, new)
    return copy


def _updated(text: str, path: Path, made: Redrafted) -> str:
    """The text of a design with new columns and steps."""
    tables, new = from_toml(text, str(path)).by_name, text
    for table, column in made.added:
        new = with_column(new, tables[table], column)
    try:
        for change in made.steps:
            new = with_step(new, change)
    except DesignError as error:
        raise at_line(error, text, str(path)) from error
    return new


def _refuse_edited(path: Path) -> None:
    if is_edited_design(path):
        raise DesignError(
            str(path), "somebody has edited this design", "load it as it is, or draft over it with draft --replace"
        )


def _seen_from(folder: Path, file: str) -> str:
    if is_address(file):
        return file
    try:
        return Path(os.path.relpath(file, folder)).as_posix()
    except ValueError:  # on another drive
        return Path(file).absolute().as_posix()
