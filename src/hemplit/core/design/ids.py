"""The styles of made-up ids: numbers, or codes that count on from a first one and over all sheets."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from hemplit.dataclasses import dataclass, field
from hemplit.errors import InputError

if TYPE_CHECKING:
    from collections.abc import Iterable

NUMBER = "number"
#: Made-up ids of a style end in digits, which give the width and the first number; more of them nobody reads.
STYLE = re.compile(r"(?P<before>(?:.*[^0-9])?)(?P<digits>[0-9]{1,18})")


def style_of(ids: str) -> tuple[str, str]:
    """What stands before the number in ids of a style, and the first number with its zeros.

    >>> style_of("B-0001")
    ('B-', '0001')
    """
    found = STYLE.fullmatch(ids)
    if found is None:
        raise InputError(f"ids '{ids}'", "a style of ids ends in digits", "write number, or for example B-0001")
    return found["before"], found["digits"]


@dataclass
class CodeBook:
    """The codes of one style that the things of one sort have so far: in each sheet a thing has the same one."""

    style: str
    count: int = 0
    given: dict[tuple[str, ...], str] = field(default_factory=dict)

    def codes(self, names: Iterable[tuple[str, ...] | None]) -> list[str]:
        """A code for each thing by its name; None is always another one.

        >>> book = CodeBook("B-01")
        >>> book.codes([("Teal",), ("Smew",)]), book.codes([("Knot",), ("Teal",), None])
        (['B-01', 'B-02'], ['B-03', 'B-01', 'B-04'])
        """
        before, digits = style_of(self.style)
        made = []
        for name in names:
            code = self.given.get(name) if name is not None else None
            if code is None:
                code = f"{before}{int(digits) + self.count:0{len(digits)}}"
                self.count += 1
                if name is not None:
                    self.given[name] = code
            made.append(code)
        return made
