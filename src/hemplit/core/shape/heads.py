"""A repeating group running down: the leading cells are filled only on the first line of each group.

    Job   Boat        Part              Job   Boat        Part
    17    Kittiwake   cleat             17    Kittiwake   cleat
                      shackle     →     17    Kittiwake   shackle
    18    Dunlin      cleat             18    Dunlin      cleat

A blank means "as above" where the first column and those filled only together with it are blank on the other lines of
a group, while the rest of the line is filled. The columns behind them may do the same for groups within the groups.
Where a head cell is blank on the first line, it means "none" for the whole group. What stands on just one line of each
group (a total of the job) belongs to the head, too. Blanks stay blanks where the first column repeats from one line to
the next, or where the lines have a code of their own: then the sheet is one of lines, and some of them have no head.
"""

from __future__ import annotations

from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np

from hemplit.core.columns.codes import Grouping, only_there
from hemplit.core.model.acts import Act
from hemplit.core.model.grid import EMPTY, GridColumn
from hemplit.core.model.relation import Doubt, Step
from hemplit.core.shape.looks import is_number, is_word
from hemplit.core.shape.working import Working, WorkingColumn, last_above, mark
from hemplit.core.texts.words import is_identifier, numbers_lines, words
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    import numpy.typing as npt

    from hemplit.core.shape.working import Flags

ACT = Act.HEADS
SETTINGS = {"columns": "columns", "once": "columns", "within": "columns?"}
#: Blank in at least this share of the rows, a first column may be one of heads; ...
BLANK = 0.15
#: ... if no other column is blank with it, in at least this share.
BLANK_ALONE = 0.3
#: The lines of a group are filled in at least this share of some column.
LINES = 0.9
#: A value stands once in a group if that is so in this share of the groups.
ONCE = 0.8
#: So many sorts of rows a person can overlook, and each comes in so many rows on average.
MOST_SORTS, SORT_ROWS = 12, 2
#: More words are a remark and no name.
NAME = 3


def find(working: Working) -> Iterator[Step | Doubt]:
    """The step, or why it was not done; what labels said above the rows is whole."""
    working = working.in_cells
    if working.row_count < 3 or len(working.columns) < 2:
        return
    first = working.columns[0]
    heads = first.filled
    blank = 1 - np.count_nonzero(heads) / working.row_count
    if not heads[0] or blank < BLANK:
        return
    together = [one for one in working.columns[1:] if _goes_with(one, heads)]
    others = [one for one in working.columns[1:] if all(one is not other for other in together)]
    lines = [one for one in others if np.count_nonzero(one.filled[~heads]) >= LINES * np.count_nonzero(~heads)]
    if not any(one.filled[heads].any() for one in lines) or (not together and blank < BLANK_ALONE):
        return
    if _repeats(first, heads) or (not together and not _names_groups(first)):
        return
    blanks = int(np.count_nonzero(~heads))
    cause = _why_left(lines, heads)
    if cause:
        yield Doubt(
            f"'{first.name}' is blank in some rows, which may mean 'as above' or 'none'",
            (),
            f"left blank, since {cause}; have it filled down, as the draft proposes, if it is 'as above'",
            blanks,
        )
    within = _within(working, [first, *together], heads)
    others = [one for one in others if all(one is not other for other in within)]
    group = np.cumsum(heads) - 1
    once = [one for one in others if all(one is not line for line in lines) and _stands_once(one, group)]
    names = tuple(one.name for one in (first, *together))
    why = f"{group[-1] + 1} groups of lines, filled on the first line of each only"
    if within:
        why += f"; {', '.join(one.name for one in within)} for groups within these"
    if once:
        why += f"; {', '.join(one.name for one in once)} on one line of each"
    more = (("within", tuple(one.name for one in within)),) if within else ()
    settings = (("columns", names), ("once", tuple(one.name for one in once)), *more)
    yield Step(ACT, settings, f"{why}, or blank" if cause else why, proposed=bool(cause))


def _goes_with(column: WorkingColumn, heads: Flags) -> bool:
    """Whether a column is filled on first lines and nowhere else."""
    filled = column.filled
    return not np.any(filled & ~heads) and bool(2 * np.count_nonzero(filled) >= np.count_nonzero(heads))


