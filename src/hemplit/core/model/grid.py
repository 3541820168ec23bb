"""The grid: the raw cells of one sheet with their addresses and source, as read, before any meaning is given.

A column is held as integer codes into its distinct texts; ``EMPTY`` stands for a cell without content.
"""

from __future__ import annotations

from bisect import bisect_right
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
import pyarrow as pa

from hemplit.core.model.arrays import taken
from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    import numpy.typing as npt

    Codes = npt.NDArray[np.int32]

EMPTY = -1


@dataclass(frozen=True)
class Source:
    """Where a grid was read: the file, the sheet of a workbook, and how the file was taken (encoding, delimiter).

    For several files of the same columns ``path`` is their pattern and ``parts`` gives each file with the first of its
    rows, or only that row, of the one file; ``part`` names one of several tables of a sheet. Where the sheet was
    ``turned``, the rows of the grid are its columns.
    """

    path: str
    sheet: str | None = None
    taken_as: str = ""
    parts: tuple[tuple[str, int], ...] = ()
    part: str = ""
    turned: bool = False

    @property
    def title(self) -> str:
        """The name that messages use.

        >>> Source("yard/roster.xlsx", "Crew").title
        'roster.xlsx [Crew]'
        """
        file_name = base_name(self.path)
        if self.parts and {*"*?["} & {*file_name}:
            file_name = "/".join(self.path.replace("\\", "/").split("/")[-2:])
        title = f"{file_name} [{self.sheet}]" if self.sheet else file_name
        return f"{title}, {self.part}" if self.part else title

    def row(self, row: int) -> tuple[str, int]:
        """The file, if there are several, and the row in it, counted from 0, of a row of the grid.

        >>> Source("yard/*.csv", parts=(("yard/april.csv", 0), ("yard/may.csv", 40))).row(41)
        ('may.csv ', 1)
        """
        if not self.parts:
            return "", row
        path, first = self.parts[bisect_right([start for _, start in self.parts], row) - 1]
        return f"{base_name(path)} " if path else "", row - first

    def address(self, row: int, column: int) -> str:
        """The address of a cell, with its file if there are several.

        >>> Source("yard/*.csv", parts=(("yard/april.csv", 0), ("yard/may.csv", 40))).address(41, 0)
        'may.csv A2'
        """
        file, within = self.row(row)
        return f"{file}{address(column, within) if self.turned else address(within, column)}"


def base_name(path: str) -> str:
    """The last part of a path, whichever system wrote it."""
    return path.replace("\\", "/").rsplit("/", 1)[-1]


@dataclass(frozen=True)
class GridColumn:
    """One column of cells: ``codes`` of shape (rows,), each an index into ``texts`` or ``EMPTY``."""

    codes: Codes
    texts: pa.StringArray

    @cached_property
    def filled(self) -> npt.NDArray[np.bool_]:
        """Which cells have content, shape (rows,)."""
        return self.codes != EMPTY

    @cached_property
    def full(self) -> bool:
        """Whether all cells have content."""
        return bool(self.filled.all())

    @cached_property
    def counts(self) -> npt.NDArray[np.int64]:
        """How many cells hold each distinct text, shape (texts,)."""
        return np.bincount(self.codes if self.full else self.codes[self.filled], minlength=len(self.texts))

    def text(self, row: int) -> str:
        """The text of one cell, empty if there is none."""
        code = int(self.codes[row])
        return "" if code == EMPTY else str(self.texts[code].as_py())

    def first_texts(self, count: int) -> list[str]:
        """The texts of the first cells, empty where there is none."""
        return [text or "" for text in taken(self.texts, self.codes[:count]).to_pylist()]


@dataclass(frozen=True)
class Range:
    """A block of cells, its corners counted from 0 and both inside."""

    top: int
    left: int
    bottom: int
    right: int


@dataclass(frozen=True)
class Grid:
    """All cells of one sheet, column by column; the first row of the sheet is row 0.

    ``merged`` are the merged ranges; ``too_long`` the rows of a text file that have more cells than its lines usually
    have; ``notes`` what the reader found worth saying; ``skipped`` the files beside it that were left out when asked.
    """

    source: Source
    columns: tuple[GridColumn, ...]
    row_count: int
    merged: tuple[Range, ...] = ()
    too_long: tuple[int, ...] = ()
    notes: tuple[str, ...] = ()
    skipped: tuple[str, ...] = ()

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


def column_number(letters: str) -> int:
    """The column of a spreadsheet under these letters, counted from 0.

    >>> [column_number(letters) for letters in ("A", "Z", "AA", "XFD")]
    [0, 25, 26, 16383]
    """
    column = 0
    for letter in letters:
        column = 26 * column + ord(letter) - ord("A") + 1
    return column - 1


def address(row: int, column: int) -> str:
    """The spreadsheet address of a cell, row and column counted from 0.

    >>> address(16, 2)
    'C17'
    """
    return f"{column_letters(column)}{row + 1}"
