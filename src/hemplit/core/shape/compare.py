"""A recorded step on a sheet that may be another by now: whether it fits, and what it finds otherwise than drafted."""

from __future__ import annotations

from collections import Counter
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.model.grid import base_name
from hemplit.core.model.relation import ROW_NUMBER, Doubt
from hemplit.core.shape.series import further
from hemplit.core.shape.working import SHOWN, files_of, first_places
from hemplit.dataclasses import replace
from hemplit.errors import CellError, InputError

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence
    from typing import Protocol

    import numpy.typing as npt

    from hemplit.core.model.acts import Act
    from hemplit.core.model.relation import Step
    from hemplit.core.shape.working import Working, WorkingColumn

    class RowDetector(Protocol):
        """A detector of rows that are no rows of the table."""

        ACT: Act

        def find(self, working: Working) -> Iterator[Step]: ...

        def act(self, working: Working, step: Step, number: int) -> Working: ...


#: What a design says of cells that a step is to leave as they are, instead of stopping.
KEEP = "keep"


def check_columns(working: Working, step: Step, place: int, sorts: Mapping[str, str]) -> None:
    """Raises ``InputError`` if a step works on a column that is not there; ``sorts`` are those of its settings."""
    wanted = [
        name
        for setting, _ in step.settings
        for name in (step.texts(setting) if sorts[setting].removesuffix("?") in ("column", "columns", "key") else ())
        if (setting, name) != ("key", ROW_NUMBER)
    ]
    # A later sheet may have other periods side by side, but no part of one.
    there = [block for block in step.blocks if any(map(working.named, block))]
    if not there and not further(step, [column.name for column in working.columns]):
        there = list(step.blocks[:1])
    wanted += [name for block in there for name in block if name]
    for name in wanted:
        if working.named(name) is None:
            raise InputError(
                working.source.title,
                f"it has no column '{name}', on which step {place}, '{step.act}', works",
                "put the column back, or delete the step",
            )


def check_names(working: Working, step: Step, place: int) -> None:
    """Raises ``InputError`` if two columns, or what is taken out of the sheet twice, have one name once a step is done:
    one of them would be lost."""
    made = [("column", [column.name for column in one.columns]) for one in (working, *working.children)]
    for what, names in (*made, ("sheet", [one.name for one in working.children])):
        twice = next((name for name, count in Counter(names).items() if name and count > 1), None)
        if twice is not None:
            said = f"step {place}, '{step.act}', makes a second {what} '{twice}'"
            raise InputError(working.source.title, said, "write another name in the step")


def told_misfits(working: Working, step: Step, place: int, found: Sequence[tuple[WorkingColumn, int]]) -> list[Doubt]:
    """The texts ``found``, by column and code, for which a step was not made: told if it says to keep them.

    Else raises ``CellError``.
    """
    if not found:
        return []
    column = found[0][0]
    codes = [code for _, code in found]
    rows = first_places(column)[codes]
    cells = int(column.cells.counts[codes].sum())
    places = working.places(column, rows)
    if step.text("misfits") == KEEP:
        return [Doubt(f"'{column.name}' has cells that step '{step.act}' leaves as they are", places, "", cells)]
    more = f" and {len(codes) - SHOWN:,} other texts" if len(codes) > SHOWN else ""
    raise CellError(
        working.source.title,
        f"step {place}, '{step.act}', was not made for {', '.join(places)}{more} under '{column.name}'",
        f'correct what stands there, or write misfits = "{KEEP}" in the step and type = "text" for the column',
        tuple(working.grid_rows[np.isin(column.cells.codes, codes)].tolist()),
    )


def by_file(before: Working, after: Working, step: Step) -> Step:
    """The step; where each of several files has as many such rows, it says so, as the next file will have them, too."""
    counts = _per_file(before, _set_aside(before, after, step.act))
    if step.setting("seen") is None or len(counts) < 2 or len(set(counts)) > 1:
        return step
    return replace(
        step,
        settings=tuple(("each_file", counts[0]) if key == "seen" else (key, value) for key, value in step.settings),
    )


def _per_file(working: Working, rows: npt.NDArray[np.int64]) -> list[int]:
    """How many of the rows stand in each file."""
    files = files_of(working, rows)
    return np.bincount(files.codes, minlength=files.size).tolist()


def found_otherwise(before: Working, after: Working, step: Step) -> list[Doubt]:
    """What a step that sets rows aside found now, where it was another number when it was drafted."""
    rows = _set_aside(before, after, step.act)
    seen, each = step.setting("seen"), step.setting("each_file")
    if isinstance(each, int):
        counts = _per_file(before, rows)
        odd = [place for place, count in enumerate(counts) if count != each]
        names = [base_name(path) for path, _ in before.source.parts] or [before.source.title]
        said = ", ".join(f"{counts[place]:,} in {names[place]}" for place in odd[:SHOWN])
        what = f"{step.act}: {each:,} in each file when drafted, {said} now"
        return [Doubt(what, (), "look at these files, or write seen instead of each_file", len(odd))] if odd else []
    if not isinstance(seen, int) or seen == len(rows):
        return []
    what = f"{step.act}: {seen:,} when drafted, {len(rows):,} now"
    hint = f"if that is right, write seen = {len(rows)} in the step"
    return [Doubt(what, _said(before, rows[::-1]), hint, len(rows))]


def not_asked_for(working: Working, detector: RowDetector) -> list[Doubt]:
    """The rows that a step would set aside, where the design has no such step."""
    told = []
    for step in detector.find(working) if working.columns else ():
        rows = _set_aside(working, detector.act(working, step, detector.ACT.number), detector.ACT)
        said = f'{{ do = "{step.act}" }}'
        hint = f"the design takes them as data; write {said} as a step, with keep = true if they are data"
        told.append(Doubt(f"{step.act}: none when drafted, {len(rows):,} now", _said(working, rows), hint, len(rows)))
    return told


def _set_aside(before: Working, after: Working, act: str) -> npt.NDArray[np.int64]:
    """The rows of the grid that a step has set aside by its own name."""
    gone = [one.rows for one in after.account[len(before.account) :] if one.reason == act]
    return np.concatenate(gone) if gone else np.zeros(0, dtype=np.int64)


def _said(working: Working, rows: Sequence[int] | npt.NDArray[np.int64]) -> tuple[str, ...]:
    """Some rows of the grid with what stands in them."""
    return tuple(
        f"{working.rows_said([row])} '{', '.join([text for text in working.row_texts(place) if text][:SHOWN])}'"
        for row in rows[:SHOWN]
        for place in np.flatnonzero(working.grid_rows == row).tolist()
    )
