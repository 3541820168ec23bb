"""What was added to a target since it was loaded, done again from the files, and the proof of it."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from hemplit import files
from hemplit.core.model.proof import Check, Proof
from hemplit.core.model.relation import Doubt
from hemplit.core.model.tables import Tables
from hemplit.core.proof.compare import check_cells, check_rejoin
from hemplit.core.proof.ledger import Member, ledger
from hemplit.flow.fitting import as_part
from hemplit.flow.further import Conflicts, How, Step, added, own_part
from hemplit.flow.noted import known_by, mark_of

if TYPE_CHECKING:
    from collections.abc import Sequence

    from hemplit.core.model.design import Design
    from hemplit.core.model.loads import Load
    from hemplit.core.model.proof import Ledger
    from hemplit.targets.contract import Target


def replayed(
    design: Design, folder: Path, tables: Tables, target: Target, noted: Sequence[Load]
) -> tuple[list[Step], list[tuple[str, Doubt]]]:
    """What was added to the tables since they were loaded, from the files; and what is to be told.

    A file that is gone, or is another by now, ends it: what came after cannot be told any more. One that was put into
    a folder of the design, which is seen from ``folder``, is found there.
    """
    place = target.folder or Path()
    patterns = [str(folder / sheet.file) for sheet in design.sheets if sheet.is_read]
    among = [Path(one) for path in patterns if files.is_pattern(path) for one in files.each_file(path)]
    held = {table.name: table for table in tables.tables}
    steps: list[Step] = []

    def later(load: Load) -> Sequence[Load]:
        return noted[noted.index(load) + 1 :]

    for load in noted:
        file = _found(place / load.file, load.mark, among)
        if any((one.file, one.worksheet, one.sheet) == (load.file, load.worksheet, load.sheet) for one in later(load)):
            continue  # the file has grown, and was added again: it has all of this
        if not file.is_file() or mark_of(file) != load.mark:
            what = "is no longer there" if not file.is_file() else "has changed since then"
            doubt = Doubt(f"it was added on {load.at[:10]}, and {what}", (), "what it added cannot be proven")
            return steps, [(file.name, doubt)]
        grid = next(one for one in files.read(str(file)) if str(one.source.sheet or "") == load.worksheet)
        plan = design.sheet(load.sheet)
        step = added(design, plan, as_part(grid, plan), held, How(Conflicts(load.how), left_out=load.left_out))
        steps.append(step)
        held = dict(step.merged.tables)
    return steps, []


def not_of_first_load(design: Design, folder: Path, place: Path, noted: Sequence[Load]) -> tuple[list[str], list[str]]:
    """The files in folders of a design that were added later, and those that nobody has loaded yet.

    The design is seen from ``folder``, what was noted from ``place``. A file that is another by now stays.
    """
    first = {(place / one.file).resolve() for one in noted if not one.topup}
    marks = {known_by(one.mark, Path(one.file)) for one in noted if not one.topup}
    added = {known_by(one.mark, Path(one.file)) for one in noted if one.topup}
    patterns = [str(folder / sheet.file) for sheet in design.sheets if sheet.is_read and files.is_pattern(sheet.file)]
    later, unknown = [], []
    for file in dict.fromkeys(file for path in patterns for file in files.each_file(path)):
        mark = known_by(mark_of(Path(file)) if Path(file).is_file() else "", Path(file))
        if mark in added:
            later.append(file)
        elif noted and mark not in marks and Path(file).resolve() not in first:
            unknown.append(file)
    return later, unknown


def came_once(noted: Sequence[Load]) -> bool:
    """Whether no file was loaded and, grown by then, once more."""
    return len({(one.file, one.worksheet, one.sheet) for one in noted}) == len(noted)


def _found(file: Path, mark: str, among: Sequence[Path]) -> Path:
    """The file, or the one among others that is the same if it is no longer there."""
    if file.is_file():
        return file
    return next((one for one in among if one.is_file() and mark_of(one) == mark), file)


def proof_of(steps: Sequence[Step]) -> Proof:
    """Whether what was added gives every new row back, and where every cell went."""
    return Proof(
        tuple(check for step in steps for check in _checks(step)),
        tuple(_ledger(step.design, step) for step in steps),
        sum(int(np.count_nonzero(step.is_new)) for step in steps),
        tuple(
            f"{len(step.merged.conflicts):,} {'cell' if len(step.merged.conflicts) == 1 else 'cells'} of known rows "
            f"{'replaced by' if step.update else 'not taken from'} {step.title}"
            for step in steps
            if step.merged.conflicts
        ),
    )


def _checks(step: Step) -> list[Check]:
    """Whether the tables give back every row of the sheet and of what was taken out of it."""
    found = []
    for name, relation in step.sheets.relations.items():
        if any(column.own for column in relation.columns):
            found.append(check_cells(step.grid, relation))
        found.append(check_rejoin(relation, *own_part(step, name)))
    return found


def tables_seen(step: Step) -> Tables:
    """The tables of the sheet's own rows, and all that they can refer to as it is held."""
    own = {table.name: table for table in step.tables.tables}
    return Tables(tuple({**step.merged.tables, **own}.values()), ())


def _ledger(design: Design, step: Step) -> Ledger:
    views = {view.sheet: view for view in step.tables.views}
    plans = {sheet.name: sheet for sheet in design.sheets}
    members = [Member(relation, views[name], plans[name]) for name, relation in step.sheets.relations.items()]
    return ledger(step.grid, members)
