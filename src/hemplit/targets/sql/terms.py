"""Terms of SQL: pieces of text that know how tightly they hold together, so that parentheses stand where they must.

What databases write differently is for a ``Dialect`` to say. A query of SQLAlchemy's says the same, but to import that
takes longer than to draft, load and prove a sheet of 400 rows.
"""

from __future__ import annotations

from enum import IntEnum
from functools import reduce
from typing import TYPE_CHECKING

from hemplit.dataclasses import dataclass

if TYPE_CHECKING:
    from collections.abc import Iterable, Sequence


class Binds(IntEnum):
    """How tightly the outermost sign of a term binds, the loosest first."""

    OR = 1
    AND = 2
    COMPARED = 3
    JOINED = 4
    ADDED = 5
    MULTIPLIED = 6
    WHOLE = 7


BLANK, FILLED = "NULL", "NOT NULL"
#: Signs that may follow themselves without parentheses.
CHAINED = ("+", "*", "||", "AND", "OR")


@dataclass(frozen=True)
class Term:
    """A piece of SQL, and its outermost sign, if it has one.

    >>> price = Term("price")
    >>> ((price + Term("1")) * price).compared("<=", Term("9")).text
    '(price + 1) * price <= 9'
    """

    text: str
    sign: str = ""
    binds: Binds = Binds.WHOLE

    def within(self, sign: str, binds: Binds) -> str:
        """The text as one side of a sign."""
        if self.binds > binds or (self.sign == sign and sign in CHAINED):
            return self.text
        return f"({self.text})"

    def with_sign(self, sign: str, other: Term, binds: Binds) -> Term:
        """Both sides of a sign."""
        return Term(f"{self.within(sign, binds)} {sign} {other.within(sign, binds)}", sign, binds)

    def __add__(self, other: Term) -> Term:
        return self.with_sign("+", other, Binds.ADDED)

    def __sub__(self, other: Term) -> Term:
        return self.with_sign("-", other, Binds.ADDED)

    def __mul__(self, other: Term) -> Term:
        return self.with_sign("*", other, Binds.MULTIPLIED)

    def __truediv__(self, other: Term) -> Term:
        return self.with_sign("/", other, Binds.MULTIPLIED)

    def __mod__(self, other: Term) -> Term:
        return self.with_sign("%", other, Binds.MULTIPLIED)

    def compared(self, sign: str, other: Term) -> Term:
        """A condition on two values."""
        return self.with_sign(sign, other, Binds.COMPARED)

    def is_(self, what: str) -> Term:
        """A condition such as ``IS NULL``."""
        return Term(f"{self.within('IS', Binds.COMPARED)} IS {what}", "IS", Binds.COMPARED)

    def among(self, values: Iterable[Term], sign: str = "IN") -> Term:
        """The condition that it is one of some values, or ``NOT IN`` them."""
        listed = ", ".join(one.text for one in values)
        return Term(f"{self.within(sign, Binds.COMPARED)} {sign} ({listed or BLANK})", sign, Binds.COMPARED)


def whole(number: float) -> Term:
    """A number that we chose ourselves.

    >>> whole(7).text, whole(0.5).text
    ('7', '0.5')
    """
    return Term(repr(number))


def all_of(conditions: Sequence[Term]) -> Term:
    """The condition that all of some hold, one at least."""
    return reduce(lambda one, other: one.with_sign("AND", other, Binds.AND), conditions)


def any_of(conditions: Sequence[Term]) -> Term:
    """The condition that one of some holds, of one at least."""
    return reduce(lambda one, other: one.with_sign("OR", other, Binds.OR), conditions)


def call(function: str, *values: Term) -> Term:
    """What a function makes of values."""
    return Term(f"{function}({', '.join(one.text for one in values)})")


def cast(value: Term, word: str) -> Term:
    """A value as another type."""
    return Term(f"CAST({value.text} AS {word})")


def case(choices: Iterable[tuple[Term, Term]], otherwise: Term | None = None) -> Term:
    """The value that belongs to the first condition that holds."""
    told = "".join(f" WHEN ({condition.text}) THEN {value.text}" for condition, value in choices)
    rest = f" ELSE {otherwise.text}" if otherwise is not None else ""
    return Term(f"CASE{told}{rest} END")


def query(text: str) -> Term:
    """The one value that a query finds."""
    return Term(f"({text})")
