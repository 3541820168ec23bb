"""Labels above the rows of a form become columns: the job and the owner of all the parts that are listed below them.

    Job No    J-1001                    Part    Qty   Job No   Owner
    Owner     Ann Barlow                cleat   4     J-1001   Ann Barlow
    Part      Qty               →       rope    10    J-1001   Ann Barlow
    cleat     4                         rope    6     J-1002   Ben Visser
    rope      10
    Job No    J-1002                    (the next form, below it or in a file of its own)
    Owner     Ben Visser
    Part      Qty
    rope      6

Where all forms say the same, or there is but one, the labels may speak of the list rather than of its rows, and the
step is only proposed. Who printed a list, and when, is told of no row.
"""

from __future__ import annotations

import re
from collections import Counter
from itertools import chain, takewhile
from typing import TYPE_CHECKING

import numpy as np
import pyarrow.compute as pc

from hemplit.core.model.account import Fate
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY, GridColumn
from hemplit.core.model.relation import Doubt, Step
from hemplit.core.shape.looks import TOTAL
from hemplit.core.shape.names import name_of_headings
from hemplit.core.shape.tops import DEEPEST, further_labels, header_row, labelled, pairs, tidy
from hemplit.core.shape.working import (
    ABOVE,
    SHOWN,
    SHOWN_OF_FILES,
    Working,
    compact,
    files_of,
    keep_columns,
    keep_rows,
    last_above,
    occupied,
    of_texts,
    rows_like,
    with_further,
)
from hemplit.core.texts.words import is_identifier, words
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Collection, Iterable, Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.model.relation import Setting
    from hemplit.core.shape.working import Flags, WorkingColumn

ACT = Act.LABELS
SETTINGS = {"labels": "texts?", "names": "texts?", "heading": "text?", "rows": "flag?"}
#: What tells of the paper and not of what stands on it.
PRINTED = re.compile(
    r"(printed|created|generated|exported|prepared|updated|page|source|as of|gedruckt|erstellt|stand|quelle|seite"
    r"|imprim|fuente)",
    re.IGNORECASE,
)
#: Stands for the heading of a form, which has no label.
HEADING = ""
#: What became of the rows of labels.
AS_COLUMNS, NO_LINES, NEW = "labels above the rows, as columns", "a form without lines", "with a label that is new"
BESIDE = "no part of a form"
#: The form of a row that stands above all forms; it finds the last place.
NO_FORM = -1


@dataclass(frozen=True)
class Form:
    """The rows that stand above those of a form, and what they say beside each label; ``new`` ones say more."""

    rows: range
    said: dict[str, str]
    new: tuple[int, ...] = ()


def find(working: Working) -> Iterator[Step]:
    """The step, if the rows at the top are labels by themselves, or all forms have them and say something else."""
    top = working.first_texts(DEEPEST)
    rows = labelled(top)
    told = [label for row in rows or range(header_row(top) or 0) for label, _ in pairs(top[row])]
    told += further_labels(top, rows) if rows else ()
    labels = tuple(label for label in dict.fromkeys(told) if not PRINTED.match(label))
    forms = _forms(working, labels) if labels else []
    lines = bool(forms) and sum(len(form.rows) for form in forms) < working.row_count - rows.start
    header = {tidy(text) for text in top[header_row(top) or 0]} if top and (lines or not rows) else set()
    differ = any(len({one.said.get(label) for one in forms}) > 1 for label in labels)
    if differ or (labels and rows):
        names = tuple(_free(label, header) for label in labels)
        named = ", ".join(names[:SHOWN]) + (f" and {len(names) - SHOWN} more" if len(names) > SHOWN else "")
        coded = any(is_identifier(words(label)) for label in labels)
        why = f"{named} stand{'s' * (len(names) == 1)} above the rows of {len(forms):,} form{'s' * (len(forms) > 1)}"
        alone: tuple[tuple[str, Setting], ...] = () if lines or not rows else (("rows", True),)
        yield Step(ACT, (("labels", labels), ("names", names), *alone), why, proposed=not differ and not coded)
        return
    headed = _headed(working)
    texts = [one.said[HEADING] for one in headed]
    if len({*texts}) == len(texts) > 1:
        why = f"{len(texts):,} times the header with a line above it: {', '.join(texts[:SHOWN_OF_FILES])}"
        yield Step(ACT, (("heading", name_of_headings(texts, header)),), why)


