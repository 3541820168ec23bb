"""The grid: the raw cells of one sheet with their addresses and source, as read, before any meaning is given.

A column is held as integer codes into its distinct texts; ``EMPTY`` stands for a cell without content.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import numpy as np
    import numpy.typing as npt
    import pyarrow as pa

    Codes = npt.NDArray[np.int32]

EMPTY = -1


@dataclass(frozen=True)
class Source:
    """Where a grid was read: the file, the sheet of a workbook, and how the file was taken (encoding, delimiter)."""

    path: str
    sheet: str | None = None
    taken_as: str = ""

    @property
    def title(self) -> str:
        """The name that messages use.

        >>> Source("yard/roster.xlsx", "Crew").title
        'roster.xlsx [Crew]'
        """
        file_name = self.path.replace("\\", "/").rsplit("/", 1)[-1]
        return f"{file_name} [{self.sheet}]" if self.sheet else file_name


@dataclass(frozen=True)
class GridColumn:
    """One column of cells: ``codes`` of shape (rows,), each an index into ``texts`` or ``EMPTY``."""

    codes: Codes
    texts: pa.StringArray


@dataclass(frozen=True)
class Grid:
    """All cells of one sheet, column by column; the first row of the sheet is row 0."""

    source: Source
    columns: tuple[GridColumn, ...]
    row_count: int

    @property
    def cell_count(self) -> int:
        return self.row_count * len(self.columns)


def column_letters(column: int) -> str:
    """The letters over a column of a spreadsheet, counted from 0.

    >>> [column_letters(position) for position in (0, 25, 26, 16383)]
    ['A', 'Z', 'AA', 'XFD']
    """
    letters = ""
    rest = column + 1
    while rest:
        rest, last = divmod(rest - 1, 26)
        letters = chr(ord("A") + last) + letters
    return letters


def address(row: int, column: int) -> str:
    """The spreadsheet address of a cell, row and column counted from 0.

    >>> address(16, 2)
    'C17'
    """
    return f"{column_letters(column)}{row + 1}"
