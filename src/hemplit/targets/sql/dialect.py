"""All in which the SQL of one database differs from that of others; ``Dialect`` itself says what most do."""

from __future__ import annotations

import re
from functools import reduce
from hashlib import blake2b
from typing import TYPE_CHECKING, ClassVar

import pyarrow.compute as pc

from hemplit.core.kinds.calendar import directives
from hemplit.targets.sql.terms import Binds, Term, call, case, cast, whole

if TYPE_CHECKING:
    from collections.abc import Iterable, Mapping

    from hemplit.core.model.relation import Kind
    from hemplit.core.model.tables import TableColumn

#: All numbers of ours have at most so many digits.
DIGITS = 15
#: A whole number of more than half of what four bytes hold gets eight, so that later rows have room.
MOST_IN_FOUR_BYTES = 2**31 - 1
HALF_OF_FOUR_BYTES = 2**30
#: So many letters of a name that was cut tell it from others that begin alike.
TELLING = 6
#: A name that needs no quotes, unless it is a word of SQL.
PLAIN = re.compile("[a-z_][a-z0-9_$]*")


class Dialect:
    """How a database writes names, types and what its functions are called."""

    #: What people call the database.
    name: ClassVar[str]
    #: The words that are no names without quotes; None if all names are quoted.
    reserved: ClassVar[frozenset[str] | None] = None
    #: What stands around a name.
    mark: ClassVar[str] = '"'
    #: Whether a backslash in a text means something.
    backslashes: ClassVar[bool] = False
    #: The longest name, the longest comment, none of which there is where it is 0, and the most columns of a table.
    longest_name: ClassVar[int] = 10_000
    longest_comment: ClassVar[int] = 10_000
    most_columns: ClassVar[int] = 10_000
    #: Whether comments stand in the statement that creates a table.
    comments_inside: ClassVar[bool] = False
    #: Whether yes and no are only numbers to it, and how a statement writes them.
    yes_is_one: ClassVar[bool] = False
    yes_no: ClassVar[tuple[str, str]] = ("true", "false")
    #: What stands before the column of a row that an update changes.
    own_column: ClassVar[str] = ""
    #: Signs that it cannot store.
    forbidden: ClassVar[str] = ""
    #: The types that columns have.
    types: ClassVar[Mapping[str, str]] = {
        "whole number": "BIGINT",
        "decimal": "NUMERIC",
        "date": "DATE",
        "time": "TIME",
        "date and time": "DATETIME",
        "yes/no": "BOOLEAN",
        "text": "TEXT",
    }
    #: The types of a cast to a text of whatever length and of one, of which it is told, and to a double.
    long_text: ClassVar[str] = "TEXT"
    short_text: ClassVar[str] = "VARCHAR"
    double: ClassVar[str] = "DOUBLE PRECISION"
    #: What makes the first row of a query in an order the only one.
    first_only: ClassVar[str] = " \n LIMIT 1"
    #: A hundred by which a double is divided.
    hundred: ClassVar[Term] = cast(whole(100.0), "FLOAT")

    def quote(self, name: str) -> str:
        """A name as a statement writes it."""
        if self.reserved is not None and PLAIN.fullmatch(name) and name not in self.reserved:
            return name
        return f"{self.mark}{name.replace(self.mark, 2 * self.mark)}{self.mark}"

    def column(self, name: str, of: str = "") -> Term:
        """A column, of a table if that is said."""
        return Term(f"{self.quote(of)}.{self.quote(name)}" if of else self.quote(name))

    def listed_names(self, names: Iterable[str]) -> str:
        """Names as a statement lists them."""
        return ", ".join(map(self.quote, names))

    def literal(self, text: str) -> str:
        """A text as a statement writes it."""
        escaped = text.replace("\\", "\\\\") if self.backslashes else text
        return "'" + escaped.replace("'", "''") + "'"

    def value(self, value: object) -> Term:
        """A value as a statement writes it: yes and no, a number, else a text."""
        if isinstance(value, bool):
            return Term(self.yes_no[0] if value else self.yes_no[1])
        return Term(repr(value) if isinstance(value, int | float) else self.literal(str(value)))

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

    def fitted_type(self, column: TableColumn, *, indexed: bool) -> str:
        """The type for the values of a column, which may be ``indexed``: by a key, or something that refers to one."""
        if column.kind.word == "whole number" and len(column.values):
            most = pc.max(pc.abs(column.values)).as_py() or 0
            return "INTEGER" if most <= HALF_OF_FOUR_BYTES else "BIGINT"
        return self.types[column.kind.word]

    def written(self, kind: Kind, column: Term) -> Term:
        """A stored value as the sheet writes it: dates in its order, yes and no in its words; numbers stay numbers."""
        if kind.word == "yes/no":
            said = zip(self.yes_no, kind.form.partition("/")[::2], strict=True)
            return case((column.is_(stored), self.value(word)) for stored, word in said)
        if kind.word in ("date", "time", "date and time"):
            return self.dated(column, kind)
        return column

    def dated(self, column: Term, kind: Kind) -> Term:
        """A date or time in the form of its kind."""
        return call("strftime", self.value(directives(kind.form)), column)

    def keeps_form(self, column: Term, form: str) -> Term:
        """Whether a text has a form: A for a capital letter, 9 for a digit, all else for itself."""
        raise NotImplementedError

    def listed(self, column: str, order: str, source: str, between: str) -> str:
        """The values of a column of a ``source`` in an order, ``between`` them a text, as a query of its own."""
        raise NotImplementedError

    def listed_number(self, number: Term) -> Term:
        """A number with a point as lists of numbers have it: 12.5 and 12, however many places it is stored with."""
        return self.as_double(number)

    def joined(self, *texts: Term) -> Term:
        """Texts one behind the other."""
        return reduce(lambda one, other: one.with_sign("||", other, Binds.JOINED), texts)

    def as_text(self, value: Term, longest: int | None = None) -> Term:
        """A value as a text, of some letters at most."""
        return cast(value, self.long_text if longest is None else f"{self.short_text}({longest})")

    def as_double(self, number: Term) -> Term:
        """A number as a double, in which the proof calculates."""
        return cast(number, self.double)

    def part(self, name: str, date: Term) -> Term:
        """The year, month or another part of a date, as a number."""
        return Term(f"EXTRACT({name} FROM {date.text})")

    def weekday(self, date: Term) -> Term:
        """The number of the day in its week, 1 for a Monday."""
        raise NotImplementedError

    def week(self, date: Term) -> Term:
        """The week of ISO 8601, such as 2026-W14."""
        raise NotImplementedError

    def rounded(self, number: Term, places: int) -> Term:
        """A double to decimal places."""
        return call("round", number, whole(places))

    def table_end(self, comment: str | None) -> str:
        """What stands behind the columns of a table."""
        del comment
        return ""


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