def fault(step: Step) -> str:
    """What the settings leave open or say twice; empty if nothing."""
    labels, names, heading = step.texts("labels"), step.texts("names"), step.text("heading")
    if bool(labels) == bool(heading) or len(labels) != len(names):
        return "it needs labels and as many names, or a heading"
    return "a label or a name stands twice" if len({*labels}) < len(labels) or len({*names}) < len(names) else ""


def _free(label: str, header: Collection[str]) -> str:
    """A name for the column that no header has.

    >>> _free("Keeper", {"Keeper", "Boat"})
    'Keeper Above'
    """
    return _free(f"{label} Above", header) if label in header else label


def _forms(working: Working, labels: Sequence[str]) -> list[Form]:
    """The forms, one after the other."""
    file = files_of(working).codes
    made: list[Form] = []
    for row in np.flatnonzero(_begins_with(working, labels)).tolist():
        if not made or row >= made[-1].rows.stop:
            form = _form_at(working, row, int(np.searchsorted(file, file[row], side="right")), labels)
            made += [form] if form.said else []
    return made


def _form_at(working: Working, first: int, end: int, labels: Sequence[str]) -> Form:
    """What is said from a row on, and before the ``end`` of the file, until a label comes again, or the first does."""
    said: dict[str, str] = {}
    new: list[int] = []
    row = first
    while row < end:
        told = pairs(working.row_texts(row), labels)
        names = {label for label, _ in told}
        begins_again = bool(said) and labels[0] in names
        if not told or len(names) < len(told) or begins_again or not names.isdisjoint(said):
            break
        if not names.issubset(labels):
            if row == first:
                break
            new.append(row)
        said |= {label: value for label, value in told if label in labels}
        row += 1
    return Form(range(first, row), said, tuple(new))


def _begins_with(working: Working, labels: Collection[str]) -> Flags:
    """The rows of which the first filled cell begins with one of the labels, shape (rows,)."""
    pattern = "|".join(r"\s+".join(map(re.escape, label.split())) for label in labels)
    begins = np.zeros(working.row_count, dtype=bool)
    before = np.zeros(working.row_count, dtype=bool)
    for column in working.columns:
        begins |= ~before & _matching(column, rf"^\s*(?:{pattern})")
        before |= column.filled
    return begins


def _matching(column: WorkingColumn, pattern: str) -> Flags:
    """The rows in which a column matches, whatever the case of its letters, shape (rows,)."""
    matches = pc.match_substring_regex(column.cells.texts, pattern, ignore_case=True).to_numpy(zero_copy_only=False)
    return np.append(matches, False)[column.cells.codes]


def _headed(working: Working) -> list[Form]:
    """Where the header stands again and again on one sheet, the lines of one cell right above it."""
    top = working.first_texts(DEEPEST)
    header = header_row(top)
    if not header or len(working.source.parts) > 1:
        return []
    above = np.flatnonzero(rows_like(working, header)) - 1
    if not (occupied(working)[above] == 1).all():
        return []
    first = working.columns[0]
    return [Form(range(row, row + 1), {HEADING: working.text(row, first)}) for row in above.tolist()]


def _titles(working: Working, forms: Sequence[Form]) -> Flags:
    """The lines of one cell that stand above a form, and elsewhere in the same words, shape (rows,)."""
    alone = occupied(working) == 1
    above = {
        tuple(working.row_texts(row))
        for form in forms
        for row in takewhile(lambda row: alone[row], range(form.rows.start - 1, -1, -1))
    }
    lines = [
        (row, texts) for row in np.flatnonzero(alone).tolist() if (texts := tuple(working.row_texts(row))) in above
    ]
    often = Counter(texts for _, texts in lines)
    titles = np.zeros(working.row_count, dtype=bool)
    titles[[row for row, texts in lines if often[texts] > 1]] = True
    return titles


@dataclass(frozen=True)
class Found:
    """What the rows of a sheet are, each flag of shape (rows,): lines of titles, labels and where they begin, those
    that say more, and those that would stand in no row; ``form_of`` numbers the form of a row."""

    forms: tuple[Form, ...]
    titles: Flags
    of_labels: Flags
    begins: Flags
    new: Flags
    empty: Flags
    form_of: npt.NDArray[np.int64]


def _found(working: Working, step: Step) -> Found:
    forms = _headed(working) if step.text("heading") else _forms(working, step.texts("labels"))
    titles, of_labels = _titles(working, forms), _rows(working, (form.rows for form in forms))
    new, begins = _rows(working, (form.new for form in forms)), _rows(working, (form.rows[:1] for form in forms))
    above = last_above(begins, files_of(working).codes)
    form_of = np.where(above < 0, NO_FORM, np.cumsum(begins)[above] - 1)
    others = ~titles & ~of_labels
    headers = _headers(working, others)
    lines = others & ~headers & (last_above(headers, files_of(working).codes) >= 0)
    # A remark or a total below is no line.
    lines &= (occupied(working) > 1) & ~_are_totals(working)
    empty = of_labels & (not step.flag("rows")) & ~np.isin(form_of, form_of[lines])
    return Found(tuple(forms), titles, of_labels, begins, new & ~empty, empty, form_of)