def _within(working: Working, heads: list[WorkingColumn], first_lines: Flags) -> list[WorkingColumn]:
    """The columns right behind the heads that are filled on the first lines of groups within the groups."""
    found: list[WorkingColumn] = []
    starts = first_lines
    for column in working.columns:
        if any(column is one for one in heads):
            continue
        others = int(np.count_nonzero(~starts)) or 1
        blank = 1 - int(np.count_nonzero(column.filled[~starts])) / others
        names = all(is_word(str(text)) for text in column.cells.texts.slice(0, 20).to_pylist())
        filled = np.flatnonzero(column.filled)
        again = (column.cells.codes[filled][1:] == column.cells.codes[filled][:-1]) & ~starts[filled[1:]]
        if not column.filled[starts].all() or not BLANK_ALONE <= blank < 1 or not names or again.any():
            break
        found.append(column)
        starts = starts | column.filled
    return found


def _repeats(first: WorkingColumn, heads: Flags) -> bool:
    """Whether two filled lines below each other say the same, which they would not if blanks meant "as above"."""
    rows = np.flatnonzero(heads)
    codes = first.cells.codes[rows]
    return bool(np.any(codes[1:] == codes[:-1]))


def _names_groups(first: WorkingColumn) -> bool:
    """Whether a head that stands alone has another text for each group, neither a measure nor a remark."""
    some = [str(text) for text in first.cells.texts.slice(0, 20).to_pylist()]
    measured = any("." in text and is_number(text) for text in some)
    return bool((first.cells.counts == 1).all()) and not measured and all(len(text.split()) <= NAME for text in some)


def _why_left(lines: Sequence[WorkingColumn], heads: Flags) -> str:
    """Why a blank means "none"; empty if it means "as above"."""
    code = next(filter(_tells_lines_apart, lines), None)
    if code is not None:
        return f"'{code.name}' tells every row apart"
    sort = next((one for one in lines if _says_where(one, heads)), None) if any(map(_numbers_lines, lines)) else None
    return "" if sort is None else f"'{sort.name}' says where it is filled"


def _tells_lines_apart(column: WorkingColumn) -> bool:
    if not column.cells.full or (column.cells.counts > 1).any():
        return False
    some = [str(text) for text in column.cells.texts.slice(0, 20).to_pylist()]
    return all(is_word(text) for text in some)


def _numbers_lines(column: WorkingColumn) -> bool:
    """Whether a column numbers the rows of the sheet, from each to the next, and not the lines under a head."""
    said = words(column.name)
    if not column.cells.full or not is_identifier(said) or numbers_lines(said):
        return False
    texts = [str(text) for text in column.cells.texts.take(column.cells.codes).to_pylist()]
    return all(text.isdecimal() for text in texts) and all(int(one) < int(two) for one, two in pairwise(texts))


def _says_where(column: WorkingColumn, heads: Flags) -> bool:
    """Whether a column says one thing where heads stand and another where none do: how was paid, where by card."""
    said = Grouping(column.cells.codes, len(column.cells.texts))
    if not column.cells.full or said.size > MOST_SORTS or len(said.codes) < SORT_ROWS * said.size:
        return False
    return len(only_there(said, heads)) > 0 and all(is_word(str(text)) for text in column.cells.texts.to_pylist())


def _stands_once(column: WorkingColumn, group: npt.NDArray[np.int64]) -> bool:
    """Whether most groups have just one value in the column, and none has more."""
    counts = np.bincount(group[column.filled], minlength=int(group[-1]) + 1)
    return bool(counts.max(initial=0) == 1 and np.count_nonzero(counts) >= ONCE * len(counts))


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet with the heads on every line of their groups."""
    first = working.named(step.texts("columns")[0])
    if first is None:
        return working
    group = np.cumsum(first.filled) - 1
    columns = []
    for column in working.columns:
        source: npt.NDArray[np.int64] | None = None
        if column.name in step.texts("columns"):
            source = last_above(first.filled, group)
        elif column.name in step.texts("within"):
            source = last_above(column.filled, group)
        elif column.name in step.texts("once"):
            of_group = np.full(int(group.max(initial=0)) + 1, -1)
            of_group[group[column.filled]] = np.flatnonzero(column.filled)
            source = of_group[np.maximum(group, 0)]
        columns.append(column if source is None else _filled(column, group, source, number))
    return replace(working, columns=tuple(columns))


def _filled(
    column: WorkingColumn, group: npt.NDArray[np.int64], source: npt.NDArray[np.int64], number: int
) -> WorkingColumn:
    """The column with, in each row, the value of the row that ``source`` names for it."""
    padded = np.append(column.cells.codes, np.int32(EMPTY))
    codes = np.where(column.filled | (group < 0), column.cells.codes, padded[source])
    touched = codes != column.cells.codes
    return replace(
        column, cells=GridColumn(codes.astype(np.int32), column.cells.texts), changed=mark(column, touched, number)
    )
