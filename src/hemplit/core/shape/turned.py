"""A sheet that lies on its side, with the names of its columns one below the other, is turned before all other steps.

    Boat      Teal         Smew              Boat   Rig     Length   Launched
    Rig       sloop        ketch        →    Teal   sloop   7.5      2019-05-04
    Length    7.5          8.2               Smew   ketch   8.2      2020-06-01
    Launched  2019-05-04   2020-06-01

Each row then holds values of one sort, which each column mixes. The cells keep their addresses.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from hemplit.core.model.acts import Act
from hemplit.core.model.grid import Grid, Range
from hemplit.core.model.relation import Step
from hemplit.core.shape.looks import is_blank_word, is_word
from hemplit.core.shape.series import periods
from hemplit.core.shape.tops import Sort, are_labels, sort_of
from hemplit.core.shape.working import of_texts
from hemplit.dataclasses import replace

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator, Sequence

    from hemplit.core.shape.working import Working

ACT = Act.TURNED
SETTINGS: dict[str, str] = {}
STEP = Step(ACT, (), "the names of the columns stand one below the other")
#: So many rows and columns a sheet has at least that lies on its side, and at most, as people keep it so.
FEWEST_ROWS, MOST_ROWS = 4, 60
FEWEST_COLUMNS, MOST_COLUMNS = 3, 200
#: So many of its rows below the first hold texts, and as many numbers or dates: more than two rows of "n/a".
FEWEST_OF_SORT = 2


def find(working: Working) -> Iterator[Step]:
    """Nothing: whether a sheet lies on its side is seen before it is shaped."""
    return iter(())


def act(working: Working, step: Step, number: int) -> Working:
    """The sheet as it is, as it was turned when it was read."""
    return working


def lies_on_its_side(grid: Grid) -> bool:
    """Whether each row holds values of one sort below a row of names, and the columns do not."""
    if not FEWEST_ROWS <= grid.row_count <= MOST_ROWS or not FEWEST_COLUMNS <= len(grid.columns) <= MOST_COLUMNS:
        return False
    rows = [texts for texts in _rows(grid) if any(texts)]
    names, records = [row[0] for row in rows], rows[0][1:] if rows else []
    if len({*names}) < len(names) or not all(map(is_word, names)) or len({*records}) < len(records):
        return False
    if not all(records) or periods(records) or are_labels(records):
        return False
    sorts = [_sort_of([text for text in row[1:] if text and not is_blank_word(text)]) for row in rows[1:]]
    texts = sum(sort is Sort.WORDS for sort in sorts)
    others = sum(sort in (Sort.NUMBER, Sort.DATE) for sort in sorts)
    return None not in sorts and texts >= FEWEST_OF_SORT and others >= FEWEST_OF_SORT


def _rows(grid: Grid) -> list[list[str]]:
    columns = [column.first_texts(grid.row_count) for column in grid.columns]
    return [[column[row].strip() for column in columns] for row in range(grid.row_count)]


def _sort_of(texts: Sequence[str]) -> Sort | None:
    """The sort of all the texts, codes being words; None if they are of several, or there are none."""
    sorts = {Sort.WORDS if sort_of(text) is Sort.CODE else sort_of(text) for text in texts}
    return sorts.pop() if len(sorts) == 1 else None


def turned(grid: Grid) -> Grid:
    """The grid with rows for columns; its cells know where they stand on the sheet."""
    rows = [column.first_texts(grid.row_count) for column in grid.columns]
    columns = tuple(map(of_texts, zip(*rows, strict=True)))
    merged = tuple(Range(one.left, one.top, one.right, one.bottom) for one in grid.merged)
    source = replace(grid.source, turned=not grid.source.turned)
    return replace(grid, source=source, columns=columns, row_count=len(rows), merged=merged, too_long=())


def upright(grid: Grid) -> Grid:
    """The grid, turned if it lies on its side."""
    return turned(grid) if lies_on_its_side(grid) else grid


def laid(grid: Grid, steps: Iterable[Step]) -> Grid:
    """The grid as these steps expect it: turned if one of them says so."""
    wanted = any(step.act == ACT and not step.proposed for step in steps)
    return turned(grid) if wanted != grid.source.turned else grid
