"""An edited design × a fresh draft of the sheets as they are now → what is new, and what the draft has otherwise.

    the design: shipments (…), was b_ls        the sheet: a column more, a total in row 413
    →           shipments is b_ls; 'Moisture %' is new in shipments; a step more, "skip total rows"

What a person decided stays. A table is known by the headers that stand in it, so that one which was renamed is the
same; what stands in another table than a draft would put it is told once, under the names that the person gave.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.model.acts import Act
from hemplit.core.model.relation import ROW_NUMBER
from hemplit.core.shape import CORRECTIONS
from hemplit.core.texts.words import snake, unused, words
from hemplit.dataclasses import dataclass, replace

if TYPE_CHECKING:
    from collections.abc import Collection, Iterator, Mapping, Sequence

    from hemplit.core.model.design import ColumnPlan, Design, SheetPlan, TablePlan
    from hemplit.core.model.relation import Relation, Step

#: Tables that share so many of their headers are one, whatever they are called.
SAME = 0.5
#: How many rows a step found when it was drafted.
COUNTS = ("seen", "each_file")
#: The acts by which a sheet gets other columns than those under its headers.
OF_COLUMNS = (Act.LABELS, Act.FILE_NAME, Act.SECTIONS, Act.SIDEWAYS, Act.LISTS, Act.PARTS)
#: What a step is about, by which it is known again where its other settings are no longer the same.
ABOUT = ("column", "into", "instead", "of")


@dataclass(frozen=True)
class StepChange:
    """A step of a sheet as the design has it, None if it has none, and as a draft has it now.

    It is ``safe`` if it changes nothing that a person could have decided: it reads a new column, or only counts anew.
    """

    sheet: str
    kept: Step | None
    fresh: Step
    safe: bool


@dataclass(frozen=True)
class Redrafted:
    """What a draft has to say to a design that was edited.

    ``renamed`` pairs the names of a draft with those of the design, ``added`` are new columns with the table for each,
    ``steps`` are those that are others now, ``gone`` says what the sheets no longer have, and ``otherwise`` what the
    draft would decide differently. Where a person chose steps that give other tables and edited nothing else, ``anew``
    is the draft that follows from these, and ``otherwise`` how it differs.
    """

    renamed: tuple[tuple[str, str], ...]
    added: tuple[tuple[str, ColumnPlan], ...]
    steps: tuple[StepChange, ...]
    gone: tuple[str, ...]
    otherwise: tuple[str, ...]
    anew: Design | None = None

    @property
    def updates(self) -> bool:
        """Whether there is something to write into the design."""
        return bool(self.added or self.steps or self.anew)


def redraft(kept: Design, fresh: Design) -> Redrafted:
    """What is new for the design, and what a draft of the sheets as they are now would do otherwise."""
    same = _same_tables(kept, fresh)
    added: list[tuple[str, ColumnPlan]] = []
    steps: list[StepChange] = []
    gone: list[str] = []
    otherwise = list(_sheets(kept, fresh))
    for sheet in kept.sheets:
        other = next((one for one in fresh.sheets if one.name == sheet.name), None)
        if other is None:
            continue
        mine, theirs = _homes(kept, sheet.name), _homes(fresh, sheet.name)
        for header, (table, column) in theirs.items():
            if header not in mine and header not in sheet.leave_out and header != ROW_NUMBER:
                added.append(_place(kept, sheet, same.get(table.name), header, column, added))
        steps += _steps(sheet, other, theirs.keys() - mine.keys() - {*sheet.leave_out})
        gone += _gone(mine, theirs.keys() | _newly_taken(sheet, other), sheet)
        otherwise += _moved(mine, theirs, same)
    otherwise += _keys(kept, fresh, same)
    renamed = tuple((name, own) for name, own in same.items() if name != own)
    return Redrafted(renamed, tuple(added), tuple(steps), tuple(gone), tuple(otherwise))


def _sheets(kept: Design, fresh: Design) -> Iterator[str]:
    known, given = {sheet.name for sheet in kept.sheets}, {sheet.name for sheet in fresh.sheets}
    for name in (sheet.name for sheet in fresh.sheets if sheet.name not in known and sheet.is_read):
        yield f"sheet '{name}' is not in the design: give it a design of its own, or draft with --replace"
    for name in (sheet.name for sheet in kept.sheets if sheet.name not in given and sheet.is_read):
        yield f"sheet '{name}' of the design was not given"


# Tables --------------------------------------------------------------------------------------------------------------


def _same_tables(kept: Design, fresh: Design) -> dict[str, str]:
    """For each table of a draft the one of the design that is called so, or has most of its headers, each once."""
    pairs = [
        (one.name == other.name and one.grain is other.grain, share, one.name, other.name)
        for one in fresh.tables
        for other in kept.tables
        if one.sheet == other.sheet
        for share in [_share(_headers(one), _headers(other))]
        if share >= SAME or one.name == other.name
    ]
    same: dict[str, str] = {}
    for _, _, one, other in sorted(pairs, key=lambda pair: (not pair[0], -pair[1], pair[2], pair[3])):
        if one not in same and other not in same.values():
            same[one] = other
    return same


def _headers(table: TablePlan) -> set[str]:
    return {header for column in table.columns for header in column.all_headers}


def _share(one: set[str], other: set[str]) -> float:
    return len(one & other) / max(len(one | other), 1)


def _homes(design: Design, sheet: str) -> dict[str, tuple[TablePlan, ColumnPlan]]:
    return {header: (table, column) for table, column, header in design.headers_of(sheet) if column.to is None}


def _newly_taken(kept: SheetPlan, fresh: SheetPlan) -> set[str]:
    """The headers whose columns steps would take up that the design has not."""
    own = {_about(step) for step in kept.steps if not step.proposed}
    return set().union(*(step.takes for step in fresh.steps if _about(step) not in own))


def _gone(mine: Mapping[str, tuple[TablePlan, ColumnPlan]], there: Collection[str], sheet: SheetPlan) -> list[str]:
    return [
        f"'{header}' is no longer in sheet '{sheet.name}': delete its line in '{table.name}'"
        for header, (table, _) in mine.items()
        if header not in there
    ]


def _moved(
    mine: Mapping[str, tuple[TablePlan, ColumnPlan]],
    theirs: Mapping[str, tuple[TablePlan, ColumnPlan]],
    same: Mapping[str, str],
) -> list[str]:
    """The headers that stand in another table than a draft would put them, by both tables."""
    moves: dict[tuple[str, str, str], list[str]] = {}
    for header, (table, _) in mine.items():
        if header in theirs and same.get(theirs[header][0].name) != table.name:
            other = theirs[header][0]
            known = same.get(other.name)
            into = f"'{known}'" if known is not None else f"a {other.purpose} '{other.name}' of its own"
            moves.setdefault((table.name, into, other.why), []).append(header)
    return [
        f"{', '.join(map(repr, headers))} would be in {into}, as {why or 'they belong together'};"
        f" {'it is' if len(headers) == 1 else 'they are'} in '{table}'"
        for (table, into, why), headers in moves.items()
    ]


def _keys(kept: Design, fresh: Design, same: Mapping[str, str]) -> list[str]:
    """The tables whose rows a draft would know by other columns, by the headers of these."""
    return [
        f"the key of '{own}' would be {_said(fresh.by_name[name])}; it is {_said(kept.by_name[own])}"
        for name, own in same.items()
        if _said(fresh.by_name[name]) != _said(kept.by_name[own])
    ]


def _said(table: TablePlan) -> str:
    """The headers of a key; what is made up has none."""
    columns = [table.by_name[name] for name in table.key]
    named = [one.source or ("made up" if one.ids else (one.target or (one.name,))[0]) for one in columns]
    return " + ".join(f"'{name}'" if name != "made up" else name for name in named)


def _place(
    kept: Design,
    sheet: SheetPlan,
    into: str | None,
    header: str,
    column: ColumnPlan,
    added: Sequence[tuple[str, ColumnPlan]],
) -> tuple[str, ColumnPlan]:
    """Where a new column goes: the table of the draft if the design has it, else that of the sheet's rows."""
    table = kept.base_of(sheet.name) if into is None else kept.by_name[into]
    taken = {one.name for one in table.columns} | {one.name for name, one in added if name == table.name}
    plain = column.name if into is not None else snake(words(header))
    own = sheet.name == table.sheet
    plan = replace(
        column,
        name=unused(plain, taken, "column"),
        headers=(header,) if own else (),
        elsewhere=() if own else ((sheet.name, (header,)),),
        formula=None,
        store=True,
    )
    return table.name, replace(plan, required=False, why="new in the sheet")


