"""How long work tells what it is doing."""

from __future__ import annotations

from collections.abc import Callable

#: Told what is being done, how much of it is done, and how much there is.
Progress = Callable[[str, int, int], None]


def silent(what: str, done: int, of: int) -> None:
    """Tells nobody."""
