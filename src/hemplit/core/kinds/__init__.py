"""The kinds of values a column can hold. To add one, add a module with a reader and a line to ``READERS``."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from hemplit.core.kinds.calendar import DATE, MOMENT, TIME
from hemplit.core.kinds.decimal import DecimalReader
from hemplit.core.kinds.reader import PROBE, all_match
from hemplit.core.kinds.text import TextReader
from hemplit.core.kinds.whole import WholeReader
from hemplit.core.kinds.yes_no import YesNoReader
from hemplit.core.model.grid import EMPTY
from hemplit.core.model.relation import TEXT, Kind

if TYPE_CHECKING:
    import pyarrow as pa

    from hemplit.core.kinds.reader import KindReader
    from hemplit.core.model.relation import Column
    from hemplit.core.model.tables import TableColumn

__all__ = ["BY_WORD", "PROBE", "READERS", "all_match", "are_few", "parse", "recognise", "show", "shown_at"]

#: The first that fits is taken, so the narrower kinds come first.
READERS: tuple[KindReader, ...] = (YesNoReader(), WholeReader(), DecimalReader(), DATE, TIME, MOMENT, TextReader())
#: A column is meant to be of a kind if no more than this share of its different texts is not, or so many.
ODD_SHARE, FEW = 0.1, 2
BY_WORD: dict[str, KindReader] = {reader.word: reader for reader in READERS}


def recognise(texts: pa.StringArray) -> Kind:
    """The narrowest kind that every one of the distinct texts has; text for a column without any.

    >>> import pyarrow as pa
    >>> str(recognise(pa.array(["3", "12"]))), str(recognise(pa.array(["3", "twelve"])))
    ('whole number', 'text')
    """
    if not len(texts):
        return TEXT
    return next(kind for reader in READERS if (kind := reader.fit(texts)) is not None)


def are_few(odd: int, texts: int) -> bool:
    """Whether so few of the different texts of a column do not read as the others do that they were typed wrong."""
    return odd <= max(ODD_SHARE * texts, FEW)


def parse(texts: pa.StringArray, kind: Kind) -> pa.Array:
    """The values of the texts, null where a text is not of that kind."""
    return BY_WORD[kind.word].parse(texts, kind.form)


def shown_at(column: Column | TableColumn, row: int) -> str:
    """A cell as the sheet writes it; empty where there is none."""
    code = int(column.codes[row])
    return "" if code == EMPTY else show(column.values[code].as_py(), column.kind)


def show(value: Any, kind: Kind) -> str:
    """One value as the sheet writes it; a blank is an empty text."""
    return "" if value is None else BY_WORD[kind.word].show(value, kind.form)
