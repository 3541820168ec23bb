"""The styles of made-up ids: numbers, or codes that count on from a first one."""

from __future__ import annotations

import re

from hemplit.errors import InputError

NUMBER = "number"
#: Made-up ids of a style end in digits, which give the width and the first number.
STYLE = re.compile(r"(?P<before>.*?)(?P<digits>[0-9]+)")


def style_of(ids: str) -> tuple[str, str]:
    """What stands before the number in ids of a style, and the first number with its zeros.

    >>> style_of("B-0001")
    ('B-', '0001')
    """
    found = STYLE.fullmatch(ids)
    if found is None:
        raise InputError(f"ids '{ids}'", "a style of ids ends in digits", "write number, or for example B-0001")
    return found["before"], found["digits"]
