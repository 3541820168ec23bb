"""The relation: a grid that has become columns of atomic values, each row knowing the grid row it came from."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

from hemplit.core.model.grid import EMPTY, Source, address

if TYPE_CHECKING:
    import numpy as np
    import numpy.typing as npt
    import pyarrow as pa

    from hemplit.core.model.grid import Codes

    Setting = str | int | bool | tuple[str, ...] | tuple[int, ...]


@dataclass(frozen=True)
class Kind:
    """What the values of a column are, in the word the design uses, and the form in which the sheet writes them.

    The form makes the way back exact: a text belongs to a kind only if writing its value in the form gives the text.
    """

    word: str
    form: str = ""

    def __str__(self) -> str:
        return self.word


TEXT = Kind("text")


@dataclass(frozen=True)
class Step:
    """One recorded, replayable act that turned grid into relation."""

    act: str
    settings: tuple[tuple[str, Setting], ...] = ()
    why: str = ""

    def setting(self, name: str) -> Setting:
        return dict(self.settings)[name]


@dataclass(frozen=True)
class Column:
    """One column: ``codes`` of shape (rows,), each an index into the distinct ``values`` or ``EMPTY``."""

    name: str
    position: int
    kind: Kind
    codes: Codes
    values: pa.Array

    @cached_property
    def filled(self) -> int:
        return int((self.codes != EMPTY).sum())

    @property
    def blanks(self) -> int:
        return len(self.codes) - self.filled


@dataclass(frozen=True)
class Relation:
    """Columns of equal length; ``grid_rows`` of shape (rows,) gives each row's place in the grid, counted from 0."""

    source: Source
    columns: tuple[Column, ...]
    grid_rows: npt.NDArray[np.int64]
    steps: tuple[Step, ...] = ()

    @property
    def row_count(self) -> int:
        return len(self.grid_rows)

    @property
    def names(self) -> tuple[str, ...]:
        return tuple(column.name for column in self.columns)

    @cached_property
    def by_name(self) -> dict[str, Column]:
        return {column.name: column for column in self.columns}

    def address(self, row: int, column: Column) -> str:
        """The address of the cell in the sheet from which a value came."""
        return address(int(self.grid_rows[row]), column.position)
