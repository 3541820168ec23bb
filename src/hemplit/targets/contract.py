"""What every target can do. One is made from the TARGET of the command line."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

from hemplit.core.model.progress import silent

if TYPE_CHECKING:
    from collections.abc import Iterator, Mapping, Sequence
    from pathlib import Path

    import numpy as np
    import numpy.typing as npt
    import pyarrow as pa

    from hemplit.core.model.loads import Ability, Load
    from hemplit.core.model.progress import Progress
    from hemplit.core.model.proof import Difference
    from hemplit.core.model.tables import Outline, Peek, Table, Tables, View
    from hemplit.core.model.tally import Groups, Part


class Target(Protocol):
    """A place for tables."""

    text: str
    """What it is called on the command line, without a password."""

    lacks: Mapping[Ability, str]
    """What it cannot do, each with the reason."""

    holds_views: bool
    """Whether there are views in it, and not tables alone."""

    folder: Path | None
    """The folder from which it sees files; None for one that is in no folder."""

    def __init__(self, text: str) -> None: ...

    @classmethod
    def takes(cls, text: str) -> bool:
        """Whether the text means a target of this sort."""

    def beside(self, ending: str) -> Path:
        """The file of that ending that belongs to it."""

    def check(self) -> None:
        """Raises ``TargetError`` if nothing could be written there, before any work is done."""

    def exists(self) -> bool:
        """Whether there is something already."""

    def ours(self) -> tuple[str, ...]:
        """The tables and views in it that Hemplit made, and that writing replaces."""

    def peek(self, rows: int) -> tuple[Peek, ...]:
        """What Hemplit made in it, each with so many of its first rows."""

    def outlines(self) -> tuple[Outline, ...]:
        """The tables in it that Hemplit made, as its catalogue tells of them."""

    def check_held(self) -> None:
        """Raises ``TargetError`` if there is nothing that could be read."""

    def write(self, tables: Tables, loads: Sequence[Load] = (), *, over: bool, progress: Progress = silent) -> None:
        """Makes the target hold these tables and views; with ``over``, instead of those that Hemplit made before.

        It remembers what was loaded.

        Wholly or, with a ``TargetError``, not at all; what others keep there stays. Without ``over`` there must be
        nothing yet.
        """

    def expected(self, table: Table) -> pa.Table:
        """The rows of a table in the types that the target has for them."""

    def read(self, tables: Tables) -> dict[str, pa.Table]:
        """What it holds now of each table; ``TargetError`` if it cannot say."""

    def rows(self, table: Table) -> Iterator[pa.Table]:
        """The same of one table, in pieces, in the order in which they were written."""

    def held(self, tables: Tables) -> dict[str, pa.Table]:
        """All rows that it holds of each table, however many."""

    def counts(self, tables: Tables) -> dict[str, int]:
        """How many rows it holds of each table."""

    def matching(self, table: Table, keys: pa.Table) -> pa.Table:
        """The rows of a table with one of these keys, which come in the target's own types."""

    def loads(self) -> tuple[Load, ...]:
        """What was loaded into it, in that order."""

    def append(self, added: Sequence[Table], changed: Sequence[Table], loads: Sequence[Load]) -> None:
        """Puts rows behind those that are held, and others in the place of those with their key, and remembers it.

        Wholly or, with a ``TargetError``, not at all.
        """

    def structure(self, tables: Tables) -> tuple[int, Sequence[Difference]]:
        """How many parts of the structure were looked at, and where it is not as it was written."""

    def order(self, base: Table) -> npt.NDArray[np.int64]:
        """The rows of a table, counted from 0, in the order in which its views give them."""

    def view(self, view: View, tables: Tables) -> Iterator[pa.Table]:
        """The cells of a view in pieces of rows; the columns are called by their places."""

    def some_of_view(self, view: View, tables: Tables, picked: npt.NDArray[np.bool_]) -> Iterator[pa.Table] | None:
        """The same of the ``picked`` rows of its base table, shape (rows,); None where it can only give all."""

    def tally(self, part: Part, tables: Tables, places: Mapping[str, int]) -> Groups:
        """The groups of a part of a tally; numbers have so many decimal ``places``, by the titles of their measures.

        ``TargetError`` if it cannot say.
        """

    def tally_text(self, part: Part, tables: Tables) -> str:
        """The statement for that, for a person to read."""
