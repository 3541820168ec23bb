"""What all targets share: rows as they are stored, what none of them can hold, and where a text is not what it was."""

from __future__ import annotations

from difflib import SequenceMatcher
from typing import TYPE_CHECKING, Any

import pyarrow as pa
import pyarrow.compute as pc

from hemplit.core.model.arrays import taken
from hemplit.core.model.proof import Difference
from hemplit.errors import TargetError

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

    from hemplit.core.model.progress import Progress
    from hemplit.core.model.tables import Table, TableColumn, Tables


#: So many rows are written at a time, before more is told.
BATCH = 1 << 16


def as_stored(table: Table) -> pa.Table:
    """The rows of a table with dates and times as texts, and yes and no as 1 and 0."""
    return pa.table({column.name: _encoded(column) for column in table.columns})


def _encoded(column: TableColumn) -> pa.Array:
    values = column.values
    if column.kind.word == "yes/no":
        values = pc.cast(values, pa.int64())
    elif column.kind.word in ("date", "time", "date and time"):
        values = pc.cast(values, pa.string())
    return taken(values, column.codes)


class Written:
    """Tells how much of all rows is written."""

    def __init__(self, tables: Tables, progress: Progress) -> None:
        self._progress = progress
        self._of = sum(table.row_count for table in tables.tables)
        self._done = 0

    def add(self, rows: int) -> None:
        """So many more are written."""
        self._done = min(self._done + rows, self._of)
        self._progress("writing", self._done, self._of)

    def linking(self) -> None:
        """All rows are written, and what holds the tables together comes next."""
        self._progress("making references, indexes and views", 0, 1)


def as_type(column: pa.Array, kind: pa.DataType) -> pa.Array:
    """A column of texts in a type; as texts if somebody wrote something else there, which the proof will say."""
    try:
        return pc.cast(column, kind)
    except pa.ArrowInvalid:
        return column


def as_texts(cells: Sequence[Any]) -> tuple[str, ...]:
    """A row as a person reads it."""
    return tuple("" if cell is None else str(cell) for cell in told(cells))


def told(cells: Sequence[Any]) -> tuple[Any, ...]:
    """A row in which bytes stand as texts."""
    return tuple(of_bytes(cell) if isinstance(cell, bytes) else cell for cell in cells)


def of_bytes(cell: bytes) -> str:
    """Bytes that stand where a text should, by their hexadecimal digits.

    >>> of_bytes(b"\\xffA")
    'bytes FF41'
    """
    return f"bytes {cell.hex().upper()}"


def check_signs(tables: Tables, signs: str, where: str, called: str) -> None:
    """Raises ``TargetError`` for a text with a sign that a place cannot hold."""
    for table in tables.tables:
        for column in table.columns:
            for sign in signs if pa.types.is_string(column.values.type) else "":
                if pc.any(pc.match_substring(column.values, sign)).as_py():
                    what = f"'{table.name}.{column.name}' holds the sign {sign!r}"
                    raise TargetError(where, what, f"take it out of the sheet, as {called} holds no such sign")


def check_widths(tables: Tables, most: int, where: str, called: str) -> None:
    """Raises ``TargetError`` for a table or view of more columns than a place can hold."""
    made = [
        *((one.name, len(one.columns)) for one in tables.tables),
        *((one.name, len(one.columns)) for one in (*tables.views, *tables.named)),
    ]
    for name, count in made:
        if count > most:
            what = f"'{name}' has {count:,} columns, and {called} allows {most:,}"
            raise TargetError(where, what, "leave some out, or turn columns into rows")


def lines_that_differ(place: str, expected: str, found: str) -> Iterator[Difference]:
    """Where a statement is not what it should be, line by line."""
    if expected == found:
        return
    one, two = ([line.strip() for line in text.splitlines()] for text in (expected, found))
    for tag, begin, end, start, stop in SequenceMatcher(None, one, two, autojunk=False).get_opcodes():
        if tag != "equal":
            yield Difference(place, " ".join(one[begin:end]) or "nothing", " ".join(two[start:stop]) or "nothing")
    if one == two:
        yield Difference(place, "the statement as it was written", "another spelling of it")
