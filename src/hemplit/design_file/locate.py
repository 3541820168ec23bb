"""Where in a design file a table or a column stands, so that a message can name the line."""

from __future__ import annotations

import re


def line_of(text: str, place: str) -> int | None:
    """The line, counted from 1, of a place such as ``tables.boats.columns.name``, or of the nearest part above it.

    >>> line_of('[tables.boats]\\nkey = ["id"]\\ncolumns.id = { ids = "number" }', "tables.boats.columns.id")
    3
    """
    lines = text.splitlines()
    wanted = _parts(place)
    best: tuple[int, int] | None = None
    section: list[str] = []
    for number, line in enumerate(lines, 1):
        stripped = line.strip()
        if stripped.startswith("[") and "]" in stripped and "=" not in stripped.split("]")[0]:
            section = _parts(stripped.strip("[] "))
            here = section
        elif "=" in stripped and not stripped.startswith("#"):
            here = section + _parts(stripped.split("=")[0].strip())
        else:
            continue
        if wanted[: len(here)] == here and (best is None or len(here) > best[0]):
            best = (len(here), number)
    return best[1] if best else None


def _parts(dotted: str) -> list[str]:
    return [bare or quoted for bare, quoted in re.findall(r'([^."\s]+)|"([^"]*)"', dotted)]
