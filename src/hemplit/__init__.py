"""Hemplit turns flat spreadsheet sheets into normalised relational tables and proves that nothing was lost.

The data flows one way: grid → relation → findings → design → tables → target → proof. ``hemplit.flow`` joins the parts;
``hemplit.interface``, whose functions are here under their names, is for scripts and notebooks, ``hemplit.cli`` for the
command line.
"""

from __future__ import annotations

from typing import Any

__version__ = "0.1.0"
__all__ = [
    *("Draft", "Drawing", "HemplitError", "Totals", "Wishes"),
    *("draft", "draw", "load", "look", "prove", "read", "tally", "topup"),
]


def __getattr__(name: str) -> Any:
    """What the interface offers, imported when it is asked for, so that the command line stays quick."""
    if name not in __all__:
        raise AttributeError(f"module 'hemplit' has no attribute '{name}'")
    if name == "HemplitError":
        from hemplit.errors import HemplitError

        return HemplitError
    from hemplit import interface

    return getattr(interface, name)
