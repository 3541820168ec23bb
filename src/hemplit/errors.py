"""What can be wrong with a call or its input, and the exit codes that say so.

    HemplitError            one line for the person: where, what is wrong, what to do
    ├── InputError          a sheet cannot be read or taken apart as asked
    │   └── CellError       some of its rows cannot
    ├── DesignError         the design file contradicts itself or its sheets
    │   └── DataError       a row of a sheet contradicts it
    └── TargetError         the target cannot be written or read

A fault in the data (a slip, a blank in a key) is a finding and no exception; these are for what stops the work.
What a sheet says goes to a terminal only with its steering signs written out.
"""

from __future__ import annotations

import re
from contextlib import contextmanager
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

DONE = 0
LOOK_AT_IT = 1
WRONG_CALL_OR_INPUT = 2
FAULT = 3

#: What helps where a person chose a step that gives other columns, and the tables do not have them yet.
TAKE_UP = "delete that step, or draft the same sheets again with --update"
#: Signs that steer a terminal or turn the direction of what follows, and halves of signs that no encoding has.
STEERING = re.compile("[\x00-\x08\x0b-\x1f\x7f-\x9f\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069\ud800-\udfff]")


def visible(text: str) -> str:
    r"""The text with the signs that a terminal would obey written out.

    >>> print(visible(f"a{chr(27)}[31mb{chr(0x202E)}c"))
    a\x1b[31mb\u202ec
    """
    return STEERING.sub(_written_out, text)


#: A password in the address of a database: behind the user, or as a setting.
PASSWORD = re.compile(r"(?<=://)([^\s/@:]*):[^\s/@]*(?:@[^\s/@]*)*(?=@)|(?i:\b(password|sslpassword)=[^\s&]*)")


def without_password(text: str) -> str:
    """The text without passwords in addresses of databases.

    >>> without_password("postgresql://ada:se:c@ret@yard/boats?sslpassword=x"), without_password("a:b@c")
    ('postgresql://ada@yard/boats?sslpassword=…', 'a:b@c')
    """
    return PASSWORD.sub(lambda found: found[1] if found[2] is None else f"{found[2]}=…", text)


def _written_out(found: re.Match[str]) -> str:
    code = ord(found.group(0))
    return f"\\x{code:02x}" if code < 0x100 else f"\\u{code:04x}"


class HemplitError(Exception):
    """Stops the work with one line that names the place, the fault and the way out.

    >>> print(InputError("jobs.csv", "the file is empty", "save the sheet again"))
    jobs.csv: the file is empty; save the sheet again
    """

    further: tuple[HemplitError, ...] = ()
    """What else is wrong, so that a person can mend all of it at once."""

    def __init__(self, where: str, what: str, hint: str = "") -> None:
        self.where = where
        self.what = what
        self.hint = hint
        line = f"{where}: {what}; {hint}" if hint else f"{where}: {what}"
        super().__init__(visible(without_password(" ".join(line.split()))))


class InputError(HemplitError):
    """A sheet cannot be read or taken apart as asked."""


class NoRowsError(InputError):
    """A sheet with a header and nothing below it."""


class CellError(InputError):
    """Cells for which the design was not made; without their ``rows``, places in the grid, it could be done.

    What they say stands ``against`` that of other rows, if there are any.
    """

    def __init__(
        self, where: str, what: str, hint: str = "", rows: tuple[int, ...] = (), against: tuple[int, ...] = ()
    ) -> None:
        super().__init__(where, what, hint)
        self.rows, self.against = rows, against


class DesignError(HemplitError):
    """The design file contradicts itself or its sheets."""


class DataError(DesignError):
    """Rows of a ``sheet`` contradict the design; without these ``rows``, places in the grid, it could be done."""

    def __init__(self, where: str, what: str, hint: str, *rows: int, sheet: str = "") -> None:
        super().__init__(where, what, hint)
        self.rows, self.sheet = rows, sheet


class DoubledError(DesignError):
    """A row of a further sheet's ``table`` says again what is to be said once; without that ``row`` it could be."""

    def __init__(self, where: str, what: str, hint: str, table: str, row: int) -> None:
        super().__init__(where, what, hint)
        self.table, self.row = table, row


class TargetError(HemplitError):
    """The target cannot be written or read."""


class Problems:
    """Gathers what is wrong with the parts of something.

    >>> problems = Problems()
    >>> for name in ("jobs", "boats"):
    ...     with problems.of_part():
    ...         raise DesignError(name, "it has no key")
    >>> [one.where for one in problems.found]
    ['jobs', 'boats']
    """

    def __init__(self) -> None:
        self.found: list[HemplitError] = []

    @contextmanager
    def of_part(self) -> Iterator[None]:
        """Goes on with the next part where this one is wrong."""
        try:
            yield
        except HemplitError as error:
            self.found += [error, *error.further]

    def check(self) -> None:
        """Raises the first of them, which tells of the others."""
        if self.found:
            first, *others = self.found
            first.further = tuple(others)
            raise first


def nearest(word: str, known: Iterable[str]) -> str:
    """A hint that offers the nearest known word, or lists them all when none is near.

    >>> nearest("boatt", ["boats", "jobs"])
    "did you mean 'boats'?"
    >>> nearest("x", ["boats", "jobs"])
    'known here: boats, jobs'
    """
    from difflib import get_close_matches

    choices = list(known)
    close = get_close_matches(word, choices, 1)
    if close:
        return f"did you mean '{close[0]}'?"
    shown = ", ".join(choices[:8]) + (", …" if len(choices) > 8 else "")
    return f"known here: {shown}" if choices else "nothing is known here"
