"""Connections to PostgreSQL."""

from __future__ import annotations

from typing import Any

from hemplit.errors import TargetError

SCHEMES = ("postgresql", "postgres")
UNREACHED = "look at host, port and whether the server runs"


def connect(address: str, where: str) -> Any:
    """A connection to the database of an address, which errors call ``where``. Raises ``TargetError``."""
    try:
        import psycopg
    except ImportError as error:
        what = "PostgreSQL needs a library that is not installed"
        raise TargetError(where, what, 'pip install "hemplit[postgresql]"') from error
    try:
        return psycopg.connect(address, connect_timeout=10, application_name="hemplit", client_encoding="utf8")
    except psycopg.Error as error:
        raise TargetError(where, *_why_not_reached(str(error))) from error


def database_of(address: str) -> str:
    """The name of the database, as far as it is told."""
    from psycopg.conninfo import conninfo_to_dict

    given = conninfo_to_dict(address)
    return str(given.get("dbname") or given.get("user") or "postgresql")


def first_line(text: str) -> str:
    """What an error says first."""
    return text.strip().splitlines()[0].strip() if text.strip() else "no reason is told"


def _why_not_reached(said: str) -> tuple[str, str]:
    """What a failed connection means, and what to do."""
    reason = first_line(said.rpartition("FATAL:")[2] if "FATAL:" in said else said)
    if "password" in said:
        return f"the server refuses the password ({reason})", "give it in the address, in PGPASSWORD or in ~/.pgpass"
    if "FATAL:" in said:
        return f"the server refuses the connection ({reason})", "look at user and database in the address"
    return f"the server cannot be reached ({reason.removeprefix('connection failed: ')})", UNREACHED
