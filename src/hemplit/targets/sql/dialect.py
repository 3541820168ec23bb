"""All in which the SQL of one database differs from that of others; ``Dialect`` itself says what most do."""

from __future__ import annotations

from hashlib import blake2b
from typing import TYPE_CHECKING, Any, ClassVar

import pyarrow.compute as pc
import sqlalchemy as sa

from hemplit.core.kinds.calendar import directives

if TYPE_CHECKING:
    from collections.abc import Mapping

    from hemplit.core.model.relation import Kind
    from hemplit.core.model.tables import TableColumn

#: All numbers of ours have at most so many digits.
DIGITS = 15
#: A whole number of more than half of what four bytes hold gets eight, so that later rows have room.
MOST_IN_FOUR_BYTES = 2**31 - 1
HALF_OF_FOUR_BYTES = 2**30
#: So many letters of a name that was cut tell it from others that begin alike.
TELLING = 6


class Dialect:
    """How a database writes names, types and what its functions are called."""

    #: What people call the database.
    name: ClassVar[str]
    #: What SQLAlchemy knows of it.
    sql: ClassVar[sa.Dialect]
    #: The longest name, the longest comment, none of which there is where it is 0, and the most columns of a table.
    longest_name: ClassVar[int] = 10_000
    longest_comment: ClassVar[int] = 10_000
    most_columns: ClassVar[int] = 10_000
    #: What stands behind the columns of a table.
    table_options: ClassVar[Mapping[str, str]] = {}
    #: Whether yes and no are only numbers to it.
    yes_is_one: ClassVar[bool] = False
    #: What stands before the column of a row that an update changes.
    own_column: ClassVar[str] = ""
    #: Signs that it cannot store.
    forbidden: ClassVar[str] = ""
    types: ClassVar[Mapping[str, sa.types.TypeEngine[Any]]] = {
        "whole number": sa.BigInteger(),
        "decimal": sa.Numeric(),
        "date": sa.Date(),
        "time": sa.Time(),
        "date and time": sa.DateTime(),
        "yes/no": sa.Boolean(),
        "text": sa.Text(),
    }

    def quote(self, name: str) -> str:
        """A name as a statement writes it."""
        return self.sql.identifier_preparer.quote(name)

    def literal(self, text: str) -> str:
        """A text as a statement writes it."""
        return self.said(sa.literal(text, sa.Text()))

    def said(self, clause: sa.ClauseElement) -> str:
        """The SQL of an expression or a statement, with all values in it."""
        return str(clause.compile(dialect=self.sql, compile_kwargs={"literal_binds": True}))

    def fit(self, name: str) -> str:
        """The name as the database can hold it: the beginning, and what tells it from others that begin alike."""
        if self.size_of(name) <= self.longest_name:
            return name
        told = f"_{blake2b(name.encode(), digest_size=TELLING // 2).hexdigest()}"
        while self.size_of(name + told) > self.longest_name:
            name = name[:-1]
        return name + told

    def size_of(self, name: str) -> int:
        """How long a name is to the database."""
        return len(name)

    def commented(self, text: str) -> str | None:
        """The comment as the database can hold it; None for none."""
        if len(text) > self.longest_comment > 0:
            text = f"{text[: self.longest_comment - 1]}…"
        return text if text and self.longest_comment else None

    def fitted_type(self, column: TableColumn, *, indexed: bool) -> sa.types.TypeEngine[Any]:
        """The type for the values of a column, which may be ``indexed``: by a key, or something that refers to one."""
        if column.kind.word == "whole number" and len(column.values):
            most = pc.max(pc.abs(column.values)).as_py() or 0
            return sa.Integer() if most <= HALF_OF_FOUR_BYTES else sa.BigInteger()
        return self.types[column.kind.word]

    def written(self, kind: Kind, column: sa.ColumnElement[Any]) -> sa.ColumnElement[Any]:
        """A stored value as the sheet writes it: dates in its order, yes and no in its words; numbers stay numbers."""
        if kind.word == "yes/no":
            yes, _, no = kind.form.partition("/")
            return sa.case((column.is_(True), yes), (column.is_(False), no))
        if kind.word in ("date", "time", "date and time"):
            return self.dated(column, kind)
        return column

    def dated(self, column: sa.ColumnElement[Any], kind: Kind) -> sa.ColumnElement[Any]:
        """A date or time in the form of its kind."""
        return sa.func.strftime(directives(kind.form), column)

    def keeps_form(self, column: sa.ColumnElement[Any], form: str) -> sa.ColumnElement[bool]:
        """Whether a text has a form: A for a capital letter, 9 for a digit, all else for itself."""
        raise NotImplementedError

    def listed(self, column: str, order: str, source: str, between: str) -> str:
        """The values of a column of a ``source`` in an order, ``between`` them a text, as a query of its own."""
        raise NotImplementedError

    def as_double(self, number: sa.ColumnElement[Any]) -> sa.ColumnElement[Any]:
        """A number as a double, in which the proof calculates."""
        return sa.cast(number, sa.Double())

    def weekday(self, date: sa.ColumnElement[Any]) -> sa.ColumnElement[Any]:
        """The number of the day in its week, 1 for a Monday."""
        raise NotImplementedError

    def week(self, date: sa.ColumnElement[Any]) -> sa.ColumnElement[Any]:
        """The week of ISO 8601, such as 2026-W14."""
        raise NotImplementedError

    def rounded(self, number: sa.ColumnElement[Any], places: int) -> sa.ColumnElement[Any]:
        """A double to decimal places."""
        return sa.func.round(number, places)


def places_of(column: TableColumn) -> int | None:
    """How many decimal places hold the numbers of a column, at least those of its form; None if no places do.

    >>> import numpy as np
    >>> import pyarrow as pa
    >>> from hemplit.core.model.relation import Kind
    >>> from hemplit.core.model.tables import TableColumn
    >>> codes, prices = np.array([0, 1], np.int32), pa.array([12.5, 3.125])
    >>> places_of(TableColumn("price", Kind("decimal", "0.00"), codes, prices, True))
    3
    """
    numbers = column.values.drop_null().to_pylist()
    texts = [f"{number:.{DIGITS}g}" for number in numbers]
    if any("e" in text or float(text) != number for text, number in zip(texts, numbers, strict=True)):
        return None
    return max([max(len(column.kind.form) - 2, 0), *(len(text.partition(".")[2]) for text in texts)])


def pattern_of(form: str) -> str:
    """The regular expression of a form, in which all that is no letter or digit stands for itself.

    >>> pattern_of("A-99")
    '[A-Z][-][0-9][0-9]'
    """
    classes = {"9": "[0-9]", "A": "[A-Z]", "^": r"\^", "\\": r"\\"}
    return "".join(classes.get(sign, sign if sign.isalnum() or sign == " " else f"[{sign}]") for sign in form)
