"""What a target can do, and what was loaded into it: the files, in their order, and what the tables held then."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from enum import Enum
from hashlib import sha256

from hemplit.core.model.relation import Doubt
from hemplit.dataclasses import dataclass, field


class Ability(Enum):
    """What most targets can do beside holding tables."""

    ROWS = "hold rows"
    VIEWS = "join its tables again"
    GROW = "remember what was loaded, and take further rows"


@dataclass(frozen=True)
class Load:
    """One sheet that was loaded: the file as seen from the target's folder, the worksheet, the sheet of the design.

    ``mark`` is a hash of the file, ``at`` when it was, ``rows`` how many it had, and ``counts`` how many rows each
    table had then. The first loads of a target have ``topup`` false, and no ``at``, so that the same load gives the
    same target. ``how`` is what was done with conflicts, ``left_out`` are columns that it had besides. One that
    somebody changed is not ``sealed``.
    """

    file: str
    worksheet: str
    sheet: str
    mark: str
    rows: int
    at: str
    topup: bool = False
    how: str = ""
    counts: Mapping[str, int] = field(default_factory=dict)
    left_out: tuple[str, ...] = ()
    sealed: bool = field(default=True, compare=False)

    @property
    def seal(self) -> str:
        """A hash of all that is noted."""
        noted = (self.file, self.worksheet, self.sheet, self.mark, self.rows, self.at, self.topup, self.how)
        return sha256(repr((*noted, sorted(self.counts.items()), self.left_out)).encode()).hexdigest()


@dataclass(frozen=True)
class News:
    """What is new since the load before.

    ``rows`` has how many a table of a sheet's rows had and has now, ``names`` what is new in a list, and ``like`` the
    new names that are a slip away from one that was there. ``gone`` are the files that had been added and that none of
    the sheets holds now, where there are fewer rows than before.
    """

    files: tuple[str, ...]
    rows: Mapping[str, tuple[int, int]]
    names: Mapping[str, Sequence[str]]
    like: tuple[Doubt, ...]
    gone: tuple[Doubt, ...] = ()
