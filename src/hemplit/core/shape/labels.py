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
from itertools import takewhile
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa

from hemplit.core.model.account import Fate
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY, GridColumn
from hemplit.core.model.relation import Step
from hemplit.core.shape.names import name_of_headings
from hemplit.core.shape.tops import DEEPEST, bare, further_labels, header_row, labelled, pairs, tidy
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
    with_further,
)
from hemplit.core.texts.words import is_identifier, words
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Collection, Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.shape.working import Flags

ACT = Act.LABELS
SETTINGS = {"labels": "texts?", "names": "texts?", "heading": "text?"}
#: What tells of the paper and not of what stands on it.
PRINTED = re.compile(
    r"(printed|created|generated|exported|prepared|updated|page|source|as of|gedruckt|erstellt|stand|quelle|seite"
    r"|imprim|fuente)",
    re.IGNORECASE,
)
#: Stands for the heading of a form, which has no label.
HEADING = ""
#: What became of the rows of labels.
AS_COLUMNS = "labels above the rows, as columns"
#: The form of a row that stands above all forms; it finds the last place.
NO_FORM = -1


@dataclass(frozen=True)
class Form:
    """The rows that stand above those of a form, and what they say beside each label."""

    rows: range
    said: dict[str, str]


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
        names = tuple(f"{label} Above" if label in header else label for label in labels)
        named = ", ".join(names[:SHOWN]) + (f" and {len(names) - SHOWN} more" if len(names) > SHOWN else "")
        coded = any(is_identifier(words(label)) for label in labels)
        why = f"{named} stand{'s' * (len(names) == 1)} above the rows of {len(forms):,} form{'s' * (len(forms) > 1)}"
        yield Step(ACT, (("labels", labels), ("names", names)), why, proposed=not differ and not coded)
        return
    headed = _headed(working)
    texts = [one.said[HEADING] for one in headed]
    if len({*texts}) == len(texts) > 1:
        why = f"{len(texts):,} times the header with a line above it: {', '.join(texts[:SHOWN_OF_FILES])}"
        yield Step(ACT, (("heading", name_of_headings(texts, header)),), why)


def _forms(working: Working, labels: Collection[str]) -> list[Form]:
    """The forms, one after the other; one ends where its labels begin again, or another file does."""
    file = files_of(working).codes
    made: list[Form] = []
    for row in np.flatnonzero(_begins_with(working, labels)).tolist():
        told = dict(pairs(working.row_texts(row), labels))
        if not told:
            continue
        last = made[-1] if made else None
        if last and last.rows.stop == row and file[row - 1] == file[row] and told.keys().isdisjoint(last.said):
            made[-1] = Form(range(last.rows.start, row + 1), last.said | told)
        else:
            made.append(Form(range(row, row + 1), told))
    return made


def _begins_with(working: Working, labels: Collection[str]) -> Flags:
    """The rows of which the first filled cell is one of the labels or begins with one, shape (rows,)."""
    begins = np.zeros(working.row_count, dtype=bool)
    before = np.zeros(working.row_count, dtype=bool)
    for column in working.columns:
        texts = [str(text) for text in column.cells.texts.to_pylist()]
        is_label = [bare(text) in labels or bare(text.partition(":")[0]) in labels for text in texts]
        begins |= ~before & np.append(np.array(is_label, dtype=bool), False)[column.cells.codes]
        before |= column.filled
    return begins


def _headed(working: Working) -> list[Form]:
    """Where the header stands again and again on one sheet, the lines of one cell right above it."""
    top = working.first_texts(DEEPEST)
    header = header_row(top)
    if not header or len(working.source.parts) > 1:
        return []
    same = np.ones(working.row_count, dtype=bool)
    for column in working.columns:
        same &= column.cells.codes == column.cells.codes[header]
    above = np.flatnonzero(same) - 1
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


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet without the rows of labels, and what they say in each row below them."""
    heading = step.text("heading")
    labels = (HEADING,) if heading else step.texts("labels")
    names = (heading,) if heading else step.texts("names")
    forms = _headed(working) if heading else _forms(working, labels)
    of_labels = np.zeros(working.row_count, dtype=bool)
    begun = np.full(working.row_count, NO_FORM)
    for place, form in enumerate(forms):
        of_labels[form.rows.start : form.rows.stop] = True
        begun[form.rows.start] = place
    above = last_above(begun > NO_FORM, files_of(working).codes)
    titles = _titles(working, forms)
    below = keep_rows(working, ~titles, Fate.LEFT_OUT, ABOVE, named=True)
    below = keep_rows(below, ~of_labels[~titles], Fate.STORED, AS_COLUMNS)
    form_of = np.where(above < 0, NO_FORM, begun[above])[~titles & ~of_labels]
    if forms and (form_of == NO_FORM).all():
        # There are no lines: each form is a row by itself, which stands where it begins.
        below = keep_rows(working, of_labels, Fate.LEFT_OUT, ABOVE, named=True)
        below = keep_rows(below, begun[of_labels] > NO_FORM, Fate.STORED, AS_COLUMNS)
        below = keep_columns(below, [], Fate.STORED, AS_COLUMNS)
        form_of = np.arange(len(forms))
    for label, name in zip(labels, names, strict=True):
        below = with_further(below, name, _cells([form.said.get(label, "") for form in forms], form_of))
    return below


def _cells(said: Sequence[str], form_of: npt.NDArray[np.int64]) -> GridColumn:
    """What each form says, in the rows that belong to it; ``form_of`` has shape (rows,)."""
    texts = [*dict.fromkeys(text for text in said if text)]
    codes = [texts.index(text) if text else EMPTY for text in said]
    return compact(np.array([*codes, EMPTY], dtype=np.int32)[form_of], pa.array(texts, pa.string()))