# Steps that a person chose --------------------------------------------------------------------------------------------


def chose_otherwise(kept: Design, fresh: Design, new: Sequence[StepChange]) -> bool:
    """Whether a person chose steps that may give other tables than those of a draft, in which some are ``new``."""

    def taken(design: Design) -> set[tuple[object, ...]]:
        return {
            (sheet.name, step.flag("once"), *_about(step))
            for sheet in design.sheets
            for step in sheet.steps
            if step.act in (*OF_COLUMNS, Act.HEADS, *CORRECTIONS) and not step.proposed
        }

    return taken(kept) != taken(fresh) - {(one.sheet, False, *_about(one.fresh)) for one in new}


def chosen_steps(kept: SheetPlan, fresh: SheetPlan, new: Sequence[StepChange]) -> tuple[Step, ...]:
    """The steps of a sheet that a person chose, and as proposals those of a draft that are not among them.

    Corrections that are ``new``, on which nobody decided, are done as in any draft.
    """
    drafted = {(step.act, step.settings): step for step in fresh.steps}
    own = [
        replace(drafted.get((step.act, step.settings), step), proposed=False)
        for step in kept.steps
        if not step.proposed
    ]
    own += [one.fresh for one in new if one.sheet == kept.name]
    about = {_about(step) for step in own}
    others = [replace(step, proposed=True) for step in fresh.steps if _about(step) not in about]
    return tuple(sorted((*own, *others), key=lambda step: Act(step.act).number))


