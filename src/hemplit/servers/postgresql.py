"""Connections to PostgreSQL."""

from __future__ import annotations

import io
from typing import TYPE_CHECKING, Any

import pyarrow as pa
import pyarrow.csv

from hemplit.errors import TargetError

if TYPE_CHECKING:
    from collections.abc import Iterator, Sequence

SCHEMES = ("postgresql", "postgres")
#: Rows come back in pieces of so many bytes.
PIECE = 1 << 24
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


def copied(connection: Any, query: str, types: Sequence[pa.DataType]) -> Iterator[pa.Table]:
    """The rows of a query by COPY in pieces, their columns called by their places; as texts if types do not fit."""
    found = connection.execute(f"SELECT * FROM ({query}) AS found LIMIT 0").description
    wanted = types if len(found) == len(types) else [pa.string()] * len(found)
    given = False
    with connection.cursor() as cursor, cursor.copy(f"COPY ({query}) TO STDOUT (FORMAT csv)") as copy:
        held, size = [], 0
        for row in copy:
            held.append(bytes(row))
            size += len(row)
            if size >= PIECE:
                given = True
                yield _parsed(b"".join(held), wanted)
                held, size = [], 0
    if held or not given:
        yield _parsed(b"".join(held), wanted)


def _parsed(text: bytes, types: Sequence[pa.DataType]) -> pa.Table:
    """Rows in the form of CSV; all as texts if some do not have their type."""
    named = {str(place): one for place, one in enumerate(types)}
    if not text:
        return pa.table([pa.array([], one) for one in types], names=[*named])

    def read(columns: dict[str, pa.DataType]) -> pa.Table:
        return pa.csv.read_csv(
            io.BytesIO(text),
            pa.csv.ReadOptions(column_names=[*named], block_size=len(text) + 1),
            pa.csv.ParseOptions(newlines_in_values=True, ignore_empty_lines=False),
            pa.csv.ConvertOptions(
                column_types=columns, null_values=[""], strings_can_be_null=True, quoted_strings_can_be_null=False
            ),
        )

    try:
        return read(named)
    except pa.ArrowInvalid:
        return read(dict.fromkeys(named, pa.string()))


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
