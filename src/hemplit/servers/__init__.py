"""Connections to databases, for the tables that come from there and those that go there.

Passwords come from the address, from the environment, or from the usual files of each server's clients.
"""

from __future__ import annotations


def is_address(text: str) -> bool:
    """Whether a text is the address of a server.

    >>> is_address("postgresql://yard/boats#jobs"), is_address("yard.sqlite#jobs")
    (True, False)
    """
    return "://" in text