def new_corrections(changes: Sequence[StepChange]) -> tuple[StepChange, ...]:
    """The corrections that a draft does now and the design does not have."""
    return tuple(one for one in changes if one.kept is None and one.fresh.act in CORRECTIONS)


def without_idle(steps: tuple[Step, ...], relations: Sequence[Relation]) -> tuple[Step, ...]:
    """The steps by which a sheet became some relations, but for those that keep slips beside where none is left."""
    idle = {column.name for one in relations for column in one.beside.values() if not len(column.values)}
    return tuple(step for step in steps if not (step.act == Act.BESIDE and step.text("into") in idle))


# Steps ---------------------------------------------------------------------------------------------------------------


def _steps(kept: SheetPlan, fresh: SheetPlan, new: Collection[str]) -> Iterator[StepChange]:
    """The steps that are new, or have other settings now.

    One that finds nothing any more stays, as the next sheet may need it. One that a draft only proposes is no change.
    """
    mine = {_about(step): step for step in kept.steps if not step.proposed}
    for step in fresh.steps:
        own = mine.get(_about(step))
        if own is None and not step.proposed:
            yield StepChange(kept.name, None, step, step.text("column") in new)
        elif own is not None and own.settings != step.settings:
            only_counted = _but_counts(own) == _but_counts(step)
            yield StepChange(kept.name, own, step, own.act == Act.HEADER or only_counted)


def _about(step: Step) -> tuple[object, ...]:
    return (step.act, *(step.setting(name) for name in ABOUT))


def _but_counts(step: Step) -> list[object]:
    return [setting for setting in step.settings if setting[0] not in COUNTS]
