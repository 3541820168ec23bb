"""SQLite: how a file is opened to be read."""

from __future__ import annotations

import sqlite3
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from pathlib import Path


def connect(path: Path) -> sqlite3.Connection:
    """A connection that changes nothing; a text that no encoding of SQLite's has comes as its bytes.

    Raises ``sqlite3.Error`` if there is no such file.
    """
    connection = sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True, isolation_level=None)
    connection.text_factory = _text
    return connection


def _text(cell: bytes) -> str | bytes:
    try:
        return cell.decode()
    except UnicodeDecodeError:
        return cell