def told(working: Working, step: Step) -> Iterator[Doubt]:
    """The forms without lines, and the labels that are new, as they are left out."""
    found = _found(working, step)
    labels = {*step.texts("labels")}
    new = [row for row in np.flatnonzero(found.new).tolist() if _says_more(working.row_texts(row), labels)]
    for rows, what, hint in (
        (
            np.flatnonzero(found.empty & found.begins).tolist(),
            "a form has no lines",
            "give it a line to have it in a row",
        ),
        (new, "a label is new", "to have what it says in a table, draft with --update"),
    ):
        if rows:
            said = tuple(f"{working.address(row, working.columns[0])} '{_said(working, row)}'" for row in rows[:SHOWN])
            yield Doubt(f"{what}, and is left out", said, hint, len(rows))


def _says_more(texts: Sequence[str], labels: Collection[str]) -> bool:
    """Whether a row has a label that is not known, and tells of more than the paper."""
    return any(label not in labels and not PRINTED.match(label) for label, _ in pairs(texts, labels))


def _said(working: Working, row: int) -> str:
    return " ".join(filter(None, working.row_texts(row)))


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet without the rows of labels, and what they say in each row below them.

    What would stand in no row is left out, and told: a form without lines beside others, and a label that is new.
    """
    found = _found(working, step)
    if step.flag("rows"):
        # Each form is a row by itself, which stands where it begins.
        apart = [(~found.of_labels, Fate.LEFT_OUT, BESIDE), (found.new, Fate.LEFT_OUT, NEW)]
        below, kept = _without(working, [*apart, (~found.begins, Fate.STORED, AS_COLUMNS)])
        below = keep_columns(below, [], Fate.STORED, AS_COLUMNS)
    else:
        apart = [(found.titles, Fate.LEFT_OUT, ABOVE), (found.empty, Fate.LEFT_OUT, NO_LINES)]
        apart += [(found.new, Fate.LEFT_OUT, NEW), (found.of_labels, Fate.STORED, AS_COLUMNS)]
        below, kept = _without(working, apart)
    heading = step.text("heading")
    labels, names = ((HEADING,), (heading,)) if heading else (step.texts("labels"), step.texts("names"))
    for label, name in zip(labels, names, strict=True):
        cells = _cells([form.said.get(label, "") for form in found.forms], found.form_of[kept])
        below = with_further(below, name, cells)
    return below


def _rows(working: Working, some: Iterable[Iterable[int]]) -> Flags:
    """A flag for each of these rows, shape (rows,)."""
    rows = np.zeros(working.row_count, dtype=bool)
    rows[[*chain.from_iterable(some)]] = True
    return rows


def _are_totals(working: Working) -> Flags:
    """The rows in which a cell says that they are totals, shape (rows,)."""
    totals = np.zeros(working.row_count, dtype=bool)
    for column in working.columns:
        totals |= _matching(column, rf"^\s*(?:{TOTAL.pattern})[\s:]*$")
    return totals


def _headers(working: Working, others: Flags) -> Flags:
    """The rows that say the header, among the ``others`` that hold no labels, shape (rows,)."""
    rows = np.flatnonzero(others)
    row = rows[header_row([working.row_texts(row) for row in rows[:DEEPEST].tolist()]) or 0] if len(rows) else 0
    return others & rows_like(working, int(row)) if len(rows) else others


def _without(working: Working, apart: Iterable[tuple[Flags, Fate, str]]) -> tuple[Working, Flags]:
    """The sheet without rows for one reason after the other, and which rows are kept, shape (rows,)."""
    kept = np.ones(working.row_count, dtype=bool)
    for rows, fate, reason in apart:
        working = keep_rows(working, ~rows[kept], fate, reason, named=fate is Fate.LEFT_OUT)
        kept &= ~rows
    return working, kept


def _cells(said: Sequence[str], form_of: npt.NDArray[np.int64]) -> GridColumn:
    """What each form says, in the rows that belong to it; ``form_of`` has shape (rows,)."""
    cells = of_texts(said)
    return compact(np.append(cells.codes, np.int32(EMPTY))[form_of], cells.texts)
