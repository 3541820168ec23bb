"""The account of a sheet: where each of its cells went. Every cell has one fate; together they are all cells."""

from __future__ import annotations

from enum import StrEnum
from typing import TYPE_CHECKING

from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    import numpy as np
    import numpy.typing as npt


class Fate(StrEnum):
    """What became of a cell: kept in a table, computed again by the view, rewritten by a step, or not taken in."""

    STORED = "stored"
    CALCULATED = "calculated"
    CHANGED = "changed"
    LEFT_OUT = "left out"


@dataclass(frozen=True)
class Cells:
    """Cells with one fate for one reason: in each of the ``rows`` of the grid, of shape (rows,), at all ``positions``.

    ``named`` says that the rows are worth showing to a person, with what stands in them; ``column`` is the one of a
    relation taken out of the sheet with which they are kept or left out, if they stand in no cells of its own.
    """

    fate: Fate
    reason: str
    rows: npt.NDArray[np.int64]
    positions: tuple[int, ...]
    named: bool = False
    column: str = ""
