"""Keys and values as TOML (1.0, toml.io) writes them; files are read by ``tomllib``.

A library that also keeps comments and blanks would take a twentieth of the time of a draft for these few lines.
"""

from __future__ import annotations

import re
from typing import Any

#: What needs no quotes as a key.
BARE = re.compile(r"[A-Za-z0-9_-]+")
#: Signs that do not stand in a text as they are.
ESCAPED = {code: f"\\u{code:04x}" for code in (*range(0x20), 0x7F)} | {
    ord(sign): f"\\{letter}" for sign, letter in zip('\b\t\n\f\r"\\', 'btnfr"\\', strict=True)
}


def key(*names: str) -> str:
    """A key, or the way to it through several.

    >>> key("tables", "boats"), key("columns", "Job No")
    ('tables.boats', 'columns."Job No"')
    """
    return ".".join(name if BARE.fullmatch(name) else _quoted(name) for name in names)


def value(one: Any) -> str:
    """A text, a number, yes or no, or a list or dictionary of them, on one line.

    Raises ``TypeError`` for anything else.

    >>> print(value({"from": ["Job No", 7, 2.5], "store": True}))
    { from = ["Job No", 7, 2.5], store = true }
    """
    match one:
        case str():
            return _quoted(one)
        case bool():
            return "true" if one else "false"
        case int() | float():
            return repr(one)
        case list() | tuple():
            return f"[{', '.join(map(value, one))}]"
        case dict():
            return f"{{ {', '.join(f'{key(name)} = {value(each)}' for name, each in one.items())} }}"
    raise TypeError(f"no value of a design: {one!r}")


def _quoted(text: str) -> str:
    return f'"{text.translate(ESCAPED)}"'
