"""What every target can do. One is made from the TARGET of the command line."""

from __future__ import annotations

from typing import TYPE_CHECKING, Protocol

if TYPE_CHECKING:
    import pyarrow as pa

    from hemplit.core.model.tables import Table, Tables, View


class Target(Protocol):
    """A place for tables."""

    def __init__(self, text: str) -> None: ...

    @classmethod
    def takes(cls, text: str) -> bool:
        """Whether the text means a target of this sort."""

    def check(self) -> None:
        """Raises ``TargetError`` if nothing could be written there, before any work is done."""

    def exists(self) -> bool:
        """Whether there is something already."""

    def write(self, tables: Tables) -> None:
        """Makes the target hold these tables and views, wholly or, with a ``TargetError``, not at all."""

    def expected(self, table: Table) -> pa.Table:
        """The rows of a table in the types that the target has for them."""

    def read(self, tables: Tables) -> dict[str, pa.Table]:
        """What it holds now of each table; ``TargetError`` if it cannot say."""

    def view_rows(self, view: View) -> int:
        """How many rows the view of a sheet gives."""
